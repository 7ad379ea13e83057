//! Several strikes on one drum, combined robustly into what is known about it.

use super::dynamic::Dynamic;
use super::octaves::is_octave;
use super::strike::{GHOST_DB, Remark, StrikeKind, StrikeMeasurement, Warning};
use crate::drum::label_modes;
use crate::tone::DecayProfile;
use crate::tone::HeardBy;
use crate::tone::Partial;
use crate::units::median;
use serde::{Deserialize, Serialize};

/// What a take says about the drum.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TakeSummary {
    /// Strikes that count.
    pub strikes_used: usize,
    /// Strikes that do not.
    pub strikes_rejected: usize,
    /// Level of the loudest partial at the hit, dBFS (RMS): median over the strikes used. Null in data from before it was kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub partial_dbfs: Option<f64>,
    /// Medians over the strikes used.
    pub profile: DecayProfile,
    /// Scatter between the strikes used: 1.4826 times the median deviation from the median, in the figure's own unit.
    pub spread: DecayProfile,
    /// Energy in each octave against all of it, dB: medians over the strikes used. Empty in data from before it was kept.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub spectrum_db: Vec<f64>,
    /// What at least half of the strikes used show.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub remarks: Vec<Remark>,
    /// The same strikes by how hard they were asked for, soft to hard; empty where no dynamics were.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub dynamics: Vec<DynamicSummary>,
}

/// What the strikes of one dynamic say: how decay depends on how hard the drum is hit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DynamicSummary {
    /// How hard it was struck.
    pub dynamic: Dynamic,
    /// Strikes that count.
    pub strikes_used: usize,
    /// Loudest sample, dBFS: median.
    pub peak_dbfs: f64,
    /// Early decay time of the whole sound, s: median.
    pub edt_s: Option<f64>,
    /// Medians.
    pub profile: DecayProfile,
}

/// Marks strikes far softer than the median of `strikes` as ghost remarks, and takes the mark from those that are not. Where dynamics
/// were asked for, each is held against its own.
pub fn mark_ghosts(strikes: &mut [StrikeMeasurement]) {
    for dynamic in [None, Some(Dynamic::Soft), Some(Dynamic::Medium), Some(Dynamic::Hard)] {
        let alike = |s: &StrikeMeasurement| s.dynamic == dynamic;
        let sound = |s: &&StrikeMeasurement| alike(s) && !s.warnings.contains(&Warning::NotAStrike);
        let peaks: Vec<f64> = strikes.iter().filter(sound).map(|s| s.peak_dbfs).collect();
        let Some(usual) = median(&peaks) else { continue };
        for strike in strikes.iter_mut().filter(|s| alike(s)) {
            strike.warnings.retain(|warning| *warning != Warning::Ghost);
            if strike.kind == StrikeKind::Ghost {
                strike.kind = StrikeKind::Single;
            }
            if strike.peak_dbfs < usual - GHOST_DB {
                strike.kind = StrikeKind::Ghost;
                strike.warnings.push(Warning::Ghost);
            }
        }
    }
}

/// A strike asked for louder must stand this far above the median of the next softer dynamic, dB.
const LOUDER_DB: f64 = 3.0;

/// Whether a strike of `peak_dbfs` asked for as `dynamic` is no louder than what was asked for softer, in `strikes` so far.
pub fn is_no_louder(peak_dbfs: f64, dynamic: Dynamic, strikes: &[StrikeMeasurement]) -> bool {
    let softer = Dynamic::ALL.into_iter().rev().filter(|other| *other < dynamic).find_map(|other| {
        let peaks = strikes.iter().filter(|s| s.dynamic == Some(other) && s.warnings.is_empty()).map(|s| s.peak_dbfs);
        median(&peaks.collect::<Vec<_>>())
    });
    softer.is_some_and(|softer| peak_dbfs < softer + LOUDER_DB)
}

