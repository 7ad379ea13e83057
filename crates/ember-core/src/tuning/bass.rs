//! The kick against the bass: on the same note they can cancel, so the kick belongs a little below or above (common practice,
//! no published source).

use super::pitch::{Note, note_hz, parse_key, parse_note};
use crate::units::cents;
use crate::venue::RoomMode;
use ember_words::{Said, Words, words};
use serde::{Deserialize, Serialize};

/// A kick this near to a bass note sits on it, cents.
const ON_IT_CENTS: f64 = 70.0;
/// A good place lies this far from every bass note, cents.
const CLEAR_CENTS: f64 = 100.0;
/// Lowest and highest note of a four- or five-string bass that matter to a kick: B0 and D3, as numbers from C-1 = 0.
const BASS: std::ops::RangeInclusive<i32> = 23..=50;
/// Steps of a key that a bass rests on: the root, the fourth and the fifth.
const RESTS_ON: [i32; 3] = [0, 5, 7];

/// How a kick stands to the bass.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KickAgainstBass {
    /// Pitch of the kick, Hz.
    pub kick_hz: f64,
    /// The note nearest to it.
    pub kick_note: Note,
    /// The bass notes that it was held against.
    pub bass_notes: Vec<String>,
    /// The nearest of them, and how far the kick lies above it, cents.
    pub nearest_note: String,
    /// How far the nearest bass note lies off, cents.
    pub nearest_cents: f64,
    /// Whether it sits on one.
    pub clashes: bool,
    /// The nearest good places below and above, Hz. The kick's own pitch where that is good.
    pub below_hz: f64,
    /// The nearest pitch above that is clear, Hz.
    pub above_hz: f64,
    /// The same as a sentence.
    pub sentence: Words,
}

/// A text names neither a key nor notes of a bass.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
#[said("Write the song's key, as A minor, or the bass's lowest notes with their octave, as E1, A1, D2.")]
pub struct UnknownNotes;

/// Pitches (Hz) of bass notes written as a key ("A minor": the notes that a bass rests on there) or as notes ("E1, A1, D2").
pub fn bass_notes(text: &str) -> Result<Vec<f64>, UnknownNotes> {
    let text = text.trim();
    if let Some(key) = parse_key(text) {
        let rests = |number: &i32| RESTS_ON.iter().any(|step| (number - key - step).rem_euclid(12) == 0);
        return Ok(BASS.filter(rests).map(note_hz).collect());
    }
    let words: Vec<&str> = text.split([',', ' ', ';']).filter(|word| !word.is_empty()).collect();
    let notes: Option<Vec<f64>> = words.iter().map(|word| parse_note(word).map(note_hz)).collect();
    match notes {
        Some(notes) if !notes.is_empty() && notes.len() <= 24 => Ok(notes),
        _ => Err(UnknownNotes),
    }
}

/// How a kick whose body lies at `kick_hz` stands to `bass_hz` (at least one).
pub fn kick_against_bass(kick_hz: f64, bass_hz: &[f64]) -> Option<KickAgainstBass> {
    let off = |hz: f64| bass_hz.iter().map(|bass| cents(*bass, hz).abs()).fold(f64::INFINITY, f64::min);
    let nearest = bass_hz.iter().copied().min_by(|a, b| cents(*a, kick_hz).abs().total_cmp(&cents(*b, kick_hz).abs()))?;
    let walk = |step: f64| {
        let mut hz = kick_hz;
        // An octave either way is further than any kick is retuned.
        for _ in 0..240 {
            if off(hz) >= CLEAR_CENTS - 1e-6 {
                break;
            }
            hz *= 2f64.powf(step / 1200.0);
        }
        hz
    };
    let (below_hz, above_hz) = (walk(-5.0), walk(5.0));
    let nearest_cents = cents(nearest, kick_hz);
    let clashes = nearest_cents.abs() < ON_IT_CENTS;
    let (kick_note, nearest_note) = (Note::nearest(kick_hz), Note::nearest(nearest).name);
    let places = words!("{below_hz:.0} Hz just below, or {above_hz:.0} Hz just above");
    let sentence = if clashes {
        words!("The kick sits on the bass's {nearest_note}, where the two can cancel. Good places: {places}. Listen: basses differ.")
    } else if off(kick_hz) < CLEAR_CENTS {
        words!("The kick is close to the bass's {nearest_note}. Clearer: {places}.")
    } else {
        words!("The kick keeps clear of the bass where it is.")
    };
    let bass_notes = bass_hz.iter().map(|hz| Note::nearest(*hz).name).collect();
    Some(KickAgainstBass { kick_hz, kick_note, bass_notes, nearest_note, nearest_cents, clashes, below_hz, above_hz, sentence })
}

