//! A round of taps, one beside each lug, heard together: the pitch of each lug.
//!
//! A tap near the edge drives both members of the pair with one nodal diameter, each as much as it moves there. On an even head
//! they have one pitch; an uneven one splits them, and the lug's pitch is that of the two weighed by how they move at the lug.
//! All taps of a round hold the same two tones in different mixtures: heard together they are told apart where one tap alone
//! could not, and what the microphone's place adds to one of them cancels out.

use super::axis::{Axis, Mixture};
use super::family::{self, Expected};
use super::pitch::Note;
use super::tap::{TapFault, TapSound};
use crate::decay::DampedSinusoid;
use crate::decay::esprit;
use crate::decay::refine::{Stretch, Until, refine, with_amplitudes};
use crate::signal::{Decimator, LowPass};
use crate::units::{cents, median};
use num_complex::Complex64;
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// How far from the pair's middle its members may lie, parts of the pitch: 280 cents apart in all.
const REACH: f64 = 0.085;
/// Longest stretch of a tap that is listened to, s.
const LONGEST_S: f64 = 0.7;
/// Time after the tap before which the heads' slow swing is still loud, s.
const FROM_S: f64 = 0.05;
/// Amplitude decay rates of a tone that rings, 1/s.
const RINGING: std::ops::Range<f64> = 0.5..45.0;
/// A member that all taps together hold this much weaker than the other is none, as an amplitude ratio.
const WEAKEST: f64 = 0.012;
/// Members further apart than this are plainly two, cents.
const PLAINLY_TWO_CENTS: f64 = 25.0;
/// Sine squared of directions that fit no lug: the head has no two such members.
const NO_AXIS_MISFIT: f64 = 0.22;
/// Of so many taps two thirds at least must have a pitch.
const ENOUGH_TAPS: usize = 4;
/// A tap further than this off its lug's direction belongs to another one, radians.
const ELSEWHERE: f64 = 0.5;
/// Doubt that every lug pitch has: nobody taps the same spot twice. Cents.
const SPOT_CENTS: f64 = 1.0;
/// A tone this far outside all that the taps before hold is another tuning, cents; and the taps that must have come before.
const RETUNED_CENTS: f64 = 18.0;
const BEFORE_RETUNED: usize = 3;
/// Doubt of a direction, radians.
const DIRECTION_SD: f64 = 0.05;

/// Pitch of one lug.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LugPitch {
    /// Number of the lug from 0, clockwise from the first.
    pub lug: usize,
    /// Pitch, Hz.
    pub hz: f64,
    /// The note nearest to it.
    pub note: Note,
    /// Standard error, cents.
    pub sd_cents: f64,
}

/// The two tones into which an uneven head splits what should be one.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Split {
    /// The lower pitch, Hz.
    pub low_hz: f64,
    /// The higher pitch, Hz.
    pub high_hz: f64,
    /// Where the head is tightest, in lugs clockwise from the first (0 up to half the lugs; the same again across).
    pub tightest_at_lug: f64,
}

/// What a round of taps says.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoundPitches {
    /// Pitches of the lugs that were tapped, in hoop order.
    pub lugs: Vec<LugPitch>,
    /// Mean of their pitches, Hz. Null where nothing has a pitch.
    pub mean_hz: Option<f64>,
    /// Highest above lowest lug, cents. Null with fewer than two.
    pub spread_cents: Option<f64>,
    /// The two tones of an uneven head; none where it is even.
    pub split: Option<Split>,
    /// Whether the head is so uneven that no lug has a pitch of its own.
    pub too_uneven: bool,
    /// What is wrong with the newest tap.
    pub fault: Option<TapFault>,
    /// The lug that the newest tap sounds like, where that is not the one that was asked for.
    pub sounds_like_lug: Option<usize>,
}

/// One tap of a round.
#[derive(Debug, Clone, Copy)]
pub struct RoundTap<'a> {
    /// Number of the lug, from 0.
    pub lug: usize,
    /// Its sound.
    pub sound: &'a TapSound,
}

