//! Sentences and texts.

use crate::language::{Language, spoken};
use crate::template::written;
use crate::value::{Joined, ToValue, Value};
use serde::de::{Deserializer, Error as _};
use serde::ser::{SerializeStruct, Serializer};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::fmt;

/// A sentence, or a part of one: a template in English, and the values for it. Made by [`crate::words!`].
///
/// ```
/// use ember_words::{Language, Words, said_in, words};
/// let by_s = 0.25;
/// let said: Words = words!("{by_s:.2} s too long");
/// assert_eq!(said.to_string(), "0.25 s too long");
/// ```
#[derive(Debug, Clone, Default)]
pub struct Words {
    pub(crate) template: Cow<'static, str>,
    pub(crate) values: Vec<(Cow<'static, str>, Value)>,
}

impl Words {
    /// Words of a `template` with `values` by name; those with an empty name go to the places without one, in their order.
    pub fn new(template: &'static str, values: Vec<(&'static str, Value)>) -> Self {
        Self { template: template.into(), values: values.into_iter().map(|(name, value)| (name.into(), value)).collect() }
    }

    /// A text with its `values` as they are at this moment. The macros `words!` and `text!` expand to calls of it.
    #[inline(never)]
    pub fn of(template: &'static str, values: &[(&'static str, &dyn ToValue)]) -> Self {
        Self::new(template, values.iter().map(|(name, value)| (*name, value.to_value())).collect())
    }

    /// A text that is the same in every language, such as what somebody typed.
    pub fn verbatim(text: impl Into<String>) -> Self {
        Self::new("{}", vec![("", Value::Name(text.into()))])
    }

    /// The same, beginning with a capital letter.
    pub fn capital(self) -> Self {
        Self::new("{}", vec![("", Value::Capital(self))])
    }

    /// The same within another sentence: without its full stop, and beginning with a small letter where the language has it so.
    pub fn within(self) -> Self {
        Self::new("{}", vec![("", Value::Within(self))])
    }

    /// A text that the catalogues may know though it does not stand in the source, such as the name of a genre that comes with the program.
    pub fn known(text: impl Into<String>) -> Self {
        Self { template: text.into().replace('{', "{{").replace('}', "}}").into(), values: Vec::new() }
    }

    /// The same without its full stop, as it heads something.
    pub fn without_full_stop(self) -> Self {
        Self::new("{}", vec![("", Value::Headline(self))])
    }

    /// Several as one.
    pub fn list(joined: Joined, all: impl IntoIterator<Item = impl Into<Self>>) -> Self {
        Self::new("{}", vec![("", Value::List(joined, all.into_iter().map(Into::into).collect()))])
    }

    /// Whether it says nothing at all.
    pub fn is_empty(&self) -> bool {
        self.template.is_empty() || self.in_language(Language::English).is_empty()
    }

    /// What it is in `language`.
    pub fn in_language(&self, language: Language) -> String {
        written(self, language)
    }

    /// Whether `part` stands in the English text.
    pub fn contains(&self, part: &str) -> bool {
        self.in_language(Language::English).contains(part)
    }

    /// Whether the English text begins with `part`.
    pub fn starts_with(&self, part: &str) -> bool {
        self.in_language(Language::English).starts_with(part)
    }

    /// Whether the English text ends with `part`.
    pub fn ends_with(&self, part: &str) -> bool {
        self.in_language(Language::English).ends_with(part)
    }
}

/// Two sentences are equal where they say the same in English: one that was kept as a text equals the one that it was made of.
impl PartialEq for Words {
    fn eq(&self, other: &Self) -> bool {
        self.in_language(Language::English) == other.in_language(Language::English)
    }
}

impl Eq for Words {}

impl PartialEq<str> for Words {
    fn eq(&self, other: &str) -> bool {
        self.in_language(Language::English) == other
    }
}

impl PartialEq<&str> for Words {
    fn eq(&self, other: &&str) -> bool {
        self == *other
    }
}

impl PartialOrd for Words {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Words {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        self.in_language(Language::English).cmp(&other.in_language(Language::English))
    }
}

impl std::hash::Hash for Words {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        self.in_language(Language::English).hash(state);
    }
}

impl fmt::Display for Words {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(&self.in_language(spoken().unwrap_or_default()))
    }
}

/// As it is kept.
#[derive(Serialize, Deserialize)]
struct Kept {
    template: String,
    #[serde(default)]
    values: Vec<(String, Value)>,
}

impl Serialize for Words {
    /// As a text where a language is spoken ([`said_in`]), and otherwise as what it is made of.
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        if spoken().is_some() {
            return serializer.collect_str(self);
        }
        let mut kept = serializer.serialize_struct("Words", 2)?;
        kept.serialize_field("template", &self.template)?;
        kept.serialize_field("values", &self.values)?;
        kept.end()
    }
}

impl<'de> Deserialize<'de> for Words {
    /// From what it is made of; or from a text, which stays as it is in every language.
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        #[derive(Deserialize)]
        #[serde(untagged)]
        enum Either {
            Text(String),
            Parts(Kept),
        }
        match Either::deserialize(deserializer).map_err(|_| D::Error::custom("expected a text"))? {
            Either::Text(text) => Ok(Self::verbatim(text)),
            Either::Parts(Kept { template, values }) => {
                Ok(Self { template: template.into(), values: values.into_iter().map(|(name, value)| (name.into(), value)).collect() })
            }
        }
    }
}

impl From<Text> for Words {
    fn from(text: Text) -> Self {
        text.words()
    }
}

impl From<String> for Words {
    /// A name, or what somebody typed.
    fn from(text: String) -> Self {
        Self::verbatim(text)
    }
}