/// What `modes` mean for a bass on `bass_hz` and a kick on `kick_hz`, a sentence each.
pub fn boomy_notes(modes: &[RoomMode], place: &str, bass_hz: &[f64], kick_hz: Option<f64>) -> Vec<Words> {
    // Within the half-power bandwidth of a tone with this decay time, 2.2 / T60 (Kuttruff, Room Acoustics, 3.4; from memory), on either side.
    let on = |hz: f64| modes.iter().find(|mode| (mode.hz - hz).abs() < 2.2 / mode.t60_s);
    let held = |mode: &RoomMode| words!("the {place}’s own tone of {:.0} Hz, which rings for {:.1} s", mode.hz, mode.t60_s);
    let bass = bass_hz.iter().filter_map(|hz| {
        let mode = on(*hz)?;
        Some(words!("The bass’s {} lies on {}: that note booms there.", Note::nearest(*hz).name, held(mode)))
    });
    let kick = kick_hz.and_then(|hz| Some((hz, on(hz)?)));
    let kick = kick.map(|(hz, mode)| {
        words!("The kick at {hz:.0} Hz lies on {}: it sounds longer than it is. Tune it off that pitch, or muffle it more.", held(mode))
    });
    bass.chain(kick).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_kick_on_a_bass_note_is_sent_a_little_below_or_above() {
        let bass = bass_notes("E1, A1, D2").unwrap();
        let on = kick_against_bass(55.5, &bass).unwrap();
        assert!(on.clashes && on.nearest_note == "A1" && on.sentence.contains("cancel"), "{on:?}");
        assert!((cents(on.below_hz, 55.0) - 100.0).abs() < 6.0 && (cents(55.0, on.above_hz) - 100.0).abs() < 6.0, "{on:?}");
        let clear = kick_against_bass(63.0, &bass).unwrap();
        assert!(!clear.clashes && clear.below_hz == 63.0 && clear.above_hz == 63.0, "{clear:?}");
    }

    #[test]
    fn keys_and_notes_are_understood_and_anything_else_is_asked_for_in_words() {
        let names = |text: &str| bass_notes(text).unwrap().iter().map(|hz| Note::nearest(*hz).name).collect::<Vec<_>>();
        assert_eq!(names("A minor")[..4], ["D1", "E1", "A1", "D2"]);
        assert_eq!(names("Bb1 F1"), ["A#1", "F1"]);
        for wrong in ["", "loud", "E", "12"].into_iter().filter(|text| parse_key(text).is_none()) {
            assert!(bass_notes(wrong).unwrap_err().to_string().contains("E1, A1, D2"), "{wrong}");
        }
    }

    #[test]
    fn a_note_on_a_mode_is_named_with_its_place() {
        let modes = [RoomMode { hz: 54.0, t60_s: 1.2, t60_sd_s: None }];
        let said = boomy_notes(&modes, "cellar", &bass_notes("E1, A1, D2").unwrap(), Some(62.0));
        assert_eq!(said, ["The bass’s A1 lies on the cellar’s own tone of 54 Hz, which rings for 1.2 s: that note booms there."]);
        assert!(boomy_notes(&modes, "cellar", &[], Some(55.0))[0].starts_with("The kick at 55 Hz lies on"));
        assert!(boomy_notes(&[], "cellar", &[55.0], Some(55.0)).is_empty());
    }
}