/// Hears `taps` (the newest last, at most one a lug) on a head of `lugs` lugs.
pub fn hear_round(taps: &[RoundTap], lugs: usize, expected: Expected) -> RoundPitches {
    let mut heard = RoundPitches { fault: taps.last().and_then(|tap| tap.sound.fault), ..RoundPitches::default() };
    let usable: Vec<RoundTap> = taps.iter().copied().filter(|tap| tap.sound.fault.is_none()).collect();
    let sounds: Vec<&TapSound> = usable.iter().map(|tap| tap.sound).collect();
    let Some(centre_hz) = family::centre(&sounds, expected) else {
        heard.fault = heard.fault.or((!taps.is_empty()).then_some(TapFault::NoPitch));
        return heard;
    };
    let listened: Vec<Vec<Complex64>> = usable.iter().map(|tap| band(tap.sound, centre_hz)).collect();
    let rate = usable.first().map_or(1.0, |tap| band_rate(tap.sound, centre_hz));
    let poles = ringing_poles(&listened, rate, centre_hz);
    let found = match poles.as_slice() {
        [] => Vec::new(),
        [one] => single(&usable, &listened, rate, centre_hz, *one),
        [first, second, ..] => {
            let pair = Pair { lugs, rate, centre_hz, first: *first, second: *second };
            pair.hear(&usable, &listened, &mut heard)
        }
    };
    // Members further apart than any lug's mixture of them: each tap holds another one of the two, or none.
    if usable.len() >= ENOUGH_TAPS && 3 * found.len() < 2 * usable.len() {
        heard.too_uneven = true;
    }
    heard.lugs = if heard.too_uneven { Vec::new() } else { found };
    heard.lugs.sort_by_key(|pitch| pitch.lug);
    let hz: Vec<f64> = heard.lugs.iter().map(|pitch| pitch.hz).collect();
    let (low, high) = hz.iter().fold((f64::INFINITY, 0.0), |(low, high): (f64, f64), hz| (low.min(*hz), high.max(*hz)));
    heard.mean_hz = (!hz.is_empty()).then(|| (hz.iter().map(|hz| hz.ln()).sum::<f64>() / hz.len() as f64).exp());
    heard.spread_cents = (hz.len() > 1).then(|| cents(low, high));
    if let (Some(newest), None) = (usable.last(), heard.fault) {
        let silent = !heard.too_uneven && heard.lugs.iter().all(|pitch| pitch.lug != newest.lug);
        heard.fault = if retuned(&listened, rate, centre_hz) {
            Some(TapFault::Retuned)
        } else if heard.sounds_like_lug.is_some() {
            Some(TapFault::AnotherLug)
        } else if silent {
            Some(TapFault::NoPitch)
        } else {
            family::stranger(newest.sound, centre_hz).map(|_| TapFault::SomethingElseRings)
        };
    }
    heard
}

/// Whether the newest tap's tone lies clear of all that the taps before it hold: every tap of a head mixes the same two tones, so a
/// tone below both or above both is another tuning.
fn retuned(listened: &[Vec<Complex64>], rate: f64, centre_hz: f64) -> bool {
    let Some((newest, before)) = listened.split_last().filter(|(_, before)| before.len() >= BEFORE_RETUNED) else { return false };
    let known = ringing_poles(before, rate, centre_hz);
    let Some(loudest) = ringing_poles(std::slice::from_ref(newest), rate, centre_hz).first().copied() else { return false };
    let (low, high) = known.iter().take(2).fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), (hz, _)| (low.min(*hz), high.max(*hz)));
    let clear = centre_hz * (2f64.powf(RETUNED_CENTS / 1200.0) - 1.0);
    !known.is_empty() && (loudest.0 < low - clear || loudest.0 > high + clear)
}

fn filter(sound: &TapSound, centre_hz: f64) -> Decimator {
    let (pass, stop) = (1.15 * REACH * centre_hz, 0.26 * centre_hz);
    let factor = ((sound.slow_rate / (4.0 * stop)) as usize).max(1);
    Decimator { filter: LowPass::new(pass, stop, 60.0, sound.slow_rate), factor }
}

fn band_rate(sound: &TapSound, centre_hz: f64) -> f64 {
    sound.slow_rate / filter(sound, centre_hz).factor as f64
}

/// What a tap holds about `centre_hz`, brought down to 0 Hz, from when it has settled.
fn band(sound: &TapSound, centre_hz: f64) -> Vec<Complex64> {
    let decimator = filter(sound, centre_hz);
    let rate = sound.slow_rate / decimator.factor as f64;
    let reach = decimator.filter.reach_s();
    let signal = decimator.baseband(&sound.slow, centre_hz);
    let from = ((FROM_S.max(reach) * rate).ceil() as usize).min(signal.len());
    let last = ((sound.slow.len() as f64 / sound.slow_rate - reach).max(0.0) * rate) as usize;
    let to = last.min(from + (LONGEST_S * rate) as usize).max(from);
    signal[from..to.min(signal.len())].to_vec()
}

