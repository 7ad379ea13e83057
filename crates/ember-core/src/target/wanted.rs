//! Wanted lengths for one drum in one song in one place.

use super::note::Pulse;
use super::preset::{Length, Preset};
use super::song::Music;
use crate::decay::Dynamic;
use crate::decay::Partial;
use crate::drum::Drum;
use crate::venue::{BandLevels, Heard, Masking, Octaves, RoomTail, Venue, at_hz};
use serde::{Deserialize, Serialize};

/// Lengths grow by this for each school that a song is more open than its genre (from experience, no published source).
const SCHOOL_STEP: f64 = 1.5;
/// Share of overtones allowed grows by this for the same.
const SCHOOL_SHARE_STEP: f64 = 0.15;

/// What decides what is wanted.
#[derive(Clone, Copy)]
pub struct Situation<'a> {
    pub preset: &'a Preset,
    pub music: &'a Music,
    /// None: somewhere as loud as the genre usually is, in the open.
    pub venue: Option<&'a Venue>,
}

/// What the music leaves room for on one drum.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wanted {
    /// By octave from 63 Hz to 4 kHz: the level below which the band covers a partial, dB against the loudest of a medium strike.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<f64>))]
    pub threshold_db: Octaves<f64>,
    /// Whether the band was measured with the strikes' own microphone; else a loudness class stands for it.
    pub masking_measured: bool,
    /// Level of the song's hardest strikes against a medium one, dB: rings are judged there.
    pub hardest_db: f64,
    /// Of its softest: whether a body is too short is judged there.
    pub softest_db: f64,
    /// The ring is heard for at most this long, s.
    pub ring_length_most_s: f64,
    /// The body is heard for at least this long, s.
    pub body_length_least_s: f64,
    /// The body is heard for at most this long, s.
    pub body_length_most_s: f64,
    pub ring_share_most: f64,
    /// Most attack that a treatment may take, dB.
    pub attack_loss_most_db: f64,
    /// Usual pitch of the body, Hz: advice for tuning, not for muffling.
    pub pitch_low_hz: f64,
    pub pitch_high_hz: f64,
    /// The room behind the drum; null in the open.
    pub room: Option<RoomTail>,
    /// How the figures come about, a sentence each.
    pub because: Vec<String>,
}

impl Wanted {
    /// For `drum`, of which the loudest partial of a strike reached `strike_dbfs` (dBFS; none where it was not measured): only then
    /// can levels measured of the band be held against it.
    pub fn new(situation: &Situation, drum: &Drum, strike_dbfs: Option<f64>) -> Self {
        let Situation { preset, music, venue } = *situation;
        let wish = preset.wish(drum.kind);
        let pulse = music.pulse();
        let school = music.school.unwrap_or(preset.school);
        let steps = f64::from(preset.school as i8 - school as i8);
        let stretch = SCHOOL_STEP.powf(steps);
        let length = |value: Length| stretch * seconds(value, pulse);
        let gap = music.gaps.of(drum.kind).filter(|gap| pulse.seconds(*gap) < length(wish.ring_gone));
        let (masking, heard) = masking(preset, venue, strike_dbfs);
        let (pitch_low_hz, pitch_high_hz) = wish.register.pitch_hz(drum);

        let at = format!("at {} BPM", music.bpm);
        let mut because = vec![match gap {
            Some(gap) => format!(
                "Ring gone before the next hit, {} later {at}: {} ({} alone leaves {}).",
                pulse.words(gap),
                say_length(pulse.seconds(gap)),
                preset.name.to_lowercase(),
                say_length(length(wish.ring_gone))
            ),
            None => format!("Ring gone within {} {at}: {}.", words(wish.ring_gone, pulse), say_length(length(wish.ring_gone))),
        }];
        because.push(format!(
            "Body between {} and {}: {} to {}.",
            words(wish.body_least, pulse),
            words(wish.body_most, pulse),
            say_length(length(wish.body_least)),
            say_length(length(wish.body_most))
        ));
        if school != preset.school {
            because.push(format!(
                "Played {} where {} is {}: lengths times {stretch:.2}.",
                school.word(),
                preset.name.to_lowercase(),
                preset.school.word()
            ));
        }
        // Where all may be overtones, as of a cymbal, their share is no matter in any school.
        let any_share = wish.ring_share_most >= 1.0;
        let ring_share_most = if any_share { 1.0 } else { (wish.ring_share_most + SCHOOL_SHARE_STEP * steps).clamp(0.05, 0.95) };
        if !any_share {
            because.push(format!("Overtones at most {:.0} % of what sounds on.", 100.0 * ring_share_most));
        }
        because.push(said_masking(&masking, preset, venue, heard));
        let (softest, hardest) = (music.dynamics.softest, music.dynamics.hardest);
        if (softest, hardest) != (Dynamic::Medium, Dynamic::Medium) {
            because.push(format!(
                "Played {}: the ring is judged {:+.0} dB, a body that is too short {:+.0} dB from a medium strike.",
                if softest == hardest { hardest.word().to_string() } else { format!("{} to {}", softest.word(), hardest.word()) },
                hardest.level_db(),
                softest.level_db()
            ));
        }
        because.push(preset.reason.clone());
        Self {
            threshold_db: masking.threshold_db,
            masking_measured: masking.measured,
            hardest_db: hardest.level_db(),
            softest_db: softest.level_db(),
            ring_length_most_s: gap.map_or(length(wish.ring_gone), |gap| pulse.seconds(gap)),
            body_length_least_s: length(wish.body_least),
            body_length_most_s: length(wish.body_most),
            ring_share_most,
            attack_loss_most_db: wish.attack_loss_most_db,
            pitch_low_hz,
            pitch_high_hz,
            room: venue
                .map(|venue| RoomTail { t60_s: venue.room.t60_s(), reverberant_db: heard.info().reverberant_db })
                .filter(|room| room.t60_s.iter().any(Option::is_some)),
            because,
        }
    }
}

