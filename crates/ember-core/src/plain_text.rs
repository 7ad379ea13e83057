//! Names as they are typed or pasted: without what cannot be seen.

use serde::{Deserialize, Deserializer};

/// `text` without control characters and others that take no room or turn the writing around (Unicode's Cc, and of Cf those that no script
/// needs to be read), with single spaces between words and none around it.
pub fn plain_name(text: &str) -> String {
    let seen: String = text.chars().filter(|c| !is_unseen(*c)).map(|c| if c.is_whitespace() || c.is_control() { ' ' } else { c }).collect();
    seen.split(' ').filter(|word| !word.is_empty()).collect::<Vec<_>>().join(" ")
}

/// Zero-width joiners stay: some scripts are not written rightly without them.
fn is_unseen(c: char) -> bool {
    matches!(c, '\u{00AD}' | '\u{061C}' | '\u{180E}' | '\u{200B}' | '\u{200E}' | '\u{200F}' | '\u{202A}'..='\u{202E}' | '\u{2060}'..='\u{206F}'
        | '\u{FEFF}' | '\u{FFF9}'..='\u{FFFB}' | '\u{E0001}'..='\u{E007F}')
        || c.is_control() && !matches!(c, '\t' | '\n' | '\r')
}

/// Reads a name; for fields that hold one.
pub(crate) fn name<'de, D: Deserializer<'de>>(deserializer: D) -> Result<String, D::Error> {
    String::deserialize(deserializer).map(|text| plain_name(&text))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn what_cannot_be_seen_is_left_out_and_letters_of_all_scripts_stay() {
        for (typed, plain) in [
            ("  Rack\ttom \n", "Rack tom"),
            ("Sna\u{200B}re\u{0000}\u{0007}", "Snare"),
            ("\u{202E}mot\u{202C}", "mot"),
            ("\u{FEFF}Große Trommel", "Große Trommel"),
            ("می\u{200C}خواهم", "می\u{200C}خواهم"),
            ("太鼓", "太鼓"),
            ("\u{200B}\u{00A0}\u{2003}", ""),
        ] {
            assert_eq!(plain_name(typed), plain);
        }
    }

    proptest! {
        #[test]
        fn a_plain_name_is_plain(text in any::<String>()) {
            let plain = plain_name(&text);
            prop_assert!(!plain.chars().any(|c| c.is_control() || is_unseen(c)));
            prop_assert_eq!(plain_name(&plain), plain.clone());
            prop_assert_eq!(plain.trim(), plain.as_str());
        }
    }
}
