//! A cymbal as musicians hear it: its wash, its highs, and whether it is dark or bright.

use super::partial::Partial;
use super::tone::Tone;
use crate::units::{amplitude, decibels};
use serde::Serialize;

/// Octaves in which a wash lies, and from where on the highs do, Hz (from experience, no published source).
const WASH_HZ: std::ops::RangeInclusive<f64> = 240.0..=2100.0;
const HIGHS_FROM_HZ: f64 = 3900.0;
const LOWS_TO_HZ: f64 = 1100.0;
/// Energy of the highs against that of the lows at the hit from which on a cymbal is called bright, and below which it is called dark, dB (from
/// experience, no published source).
const BRIGHT_DB: f64 = 6.0;
const DARK_DB: f64 = -6.0;

/// Which way a cymbal leans.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Brightness {
    /// Its lows are louder.
    Dark,
    /// Neither.
    Even,
    /// Its highs are louder.
    Bright,
}

/// How long an octave of a cymbal sounds on.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OctaveLength {
    /// Middle of the octave, Hz.
    pub hz: f64,
    /// Time in which it falls by 60 dB, s.
    pub t60_s: f64,
    /// Its standard error, s; null where it is not known.
    pub t60_sd_s: Option<f64>,
}

/// A cymbal as it is heard.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MetalSound {
    /// The octave of the middle that sounds on most; null where none was heard.
    pub wash: Option<OctaveLength>,
    /// The highest octave that was heard; null where no high one was.
    pub highs: Option<OctaveLength>,
    /// Whether it is dark or bright; null where lows or highs were not heard.
    pub brightness: Option<Brightness>,
    /// Energy at the hit from 4 kHz up against that up to 1 kHz, dB; null where one of them was not heard.
    pub highs_over_lows_db: Option<f64>,
}

impl MetalSound {
    /// Of the octaves of a cymbal, low to high; none of a drum's tones.
    pub fn of(partials: &[Partial]) -> Option<Self> {
        let is_octave = |partial: &Partial| matches!(partial.tone, Some(Tone::OctaveHz(_)));
        if partials.is_empty() || !partials.iter().all(is_octave) {
            return None;
        }
        let length = |partial: &Partial| Some(OctaveLength { hz: partial.hz, t60_s: partial.t60_s?, t60_sd_s: partial.t60_sd_s });
        let known = |partial: &&Partial| partial.t60_s.is_some();
        let wash = partials.iter().filter(known).filter(|partial| WASH_HZ.contains(&partial.hz));
        let energy = |wanted: &dyn Fn(f64) -> bool| {
            let of = partials.iter().filter(|partial| wanted(partial.hz)).map(|partial| amplitude(partial.level_db).powi(2));
            Some(of.sum::<f64>()).filter(|energy| *energy > 0.0)
        };
        let (high, low) = (energy(&|hz| hz >= HIGHS_FROM_HZ), energy(&|hz| hz <= LOWS_TO_HZ));
        let highs_over_lows_db = high.zip(low).map(|(high, low)| 0.5 * decibels(high / low));
        Some(Self {
            wash: wash.max_by(|a, b| a.late_energy().total_cmp(&b.late_energy())).and_then(length),
            highs: partials.iter().filter(known).rfind(|partial| partial.hz >= HIGHS_FROM_HZ).and_then(length),
            brightness: highs_over_lows_db.map(|db| match db {
                db if db > BRIGHT_DB => Brightness::Bright,
                db if db < DARK_DB => Brightness::Dark,
                _ => Brightness::Even,
            }),
            highs_over_lows_db,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn octave(hz: f64, t60_s: Option<f64>, level_db: f64) -> Partial {
        Partial { hz, t60_s, t60_sd_s: None, t60_scatter_s: None, level_db, tone: Some(Tone::OctaveHz(hz as u16)) }
    }

    #[test]
    fn wash_and_highs_are_told_apart_and_a_cymbal_leans_one_way() {
        let low = [octave(125.0, Some(7.0), -6.0), octave(500.0, Some(4.0), 0.0), octave(1000.0, Some(2.5), -8.0)];
        let high = [octave(4000.0, Some(1.0), -14.0), octave(8000.0, Some(0.6), -20.0)];
        let dark = MetalSound::of(&[&low[..], &high].concat()).unwrap();
        assert_eq!((dark.wash.unwrap().hz, dark.highs.unwrap().t60_s, dark.brightness), (500.0, 0.6, Some(Brightness::Dark)));
        // Energies of 1 and of 1/25 + 1/100: sums of powers, by hand.
        let lows: f64 = [-6.0, 0.0, -8.0].iter().map(|db| 10f64.powf(db / 10.0)).sum();
        let highs: f64 = [-14.0, -20.0].iter().map(|db| 10f64.powf(db / 10.0)).sum();
        assert!((dark.highs_over_lows_db.unwrap() - 10.0 * (highs / lows).log10()).abs() < 1e-9);
        let louder = high.map(|partial| Partial { level_db: partial.level_db + 26.0, ..partial });
        assert_eq!(MetalSound::of(&[&low[..], &louder].concat()).unwrap().brightness, Some(Brightness::Bright));
        let only_low = MetalSound::of(&low).unwrap();
        assert_eq!((only_low.highs, only_low.brightness), (None, None));
        let tone = Partial { tone: None, ..low[0].clone() };
        assert_eq!((MetalSound::of(&[tone]), MetalSound::of(&[])), (None, None));
    }
}
