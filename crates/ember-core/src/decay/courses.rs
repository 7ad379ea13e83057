//! Tones drawn over all samples of a stretch, and sums over them: here measuring spends most of its time, so samples stand in fours,
//! real and imaginary parts apart, and loops are compiled for the widest instructions that the processor has.

use super::damped_sinusoid::DampedSinusoid;
use num_complex::Complex64;
use pulp::{Arch, Simd, WithSimd};
use std::f64::consts::PI;
use std::ops::Range;

/// Four samples that follow each other; behind the last sample stand zeros.
type Four = [f64; 4];

/// Complex samples.
#[derive(Clone, Default)]
pub(super) struct Samples {
    re: Vec<Four>,
    im: Vec<Four>,
}

impl Samples {
    /// Sum of squares of the four samples number `four`.
    pub fn energy(&self, four: usize) -> f64 {
        self.re[four].iter().chain(&self.im[four]).map(|x| x * x).sum()
    }
}

/// Samples to fit and what is known about them.
pub struct Stretch<'a> {
    pub signal: &'a [Complex64],
    /// Samples a second; the first one is at time 0.
    pub rate: f64,
    /// Two-sided width of the noise that the filters let through, Hz.
    pub noise_bandwidth: f64,
    /// The same as `signal`.
    pub(super) samples: Samples,
    /// Time of each sample, s.
    time: Vec<Four>,
    /// Integral of a bend's course up to each sample, s.
    bent_time: Vec<Four>,
}

impl<'a> Stretch<'a> {
    /// `bend_rate`: rate at which bends die away, 1/s.
    pub fn new(signal: &'a [Complex64], rate: f64, noise_bandwidth: f64, bend_rate: f64) -> Self {
        let fours = |value: &dyn Fn(usize) -> f64| -> Vec<Four> {
            (0..signal.len())
                .step_by(4)
                .map(|n| std::array::from_fn(|lane| if n + lane < signal.len() { value(n + lane) } else { 0.0 }))
                .collect()
        };
        let at = |n: usize| n as f64 / rate;
        Self {
            signal,
            rate,
            noise_bandwidth,
            samples: Samples { re: fours(&|n| signal[n].re), im: fours(&|n| signal[n].im) },
            time: fours(&at),
            bent_time: fours(&|n| -(-bend_rate * at(n)).exp_m1() / bend_rate),
        }
    }

    /// All samples, in fours.
    pub(super) fn all(&self) -> Range<usize> {
        0..self.time.len()
    }
}

/// Tones over all samples of a stretch at amplitude 1, what they leave of it, and its sum of squares.
#[derive(Default)]
pub(super) struct Drawn {
    pub courses: Vec<Samples>,
    pub left: Samples,
    pub error: f64,
}

impl Drawn {
    pub fn of(stretch: &Stretch, tones: &[DampedSinusoid]) -> Self {
        let mut drawn = Self::default();
        drawn.redraw(stretch, tones);
        drawn
    }

    /// The same for other tones, in the same memory.
    pub fn redraw(&mut self, stretch: &Stretch, tones: &[DampedSinusoid]) {
        Arch::new().dispatch(Draw { stretch, tones, drawn: self });
    }
}

struct Draw<'a> {
    stretch: &'a Stretch<'a>,
    tones: &'a [DampedSinusoid],
    drawn: &'a mut Drawn,
}

impl WithSimd for Draw<'_> {
    type Output = ();

    // Loops rather than closures in all of this: what is called out of line is not compiled for the wide instructions.
    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) {
        let Self { stretch, tones, drawn: Drawn { courses, left, error } } = self;
        courses.resize_with(tones.len(), Samples::default);
        left.re.clone_from(&stretch.samples.re);
        left.im.clone_from(&stretch.samples.im);
        for (tone, course) in tones.iter().zip(courses) {
            draw(tone, stretch, course);
            let a = tone.amplitude;
            for ((left_re, left_im), (re, im)) in left.re.iter_mut().zip(&mut left.im).zip(course.re.iter().zip(&course.im)) {
                for lane in 0..4 {
                    left_re[lane] -= a.re * re[lane] - a.im * im[lane];
                    left_im[lane] -= a.re * im[lane] + a.im * re[lane];
                }
            }
        }
        let mut sums = [0.0; 4];
        for (re, im) in left.re.iter().zip(&left.im) {
            for lane in 0..4 {
                sums[lane] += re[lane] * re[lane] + im[lane] * im[lane];
            }
        }
        *error = sums.iter().sum();
    }
}

