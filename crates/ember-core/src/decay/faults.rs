//! What can be wrong with a strike's sound: cut off at a ceiling, with holes, hit twice.

/// Samples that are looked at side by side.
const LANES: usize = 8;
/// Samples in a row at exactly the loudest value: what a wave only does against a ceiling.
const CEILING_RUN: usize = 4;
/// A smooth top that is rounded to whole steps is left by one step; a ceiling is left by more.
const CEILING_STEPS: f32 = 2.5;
/// So near to full scale a run of equal samples is a ceiling however it is left.
const FULL_SCALE: f32 = 0.98;

/// Index behind the last sample that stood at a ceiling; none where there is no ceiling. `step`: the recording's [`resolution`].
pub(super) fn clipped(sound: &[f32], peak: f64, step: f32) -> Option<usize> {
    let peak = peak as f32;
    let mut at = 0usize;
    while let Some(found) = sound[at..].iter().position(|x| x.abs() == peak) {
        let start = at + found;
        let length = sound[start..].iter().take_while(|x| **x == sound[start]).count();
        at = start + length;
        let run = &sound[start..at];
        let (before, after) = (start.checked_sub(1).map(|i| sound[i]), sound.get(at));
        if run.len() >= CEILING_RUN {
            let left_by = |other: f32| (run[0] - other).abs() > CEILING_STEPS * step;
            if peak >= FULL_SCALE || before.is_some_and(left_by) || after.is_some_and(|x| left_by(*x)) {
                return sound.iter().rposition(|x| x.abs() >= peak - step).map(|last| last + 1);
            }
        }
    }
    None
}

/// The step in which the recording was rounded: the smallest difference between neighbours.
pub(super) fn resolution(sound: &[f32]) -> f32 {
    let mut least = [f32::INFINITY; LANES];
    let mut keep = |lane: usize, step: f32| {
        if step > 0.0 && step < least[lane] {
            least[lane] = step;
        }
    };
    let next = sound.get(1..).unwrap_or_default();
    let ((now, now_end), (next, next_end)) = (sound[..next.len()].as_chunks::<LANES>(), next.as_chunks::<LANES>());
    for (now, next) in now.iter().zip(next) {
        (0..LANES).for_each(|lane| keep(lane, (next[lane] - now[lane]).abs()));
    }
    now_end.iter().zip(next_end).for_each(|(now, next)| keep(0, (next - now).abs()));
    least.into_iter().fold(f32::INFINITY, f32::min)
}

/// Exact zeros in a row that sound was lost in, and the samples on either side of them in which it must sound.
const HOLE: usize = 64;

/// Whether sound was lost: a run of exact zeros, right before and right behind which the recording is still loud (within 40 dB of its `peak`, and
/// above its rounding `step`). Exact zeros alone do not tell: a quiet recording in 16 bits fades into them by itself.
pub(super) fn dropped_out(sound: &[f32], peak: f64, step: f32) -> bool {
    let level = (0.01 * peak as f32).max(4.0 * step);
    let sounds = |part: &[f32]| part.iter().any(|x| x.abs() > level);
    let mut at = 0;
    while let Some(found) = sound[at..].iter().position(|x| *x == 0.0) {
        let start = at + found;
        let end = start + sound[start..].iter().take_while(|x| **x == 0.0).count();
        let (before, behind) = (&sound[start.saturating_sub(HOLE)..start], &sound[end..(end + HOLE).min(sound.len())]);
        if end - start >= HOLE && sounds(before) && sounds(behind) {
            return true;
        }
        at = end;
    }
    false
}

/// Snare wires sound about 8 to 16 ms after the stick, often louder than it (read off recordings). A second stick that comes later than the second of
/// these times shows as a rise out of a dip that comes later than the first, ms.
const WIRES_SPEAK_FROM_MS: usize = 14;
const WIRES_SPEAK_UNTIL_MS: usize = 20;
/// A rise that comes earlier is a second stick only if it is no louder than the first, and if its power falls to this part of it soon: wires
/// buzz on.
const STICK_GONE: f64 = 1.0 / 30.0;

