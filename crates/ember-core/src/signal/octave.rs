//! Octave bands as IEC 61260-1 defines them (base-ten system), as time-domain filters.

use std::f64::consts::PI;

/// Nominal mid-band frequencies of the octaves that matter for a drum, Hz.
pub const OCTAVES_HZ: [f64; 7] = [63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0];
/// The octave ratio of the base-ten system, 10^(3/10) (IEC 61260-1, 5.2).
const OCTAVE: f64 = 1.995_262_314_968_879_6;

/// Exact mid-band frequency of octave `index` of [`OCTAVES_HZ`], Hz: 1000 G^x (IEC 61260-1, 5.4).
pub fn octave_centre_hz(index: usize) -> f64 {
    1000.0 * OCTAVE.powi(index as i32 - 4)
}

/// Lower and upper edge of octave `index`, Hz (IEC 61260-1, 5.6).
pub fn octave_edges_hz(index: usize) -> (f64, f64) {
    let half = OCTAVE.sqrt();
    (octave_centre_hz(index) / half, octave_centre_hz(index) * half)
}

/// One octave band: a Butterworth band-pass of six poles, which keeps within the limits of class 1.
#[derive(Debug, Clone)]
pub struct OctaveFilter {
    sections: [[f64; 5]; 3],
}

impl OctaveFilter {
    /// Octave `index` at `rate` samples a second. `None` where the rate does not carry the band.
    pub fn new(index: usize, rate: f64) -> Option<Self> {
        let (low, high) = octave_edges_hz(index);
        (high < 0.49 * rate).then(|| Self::between(low, high, rate))
    }

    /// Bilinear transform of the analogue prototype, its edges kept in place by pre-warping.
    fn between(low: f64, high: f64, rate: f64) -> Self {
        use num_complex::Complex64 as C;
        let warp = |hz: f64| 2.0 * rate * (PI * hz / rate).tan();
        let (low, high) = (warp(low), warp(high));
        let (centre, width) = ((low * high).sqrt(), high - low);
        // Each of the three low-pass poles becomes two band-pass poles; the upper ones of the conjugate pairs are enough.
        let mut poles = Vec::new();
        for k in 0..3 {
            let angle = PI * (2 * k + 1) as f64 / 6.0 + PI / 2.0;
            let p = C::from_polar(1.0, angle) * (width / 2.0);
            let root = (p * p - centre * centre).sqrt();
            poles.extend([p + root, p - root]);
        }
        poles.retain(|pole| pole.im > 0.0);
        let gain_at = |sections: &[[f64; 5]; 3], hz: f64| response(sections, hz, rate);
        let mut sections = [[0.0; 5]; 3];
        for (section, pole) in sections.iter_mut().zip(poles) {
            let z = (2.0 * rate + pole) / (2.0 * rate - pole);
            // Zeros at 0 Hz and at half the rate.
            *section = [1.0, 0.0, -1.0, -2.0 * z.re, z.norm_sqr()];
        }
        let middle = (centre / (2.0 * rate)).atan() * rate / PI;
        let gain = gain_at(&sections, middle).cbrt();
        sections.iter_mut().for_each(|section| section[..3].iter_mut().for_each(|b| *b /= gain));
        Self { sections }
    }

    /// The band's part of `samples`, run backwards through time: what the filter itself rings then lies before a sound, and
    /// does not lengthen its decay (Jacobsen & Rindel, J. Sound Vib. 117, 1987).
    pub fn backwards(&self, samples: &[f32]) -> Vec<f32> {
        // All three sections sample by sample: one of them would wait for its own last sample, three wait side by side.
        let mut states = [[0.0; 2]; 3];
        let mut out = vec![0.0; samples.len()];
        for (out, x) in out.iter_mut().zip(samples).rev() {
            let mut x = f64::from(*x);
            for ([b0, b1, b2, a1, a2], [s1, s2]) in self.sections.iter().zip(&mut states) {
                let y = b0 * x + *s1;
                *s1 = b1 * x - a1 * y + *s2;
                *s2 = b2 * x - a2 * y;
                x = y;
            }
            *out = x as f32;
        }
        out
    }

    /// Amplitude ratio at `hz`.
    pub fn gain(&self, hz: f64, rate: f64) -> f64 {
        response(&self.sections, hz, rate)
    }
}

fn response(sections: &[[f64; 5]; 3], hz: f64, rate: f64) -> f64 {
    use num_complex::Complex64 as C;
    let z = C::from_polar(1.0, -2.0 * PI * hz / rate);
    sections
        .iter()
        .map(|[b0, b1, b2, a1, a2]| {
            let over = C::from(*b0) + z * *b1 + z * z * *b2;
            let under = C::from(1.0) + z * *a1 + z * z * *a2;
            (over / under).norm()
        })
        .product()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// IEC 61260-1:2014, table 1, class 1 (limits from memory): relative attenuation at G^x from the middle, least and most, dB.
    const CLASS_1: [(f64, f64, f64); 9] = [
        (0.0, -0.4, 0.4),
        (0.125, -0.4, 0.5),
        (0.25, -0.4, 0.7),
        (0.375, -0.4, 1.4),
        (0.5, 1.4, 5.3),
        (1.0, 16.6, f64::INFINITY),
        (2.0, 40.5, f64::INFINITY),
        (3.0, 60.0, f64::INFINITY),
        (4.0, 70.0, f64::INFINITY),
    ];

    #[test]
    fn every_octave_keeps_within_class_1() {
        for rate in [44_100.0, 48_000.0, 192_000.0] {
            for (index, nominal_hz) in OCTAVES_HZ.iter().enumerate() {
                let filter = OctaveFilter::new(index, rate).unwrap();
                for (x, least, most) in CLASS_1 {
                    for hz in [octave_centre_hz(index) * OCTAVE.powf(x), octave_centre_hz(index) / OCTAVE.powf(x)] {
                        if hz < 0.48 * rate {
                            let db = -20.0 * filter.gain(hz, rate).log10();
                            assert!((least..=most).contains(&db), "{} Hz at {rate}: {db} dB at {hz} Hz", nominal_hz);
                        }
                    }
                }
            }
        }
    }

    #[test]
    fn mid_band_frequencies_are_those_of_the_standard() {
        // Worked values of IEC 61260-1, annex E (from memory): 63.096, 125.89, 251.19, 501.19, 1000, 1995.3, 3981.1 Hz.
        let exact = [63.096, 125.893, 251.189, 501.187, 1000.0, 1995.262, 3981.072];
        for (index, hz) in exact.into_iter().enumerate() {
            assert!((octave_centre_hz(index) / hz - 1.0).abs() < 1e-5);
            assert!((octave_centre_hz(index) / OCTAVES_HZ[index] - 1.0).abs() < 0.01, "the nominal name is near");
        }
    }

    #[test]
    fn a_rate_too_low_for_a_band_gives_none() {
        assert!(OctaveFilter::new(6, 8_000.0).is_none() && OctaveFilter::new(3, 8_000.0).is_some());
    }
}
