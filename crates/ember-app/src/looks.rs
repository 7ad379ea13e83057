//! A closer look at what was heard: one strike in detail, figures as tables, and takes measured again with the method as it is now.

use crate::refusal::{CannotBe, Refusal};
use crate::sound::read_kept;
use crate::takes::{take_view, with_names};
use crate::views::TakeView;
use ember_core::decay::{METHOD, StrikeAnalyzer, StrikeLook, StrikeMeasurement, TakeSummary, mark_ghosts, settle_bodies, summarize};
use ember_core::signal::CapturedStrike;
use ember_core::tone::{DecayProfile, HeardBy, Partial, Tone};
use ember_store::{KeptStrike, KeptTake, Store, StoreError};
use rayon::prelude::*;
use serde::Serialize;
use utoipa::ToSchema;

/// A strike's partial is the take's where their pitches lie no further apart than this (logarithm).
const THE_SAME: f64 = 0.015;

/// A kept strike with its sound and the place of its hit in it, as the store gives them.
pub type StrikeWithSound = (KeptStrike, Vec<u8>, usize);

/// Looks closely at a strike: level, slopes, octaves, paces, waterfall.
pub fn look((strike, sound, onset): StrikeWithSound) -> Result<StrikeLook, Refusal> {
    let captured = captured(&strike.measurement, sound, onset)?;
    Ok(StrikeAnalyzer::hearing(captured.sample_rate, strike.measurement.heard_by).look(&captured, &strike.measurement))
}

fn captured(measurement: &StrikeMeasurement, sound: Vec<u8>, onset: usize) -> Result<CapturedStrike, Refusal> {
    let (rate, samples) = read_kept(sound).map_err(|error| {
        tracing::error!("a strike’s kept sound cannot be read: {error}");
        CannotBe::KeptSound
    })?;
    Ok(measurement.captured(samples, f64::from(rate), onset))
}

/// Figures in rows under names, as text.
#[derive(Debug, Clone, PartialEq)]
pub struct Table {
    /// Names of the columns.
    pub header: Vec<&'static str>,
    /// One row after the other, each as long as the header.
    pub rows: Vec<Vec<String>>,
}

impl Table {
    /// As CSV (RFC 4180).
    pub fn as_csv(&self) -> csv::Result<Vec<u8>> {
        let mut writer = csv::Writer::from_writer(Vec::new());
        writer.write_record(&self.header)?;
        for row in &self.rows {
            writer.write_record(row)?;
        }
        writer.into_inner().map_err(|error| error.into_error().into())
    }
}

/// A strike's level over time: seconds after the hit, dBFS.
pub fn level_table(look: &StrikeLook) -> Table {
    let row = |(n, level): (usize, &f64)| vec![format!("{:.4}", n as f64 * look.step_s), level.to_string()];
    Table { header: vec!["time_s", "level_dbfs"], rows: look.level_dbfs.iter().enumerate().map(row).collect() }
}

/// All figures of a take's strikes, one strike a row.
pub fn strike_table(strikes: &[KeptStrike]) -> Table {
    let figures = DecayProfile::default().figures().map(|(name, _)| name);
    let own = ["strike", "onset_s", "peak_dbfs", "dynamic", "used", "edt_s", "t20_s", "t30_s"];
    let row = |(KeptStrike { dropped, measurement, .. }, number): (&KeptStrike, i32)| {
        let wide = &measurement.broadband;
        let mut row = vec![number.to_string(), measurement.onset_s.to_string(), measurement.peak_dbfs.to_string()];
        row.push(measurement.dynamic.map(|dynamic| format!("{dynamic:?}").to_lowercase()).unwrap_or_default());
        row.push((!dropped && measurement.warnings.is_empty()).to_string());
        row.extend([wide.edt_s, wide.t20_s, wide.t30_s].map(text));
        row.extend(measurement.profile.figures().map(|(_, value)| text(value)));
        row
    };
    Table { header: own.into_iter().chain(figures).collect(), rows: strikes.iter().zip(1..).map(row).collect() }
}

