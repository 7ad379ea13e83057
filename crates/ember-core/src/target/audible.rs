//! How long a partial is heard before the band covers it.

use super::song::Music;
use super::wanted::Wanted;
use crate::damping::Expectation;
use crate::numeric::{NINETY_SDS, Range};
use crate::tone::{MetalSound, Partial};
use crate::venue::at_hz;
use ember_words::{Words, words};
use serde::Serialize;

/// How long a partial is heard at the song's hardest, s, with bounds that hold nine times in ten where they are known.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AudibleLength {
    /// How long it is heard, s.
    pub length_s: f64,
    /// Bounds of it, nine times in ten.
    pub range: Option<Range>,
}

/// A wash may cover a song where it is heard over more bars than this (from experience, no published source).
const WASH_BARS: f64 = 3.0;

impl Wanted {
    /// What is to be asked of a cymbal that is left alone: whether its wash, of those `partials`, covers what is played; none where it is heard for no
    /// more than a few bars.
    pub fn wash_note(&self, partials: &[Partial], music: &Music) -> Option<Words> {
        let wash = MetalSound::of(partials)?.wash.filter(|_| self.left_alone)?;
        let heard_s = partials.iter().find(|partial| partial.hz == wash.hz).map(|partial| self.audible_s(partial, wash.t60_s))?;
        let bars = heard_s / (60.0 / music.bpm * music.meter.counted() as f64);
        (bars > WASH_BARS).then(|| {
            let whole = bars.floor();
            words!(
                "Its wash is heard for {heard_s:.1} s, over {whole:.0} bars at {} BPM. If that covers the song, say that it is too washy.",
                music.bpm
            )
        })
    }

    /// How long `partial` is heard, s, if it takes `t60_s` to fall by 60 dB: (level - threshold) / 60 x T60, both as at the song's hardest.
    fn audible_s(&self, partial: &Partial, t60_s: f64) -> f64 {
        let above_db = partial.level_db + self.hardest_db - at_hz(&self.threshold_db, partial.hz);
        (above_db / 60.0 * t60_s * self.hardest_times).max(0.0)
    }

    /// Of measured `partials`, each with the doubt of its own measurement; none where it has no decay time.
    pub fn audible(&self, partials: &[Partial]) -> Vec<Option<AudibleLength>> {
        let range = |partial: &Partial| {
            let (t60_s, sd_s) = (partial.t60_s?, partial.t60_sd_s?);
            Some(Range { low: (t60_s - NINETY_SDS * sd_s).max(0.0), high: t60_s + NINETY_SDS * sd_s })
        };
        partials.iter().map(|partial| self.audible_between(partial, range(partial))).collect()
    }

    /// Of partials that are `expected`: body and ring with the doubt of the prediction.
    pub fn audible_as_expected(&self, expected: &Expectation) -> Vec<Option<AudibleLength>> {
        let profile = &expected.profile;
        let range = |partial: &Partial| match Some(partial.hz) {
            hz if hz == profile.body_hz => expected.body_t60_s,
            hz if hz == profile.ring_hz => expected.ring_t60_s,
            _ => None,
        };
        expected.partials.iter().map(|partial| self.audible_between(partial, range(partial))).collect()
    }

    fn audible_between(&self, partial: &Partial, range: Option<Range>) -> Option<AudibleLength> {
        let length = |t60_s: f64| self.audible_s(partial, t60_s);
        let range = range.map(|range| Range { low: length(range.low), high: length(range.high) });
        partial.t60_s.map(|t60_s| AudibleLength { length_s: length(t60_s), range })
    }
}

#[cfg(test)]
mod tests {
    use super::super::preset::built_in_preset;
    use super::super::song::Music;
    use super::super::wanted::Situation;
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use crate::tone::DecayProfile;

    fn wanted() -> Wanted {
        let situation =
            Situation { preset: built_in_preset("rock").unwrap(), music: &Music::new("rock", 118.0), venue: None, time_keepers: &[] };
        Wanted { threshold_db: [-30.0; 7], ..Wanted::new(&situation, &BenchDrum::usual(DrumKind::Tom), None) }
    }

    fn partial(hz: f64, level_db: f64, t60_s: f64) -> Partial {
        Partial { hz, t60_s: Some(t60_s), t60_sd_s: Some(0.1 * t60_s), t60_scatter_s: None, level_db, tone: None }
    }

    #[test]
    fn a_partial_is_heard_until_the_band_covers_it() {
        let wanted = wanted();
        // 30 dB of 60 at 0.8 s for 60 dB.
        let heard = wanted.audible(&[partial(200.0, 0.0, 0.8), partial(200.0, -10.0, 0.6), partial(200.0, -40.0, 2.0)]);
        let lengths: Vec<f64> = heard.iter().map(|heard| heard.unwrap().length_s).collect();
        assert!((lengths[0] - 0.4).abs() < 1e-9 && (lengths[1] - 0.2).abs() < 1e-9 && lengths[2] == 0.0, "{lengths:?}");
        let range = heard[0].unwrap().range.unwrap();
        assert!((range.low - 0.4 * 0.8355).abs() < 1e-9 && (range.high - 0.4 * 1.1645).abs() < 1e-9, "{range:?}");
        let harder = Wanted { hardest_db: 6.0, hardest_times: 0.5, ..wanted };
        assert!((harder.audible(&[partial(200.0, 0.0, 0.8)])[0].unwrap().length_s - 0.24).abs() < 1e-9);
        assert_eq!(harder.audible(&[Partial { t60_s: None, ..partial(200.0, 0.0, 0.8) }]), [None]);
    }

    #[test]
    fn body_and_ring_have_the_doubt_of_their_prediction() {
        let range = |low, high| Some(Range { low, high });
        let expected = Expectation {
            partials: vec![partial(100.0, 0.0, 0.4), partial(160.0, 0.0, 0.6), partial(300.0, 0.0, 0.2)],
            profile: DecayProfile { body_hz: Some(100.0), ring_hz: Some(160.0), ..DecayProfile::default() },
            body_t60_s: range(0.3, 0.5),
            ring_t60_s: None,
            ..Expectation::default()
        };
        let heard = wanted().audible_as_expected(&expected);
        let ranges: Vec<Option<Range>> = heard.iter().map(|heard| heard.unwrap().range).collect();
        assert_eq!(ranges, [range(0.15, 0.25), None, None]);
    }

    /// "Left alone by default, treated when asked or when the wash covers the song": whether it does is asked of a wash of many bars, and of no other.
    #[test]
    fn a_wash_over_many_bars_is_asked_about() {
        use crate::tone::Tone;
        let octave = |hz: f64, t60_s: f64| Partial { tone: Some(Tone::OctaveHz(hz as u16)), ..partial(hz, 0.0, t60_s) };
        let note = |t60_s: f64, left_alone: bool, bpm: f64| {
            let music = Music::new("rock", bpm);
            Wanted { left_alone, ..wanted() }.wash_note(&[octave(500.0, t60_s), octave(8000.0, 1.0)], &music)
        };
        // 30 dB of 60: 7 s are heard for 3.5 s, which are four bars at 300 BPM and less than two at 100.
        let said = note(7.0, true, 300.0).unwrap();
        assert!(said.starts_with("Its wash is heard for 3.5 s, over 4 bars at 300 BPM."), "{said}");
        assert_eq!((note(7.0, true, 100.0), note(7.0, false, 300.0)), (None, None));
        assert_eq!(
            Wanted { left_alone: true, ..wanted() }.wash_note(&[partial(500.0, 0.0, 7.0)], &Music::new("rock", 300.0)),
            None,
            "a drum"
        );
    }
}
