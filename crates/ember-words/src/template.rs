//! From template and values to a text.

use crate::language::Language;
use crate::value::{Joined, Value};
use crate::words::Words;

/// `words` as a text in `language`. A placeholder without a value is left as it stands.
pub(crate) fn written(words: &Words, language: Language) -> String {
    let template = language.translated(&words.template);
    let mut said = String::with_capacity(template.len() + 16 * words.values.len());
    let mut nameless = words.values.iter().filter(|(name, _)| name.is_empty()).map(|(_, value)| value);
    let mut rest = template;
    while let Some(at) = rest.find(['{', '}']) {
        let (before, from_brace) = rest.split_at(at);
        said.push_str(before);
        let (brace, after) = from_brace.split_at(1);
        if let Some(after) = after.strip_prefix(brace) {
            said.push_str(brace);
            rest = after;
            continue;
        }
        let Some((inner, after)) = after.split_once('}') else {
            said.push_str(from_brace);
            return said;
        };
        let (name, format) = inner.split_once(':').unwrap_or((inner, ""));
        let value = if name.is_empty() { nameless.next() } else { value_of(words, name) };
        match value {
            Some(value) => said.push_str(&said_value(value, format, language)),
            None => said.push_str(&from_brace[..inner.len() + 2]),
        }
        rest = after;
    }
    said.push_str(rest);
    said
}

/// The value called `name`, or the one at that position among those without a name.
fn value_of<'a>(words: &'a Words, name: &str) -> Option<&'a Value> {
    let by_name = words.values.iter().find(|(known, _)| known == name).map(|(_, value)| value);
    by_name.or_else(|| {
        let index: usize = name.parse().ok()?;
        words.values.iter().filter(|(known, _)| known.is_empty()).nth(index).map(|(_, value)| value)
    })
}

fn said_value(value: &Value, format: &str, language: Language) -> String {
    match value {
        Value::Name(name) => name.clone(),
        Value::Number(number) => said_number(*number, format, language),
        Value::Words(words) => written(words, language),
        Value::Capital(words) => capital(&written(words, language)),
        Value::Headline(words) => without_full_stop(&written(words, language)).to_string(),
        Value::Within(words) => within(&written(words, language), language),
        Value::List(joined, all) => {
            let all: Vec<String> = all.iter().map(|words| written(words, language)).filter(|text| !text.is_empty()).collect();
            said_list(*joined, &all, language)
        }
    }
}

fn said_number(number: f64, format: &str, language: Language) -> String {
    let decimals = format.strip_prefix('+').unwrap_or(format).strip_prefix('.').and_then(|digits| digits.parse::<usize>().ok());
    let text = match (format.starts_with('+'), decimals) {
        (false, None) => number.to_string(),
        (false, Some(decimals)) => format!("{number:.decimals$}"),
        (true, None) => format!("{number:+}"),
        (true, Some(decimals)) => format!("{number:+.decimals$}"),
    };
    text.replace('.', language.decimal_mark())
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(|first| first.to_uppercase().chain(letters).collect()).unwrap_or_default()
}

fn without_full_stop(text: &str) -> &str {
    text.strip_suffix('.').unwrap_or(text)
}

/// A German noun keeps its capital, and so does what follows a colon.
fn within(text: &str, language: Language) -> String {
    let text = without_full_stop(text);
    let mut letters = text.chars();
    match (language, letters.next()) {
        (Language::English, Some(first)) => first.to_lowercase().chain(letters).collect(),
        _ => text.to_string(),
    }
}

fn said_list(joined: Joined, all: &[String], language: Language) -> String {
    let last = match (joined, language) {
        (Joined::Comma, _) => ", ",
        (Joined::Space, _) => " ",
        (Joined::Semicolon, _) => "; ",
        (Joined::And, Language::English) => " and ",
        (Joined::And, Language::German) => " und ",
        (Joined::Or, Language::English) => " or ",
        (Joined::Or, Language::German) => " oder ",
    };
    let others = if matches!(joined, Joined::And | Joined::Or) { ", " } else { last };
    match all {
        [] => String::new(),
        [one] => one.clone(),
        [before @ .., end] => format!("{}{last}{end}", before.join(others)),
    }
}