/// Reads the partials of a take's strikes, one partial of one strike a row.
pub fn partial_table(store: &Store, take_id: i64) -> Result<Table, StoreError> {
    let take = store.take(take_id)?;
    let strikes = store.strikes(take.id)?;
    let named = with_names(store, take)?.partials;
    let row = |number: i32, partial: &Partial| {
        let tone = tone_of(&named, partial).map(|tone| tone.to_string()).unwrap_or_default();
        vec![number.to_string(), partial.hz.to_string(), text(partial.t60_s), text(partial.t60_sd_s), partial.level_db.to_string(), tone]
    };
    let rows =
        strikes.iter().zip(1..).flat_map(|(strike, number)| strike.measurement.partials.iter().map(move |partial| (number, partial)));
    Ok(Table {
        header: vec!["strike", "hz", "t60_s", "t60_sd_s", "level_db", "tone"],
        rows: rows.map(|(number, partial)| row(number, partial)).collect(),
    })
}

/// Which of a take's `named` partials a strike's `partial` is, by its pitch.
fn tone_of(named: &[Partial], partial: &Partial) -> Option<Tone> {
    let off = |same: &Partial| (same.hz / partial.hz).ln().abs();
    named.iter().filter(|same| off(same) < THE_SAME).min_by(|a, b| off(a).total_cmp(&off(b)))?.tone
}

fn text(value: Option<f64>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

/// A figure that comes out otherwise.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ChangedFigure {
    /// Its name in the decay profile.
    pub figure: &'static str,
    /// As it was; null where it was not known.
    pub before: Option<f64>,
    /// As it comes out now; null where it is not known.
    pub after: Option<f64>,
}

/// What measuring a take's kept sound again comes to.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MeasuredAgain {
    /// Figures that changed by more than one part in a thousand.
    pub changed: Vec<ChangedFigure>,
    /// Strikes that counted before.
    pub strikes_used_before: usize,
    /// Strikes that count after.
    pub strikes_used_after: usize,
    /// The take as it is kept now.
    pub take: TakeView,
}

/// A take with the sound of its strikes.
pub struct TakeWithSound {
    heard_by: HeardBy,
    take: KeptTake,
    sounding: Vec<StrikeWithSound>,
    /// Strikes whose sound was let go keep their figures as they are.
    silent: Vec<KeptStrike>,
}

impl TakeWithSound {
    /// Reads a take with the sound of its strikes.
    pub fn read(store: &Store, take_id: i64) -> Result<Self, StoreError> {
        let take = store.take(take_id)?;
        let (sounding, silent): (Vec<KeptStrike>, Vec<KeptStrike>) =
            store.strikes(take_id)?.into_iter().partition(|strike| strike.has_sound);
        let sounding = sounding.iter().map(|strike| store.strike_with_sound(strike.id)).collect::<Result<_, _>>()?;
        Ok(Self { heard_by: store.drum(take.drum_id)?.drum.heard_by(), take, sounding, silent })
    }
}

/// What a take comes to when it is measured anew, before any of it is kept.
pub struct Anew {
    take_id: i64,
    changed: Vec<ChangedFigure>,
    used_before: usize,
    used_after: usize,
    strikes: Vec<(i64, StrikeMeasurement)>,
}

/// Measures a take's kept sound with the method as it is now.
pub fn measured_anew(TakeWithSound { heard_by, take, sounding, silent }: TakeWithSound) -> Result<Anew, Refusal> {
    let again: Vec<KeptStrike> = sounding.into_par_iter().map(|sound| again(sound, heard_by)).collect::<Result<_, _>>()?;
    let after = summary(again.iter().chain(&silent));
    Ok(Anew {
        take_id: take.id,
        changed: changed(&take.summary.profile, &after.profile),
        used_before: take.summary.strikes_used,
        used_after: after.strikes_used,
        strikes: again.into_iter().map(|strike| (strike.id, strike.measurement)).collect(),
    })
}

