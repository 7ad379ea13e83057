//! The whole kit's pitches.

use super::view::{breaks, lug_hz};
use ember_core::drum::{DrumKind, HeadSide, body_of_pair};
use ember_core::tuning::{
    Influence, KickAgainstBass, TomIntervals, TomPitch, boomy_notes, head_from_lugs, kick_against_bass, lugs_from_head, tom_pitches,
};
use ember_core::units::cents;
use ember_store::{KeptDrum, Store, StoreError, trials};
use ember_words::Words;
use serde::Serialize;
use utoipa::ToSchema;

/// Doubt of a measured body beyond the scatter of its strikes, and of one worked out from two tapped heads, cents.
const MEASURED_SD_CENTS: f64 = 2.0;
const PREDICTED_SD_CENTS: f64 = 45.0;

/// One tom of the kit.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct KitTom {
    /// Number of the drum.
    pub drum_id: i64,
    /// What it is called.
    pub name: String,
    /// Its pitch.
    pub pitch: TomPitch,
    /// Doubt of its pitch now, cents.
    pub sd_cents: f64,
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
    /// Pitch of the snare, Hz; null where it is not known.
    pub snare_hz: Option<f64>,
    /// Null without a kick whose pitch is known, or without bass notes.
    pub kick: Option<KickAgainstBass>,
    /// Doubt of the kick's pitch, cents.
    pub kick_sd_cents: Option<f64>,
    /// Bass notes, and the kick, that lie on low tones of tonight's room, a sentence each.
    pub room_notes: Vec<Words>,
    /// Names of drums whose pitch is not known: neither measured nor tapped.
    pub unknown: Vec<String>,
}

/// Reads the kit's pitches, toms in `intervals`, the kick against notes at `bass_hz`.
pub fn kit_pitches(store: &Store, intervals: TomIntervals, bass_hz: &[f64]) -> Result<KitPitches, StoreError> {
    let mut toms: Vec<(KeptDrum, (f64, f64))> = Vec::new();
    let (mut snare_hz, mut kick, mut unknown) = (None, None, Vec::new());
    for drum in store.drums()?.into_iter().filter(|drum| drum.drum.kind.has_heads() && !drum.drum.plays_along) {
        match (body_hz(store, &drum)?, drum.drum.kind) {
            (None, _) => unknown.push(drum.drum.name),
            (Some(hz), DrumKind::Tom | DrumKind::FloorTom | DrumKind::ConcertTom) => toms.push((drum, hz)),
            (Some((hz, _)), DrumKind::Snare) => snare_hz = snare_hz.or(Some(hz)),
            (Some(body), kind) if kind.has_pedal() => kick = kick.or(Some(body)),
            (Some(_), _) => {}
        }
    }
    let now: Vec<(f64, f64)> = toms.iter().map(|(drum, (hz, _))| (*hz, drum.drum.diameter_in)).collect();
    let toms = toms.into_iter().zip(tom_pitches(&now, intervals, snare_hz)).map(|((drum, (_, sd_cents)), pitch)| {
        let ratio = pitch.wanted_hz / pitch.now_hz;
        let lug = lug_hz(store, drum.id, HeadSide::Batter)?;
        let lugs = usize::from(drum.drum.lugs);
        let uneven = store.newest_uneven(drum.id, HeadSide::Batter)?;
        let known = trials(&store.rounds(drum.id, HeadSide::Batter)?, &breaks(uneven.as_ref()));
        let influence = Influence::learned(lugs, lugs_from_head(drum.drum.usual_batter_hz()), &known);
        Ok(KitTom {
            drum_id: drum.id,
            name: drum.drum.name,
            batter_lug_hz: lug.map(|hz| hz * ratio),
            eighths: lug.map(|hz| influence.all_rods(hz, hz * ratio)),
            pitch,
            sd_cents,
        })
    });
    let toms = toms.collect::<Result<_, StoreError>>()?;
    let place = store.scene()?.venue;
    let room_notes = place.map(|venue| boomy_notes(&venue.room_modes, &venue.name, bass_hz, kick.map(|(hz, _)| hz))).unwrap_or_default();
    Ok(KitPitches {
        toms,
        snare_hz,
        kick: kick.and_then(|(hz, _)| kick_against_bass(hz, bass_hz)),
        kick_sd_cents: kick.map(|(_, sd_cents)| sd_cents),
        room_notes,
        unknown,
    })
}

/// A drum's pitch with its doubt (Hz, cents): its body as last measured open, else what its tapped heads should sound together.
fn body_hz(store: &Store, drum: &KeptDrum) -> Result<Option<(f64, f64)>, StoreError> {
    if let Some(take) = store.newest_take(drum.id, None)?
        && let Some(hz) = take.summary.profile.body_hz
    {
        let scatter = take.summary.spread.body_hz.map_or(0.0, |spread| cents(hz, hz + spread));
        return Ok(Some((hz, scatter.hypot(MEASURED_SD_CENTS))));
    }
    let Some(batter) = lug_hz(store, drum.id, HeadSide::Batter)? else { return Ok(None) };
    let lower = lug_hz(store, drum.id, HeadSide::Lower)?;
    let pair = lower.and_then(|lower| body_of_pair(&drum.drum, head_from_lugs(batter), head_from_lugs(lower)));
    Ok(pair.map(|body| (body.hz, PREDICTED_SD_CENTS)))
}