/// Partials that decay fast are the same tone within at most this part of their pitch.
const SHORT_WITHIN: f64 = 0.04;
/// A tone of a strike is one of the take's within this part of its pitch.
const SAME_TONE: f64 = 0.03;

/// Makes body and ring of each of `strikes` the tones that are body and ring of the take as a whole: a strike by itself may speak of another one. A
/// tone that was not found in a strike is null there; where the take has no body, each keeps its own. Everything follows from the strikes'
/// partials, so that strikes may be dropped and taken back.
pub fn settle_bodies(strikes: &mut [StrikeMeasurement]) {
    let heard_by = strikes.iter().find(|s| s.warnings.is_empty()).map_or(HeardBy::Partials, |s| s.heard_by);
    let partials = combine_partials(strikes);
    let take = DecayProfile::about(&partials, heard_by.body(&partials));
    for strike in strikes.iter_mut().filter(|s| s.heard_by.by_tones()) {
        let partials = &strike.partials;
        let found = |hz: f64| {
            let near = (0..partials.len()).filter(|i| (partials[*i].hz / hz - 1.0).abs() < SAME_TONE && partials[*i].t60_s.is_some());
            near.max_by(|a, b| partials[*a].late_energy().total_cmp(&partials[*b].late_energy()))
        };
        let body = take.body_hz.map_or_else(|| strike.heard_by.body(partials), found);
        let own = DecayProfile::about(partials, body);
        let ring = take.ring_hz.map(|hz| found(hz).map(|ring| &partials[ring]));
        let (ring_hz, ring_t60_s) = ring.map_or((own.ring_hz, own.ring_t60_s), |ring| (ring.map(|p| p.hz), ring.and_then(|p| p.t60_s)));
        let profile = strike.profile.clone();
        strike.profile =
            DecayProfile { body_hz: own.body_hz, body_t60_s: own.body_t60_s, ring_hz, ring_t60_s, ring_share: own.ring_share, ..profile };
    }
}

/// How much strikes differ is told from so many on.
const FEWEST_TO_SCATTER: usize = 3;

/// Partials heard in at least half of the strikes without a warning, with the standard error of the combined decay time.
pub fn combine_partials(strikes: &[StrikeMeasurement]) -> Vec<Partial> {
    let used: Vec<&StrikeMeasurement> = strikes.iter().filter(|s| s.warnings.is_empty()).collect();
    let mut all: Vec<(usize, &Partial)> = used.iter().enumerate().flat_map(|(i, s)| s.partials.iter().map(move |p| (i, p))).collect();
    all.sort_by(|a, b| a.1.hz.total_cmp(&b.1.hz));
    let mut families: Vec<Vec<(usize, &Partial)>> = Vec::new();
    for (strike, partial) in all {
        let joins = families.last().is_some_and(|family| {
            // The pitch of a tone that decays fast is only known to about the bandwidth that its decay gives it.
            let short = partial.t60_s.map_or(0.0, |t60_s| (1.0 / t60_s).min(SHORT_WITHIN * partial.hz));
            let near = (0.008 * partial.hz).max(2.5).max(short);
            family.last().is_some_and(|(_, last)| partial.hz - last.hz < near) && family.iter().all(|(other, _)| *other != strike)
        });
        match families.last_mut() {
            Some(family) if joins => family.push((strike, partial)),
            _ => families.push(vec![(strike, partial)]),
        }
    }
    let mut partials: Vec<Partial> = families
        .iter()
        .filter(|family| 2 * family.len() >= used.len())
        .map(|family| {
            let of = |pick: fn(&Partial) -> Option<f64>| family.iter().filter_map(|(_, p)| pick(p)).collect::<Vec<f64>>();
            let times = of(|p| p.t60_s);
            let known = 2 * times.len() >= family.len();
            Partial {
                hz: median(&of(|p| Some(p.hz))).unwrap_or_default(),
                t60_s: median(&times).filter(|_| known),
                t60_sd_s: median_error(&times, &of(|p| p.t60_sd_s)).filter(|_| known),
                t60_scatter_s: (times.len() >= FEWEST_TO_SCATTER).then(|| scatter(&times)).flatten().filter(|_| known),
                level_db: median(&of(|p| Some(p.level_db))).unwrap_or_default(),
                // Octaves are what they are; what a tone is, is seen when all are known.
                tone: family.iter().find(|(_, p)| is_octave(p)).and_then(|(_, p)| p.tone),
            }
        })
        .collect();
    let loudest = partials.iter().map(|p| p.level_db).fold(f64::NEG_INFINITY, f64::max);
    partials.iter_mut().for_each(|p| p.level_db -= loudest);
    if !partials.iter().any(is_octave) {
        label_modes(&mut partials);
    }
    partials
}