/// (Hz from the centre, decay rate) of what rings there, strongest first.
fn ringing_poles(listened: &[Vec<Complex64>], rate: f64, centre_hz: f64) -> Vec<(f64, f64)> {
    // Each tap counts alike, however hard it was.
    let even: Vec<Vec<Complex64>> = listened
        .iter()
        .map(|signal| {
            let level = signal.iter().map(|x| x.norm_sqr()).sum::<f64>().sqrt().max(1e-300);
            signal.iter().map(|x| x / level).collect()
        })
        .collect();
    let signals: Vec<&[Complex64]> = even.iter().map(Vec::as_slice).collect();
    let poles: Vec<(f64, f64)> = esprit::poles(&signals, 4)
        .into_iter()
        .filter(|z| z.norm() > 1e-3)
        .map(|z| (z.arg() * rate / (2.0 * PI), -z.norm().ln() * rate))
        .filter(|(hz, decay)| RINGING.contains(decay) && hz.abs() < 1.1 * REACH * centre_hz)
        .collect();
    let mut loud: Vec<(f64, (f64, f64))> = poles
        .iter()
        .enumerate()
        .map(|(k, pole)| {
            let energy = even.iter().filter_map(|signal| amplitudes(signal, rate, &poles)).map(|a| a[k].norm_sqr()).sum::<f64>();
            (energy.sqrt(), *pole)
        })
        .collect();
    loud.sort_by(|a, b| b.0.total_cmp(&a.0));
    let most = loud.first().map_or(0.0, |(energy, _)| *energy);
    loud.into_iter().filter(|(energy, _)| *energy > WEAKEST * most).map(|(_, pole)| pole).collect()
}

fn stretch(signal: &[Complex64], rate: f64) -> Stretch<'_> {
    Stretch::new(signal, rate, rate, 10.0)
}

fn amplitudes(signal: &[Complex64], rate: f64, poles: &[(f64, f64)]) -> Option<Vec<Complex64>> {
    with_amplitudes(&stretch(signal, rate), poles).map(|tones| tones.iter().map(|tone| tone.amplitude).collect())
}

/// Tones at `poles` in one tap, each moved to where it fits best.
fn refined(signal: &[Complex64], rate: f64, poles: &[(f64, f64)]) -> Option<Vec<DampedSinusoid>> {
    let stretch = stretch(signal, rate);
    let mut tones = with_amplitudes(&stretch, poles)?;
    refine(&stretch, &mut tones, false, Until::Exact).is_finite().then_some(tones)
}

fn lug_pitch(lug: usize, hz: f64, sd_cents: f64) -> LugPitch {
    LugPitch { lug, hz, note: Note::nearest(hz), sd_cents: sd_cents.hypot(SPOT_CENTS) }
}

/// The members are one: each tap says its pitch by itself.
fn single(usable: &[RoundTap], listened: &[Vec<Complex64>], rate: f64, centre_hz: f64, pole: (f64, f64)) -> Vec<LugPitch> {
    usable
        .iter()
        .zip(listened)
        .filter_map(|(tap, signal)| {
            let tone = *refined(signal, rate, &[pole])?.first()?;
            let hz = centre_hz + tone.hz;
            let sd = 1200.0 / std::f64::consts::LN_2 * tone.hz_sd / hz;
            // A tone that ran away from what all taps share was not there.
            ((tone.hz - pole.0).abs() < 0.03 * centre_hz && sd < 60.0).then(|| lug_pitch(tap.lug, hz, sd))
        })
        .collect()
}

/// The members are two.
struct Pair {
    lugs: usize,
    rate: f64,
    centre_hz: f64,
    first: (f64, f64),
    second: (f64, f64),
}