/// `tone` at amplitude 1 over all samples.
#[inline(always)]
fn draw(tone: &DampedSinusoid, stretch: &Stretch, course: &mut Samples) {
    let step = (Complex64::new(-tone.decay, 2.0 * PI * tone.hz) / stretch.rate).exp();
    // Four samples go on side by side: each product would have to wait for the one before it otherwise.
    let first = [Complex64::new(1.0, 0.0), step, step * step, step * step * step];
    let far = first[2] * first[2];
    let (mut now_re, mut now_im) = (first.map(|z| z.re), first.map(|z| z.im));
    let count = stretch.time.len();
    course.re.resize(count, [0.0; 4]);
    course.im.resize(count, [0.0; 4]);
    for (re, im) in course.re.iter_mut().zip(&mut course.im) {
        (*re, *im) = (now_re, now_im);
        for lane in 0..4 {
            now_re[lane] = re[lane] * far.re - im[lane] * far.im;
            now_im[lane] = re[lane] * far.im + im[lane] * far.re;
        }
    }
    if tone.bend != 0.0 {
        for ((re, im), time) in course.re.iter_mut().zip(&mut course.im).zip(&stretch.bent_time) {
            for lane in 0..4 {
                let (sin, cos) = turned(tone.bend * time[lane]);
                (re[lane], im[lane]) = (re[lane] * cos - im[lane] * sin, re[lane] * sin + im[lane] * cos);
            }
        }
    }
    let beyond = 4 * count - stretch.signal.len();
    if let (Some(re), Some(im)) = (course.re.last_mut(), course.im.last_mut()) {
        re[4 - beyond..].fill(0.0);
        im[4 - beyond..].fill(0.0);
    }
}

/// Sine and cosine of so many `turns`, to 1e-13: series of an eighth of the angle (it is pi / 8 at most), its angle doubled three times. Plain
/// arithmetic, so that several go side by side.
#[inline(always)]
fn turned(turns: f64) -> (f64, f64) {
    let x = 2.0 * PI / 8.0 * (turns - turns.round_ties_even());
    let square = x * x;
    let (mut sin, mut cos) = (0.0, 0.0);
    // What leads from each term of a series to the one before it, from x^13 and x^14 on.
    for (odd, even) in [
        (1.0 / 156.0, 1.0 / 182.0),
        (1.0 / 110.0, 1.0 / 132.0),
        (1.0 / 72.0, 1.0 / 90.0),
        (1.0 / 42.0, 1.0 / 56.0),
        (1.0 / 20.0, 1.0 / 30.0),
        (1.0 / 6.0, 1.0 / 12.0),
    ] {
        sin = (1.0 - sin) * (square * odd);
        cos = (1.0 - cos) * (square * even);
    }
    // One less the cosine keeps its digits where the angle is small.
    let (mut sin, mut less) = (x * (1.0 - sin), (1.0 - cos) * (square / 2.0));
    for _ in 0..3 {
        (sin, less) = (2.0 * sin * (1.0 - less), 2.0 * sin * sin);
    }
    (sin, 1.0 - less)
}

/// Sums over the `fours` of samples, of conj(a) b with the first `KINDS` of these weights: 1, time, bent time, and the products of the last
/// two.
pub(super) fn weighted<const KINDS: usize>(stretch: &Stretch, fours: Range<usize>, a: &Samples, b: &Samples) -> [Complex64; KINDS] {
    Arch::new().dispatch(Weighted { stretch, fours, a, b })
}

struct Weighted<'a, const KINDS: usize> {
    stretch: &'a Stretch<'a>,
    fours: Range<usize>,
    a: &'a Samples,
    b: &'a Samples,
}

impl<const KINDS: usize> WithSimd for Weighted<'_, KINDS> {
    type Output = [Complex64; KINDS];

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Self::Output {
        let Self { stretch, fours, a, b } = self;
        let (mut re, mut im) = ([[0.0; 4]; KINDS], [[0.0; 4]; KINDS]);
        let (a_re, a_im, b_re, b_im) = (&a.re[fours.clone()], &a.im[fours.clone()], &b.re[fours.clone()], &b.im[fours.clone()]);
        let (time, bent_time) = (&stretch.time[fours.clone()], &stretch.bent_time[fours]);
        let parts = a_re.iter().zip(a_im).zip(b_re.iter().zip(b_im)).zip(time.iter().zip(bent_time));
        for (((a_re, a_im), (b_re, b_im)), (time, bent)) in parts {
            for lane in 0..4 {
                let (t, bent) = (time[lane], bent[lane]);
                let product_re = a_re[lane] * b_re[lane] + a_im[lane] * b_im[lane];
                let product_im = a_re[lane] * b_im[lane] - a_im[lane] * b_re[lane];
                let weights = [1.0, t, bent, t * t, t * bent, bent * bent];
                for kind in 0..KINDS {
                    re[kind][lane] += product_re * weights[kind];
                    im[kind][lane] += product_im * weights[kind];
                }
            }
        }
        std::array::from_fn(|kind| Complex64::new(re[kind].iter().sum(), im[kind].iter().sum()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn sine_and_cosine_are_those_of_the_library(turns in -40f64..40.0, small in -1e-3f64..1e-3) {
            for turns in [turns, small] {
                let ((sin, cos), (wanted_sin, wanted_cos)) = (turned(turns), (2.0 * PI * turns).sin_cos());
                prop_assert!((sin - wanted_sin).abs() < 1e-13 && (cos - wanted_cos).abs() < 1e-13, "{turns}: {sin} {cos}");
            }
        }
    }
}