/// Combines the strikes without a warning.
pub fn summarize(strikes: &[StrikeMeasurement]) -> TakeSummary {
    let used: Vec<&StrikeMeasurement> = strikes.iter().filter(|s| s.warnings.is_empty()).collect();
    let values = |pick: fn(&DecayProfile) -> Option<f64>| used.iter().filter_map(|s| pick(&s.profile)).collect::<Vec<f64>>();
    let mut profile = DecayProfile::from_figures(|pick| median(&values(pick)).filter(|_| 2 * values(pick).len() >= used.len()));
    let mut spread = DecayProfile::from_figures(|pick| scatter(&values(pick)));
    // Strikes may disagree about which overtone rings most; the combined partials settle it.
    let partials = combine_partials(strikes);
    let heard_by = used.first().map_or(HeardBy::Partials, |strike| strike.heard_by);
    let agreed = DecayProfile::about(&partials, heard_by.body(&partials));
    profile.body_hz = agreed.body_hz;
    profile.body_t60_s = agreed.body_t60_s;
    profile.ring_hz = agreed.ring_hz;
    profile.ring_t60_s = agreed.ring_t60_s;
    if let Some(ring) = agreed.ring_hz {
        let nearest: Vec<&Partial> = used
            .iter()
            .filter_map(|s| s.partials.iter().min_by(|a, b| (a.hz - ring).abs().total_cmp(&(b.hz - ring).abs())))
            .filter(|p| (p.hz / ring - 1.0).abs() < 0.02)
            .collect();
        spread.ring_hz = scatter(&nearest.iter().map(|p| p.hz).collect::<Vec<_>>());
        spread.ring_t60_s = scatter(&nearest.iter().filter_map(|p| p.t60_s).collect::<Vec<_>>());
    }
    let partial_dbfs = median(&used.iter().filter_map(|s| s.partial_dbfs).collect::<Vec<_>>());
    let noted = |note: &Remark| 2 * used.iter().filter(|s| s.remarks.contains(note)).count() >= used.len().max(1);
    let remarks = [Remark::RoomTail, Remark::MadeForSpeech, Remark::SecondDrum, Remark::Stopped, Remark::SeveralSlopes, Remark::Compressed]
        .into_iter()
        .filter(noted)
        .collect();
    let dynamics = Dynamic::ALL.into_iter().filter_map(|dynamic| of_dynamic(dynamic, &used)).collect();
    let octaves = used.iter().map(|s| s.spectrum_db.len()).min().unwrap_or(0);
    let spectrum_db = (0..octaves).filter_map(|at| median(&used.iter().map(|s| s.spectrum_db[at]).collect::<Vec<_>>())).collect();
    let strikes_rejected = strikes.len() - used.len();
    TakeSummary { strikes_used: used.len(), strikes_rejected, partial_dbfs, profile, spread, spectrum_db, remarks, dynamics }
}