impl Pair {
    fn hear(&self, usable: &[RoundTap], listened: &[Vec<Complex64>], heard: &mut RoundPitches) -> Vec<LugPitch> {
        let poles = [self.first, self.second];
        let (hz_first, hz_second) = (self.centre_hz + self.first.0, self.centre_hz + self.second.0);
        let amplitudes: Vec<(usize, Complex64, Complex64)> = usable
            .iter()
            .zip(listened)
            .filter_map(|(tap, signal)| amplitudes(signal, self.rate, &poles).map(|a| (tap.lug, a[0], a[1])))
            .collect();
        let mixtures = mixtures(&amplitudes, self.lugs);
        if mixtures.is_empty() {
            return Vec::new();
        }
        let apart = cents(hz_first.min(hz_second), hz_first.max(hz_second));
        let mut fitting: Vec<usize> = (0..mixtures.len()).collect();
        let mut axis = Axis::fit(&mixtures);
        let known = directions(&mixtures) >= 3;
        if apart > 8.0 {
            // One tap off its place spoils the fit of all: without it the others must agree far better.
            let worst = (0..mixtures.len()).max_by(|a, b| axis.off(&mixtures[*a]).total_cmp(&axis.off(&mixtures[*b])));
            let newest = mixtures.len() - 1;
            for out in worst.into_iter().chain([newest]) {
                let others: Vec<Mixture> = (0..mixtures.len()).filter(|i| *i != out).map(|i| mixtures[i]).collect();
                // Two unknowns fit any two directions, and almost any three.
                if others.len() < 5 || directions(&others) < 3 {
                    continue;
                }
                let without = Axis::fit(&others);
                if without.misfit < 0.02 && without.off(&mixtures[out]) > ELSEWHERE {
                    if out == newest {
                        heard.sounds_like_lug = Some(likeliest_lug(&without, &mixtures[out], self.lugs));
                    }
                    axis = without;
                    fitting.retain(|i| *i != out);
                    break;
                }
            }
        }
        if known && axis.misfit > NO_AXIS_MISFIT && apart > PLAINLY_TWO_CENTS {
            heard.too_uneven = true;
            return Vec::new();
        }
        let tight = if hz_first > hz_second { axis.angle } else { axis.angle + PI / 2.0 };
        heard.split = Some(Split {
            low_hz: hz_first.min(hz_second),
            high_hz: hz_first.max(hz_second),
            tightest_at_lug: tight.rem_euclid(PI) / (2.0 * PI) * self.lugs as f64,
        });
        let direction_sd = if known { DIRECTION_SD.hypot(axis.misfit.sqrt() / (mixtures.len() as f64).sqrt()) } else { 0.5 };
        // The surest tap of each tone tells how sure its pitch is.
        let sd = self.pole_sd_cents(listened);
        fitting
            .iter()
            .map(|i| {
                // With fewer directions than unknowns the mixture stands as the microphone heard it.
                let share = if known { axis.share(&mixtures[*i]) } else { Axis { factor: 1.0, ..axis }.share(&mixtures[*i]) };
                let hz = share * hz_first + (1.0 - share) * hz_second;
                let turned = 2.0 * (share * (1.0 - share)).sqrt() * direction_sd + direction_sd * direction_sd;
                lug_pitch(amplitudes[*i].0, hz, sd.hypot(apart * turned.min(0.5)))
            })
            .collect()
    }

    fn pole_sd_cents(&self, listened: &[Vec<Complex64>]) -> f64 {
        let sds: Vec<f64> = listened
            .iter()
            .filter_map(|signal| refined(signal, self.rate, &[self.first, self.second]))
            .map(|tones| tones.iter().map(|tone| tone.hz_sd).fold(f64::INFINITY, f64::min))
            .filter(|sd| sd.is_finite())
            .collect();
        1200.0 / std::f64::consts::LN_2 * median(&sds).unwrap_or(0.5) / self.centre_hz
    }
}

/// Amplitudes of both members with the second one's sign against the first one's.
fn mixtures(amplitudes: &[(usize, Complex64, Complex64)], lugs: usize) -> Vec<Mixture> {
    // The phase between the members is the same at all taps but for its sign: twice it is the same outright.
    let doubled: Complex64 = amplitudes.iter().map(|(_, a, b)| (b * a.conj()).powi(2) / (a.norm() * b.norm()).max(1e-300)).sum();
    let phase = Complex64::from_polar(1.0, -0.5 * doubled.arg());
    amplitudes
        .iter()
        .map(|(lug, a, b)| Mixture {
            angle: 2.0 * PI * *lug as f64 / lugs as f64,
            first: a.norm(),
            second: (b * a.conj() * phase).re / a.norm().max(1e-300),
        })
        .collect()
}

/// How many directions, opposite lugs being one, the taps lie in.
fn directions(taps: &[Mixture]) -> usize {
    let mut seen: Vec<i64> = taps.iter().map(|tap| (1e6 * tap.angle.rem_euclid(PI) + 0.5) as i64 % (1e6 * PI) as i64).collect();
    seen.sort_unstable();
    seen.dedup();
    seen.len()
}

fn likeliest_lug(axis: &Axis, mixture: &Mixture, lugs: usize) -> usize {
    let off = |lug: usize| axis.off(&Mixture { angle: 2.0 * PI * lug as f64 / lugs as f64, ..*mixture });
    (0..lugs).min_by(|a, b| off(*a).total_cmp(&off(*b))).unwrap_or(0)
}
