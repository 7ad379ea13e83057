//! The whole kit's pitches.

use super::view::lug_hz;
use ember_core::drum::{DrumKind, HeadSide, body_of_pair};
use ember_core::tuning::{
    Influence, KickAgainstBass, TomIntervals, TomPitch, head_from_lugs, kick_against_bass, lugs_from_head, tom_pitches,
};
use ember_store::{KeptDrum, Store, StoreError, trials};
use serde::Serialize;
use utoipa::ToSchema;

/// One tom of the kit.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct KitTom {
    pub drum_id: i64,
    pub name: String,
    pub pitch: TomPitch,
    /// Pitch that the batter's lugs would get, Hz; null while they were not tapped.
    pub batter_lug_hz: Option<f64>,
    /// About how much every rod of both heads turns for it, eighths; null while the batter was not tapped.
    pub eighths: Option<f64>,
}

/// The kit's pitches.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct KitPitches {
    /// In playing order.
    pub toms: Vec<KitTom>,
    pub snare_hz: Option<f64>,
    /// Null without a kick whose pitch is known, or without bass notes.
    pub kick: Option<KickAgainstBass>,
    /// Names of drums whose pitch is not known: neither measured nor tapped.
    pub unknown: Vec<String>,
}

/// Reads the kit's pitches, toms in `intervals`, the kick against notes at `bass_hz`.
pub fn kit_pitches(store: &Store, intervals: TomIntervals, bass_hz: &[f64]) -> Result<KitPitches, StoreError> {
    let mut toms: Vec<(KeptDrum, f64)> = Vec::new();
    let (mut snare_hz, mut kick_hz, mut unknown) = (None, None, Vec::new());
    for drum in store.drums()? {
        match (body_hz(store, &drum)?, drum.drum.kind) {
            (None, _) => unknown.push(drum.drum.name),
            (Some(hz), DrumKind::Tom | DrumKind::FloorTom) => toms.push((drum, hz)),
            (Some(hz), DrumKind::Snare) => snare_hz = snare_hz.or(Some(hz)),
            (Some(hz), DrumKind::Kick) => kick_hz = kick_hz.or(Some(hz)),
        }
    }
    let now: Vec<f64> = toms.iter().map(|(_, hz)| *hz).collect();
    let toms = toms.into_iter().zip(tom_pitches(&now, intervals, snare_hz)).map(|((drum, _), pitch)| {
        let ratio = pitch.wanted_hz / pitch.now_hz;
        let lug = lug_hz(store, drum.id, HeadSide::Batter)?;
        let lugs = usize::from(drum.drum.lugs);
        let known = trials(&store.rounds(drum.id, HeadSide::Batter)?);
        let influence = Influence::learned(lugs, lugs_from_head(drum.drum.usual_batter_hz()), &known);
        Ok(KitTom {
            drum_id: drum.id,
            name: drum.drum.name,
            batter_lug_hz: lug.map(|hz| hz * ratio),
            eighths: lug.map(|hz| influence.all_rods(hz, hz * ratio)),
            pitch,
        })
    });
    let toms = toms.collect::<Result<_, StoreError>>()?;
    Ok(KitPitches { toms, snare_hz, kick: kick_hz.and_then(|hz| kick_against_bass(hz, bass_hz)), unknown })
}

/// A drum's pitch: its body as last measured open, else what its tapped heads should sound together, Hz.
fn body_hz(store: &Store, drum: &KeptDrum) -> Result<Option<f64>, StoreError> {
    let measured = store.newest_take(drum.id, None)?.and_then(|take| take.summary.profile.body_hz);
    let Some(batter) = lug_hz(store, drum.id, HeadSide::Batter)?.filter(|_| measured.is_none()) else { return Ok(measured) };
    let lower = lug_hz(store, drum.id, HeadSide::Lower)?;
    Ok(lower.and_then(|lower| body_of_pair(&drum.drum, head_from_lugs(batter), head_from_lugs(lower))))
}