/// Says what came out `anew`, and keeps it where `keep` says so.
pub fn told_anew(store: &mut Store, anew: Anew, keep: bool) -> Result<MeasuredAgain, StoreError> {
    let take = if keep { store.replace_measurements(anew.take_id, &anew.strikes)? } else { store.take(anew.take_id)? };
    Ok(MeasuredAgain {
        changed: anew.changed,
        strikes_used_before: anew.used_before,
        strikes_used_after: anew.used_after,
        take: take_view(store, take)?,
    })
}

/// A change smaller than this part of a figure is none.
const SAME: f64 = 1e-3;

fn again((strike, sound, onset): StrikeWithSound, heard_by: HeardBy) -> Result<KeptStrike, Refusal> {
    let captured = captured(&strike.measurement, sound, onset)?;
    let analyzer = StrikeAnalyzer::hearing(captured.sample_rate, heard_by).of_coded_sound(strike.measurement.coded);
    let measurement = strike.measurement.again(analyzer.measure(&captured));
    debug_assert_eq!(measurement.method, METHOD);
    Ok(KeptStrike { measurement, ..strike })
}

fn summary<'a>(strikes: impl Iterator<Item = &'a KeptStrike>) -> TakeSummary {
    let mut used: Vec<StrikeMeasurement> = strikes.filter(|strike| !strike.dropped).map(|strike| strike.measurement.clone()).collect();
    mark_ghosts(&mut used);
    settle_bodies(&mut used);
    summarize(&used)
}

fn changed(before: &DecayProfile, after: &DecayProfile) -> Vec<ChangedFigure> {
    let differs = |a: Option<f64>, b: Option<f64>| match (a, b) {
        (Some(a), Some(b)) => (a - b).abs() > SAME * a.abs().max(b.abs()),
        (a, b) => a.is_some() != b.is_some(),
    };
    let pairs = before.figures().into_iter().zip(after.figures());
    pairs
        .filter(|((_, before), (_, after))| differs(*before, *after))
        .map(|((figure, before), (_, after))| ChangedFigure { figure, before, after })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sound::kept_sound;
    use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
    use ember_core::damping::Placement;
    use ember_core::decay::Listener;
    use ember_core::drum::DrumKind;

    /// The method is the same and the sound is the one that was kept: of a drum so dead that hardly anything is left of it, whatever is found hangs on the
    /// last bit.
    #[test]
    fn a_strike_measured_again_from_what_is_kept_of_it_says_the_same() {
        let mut changed = Vec::new();
        for (kind, spec, seed) in [
            (DrumKind::Tom, "thin_cloth:0", 1),
            (DrumKind::Tom, "thin_cloth:0", 2),
            (DrumKind::Tom, "control_ring:0", 3),
            (DrumKind::Snare, "thin_cloth:0", 4),
        ] {
            let dead = BenchDrum::new(&BenchDrum::usual(kind), &[Placement::parse(spec).unwrap()]).unwrap();
            let mut listener = Listener::new(f64::from(SAMPLE_RATE));
            for strike in listener.push(&dead.play(6, seed)) {
                let kept = kept_sound(&strike.captured.samples, SAMPLE_RATE).unwrap();
                let captured = captured(&strike.measurement, kept, strike.captured.onset_index).unwrap();
                let again = strike.measurement.again(StrikeAnalyzer::hearing(captured.sample_rate, HeardBy::Partials).measure(&captured));
                if again != strike.measurement {
                    changed.push(format!("{kind:?}, {spec}: {:?} and {:?}", strike.measurement.profile, again.profile));
                }
            }
        }
        assert!(changed.is_empty(), "{}", changed.join("\n"));
    }
}