/// A second stick sound 10 to 40 ms after the first, nearly as loud and after a clear dip.
pub(super) fn second_hit(sound: &[f32], rate: f64) -> bool {
    let step = ((0.001 * rate) as usize).max(1);
    let high: Vec<f64> = sound
        .get(..((0.045 * rate) as usize).min(sound.len()))
        .unwrap_or_default()
        .windows(3)
        .map(|w| (f64::from(w[2]) - 2.0 * f64::from(w[1]) + f64::from(w[0])).powi(2))
        .collect();
    let blocks: Vec<f64> = high.chunks(step).map(|part| part.iter().sum::<f64>()).collect();
    let smooth: Vec<f64> = blocks.windows(3).map(|w| w.iter().sum::<f64>()).collect();
    let Some(first) = smooth.get(..8).map(|part| part.iter().copied().fold(0.0, f64::max)) else { return false };
    (10..smooth.len()).any(|i| {
        let least = |part: &[f64]| part.iter().copied().fold(f64::INFINITY, f64::min);
        let early = i < WIRES_SPEAK_UNTIL_MS;
        let dip = least(&smooth[if early { 3 } else { WIRES_SPEAK_FROM_MS }..i]);
        let stick = !early || smooth[i] < first && smooth.get(i + 4..).is_some_and(|after| least(after) < STICK_GONE * smooth[i]);
        stick && smooth[i] > 0.1 * first && smooth[i] > 10.0 * dip
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn tone(hz: f64, rate: f64, size: f64, bits: i32) -> Vec<f32> {
        let steps = 2f64.powi(bits - 1);
        let wave = |n: usize| size * (2.0 * std::f64::consts::PI * hz * n as f64 / rate).sin() * (-(n as f64) / rate / 0.2).exp();
        (0..(0.2 * rate) as usize).map(|n| ((wave(n) * steps).round() / steps) as f32).collect()
    }

    fn peak(sound: &[f32]) -> f64 {
        sound.iter().fold(0f64, |most, x| most.max(f64::from(x.abs())))
    }

    proptest! {
        #[test]
        fn a_smooth_top_is_no_ceiling_at_any_pitch_rate_and_resolution(
            hz in 35f64..900.0, rate in prop::sample::select(vec![16_000.0, 48_000.0, 192_000.0]),
            size in 0.26f64..0.97, bits in prop::sample::select(vec![8, 16, 24]),
        ) {
            let sound = tone(hz, rate, size, bits);
            prop_assert!(clipped(&sound, peak(&sound), resolution(&sound)).is_none());
            prop_assert!(!dropped_out(&sound, peak(&sound), resolution(&sound)));
        }

        #[test]
        fn a_ceiling_is_seen_at_full_scale_and_below(hz in 60f64..900.0, ceiling in 0.2f32..1.0) {
            let sound: Vec<f32> = tone(hz, 48_000.0, 2.0, 24).iter().map(|x| x.clamp(-ceiling, ceiling)).collect();
            prop_assert!(clipped(&sound, peak(&sound), resolution(&sound)).is_some());
        }
    }

    #[test]
    fn a_hole_in_a_loud_sound_is_a_dropout() {
        let mut sound = tone(200.0, 48_000.0, 0.5, 24);
        sound[2000..2100].fill(0.0);
        assert!(dropped_out(&sound, peak(&sound), resolution(&sound)));
    }

    #[test]
    fn a_quiet_recording_that_fades_into_zeros_has_no_hole() {
        let step = 2f32.powi(-15);
        let whole = |x: f32| (x / step).round() * step;
        let fades = |size: f32| (0..4_800).map(move |n| size * (0.09 * n as f32).sin() * (-n as f32 / 500.0).exp());
        // 16 bits, 30 dB below full scale, and a quiet noise from elsewhere when it has gone.
        let sound: Vec<f32> = fades(0.03).chain(fades(0.003)).map(whole).collect();
        assert!(!dropped_out(&sound, peak(&sound), resolution(&sound)));
    }
}