fn masking(preset: &Preset, venue: Option<&Venue>, strike_dbfs: Option<f64>) -> (Masking, Heard) {
    let heard = venue.map_or(Heard::BareEar, |venue| venue.heard);
    let against_strikes = |levels: &[BandLevels]| strike_dbfs.and_then(|dbfs| Masking::of_levels(levels, dbfs));
    let class = Masking::of_class(venue.and_then(|venue| venue.loudness).unwrap_or(preset.loudness), heard);
    let masking = match venue.map(|venue| (venue.band, venue.empty)) {
        Some((Some(band), Some(empty))) => against_strikes(&[band, empty]),
        Some((Some(band), None)) => against_strikes(&[band]),
        // Hum and fans of the empty room add to a band that is only classed.
        Some((None, Some(empty))) => against_strikes(&[empty]).map(|empty| class.with(&empty)),
        Some((None, None)) | None => None,
    };
    (masking.unwrap_or(class), heard)
}

/// What covers the drum and how that is known. 250 Hz stands for all octaves: it is where most rings lie.
fn said_masking(masking: &Masking, preset: &Preset, venue: Option<&Venue>, heard: Heard) -> String {
    let below = -at_hz(&masking.threshold_db, 250.0);
    let covers = format!("the band covers what is {below:.0} dB below a strike at 250 Hz");
    match venue {
        Some(venue) if masking.measured => format!("In the {}, as measured, {covers}.", venue.name),
        Some(venue) => {
            let class = venue.loudness.unwrap_or(preset.loudness).info().name.to_lowercase();
            let through = if heard == Heard::BareEar { String::new() } else { format!(", heard by {}", heard.info().name.to_lowercase()) };
            format!("In the {} ({class}{through}) {covers}.", venue.name)
        }
        None => format!("In {}, {} as usual, {covers}.", preset.name.to_lowercase(), preset.loudness.info().name.to_lowercase()),
    }
}

fn seconds(length: Length, pulse: Pulse) -> f64 {
    match length {
        Length::Note(value) => pulse.seconds(value),
        Length::Seconds(seconds) => seconds,
    }
}

/// "312 ms", "1.25 s".
fn say_length(value: f64) -> String {
    if value < 1.0 { format!("{:.0} ms", 1000.0 * value) } else { format!("{value:.2} s") }
}

fn words(length: Length, pulse: Pulse) -> String {
    match length {
        Length::Note(value) => pulse.words(value).to_string(),
        Length::Seconds(seconds) => format!("the model sound's {}", say_length(seconds)),
    }
}

/// How long `partial` is heard, s, when struck `louder_db` harder than measured: (level - threshold) / 60 x T60.
pub fn audible_length(partial: &Partial, threshold_db: &Octaves<f64>, louder_db: f64) -> Option<f64> {
    partial.t60_s.map(|t60| ((partial.level_db + louder_db - at_hz(threshold_db, partial.hz)) / 60.0 * t60).max(0.0))
}

#[cfg(test)]
mod tests {
    use super::super::note::NoteValue;
    use super::super::preset::{School, built_in_preset, built_in_presets};
    use super::super::song::Dynamics;
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use crate::venue::{Loudness, Room, RoomClass};
    use proptest::prelude::*;

    fn venue(loudness: Loudness, class: RoomClass) -> Venue {
        Venue {
            name: "saloon".into(),
            room: Room::Class { class },
            loudness: Some(loudness),
            heard: Heard::BareEar,
            band: None,
            empty: None,
            notes: String::new(),
            room_modes: Vec::new(),
        }
    }

    fn wanted(music: &Music, kind: DrumKind, venue: Option<&Venue>, strike_dbfs: Option<f64>) -> Wanted {
        let preset = built_in_preset(&music.genre).unwrap();
        Wanted::new(&Situation { preset, music, venue }, &BenchDrum::usual(kind), strike_dbfs)
    }

    #[test]
    fn an_eighth_at_96_bpm_is_explained() {
        let wanted = wanted(&Music::new("cumbia", 96.0), DrumKind::Snare, None, None);
        assert!((wanted.ring_length_most_s - 0.3125).abs() < 1e-12);
        assert_eq!(wanted.because[0], "Ring gone within an eighth at 96 BPM: 312 ms.");
    }

