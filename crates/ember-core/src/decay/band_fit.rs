//! The tones of one stretch of a band: poles by ESPRIT, refined by non-linear least squares, as many as explain it.

use super::damped_sinusoid::DampedSinusoid;
use super::esprit;
use super::jackknife::decay_doubts;
use super::refine::{Stretch, Until, refine, squared_error, with_amplitudes};
use num_complex::Complex64;

/// Partials nearer than this part of their widths' sum are taken for one.
const TOLD_APART: f64 = 0.25;
/// By so much two tones next to each other must explain a stretch better than one (Bayesian information criterion).
const CLEARLY_TWO: f64 = 20.0;
/// Part of a stretch that noise and missed partials leave at most where its strongest partial is one.
const BEATING: f64 = 0.05;
/// Amplitudes of fewer standard errors than this may be noise.
pub(super) const SURE_AMPLITUDE: f64 = 6.0;
/// A pole may decay slower by this factor than the tone that is fitted from it.
const POLES_OFF: f64 = 2.0;
/// What is fitted along: hum and other steady tones too, which would pass for noise otherwise.
const FITTED_DECAY: std::ops::Range<f64> = -0.6..230.0;

/// Tones of one stretch: straight ones as ESPRIT finds them, or fewer bent ones, whichever explains it with less. `apart`: two tones
/// next to each other may stay two; none where nothing decays at a rate (1/s) that is `wanted`. With them comes whether they bend;
/// standard errors are Fisher's (see [`ask_parts`]).
pub(super) fn fit(stretch: &Stretch, apart: bool, wanted: &dyn Fn(f64) -> bool) -> (Vec<DampedSinusoid>, bool) {
    let none = (Vec::new(), false);
    // Tones beyond the band's own reach are fitted too: a loud one leaks in, and left out it would pass for noise.
    let to_pole = |z: Complex64| (z.arg() * stretch.rate / (2.0 * std::f64::consts::PI), -z.norm().ln() * stretch.rate);
    let poles: Vec<(f64, f64)> = esprit::poles(&[stretch.signal], 6)
        .into_iter()
        .filter(|z| z.norm() > 1e-3)
        .map(to_pole)
        .filter(|(hz, decay)| FITTED_DECAY.contains(decay) && hz.abs() < 0.48 * stretch.rate)
        .collect();
    if !poles.iter().any(|(_, decay)| wanted(POLES_OFF * decay)) {
        return none;
    }
    let Some((mut straight, mut criterion)) = fit_poles(stretch, &poles, false) else { return none };
    let single = without_doubles(&straight);
    // A pair that an uneven head splits decays alike; a fast one next to a slow one is what is left of a glide.
    let alike = without_satellites(&straight, stretch.signal.len() as f64 / stretch.rate).len() == straight.len();
    let doubles = (apart && alike && single.len() < straight.len()).then(|| (straight.clone(), criterion));
    if single.len() < straight.len() {
        let Some(refitted) = fit_poles(stretch, &single, false) else { return none };
        (straight, criterion) = refitted;
    }
    let leaders = without_satellites(&straight, stretch.signal.len() as f64 / stretch.rate);
    let gliding = single.len() < poles.len() || leaders.len() < straight.len() || straight.len() == 1;
    let bent = gliding.then(|| fit_poles(stretch, &leaders, true)).flatten();
    let (fewer, criterion, bends) = match bent {
        Some((bent, bent_criterion)) if bent_criterion < criterion => (bent, bent_criterion, true),
        _ => (straight, criterion, false),
    };
    let (mut tones, bends) = match doubles {
        Some((doubles, doubles_criterion)) if doubles_criterion + CLEARLY_TWO < criterion => (doubles, false),
        _ => (fewer, bends),
    };
    // A rough fit tells which of them it is; only that one is fitted to the last.
    let criterion = refine(stretch, &mut tones, bends, Until::Exact);
    let Some((mut tones, _)) = settled(stretch, tones, criterion, bends, Until::Exact) else { return none };
    // What is left is more than noise: the strongest beats with one too near to be told apart, and its decay is not what it seems.
    let power: f64 = stretch.signal.iter().map(|x| x.norm_sqr()).sum();
    let left = squared_error(stretch, &tones);
    if left > BEATING * power
        && let Some(strongest) = tones.iter_mut().max_by(|a, b| a.amplitude.norm().total_cmp(&b.amplitude.norm()))
    {
        strongest.decay_sd = strongest.decay_sd.max((left / power).sqrt() * strongest.decay);
    }
    (tones, bends)
}

/// Asks the parts of `stretch` for their doubt. `tones` are its best fit, with bends if `bends`.
pub(super) fn ask_parts(stretch: &Stretch, tones: &mut [DampedSinusoid], bends: bool) {
    let doubts = decay_doubts(stretch, tones, bends);
    tones.iter_mut().zip(doubts).for_each(|(tone, doubt)| tone.decay_doubt = doubt);
}

/// Poles with each pair too close to be told apart replaced by one between them: as a rule they draw one gliding partial.
fn without_doubles(tones: &[DampedSinusoid]) -> Vec<(f64, f64)> {
    let mut sorted = tones.to_vec();
    sorted.sort_by(|a, b| a.hz.total_cmp(&b.hz));
    let mut poles: Vec<(f64, f64)> = Vec::with_capacity(sorted.len());
    for tone in sorted {
        match poles.last_mut() {
            Some((hz, decay)) if tone.hz - *hz < TOLD_APART * (tone.decay + *decay) / std::f64::consts::PI => {
                // Of the two, the slower one is what is left in the end.
                if tone.decay < *decay {
                    (*hz, *decay) = (tone.hz, tone.decay);
                }
            }
            _ => poles.push((tone.hz, tone.decay)),
        }
    }
    poles
}