fn of_dynamic(dynamic: Dynamic, used: &[&StrikeMeasurement]) -> Option<DynamicSummary> {
    let alike: Vec<StrikeMeasurement> = used.iter().filter(|s| s.dynamic == Some(dynamic)).map(|s| (*s).clone()).collect();
    let middle = |pick: fn(&StrikeMeasurement) -> Option<f64>| median(&alike.iter().filter_map(pick).collect::<Vec<_>>());
    let peak_dbfs = middle(|s| Some(s.peak_dbfs))?;
    // Each dynamic settles its own body and ring, as a take does; without dynamics of its own it ends there.
    let undivided: Vec<StrikeMeasurement> = alike.iter().map(|s| StrikeMeasurement { dynamic: None, ..s.clone() }).collect();
    let profile = summarize(&undivided).profile;
    Some(DynamicSummary { dynamic, strikes_used: alike.len(), peak_dbfs, edt_s: middle(|s| s.broadband.edt_s), profile })
}

/// Robust standard deviation, from two values on.
fn scatter(values: &[f64]) -> Option<f64> {
    let middle = median(values)?;
    let deviations: Vec<f64> = values.iter().map(|v| (v - middle).abs()).collect();
    (values.len() >= 2).then(|| median(&deviations).map(|d| 1.4826 * d)).flatten()
}

/// Standard error of the median of `values`: from their scatter, but never less than their own standard errors allow.
pub(crate) fn median_error(values: &[f64], errors: &[f64]) -> Option<f64> {
    let root = (values.len() as f64).sqrt();
    let own = median(errors)? / root;
    // 1.2533 = sqrt(pi / 2): what the median costs against the mean for normal scatter.
    let between = if values.len() >= 3 { 1.2533 * scatter(values)? / root } else { 0.0 };
    Some(own.max(between))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn strike(tones: &[(f64, f64, f64)]) -> StrikeMeasurement {
        let partial = |(hz, t60_s, level_db): &(f64, f64, f64)| Partial {
            hz: *hz,
            t60_s: Some(*t60_s),
            t60_sd_s: Some(0.02 * t60_s),
            t60_scatter_s: None,
            level_db: *level_db,
            tone: None,
        };
        let partials: Vec<Partial> = tones.iter().map(partial).collect();
        let profile = DecayProfile { glide_cents: Some(20.0), ..DecayProfile::of_partials(&partials) };
        StrikeMeasurement { partials, profile, ..StrikeMeasurement::default() }
    }

    proptest! {
        /// A take lies within its strikes, its bodies are one tone, and settling again, or after a strike was dropped and taken back, changes nothing.
        #[test]
        fn a_take_has_one_body_within_its_strikes(
            bodies in prop::collection::vec((0.99f64..1.01, 0.3f64..0.5, -20f64..0.0, any::<bool>()), 3..8),
        ) {
            // Some strikes also have a tone below the body that the others do not.
            let tones = |(pitch, t60_s, level_db, below): &(f64, f64, f64, bool)| {
                let low = below.then_some((41.0 * pitch * pitch, 0.6, level_db - 3.0));
                low.into_iter().chain([(100.0 * pitch, *t60_s, *level_db), (160.0 * pitch, 0.4, 0.0)]).collect::<Vec<_>>()
            };
            prop_assume!(2 * bodies.iter().filter(|body| body.3).count() < bodies.len());
            let mut strikes: Vec<StrikeMeasurement> = bodies.iter().map(|body| strike(&tones(body))).collect();
            settle_bodies(&mut strikes);
            let take = summarize(&strikes).profile;
            let (hz, t60_s) = (take.body_hz.unwrap(), take.body_t60_s.unwrap());
            let times: Vec<f64> = strikes.iter().filter_map(|s| s.profile.body_t60_s).collect();
            prop_assert!(strikes.iter().all(|s| s.profile.body_hz.is_some_and(|own| (own / hz - 1.0).abs() < SAME_TONE)), "{hz}");
            prop_assert!(times.iter().any(|t| *t <= t60_s) && times.iter().any(|t| *t >= t60_s), "{t60_s} of {times:?}");
            let settled = strikes.clone();
            let dropped = strikes.pop();
            settle_bodies(&mut strikes);
            strikes.extend(dropped);
            settle_bodies(&mut strikes);
            prop_assert_eq!(&strikes, &settled);
        }
    }
}