    #[test]
    fn a_busy_drum_must_be_clear_of_its_own_next_hit() {
        let mut music = Music::new("cumbia", 96.0);
        music.gaps.snare = Some(NoteValue::Sixteenth);
        let busy = wanted(&music, DrumKind::Snare, None, None);
        assert!((busy.ring_length_most_s - 0.15625).abs() < 1e-12);
        assert!(busy.because[0].contains("next hit, a sixteenth later"), "{}", busy.because[0]);
        // A long gap asks for nothing that the genre does not ask for.
        music.gaps.snare = Some(NoteValue::Whole);
        assert!((wanted(&music, DrumKind::Snare, None, None).ring_length_most_s - 0.3125).abs() < 1e-12);
    }

    #[test]
    fn the_same_drum_may_ring_longer_under_a_loud_band_than_in_a_quiet_room() {
        let partial = Partial { hz: 250.0, t60_s: Some(1.2), t60_sd_s: None, level_db: -10.0, tone: None };
        let music = Music::new("cumbia", 96.0);
        let heard = |loudness| {
            let wanted = wanted(&music, DrumKind::Tom, Some(&venue(loudness, RoomClass::LowSaloon)), None);
            audible_length(&partial, &wanted.threshold_db, 0.0).unwrap()
        };
        // (-10 + 44) / 60 x 1.2 s and (-10 + 26) / 60 x 1.2 s, from the classes' own figures.
        assert!((heard(Loudness::Quiet) - 0.68).abs() < 0.01, "{}", heard(Loudness::Quiet));
        assert!((heard(Loudness::VeryLoud) - 0.32).abs() < 0.01, "{}", heard(Loudness::VeryLoud));
    }

    #[test]
    fn a_measured_band_takes_the_place_of_its_class_once_the_drum_is_measured_too() {
        let mut place = venue(Loudness::Loud, RoomClass::OpenAir);
        place.band = Some(BandLevels { level_dbfs: [Some(-50.0); 7], seconds: 10.0 });
        let music = Music::new("surf", 152.0);
        assert!(!wanted(&music, DrumKind::Tom, Some(&place), None).masking_measured);
        let measured = wanted(&music, DrumKind::Tom, Some(&place), Some(-14.0));
        assert!(measured.masking_measured && measured.room.is_none());
        assert!(measured.because.iter().any(|sentence| sentence.contains("as measured")));
        // A humming room adds to a band that is only classed, and only where it hums.
        let quiet = wanted(&music, DrumKind::Tom, Some(&venue(Loudness::Quiet, RoomClass::OpenAir)), Some(-14.0));
        let mut hum = [Some(-100.0); 7];
        hum[1] = Some(-30.0);
        let place = Venue { empty: Some(BandLevels { level_dbfs: hum, seconds: 10.0 }), ..venue(Loudness::Quiet, RoomClass::OpenAir) };
        let humming = wanted(&music, DrumKind::Tom, Some(&place), Some(-14.0));
        assert!(humming.threshold_db[1] > quiet.threshold_db[1] + 6.0);
        assert!((humming.threshold_db[3] - quiet.threshold_db[3]).abs() < 0.1 && !humming.masking_measured);
    }

    #[test]
    fn a_more_open_school_leaves_more_room_and_dynamics_set_where_it_is_judged() {
        let plain = Music::new("rock", 118.0);
        let open =
            Music { school: Some(School::Open), dynamics: Dynamics { softest: Dynamic::Soft, hardest: Dynamic::Hard }, ..plain.clone() };
        let (plain, open) = (wanted(&plain, DrumKind::Tom, None, None), wanted(&open, DrumKind::Tom, None, None));
        assert!((open.ring_length_most_s / plain.ring_length_most_s - 1.5).abs() < 1e-9);
        assert!(open.ring_share_most > plain.ring_share_most);
        assert_eq!((open.softest_db, open.hardest_db), (-10.0, 6.0));
        assert!(open.because.iter().any(|sentence| sentence.starts_with("Played open where rock is controlled")));
        assert!(open.because.iter().any(|sentence| sentence.starts_with("Played soft to hard")));
    }

    proptest! {
        #[test]
        fn twice_the_tempo_leaves_half_the_time(bpm in 30f64..150.0, which in 0usize..16) {
            let code = &built_in_presets()[which].code;
            let wanted = |bpm| wanted(&Music::new(code, bpm), DrumKind::Tom, None, None);
            let (slow, fast) = (wanted(bpm), wanted(2.0 * bpm));
            for (slow, fast) in [
                (slow.ring_length_most_s, fast.ring_length_most_s),
                (slow.body_length_least_s, fast.body_length_least_s),
                (slow.body_length_most_s, fast.body_length_most_s),
            ] {
                prop_assert!((slow - 2.0 * fast).abs() < 1e-9);
            }
        }
    }
}
