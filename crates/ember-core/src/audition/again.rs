//! A strike whose beater comes down more than once.

use crate::kick::Landing;
use crate::units::amplitude;

/// `samples` (`rate` a second, hit at `onset_index`) with what each of `landings` adds: the same strike again, later and softer. As long as it
/// was. Heads answer small blows as they answer large ones, so the sounds add up.
pub fn with_landings(samples: &[f32], rate: f64, onset_index: usize, landings: &[Landing]) -> Vec<f32> {
    let mut sum = samples.to_vec();
    let Some(strike) = samples.get(onset_index..) else { return sum };
    for landing in landings {
        let (late, gain) = (onset_index + (landing.at_s * rate).round() as usize, amplitude(landing.level_db) as f32);
        sum.iter_mut().skip(late).zip(strike).for_each(|(own, again)| *own += gain * again);
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_landing_adds_the_strike_again() {
        let strike = [0.1, 1.0, 0.5, 0.25, 0.0, 0.0, 0.0];
        let landings = [Landing { at_s: 0.002, level_db: -6.0206 }, Landing { at_s: 0.02, level_db: 0.0 }];
        let sum = with_landings(&strike, 1000.0, 1, &landings);
        for (found, wanted) in sum.iter().zip([0.1, 1.0, 0.5, 0.75, 0.25, 0.125, 0.0]) {
            assert!((found - wanted).abs() < 1e-4, "{sum:?}");
        }
        assert_eq!(with_landings(&strike, 1000.0, 9, &landings), strike);
    }
}
