//! Pitches as notes: equal temperament from A4 = 440 Hz (ISO 16:1975).

use serde::{Deserialize, Serialize};

/// Pitch of A4, Hz.
const A4_HZ: f64 = 440.0;
/// Number of A4 where C-1 is 0 and each semitone counts one.
const A4_NUMBER: i32 = 69;
const NAMES: [&str; 12] = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];

/// A note of equal temperament and how far from it a pitch lies.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Note {
    /// Name and octave, as "F#3".
    pub name: String,
    /// Above the note, cents (-50 to 50).
    pub cents: f64,
}

impl Note {
    /// The note nearest to `hz`.
    pub fn nearest(hz: f64) -> Self {
        let exact = f64::from(A4_NUMBER) + 12.0 * (hz / A4_HZ).log2();
        let number = exact.round();
        Self { name: name_of(number as i32), cents: 100.0 * (exact - number) }
    }
}

/// Pitch (Hz) of a note's number, C-1 being 0.
pub fn note_hz(number: i32) -> f64 {
    A4_HZ * 2f64.powf(f64::from(number - A4_NUMBER) / 12.0)
}

fn name_of(number: i32) -> String {
    format!("{}{}", NAMES[number.rem_euclid(12) as usize], number.div_euclid(12) - 1)
}

/// Pitch class (0 = C to 11 = B) of a note's name without its octave: a letter with any sharps (#) or flats (b).
fn pitch_class(name: &str) -> Option<(i32, usize)> {
    let mut letters = name.chars();
    let base = match letters.next()?.to_ascii_uppercase() {
        'C' => 0,
        'D' => 2,
        'E' => 4,
        'F' => 5,
        'G' => 7,
        'A' => 9,
        'B' => 11,
        _ => return None,
    };
    let (mut class, mut length) = (base, 1);
    for letter in letters {
        match letter {
            '#' | '♯' => class += 1,
            'b' | '♭' => class -= 1,
            _ => break,
        }
        length += letter.len_utf8();
    }
    Some((class, length))
}

/// Number of a note written as "E1", "Bb2" or "F#3" (C-1 is 0). `None` of anything else.
pub fn parse_note(text: &str) -> Option<i32> {
    let text = text.trim();
    let (class, length) = pitch_class(text)?;
    let octave: i32 = text[length..].trim().parse().ok()?;
    (-1..=9).contains(&octave).then_some(class + 12 * (octave + 1))
}

/// Pitch class (0 = C to 11 = B) that a key such as "A minor", "Eb" or "f# m" is built on.
pub fn parse_key(text: &str) -> Option<i32> {
    let text = text.trim();
    let (class, length) = pitch_class(text)?;
    let rest = text[length..].trim().to_lowercase();
    matches!(rest.as_str(), "" | "m" | "maj" | "min" | "major" | "minor").then(|| class.rem_euclid(12))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// ISO 16:1975 fixes A4; the others are the usual table of equal temperament (handbooks of acoustics).
    #[test]
    fn notes_have_the_pitches_of_the_published_table() {
        for (name, hz) in [("A4", 440.0), ("C4", 261.626), ("E1", 41.203), ("B0", 30.868), ("G3", 195.998), ("C8", 4186.01)] {
            let found = note_hz(parse_note(name).unwrap());
            assert!((found / hz - 1.0).abs() < 2e-5, "{name}: {found}");
            assert_eq!(Note::nearest(hz).name, name);
        }
    }

    #[test]
    fn notes_and_keys_are_read_as_musicians_write_them() {
        assert_eq!(parse_note("Bb2"), parse_note("A#2"));
        assert_eq!(parse_note(" e1 "), Some(28));
        assert_eq!(parse_note("Cb4"), parse_note("B3"));
        for wrong in ["", "H2", "E", "E1x", "E12", "4"] {
            assert_eq!(parse_note(wrong), None, "{wrong}");
        }
        assert_eq!(parse_key("A minor"), Some(9));
        assert_eq!(parse_key("Eb"), Some(3));
        assert_eq!(parse_key("f#m"), Some(6));
        assert_eq!(parse_key("mixed"), None);
    }

    proptest! {
        #[test]
        fn a_pitch_is_its_note_and_the_cents_above_it(hz in 20f64..5000.0) {
            let note = Note::nearest(hz);
            let back = note_hz(parse_note(&note.name).unwrap()) * 2f64.powf(note.cents / 1200.0);
            prop_assert!((back / hz - 1.0).abs() < 1e-9);
            prop_assert!(note.cents.abs() <= 50.0 + 1e-9);
        }
    }
}
