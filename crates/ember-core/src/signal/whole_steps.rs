//! Samples in whole steps of 24 bits, as sound is kept: what is measured of a strike is measured of the very samples that are kept of it, so that
//! measuring these again says the same. A step lies 138 dB under full scale, far under the noise of any microphone.

/// Bits of a sample as it is kept.
pub const KEPT_BITS: u32 = 24;
/// Steps from silence to full scale.
const FULL: f32 = (1u32 << (KEPT_BITS - 1)) as f32;

/// `sample` (full scale 1) in whole steps. What lies beyond the last step is cut at the same height on both sides: a clipped recording stays as
/// symmetrical as it was.
pub fn whole_steps(sample: f32) -> i32 {
    (sample * FULL).round().clamp(1.0 - FULL, FULL - 1.0) as i32
}

/// `sample` as it is kept.
pub fn as_kept(sample: f32) -> f32 {
    whole_steps(sample) as f32 / FULL
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_kept_stays_as_it_is_and_lies_within_half_a_step(sample in -1f32..=1.0) {
            let kept = as_kept(sample);
            prop_assert_eq!(as_kept(kept), kept);
            // Full scale itself is one step too far.
            let most = if sample.abs() * FULL > FULL - 1.0 { 1.0 } else { 0.5 };
            prop_assert_eq!(as_kept(-sample), -kept);
            prop_assert!((kept - sample).abs() * FULL <= most);
        }
    }
}
