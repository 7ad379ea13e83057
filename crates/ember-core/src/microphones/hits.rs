//! Where the drum that a microphone stands at was hit.

/// Loudness is followed in steps of this, s.
const STEP_S: f64 = 0.001;
/// A hit is louder by this than the loudest of the time before it, dB.
const RISE_DB: f64 = 9.0;
/// That time, s.
const BEFORE_S: f64 = 0.03;
/// A hit lies no further under the loudest than this: what is softer may be another drum, dB.
const UNDER_LOUDEST_DB: f64 = 12.0;
/// The next hit begins no sooner than this after one, s.
const APART_S: f64 = 0.12;
/// Its loudest comes within this after its beginning, s.
const PEAK_WITHIN_S: f64 = 0.02;

/// Beginnings of the hits in `samples` (full scale 1, `rate` samples a second), as indices, the loudest `most` of them in the order of time.
pub fn hits(samples: &[f32], rate: f64, most: usize) -> Vec<usize> {
    let step = ((STEP_S * rate) as usize).max(1);
    let peaks: Vec<f64> = samples.chunks(step).map(|piece| piece.iter().fold(0.0f64, |most, x| most.max(f64::from(x.abs())))).collect();
    let loudest = peaks.iter().copied().fold(0.0, f64::max);
    if loudest <= 0.0 {
        return Vec::new();
    }
    let (least, rise) = (loudest * 10f64.powf(-UNDER_LOUDEST_DB / 20.0), 10f64.powf(RISE_DB / 20.0));
    let steps = |seconds: f64| (seconds / STEP_S) as usize;
    let mut found: Vec<(usize, f64)> = Vec::new();
    let mut at = steps(BEFORE_S);
    while at < peaks.len() {
        let before = peaks[at - steps(BEFORE_S)..at].iter().copied().fold(0.0, f64::max);
        let after = peaks[at..(at + steps(PEAK_WITHIN_S)).min(peaks.len())].iter().copied().fold(0.0, f64::max);
        // It begins where it first stands out, not where it is loudest.
        if after >= least && peaks[at] > rise * before && peaks[at] >= after / (rise * rise) {
            found.push((at * step, after));
            at += steps(APART_S);
        } else {
            at += 1;
        }
    }
    found.sort_by(|a, b| b.1.total_cmp(&a.1));
    found.truncate(most);
    let mut indices: Vec<usize> = found.into_iter().map(|(index, _)| index).collect();
    indices.sort_unstable();
    indices
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hits_are_found_where_they_begin_and_soft_neighbours_are_left_out() {
        let rate = 48_000.0;
        let mut sound = vec![1e-4f32; 3 * 48_000];
        for (at_s, peak) in [(0.5, 0.5f64), (1.0, 0.02), (1.5, 0.4), (2.0, 0.45)] {
            let from = (at_s * rate) as usize;
            for n in 0..20_000 {
                let t = n as f64 / rate;
                sound[from + n] += (peak * (-t / 0.08).exp() * (2.0 * std::f64::consts::PI * 200.0 * t).sin()) as f32;
            }
        }
        let found = hits(&sound, rate, 10);
        assert_eq!(found.len(), 3, "{found:?}");
        for (index, at_s) in found.iter().zip([0.5, 1.5, 2.0]) {
            assert!((*index as f64 / rate - at_s).abs() < 0.003, "{index}");
        }
        assert_eq!(hits(&sound, rate, 2), [found[0], found[2]], "the loudest");
        assert!(hits(&[0.0; 9000], rate, 5).is_empty() && hits(&[], rate, 5).is_empty());
    }
}