/// A text without values. Made by [`crate::text!`].
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct Text(pub &'static str);

impl Text {
    /// What it is in English, the language it is written in.
    pub const fn english(self) -> &'static str {
        self.0
    }

    /// Whether `part` stands in the English text.
    pub fn contains(self, part: &str) -> bool {
        self.0.contains(part)
    }

    /// Whether the English text ends with `part`.
    pub fn ends_with(self, part: &str) -> bool {
        self.0.ends_with(part)
    }

    /// As a sentence.
    pub fn words(self) -> Words {
        Words::new(self.0, Vec::new())
    }

    /// The same, beginning with a capital letter.
    pub fn capital(self) -> Words {
        self.words().capital()
    }

    /// The same within another sentence.
    pub fn within(self) -> Words {
        self.words().within()
    }
}

impl fmt::Debug for Text {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Debug::fmt(self.0, f)
    }
}

impl fmt::Display for Text {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(&self.words().in_language(spoken().unwrap_or_default()))
    }
}

impl Serialize for Text {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        self.words().serialize(serializer)
    }
}

impl PartialEq<str> for Text {
    fn eq(&self, other: &str) -> bool {
        self.0 == other
    }
}

impl PartialEq<&str> for Text {
    fn eq(&self, other: &&str) -> bool {
        self.0 == *other
    }
}

/// What says something of itself. Derived by [`crate::Said`].
pub trait Say {
    /// What it says.
    fn words(&self) -> Words;
}

impl<T: Say + ?Sized> Say for &T {
    fn words(&self) -> Words {
        (**self).words()
    }
}

impl<T: Say + ?Sized> Say for Box<T> {
    fn words(&self) -> Words {
        (**self).words()
    }
}

impl Say for Words {
    fn words(&self) -> Words {
        self.clone()
    }
}

impl<T: ToValue + ?Sized> ToValue for Box<T> {
    fn to_value(&self) -> Value {
        (**self).to_value()
    }
}

#[cfg(feature = "schema")]
mod schema {
    use super::{Text, Words};
    use std::borrow::Cow;
    use utoipa::openapi::{ObjectBuilder, RefOr, Schema, Type};
    use utoipa::{PartialSchema, ToSchema};

    impl PartialSchema for Words {
        fn schema() -> RefOr<Schema> {
            ObjectBuilder::new().schema_type(Type::String).into()
        }
    }

    impl ToSchema for Words {
        fn name() -> Cow<'static, str> {
            "Words".into()
        }
    }

    impl PartialSchema for Text {
        fn schema() -> RefOr<Schema> {
            Words::schema()
        }
    }

    impl ToSchema for Text {
        fn name() -> Cow<'static, str> {
            "Words".into()
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Said, said_in, text, words};

    #[test]
    fn a_sentence_is_written_with_its_values() {
        let (by_s, lug) = (0.256, 3);
        assert_eq!(words!("{by_s:.2} s too long"), "0.26 s too long");
        assert_eq!(words!("lug {} of {of}, {{so}}", lug, of = 8usize), "lug 3 of 8, {so}");
        assert_eq!(words!("{0} and {1}, then {0}", "one", text!("two")), "one and two, then one");
        assert_eq!(words!("{:+.1} st", -0.25), "-0.2 st");
        assert_eq!(words!("{:+} st", 2), "+2 st");
        assert_eq!(words!("{} in", 14.5), "14.5 in");
        assert_eq!(text!("a gel pad").capital(), "A gel pad");
        assert!(words!("").is_empty() && words!("{}", "").is_empty() && !words!("{}", 0).is_empty());
    }

    #[test]
    fn lists_are_joined() {
        let list = |joined, all: &[&str]| Words::list(joined, all.iter().map(|name| (*name).to_string())).to_string();
        assert_eq!(list(Joined::And, &["a", "b", "c"]), "a, b and c");
        assert_eq!(list(Joined::Or, &["a", "b"]), "a or b");
        assert_eq!(list(Joined::And, &["a"]), "a");
        assert_eq!(list(Joined::Comma, &[]), "");
        assert_eq!(list(Joined::Space, &["A.", "B."]), "A. B.");
        assert_eq!(list(Joined::Semicolon, &["a", "b"]), "a; b");
    }

    #[test]
    fn what_is_kept_is_data_and_what_is_shown_is_text() {
        let said = words!("{by:.2} s too long: {}", text!("damp it sooner"), by = 0.5);
        let kept = serde_json::to_string(&said).unwrap();
        assert!(kept.contains("\"number\":0.5") && kept.contains("{by:.2} s too long"));
        assert_eq!(serde_json::from_str::<Words>(&kept).unwrap(), said);
        let shown = said_in(Language::English, || serde_json::to_string(&said).unwrap());
        assert_eq!(shown, "\"0.50 s too long: damp it sooner\"");
        // What was kept as a text before there were words.
        assert_eq!(serde_json::from_str::<Words>(&shown).unwrap(), said);
        assert!(serde_json::from_str::<Words>("3").is_err());
    }

    #[derive(Debug, thiserror::Error, Said)]
    enum Wrong {
        #[said("{name} is {0} in long", .length_in.round())]
        Long { name: String, length_in: f64 },
        #[said("{0} is not a number of lugs")]
        Lugs(u8),
        #[said(transparent)]
        Else(Box<Wrong>),
        #[said("nothing")]
        Nothing,
    }

    #[test]
    fn errors_say_what_is_wrong() {
        let long = Wrong::Long { name: "Rag".into(), length_in: 2.4 };
        assert_eq!(long.to_string(), "Rag is 2 in long");
        assert_eq!(Wrong::Else(Box::new(Wrong::Lugs(3))).to_string(), "3 is not a number of lugs");
        assert_eq!(words!("{} at all", Wrong::Nothing), "nothing at all");
    }
}