/// Tones refined together. Where they cannot be told from one another, no error bar comes out for any: then the weakest one, as
/// a rule a pole of the noise, is left out.
fn refined(stretch: &Stretch, mut poles: Vec<(f64, f64)>, bends: bool, until: Until) -> Option<(Vec<DampedSinusoid>, f64)> {
    while !poles.is_empty() {
        let first = with_amplitudes(stretch, &poles)?;
        let mut tones = first.clone();
        let criterion = refine(stretch, &mut tones, bends, until);
        if tones.iter().any(|tone| tone.amplitude_sd.is_finite()) {
            return Some((tones, criterion));
        }
        let weakest = (0..first.len()).min_by(|a, b| size(&first[*a]).total_cmp(&size(&first[*b])))?;
        poles.remove(weakest);
    }
    None
}

fn size(tone: &DampedSinusoid) -> f64 {
    tone.amplitude.norm()
}

fn pole(tone: &DampedSinusoid) -> (f64, f64) {
    (tone.hz, tone.decay)
}

fn is_plausible(tone: &DampedSinusoid) -> bool {
    FITTED_DECAY.contains(&tone.decay)
}

/// Poles of those tones that would be sure by themselves, by the part `of` what that takes.
fn sure_alone(tones: &[DampedSinusoid], of: f64) -> Vec<(f64, f64)> {
    tones.iter().filter(|tone| size(tone) > of * SURE_AMPLITUDE * tone.alone_sd && is_plausible(tone)).map(pole).collect()
}

/// Refined tones from `poles`, and their information criterion. What would not be sure by itself goes first: one of the noise's
/// poles next to a partial makes both unsure. What is not sure then goes one by one.
fn fit_poles(stretch: &Stretch, poles: &[(f64, f64)], bends: bool) -> Option<(Vec<DampedSinusoid>, f64)> {
    let (mut tones, _) = refined(stretch, poles.to_vec(), bends, Until::Glanced)?;
    // What is clearly none would wander on for long, and the others with it.
    let likely = sure_alone(&tones, 0.5);
    let mut criterion;
    if likely.len() < tones.len() {
        (tones, criterion) = refined(stretch, likely, bends, Until::Rough)?;
    } else {
        criterion = refine(stretch, &mut tones, bends, Until::Rough);
    }
    let clear = sure_alone(&tones, 1.0);
    if clear.len() < tones.len() {
        (tones, criterion) = refined(stretch, clear, bends, Until::Rough)?;
    }
    settled(stretch, tones, criterion, bends, Until::Rough)
}

/// `tones` and their criterion once what is not sure among the others has gone, one by one.
fn settled(
    stretch: &Stretch,
    mut tones: Vec<DampedSinusoid>,
    mut criterion: f64,
    bends: bool,
    until: Until,
) -> Option<(Vec<DampedSinusoid>, f64)> {
    let unsure = |tone: &DampedSinusoid| size(tone) <= SURE_AMPLITUDE * tone.amplitude_sd || !is_plausible(tone);
    while let Some(weakest) = (0..tones.len()).filter(|i| unsure(&tones[*i])).min_by(|a, b| size(&tones[*a]).total_cmp(&size(&tones[*b]))) {
        tones.remove(weakest);
        (tones, criterion) = refined(stretch, tones.iter().map(pole).collect(), bends, until)?;
    }
    Some((tones, criterion))
}

/// Poles without those that may only draw a stronger neighbour's glide: close by and faster gone.
fn without_satellites(tones: &[DampedSinusoid], length_s: f64) -> Vec<(f64, f64)> {
    let energy = |tone: &DampedSinusoid| tone.amplitude.norm_sqr() * (1.0 - (-2.0 * tone.decay * length_s).exp()) / tone.decay;
    let is_satellite = |tone: &DampedSinusoid| {
        tones.iter().any(|other| energy(other) > 2.0 * energy(tone) && other.decay < 0.8 * tone.decay && (other.hz - tone.hz).abs() < 12.0)
    };
    tones.iter().filter(|tone| !is_satellite(tone)).map(|tone| (tone.hz, tone.decay)).collect()
}

/// Samples from the start that carry more than noise: behind them a fit gains nothing and order selection loses.
pub(super) fn useful_len(signal: &[Complex64]) -> usize {
    let tail = &signal[signal.len() - (signal.len() / 6).max(4)..];
    let power = tail.iter().map(|x| x.norm_sqr()).sum::<f64>();
    // What goes on from sample to sample by one turn is a tone, hum perhaps, and no noise.
    let turning: Complex64 = tail.windows(2).map(|pair| pair[1] * pair[0].conj()).sum();
    let noise = (power - turning.norm()).max(0.02 * power) / tail.len() as f64;
    let last = signal.windows(4).rposition(|part| part.iter().map(|x| x.norm_sqr()).sum::<f64>() > 4.0 * 2.0 * noise);
    last.map_or(signal.len(), |last| (last + 4 + signal.len() / 6).min(signal.len())).max(12)
}
