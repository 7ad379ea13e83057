//! The languages, and which one is spoken right now.

use std::cell::Cell;
use std::collections::HashMap;
use std::sync::LazyLock;

/// A language that the program speaks.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Hash)]
pub enum Language {
    /// The language that the templates are written in.
    #[default]
    English,
    /// German.
    German,
}

impl Language {
    /// Every language.
    pub const ALL: [Self; 2] = [Self::English, Self::German];

    /// Its code (ISO 639-1).
    pub fn code(self) -> &'static str {
        match self {
            Self::English => "en",
            Self::German => "de",
        }
    }

    /// The language of a tag as browsers and systems write it ("de", "de-AT", "de_DE.UTF-8"); none for one that is not spoken here.
    pub fn of_tag(tag: &str) -> Option<Self> {
        let code = tag.trim().split(['-', '_', '.', ';']).next()?.to_ascii_lowercase();
        Self::ALL.into_iter().find(|language| language.code() == code)
    }

    /// The first language of a list as browsers send it (`Accept-Language`, RFC 9110 section 12.5.4) that is spoken here. Weights are left aside:
    /// browsers write the list in the order of liking.
    pub fn of_list(list: &str) -> Option<Self> {
        list.split(',').find_map(Self::of_tag)
    }

    /// What stands between whole numbers and tenths.
    pub(crate) fn decimal_mark(self) -> &'static str {
        match self {
            Self::English => ".",
            Self::German => ",",
        }
    }

    /// What `template` is in this language; itself where nobody has translated it yet.
    pub(crate) fn translated(self, template: &str) -> &str {
        match self {
            Self::English => template,
            Self::German => GERMAN.get(template).map_or(template, String::as_str),
        }
    }
}

/// German texts by their English ones.
static GERMAN: LazyLock<HashMap<String, String>> = LazyLock::new(|| read(include_str!("../locales/de.po")));

/// The translated messages of a PO file.
fn read(po: &str) -> HashMap<String, String> {
    let options = polib::po_file::POParseOptions::default();
    let catalogue = polib::po_file::parse_from_reader_with_option(po.as_bytes(), &options);
    let messages = catalogue.map(|all| all.messages().map(said_as).collect::<Vec<_>>()).unwrap_or_default();
    messages.into_iter().filter(|(_, said)| !said.is_empty()).collect()
}

fn said_as(message: &dyn polib::message::MessageView) -> (String, String) {
    (message.msgid().to_string(), message.msgstr().map(str::to_string).unwrap_or_default())
}

thread_local! {
    static SPOKEN: Cell<Option<Language>> = const { Cell::new(None) };
}

/// The language in which the current thread speaks; none where sentences are kept and not shown.
pub(crate) fn spoken() -> Option<Language> {
    SPOKEN.get()
}

/// Does `task`, and whatever sentence it writes or serializes on this thread is said in `language`. Outside of it a sentence is displayed in English, and
/// serialized as template and values.
pub fn said_in<T>(language: Language, task: impl FnOnce() -> T) -> T {
    /// Goes back to what was spoken before, even where `task` panics.
    struct Before(Option<Language>);
    impl Drop for Before {
        fn drop(&mut self) {
            SPOKEN.set(self.0);
        }
    }
    let _before = Before(SPOKEN.replace(Some(language)));
    task()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tags_and_lists_name_languages() {
        assert_eq!(Language::of_tag("de-AT"), Some(Language::German));
        assert_eq!(Language::of_tag("de_DE.UTF-8"), Some(Language::German));
        assert_eq!(Language::of_tag("C"), None);
        assert_eq!(Language::of_list("fr-CH, de;q=0.9, en;q=0.8"), Some(Language::German));
        assert_eq!(Language::of_list("*"), None);
    }

    #[test]
    fn a_language_is_spoken_only_meanwhile() {
        assert_eq!(spoken(), None);
        let within = said_in(Language::German, || (spoken(), said_in(Language::English, spoken), spoken()));
        assert_eq!(within, (Some(Language::German), Some(Language::English), Some(Language::German)));
        assert!(std::panic::catch_unwind(|| said_in(Language::German, || panic!("on purpose"))).is_err());
        assert_eq!(spoken(), None);
    }
}
