//! Every sentence of the program against its catalogues: none is missing, none is left over, and each has the same values in it.
//!
//! `EMBER_WORDS=write cargo test -p ember-words` puts new sentences into the catalogues, empty, and takes out what is said no more.

use polib::catalog::Catalog;
use polib::message::Message;
use proc_macro2::{Delimiter, TokenStream, TokenTree};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

/// Every file of Rust under `folder`.
fn sources(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()) {
        if entry.is_dir() {
            sources(&entry, found);
        } else if entry.extension().is_some_and(|ending| ending == "rs") {
            found.push(entry);
        }
    }
}

/// Whether `tokens` begin with the brackets of an attribute that says so much.
fn is_attribute(token: Option<&TokenTree>, says: &str) -> bool {
    matches!(token, Some(TokenTree::Group(group)) if group.delimiter() == Delimiter::Bracket && group.stream().to_string() == says)
}

/// Whether a module, a function or a use ends here.
fn ends(token: &TokenTree) -> bool {
    match token {
        TokenTree::Group(group) => group.delimiter() == Delimiter::Brace,
        TokenTree::Punct(mark) => mark.as_char() == ';',
        _ => false,
    }
}

/// The first literal in `tokens`, if that is what they begin with.
fn literal(tokens: TokenStream) -> Option<String> {
    match tokens.into_iter().next()? {
        TokenTree::Literal(literal) => syn::parse_str::<syn::LitStr>(&literal.to_string()).ok().map(|text| text.value()),
        _ => None,
    }
}

/// Templates in `tokens`: of `words!`, `text!` and `#[said(...)]`, but for what is only there in tests.
fn templates(tokens: TokenStream, found: &mut BTreeSet<String>) {
    let all: Vec<TokenTree> = tokens.into_iter().collect();
    let mut at = 0;
    while at < all.len() {
        if is_attribute(all.get(at), "cfg (test)") {
            // What stands after it: up to the end of its body, or of its line where it has none.
            at += all[at..].iter().position(ends).unwrap_or(0);
        } else {
            match (&all[at], all.get(at + 1), all.get(at + 2)) {
                (TokenTree::Ident(name), Some(TokenTree::Punct(mark)), Some(TokenTree::Group(group)))
                    if mark.as_char() == '!' && (name == "words" || name == "text") =>
                {
                    found.extend(literal(group.stream()));
                }
                (TokenTree::Ident(name), Some(TokenTree::Group(group)), _) if name == "said" => found.extend(literal(group.stream())),
                _ => {}
            }
            if let TokenTree::Group(group) = &all[at] {
                templates(group.stream(), found);
            }
        }
        at += 1;
    }
}

/// Placeholders of a template, in any order.
fn placeholders(template: &str) -> Vec<String> {
    let template = template.replace("{{", "").replace("}}", "");
    let mut found: Vec<String> = template.split('{').skip(1).filter_map(|rest| Some(rest.split_once('}')?.0.to_string())).collect();
    found.sort();
    found
}

/// Letters outside of its placeholders: without any there is nothing to translate.
fn has_words(template: &str) -> bool {
    let mut depth = 0;
    template.chars().any(|letter| {
        depth += i32::from(letter == '{') - i32::from(letter == '}');
        depth == 0 && letter.is_alphabetic()
    })
}

/// All that the program says, in English.
fn said() -> BTreeSet<String> {
    let mut files = Vec::new();
    for name in ["ember-core", "ember-store", "ember-app", "ember-server"] {
        sources(&crates().join(name).join("src"), &mut files);
    }
    let mut found = BTreeSet::new();
    for file in files {
        let source = std::fs::read_to_string(&file).unwrap();
        templates(source.parse().unwrap(), &mut found);
    }
    let genres: serde_json::Value =
        serde_json::from_str(&std::fs::read_to_string(crates().join("ember-core/src/target/presets.json")).unwrap()).unwrap();
    for genre in genres.as_array().unwrap() {
        found.extend(["name", "reason"].iter().filter_map(|field| genre[field].as_str().map(str::to_string)));
    }
    found.retain(|template| has_words(template));
    found
}

fn catalogue_path() -> PathBuf {
    crates().join("ember-words/locales/de.po")
}

fn catalogue() -> Catalog {
    polib::po_file::parse(&catalogue_path()).unwrap()
}

fn written(said: &BTreeSet<String>) {
    let known: BTreeMap<String, String> =
        catalogue().messages().map(|message| (message.msgid().to_string(), message.msgstr().unwrap_or_default().to_string())).collect();
    let mut anew = Catalog::new(catalogue().metadata);
    for template in said {
        let mut message = Message::build_singular();
        message.with_msgid(template.clone()).with_msgstr(known.get(template).cloned().unwrap_or_default());
        anew.append_or_update(message.done());
    }
    polib::po_file::write_to_file(&anew, &catalogue_path()).unwrap();
}

#[test]
fn every_sentence_is_said_in_every_language() {
    let said = said();
    assert!(said.len() > 1000, "only {} sentences were found in the sources", said.len());
    if std::env::var("EMBER_WORDS").is_ok_and(|asked| asked == "write") {
        written(&said);
    }
    let catalogue = catalogue();
    let known: BTreeMap<&str, &str> = catalogue.messages().map(|message| (message.msgid(), message.msgstr().unwrap_or_default())).collect();
    let missing: Vec<&String> = said.iter().filter(|template| known.get(template.as_str()).is_none_or(|text| text.is_empty())).collect();
    let left_over: Vec<&&str> = known.keys().filter(|template| !said.contains(**template)).collect();
    assert!(missing.is_empty(), "{} sentences have no German: {missing:#?}", missing.len());
    assert!(left_over.is_empty(), "said no more: {left_over:#?}");
    for (template, text) in known {
        // A value that is told by its place may be told by its number in another language.
        let (mut here, there) = (placeholders(template), placeholders(text));
        if here != there {
            let mut numbers = 0..;
            here = here.iter().map(|name| if name.is_empty() { numbers.next().unwrap_or(0).to_string() } else { name.clone() }).collect();
            here.sort();
        }
        assert_eq!(here, there, "{template} | {text}");
    }
}
