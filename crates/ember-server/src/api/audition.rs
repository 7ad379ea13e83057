//! Hear it first: the drum's own strike wide open, as it is expected to sound with devices on, and as it was found.

use super::blows::{rebound, struck_with};
use super::extract::{Path, Query};
use super::open_take;
use super::placed::placements_of;
use super::plans::{NO_BODY, NOT_MEASURED};
use crate::learning::{Learning, Measured, front_trials, opening};
use crate::problem::Problem;
use crate::sound::{read_kept, wav_bytes};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::IntoResponse;
use ember_core::Patience;
use ember_core::audition::{Change, GrooveHit, Struck, groove, groove_seconds, matching_gain, remade, with_landings};
use ember_core::blow::{Blow, BlowPredictor};
use ember_core::damping::{Expectation, Open, Placement, Predictor};
use ember_core::decay::Partial;
use ember_core::drum::Front;
use ember_core::kick::{FrontPredictor, FrontTrial, Landing};
use ember_core::plan::ShelfItem;
use ember_core::target::Music;
use ember_core::units::{amplitude, decibels};
use ember_store::{KeptDrum, KeptTake, Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// Sound before the hit that is given along, s: the same in every version, so that they fall on one another.
const LEAD_S: f64 = 0.02;
/// Sounds are given so far below the recording that matched ones have room, dB.
const ROOM_DB: f64 = 6.0;

/// Which of a drum's sounds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Version {
    /// Wide open, as recorded.
    Open,
    /// The same strike, re-made with the devices.
    Expected,
    /// With the devices on, as recorded.
    Found,
}

/// A head is heard tuned by at most so much.
const MOST_SEMITONES: i32 = 7;

/// The devices to be heard.
#[derive(Debug, Clone, Deserialize, IntoParams)]
pub struct Placed {
    /// Devices as `device:amount:radius:angle`, with commas between them.
    #[serde(default)]
    placed: String,
    /// How the drum's other end is closed instead, as `whole`, `mesh`, `off` or `ports:5@0.6@60`, or by how many semitones its head is tuned
    /// up or down, as `tuned:-2`; empty as it is.
    #[serde(default)]
    front: String,
    /// How it is struck instead, as `beater:spot` or `beater:spot:left_in`, and how it was when it was measured; empty as it was, and as such
    /// drums usually are.
    #[serde(default)]
    blow: String,
    #[serde(default)]
    from: String,
}

/// What is to be heard: devices, and the drum's other end.
struct Meant {
    placements: Vec<Placement>,
    other_end: Option<OtherEnd>,
    blow: Option<OtherBlow>,
}

/// What is done to the drum's other end.
enum OtherEnd {
    Closed(Front),
    /// By so many semitones.
    Tuned(i32),
}

/// Another blow, and the one that was measured.
struct OtherBlow {
    from: Blow,
    to: Blow,
}

impl Meant {
    fn is_nothing(&self) -> bool {
        self.placements.is_empty() && self.other_end.is_none() && self.blow.is_none()
    }
}

impl Placed {
    fn meant(&self, sources: &Sources) -> Result<Meant, Problem> {
        let placements = placements_of(&self.placed, &sources.shelf, &sources.drum.drum)?;
        let other_end = match self.front.as_str() {
            "" => None,
            text if text.starts_with("tuned:") => {
                let semitones = text["tuned:".len()..].parse().ok().filter(|by: &i32| by.abs() <= MOST_SEMITONES);
                let refused =
                    || Problem::unprocessable(format!("A head is tuned by -{MOST_SEMITONES} to {MOST_SEMITONES} semitones here."));
                Some(OtherEnd::Tuned(semitones.ok_or_else(refused)?))
            }
            text => {
                let front = Front::parse(text).map_err(Problem::unprocessable)?;
                sources.drum.drum.with_front(&front).validate().map_err(|error| Problem::unprocessable(error.to_string()))?;
                Some(OtherEnd::Closed(front))
            }
        };
        let blow = match self.blow.trim() {
            "" => None,
            text => {
                let to = Blow::parse(text).map_err(|error| Problem::unprocessable(error.to_string()))?;
                Some(OtherBlow { from: struck_with(&self.from, &sources.drum.drum)?, to })
            }
        };
        if blow.is_some() && (other_end.is_some() || !placements.is_empty()) {
            return Err(Problem::unprocessable("Hear the drum struck otherwise, or changed otherwise: both at once are not worked out."));
        }
        Ok(Meant { placements, other_end, blow })
    }
}

/// One version that can be heard.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct AuditionVersion {
    pub version: Version,
    /// By how much it was made louder to match the open drum, dB.
    pub gain_db: f64,
    /// The strike it is made from.
    pub strike_id: i64,
}

/// Another drum of the kit in the groove, as it is now.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Backing {
    pub drum_id: i64,
    pub name: String,
    pub version: Version,
    pub hits: Vec<GrooveHit>,
}

/// What can be heard of a drum.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Audition {
    pub versions: Vec<AuditionVersion>,
    /// Beats a minute of the music.
    pub bpm: f64,
    /// Where the drum is struck in two bars of it, and how long they last, s.
    pub hits: Vec<GrooveHit>,
    pub groove_s: f64,
    pub backing: Vec<Backing>,
    /// What the sound cannot know.
    pub sentences: Vec<String>,
}

/// A recorded strike as it is kept, its take and where it is hit.
#[derive(Clone)]
struct Kept {
    take: KeptTake,
    strike_id: i64,
    onset_index: usize,
    sound: Vec<u8>,
}

impl Kept {
    /// The usable strike of `take` in the middle by level; none where there is none.
    fn of(store: &Store, take: KeptTake) -> Result<Option<Self>, StoreError> {
        let mut strikes = store.strikes(take.id)?;
        strikes.retain(|strike| !strike.dropped && strike.has_sound && strike.measurement.warnings.is_empty());
        strikes.sort_by(|a, b| a.measurement.peak_dbfs.total_cmp(&b.measurement.peak_dbfs));
        let Some(middle) = strikes.get(strikes.len() / 2) else { return Ok(None) };
        let (strike, sound, onset_index) = store.strike_with_sound(middle.id)?;
        Ok(Some(Self { take, strike_id: strike.id, onset_index, sound }))
    }

    /// Its sample rate and samples.
    fn decoded(&self) -> Result<(f64, Vec<f32>), Problem> {
        let (rate, samples) = read_kept(self.sound.clone())
            .map_err(|error| Problem::unprocessable(format!("The sound of a strike cannot be read: {error}")))?;
        Ok((f64::from(rate), samples))
    }
}

/// What a sound is made from.
struct Sources {
    drum: KeptDrum,
    open: Option<Kept>,
    found: Option<Kept>,
    shelf: Vec<ShelfItem>,
    measured: Measured,
    front_trials: Vec<FrontTrial>,
}

impl Sources {
    fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        let drum = store.drum(drum_id)?;
        let sound = |take: Option<KeptTake>| take.map(|take| Kept::of(store, take)).transpose().map(Option::flatten);
        let found = match store.treatment_on(drum_id)? {
            Some(on) => store.newest_take(drum_id, Some(on.id))?,
            None => None,
        };
        let shelf = store.shelf()?;
        let front_trials = front_trials(store)?;
        let measured = store.device_tests()?;
        Ok(Self { measured, front_trials, shelf, drum, open: sound(open_take(store, drum_id)?)?, found: sound(found)? })
    }
}

/// One version's samples, matched to the open drum, from [`LEAD_S`] before the hit on.
struct Heard {
    samples: Vec<f32>,
    rate: f64,
    gain_db: f64,
    strike_id: i64,
    /// Further landings of a beater that is left in the head, which are in it.
    again: Vec<Landing>,
}

/// What the model makes of the drum as it is, and of what is meant. `None` where no body was found.
fn expected(sources: &Sources, open: &Kept, meant: &Meant, learning: &Learning) -> Option<(Vec<Partial>, Expectation)> {
    let (drum, partials, profile) = (&sources.drum.drum, &open.take.partials, &open.take.summary.profile);
    if let Some(OtherBlow { from, to }) = &meant.blow {
        let predictor = BlowPredictor::new(drum, partials, profile, *from)?;
        return Some((predictor.bare().to_vec(), predictor.outlook(*to).expected));
    }
    let learned = learning.of_tests(&sources.measured, &sources.shelf);
    let strengths = learned.on(drum);
    if let Some(other_end) = &meant.other_end {
        let predictor = FrontPredictor::new(drum, partials, profile)?.with_opening(opening(&sources.front_trials))?;
        let predictor = predictor.with_laid(&meant.placements, &strengths)?;
        let outlook = match other_end {
            OtherEnd::Closed(front) => predictor.outlook(front),
            OtherEnd::Tuned(semitones) => predictor.retuned(2f64.powf(f64::from(*semitones) / 12.0))?,
        };
        return Some((predictor.bare().to_vec(), outlook.expected));
    }
    let predictor = Predictor::new(drum, partials)?;
    let grips: Vec<_> = meant.placements.iter().map(|placement| predictor.grip_known(placement, &strengths)).collect();
    let expected = predictor.expect(&Open { partials, profile }, &meant.placements, &grips.iter().collect::<Vec<_>>());
    Some((predictor.bare().to_vec(), expected))
}

/// Further landings of a beater that is left in the head; none without one.
fn landings(sources: &Sources, open: &Kept, meant: &Meant) -> Vec<Landing> {
    let (drum, take) = (&sources.drum.drum, &open.take);
    let blow = meant.blow.as_ref().map(|blow| blow.to);
    let rebound = blow.and_then(|blow| rebound(drum, &take.partials, &take.summary.profile, blow, &sources.front_trials));
    rebound.map_or_else(Vec::new, |rebound| rebound.again)
}

fn heard(version: Version, sources: &Sources, meant: &Meant, learning: &Learning) -> Result<Heard, Problem> {
    let open = sources.open.as_ref().ok_or_else(|| Problem::conflict(NOT_MEASURED))?;
    let (open_rate, open_samples) = open.decoded()?;
    let mut again = Vec::new();
    let (samples, rate, from) = match version {
        Version::Open => (open_samples.clone(), open_rate, open),
        Version::Expected => {
            let (before, expected) = expected(sources, open, meant, learning).ok_or_else(|| Problem::conflict(NO_BODY))?;
            let change = Change { before: &before, after: &expected.partials, attack_lost_db: expected.stroke_lost_db() };
            let once = remade(&open_samples, open_rate, open.onset_index, &change);
            again = landings(sources, open, meant);
            (with_landings(&once, open_rate, open.onset_index, &again), open_rate, open)
        }
        Version::Found => {
            let found = sources.found.as_ref().ok_or_else(|| Problem::conflict("The drum was not hit yet with this on it."))?;
            let (rate, samples) = found.decoded()?;
            (samples, rate, found)
        }
    };
    let onset = from.onset_index;
    let gain = match version {
        Version::Open => 1.0,
        Version::Expected | Version::Found => matching_gain(
            Struck { samples: &samples, onset_index: onset, rate },
            Struck { samples: &open_samples, onset_index: open.onset_index, rate: open_rate },
        ),
    };
    let lead = (LEAD_S * rate) as usize;
    let silence = lead.saturating_sub(onset);
    let factor = (gain * amplitude(-ROOM_DB)) as f32;
    let samples = std::iter::repeat_n(0.0, silence).chain(samples[onset.saturating_sub(lead)..].iter().map(|x| x * factor)).collect();
    Ok(Heard { samples, rate, gain_db: decibels(gain), strike_id: from.strike_id, again })
}

/// What can be heard of a drum, and where it stands in a groove at the music's tempo.
#[utoipa::path(get, path = "/drums/{id}/audition", tag = "plans", params(("id" = i64, Path), Placed),
    responses((status = 200, body = Audition), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn audition(State(state): State<AppState>, Path(id): Path<i64>, Query(placed): Query<Placed>) -> Result<Json<Audition>, Problem> {
    let work = move |store: &mut Store| {
        let music = store.scene()?.tonight.music;
        Ok::<_, StoreError>((Sources::read(store, id)?, backing(store, id, &music)?, music))
    };
    let (sources, backing, music) = state.store(work).await?;
    let meant = placed.meant(&sources)?;
    let computing = state.clone();
    let work = move |_: Patience| {
        let mut wanted = vec![Version::Open];
        wanted.extend((!meant.is_nothing()).then_some(Version::Expected));
        wanted.extend(sources.found.is_some().then_some(Version::Found));
        let version = |version| {
            heard(version, &sources, &meant, &state.learning)
                .map(|Heard { gain_db, strike_id, again, .. }| (AuditionVersion { version, gain_db, strike_id }, again))
        };
        let versions: Result<Vec<(AuditionVersion, Vec<Landing>)>, Problem> = wanted.into_iter().map(version).collect();
        (versions, sources)
    };
    let (versions, sources) = computing.compute(work).await?;
    let (versions, again): (Vec<AuditionVersion>, Vec<Vec<Landing>>) = versions?.into_iter().unzip();
    Ok(Json(Audition {
        bpm: music.bpm,
        hits: groove(sources.drum.drum.kind, &music),
        groove_s: groove_seconds(&music),
        backing,
        sentences: sentences(&versions, &again.concat()),
        versions,
    }))
}

/// The other drums of the kit that were measured, one of each kind that has a part of its own.
fn backing(store: &Store, drum_id: i64, music: &Music) -> Result<Vec<Backing>, StoreError> {
    let own = store.drum(drum_id)?.drum.kind;
    let mut backing: Vec<(ember_core::drum::DrumKind, Backing)> = Vec::new();
    for drum in store.drums()? {
        let kind = drum.drum.kind;
        if drum.id == drum_id || kind == own || backing.iter().any(|(taken, _)| *taken == kind) {
            continue;
        }
        let sources = Sources::read(store, drum.id)?;
        if sources.open.is_some() {
            let version = if sources.found.is_some() { Version::Found } else { Version::Open };
            backing.push((kind, Backing { drum_id: drum.id, name: drum.drum.name, version, hits: groove(kind, music) }));
        }
    }
    Ok(backing.into_iter().map(|(_, backing)| backing).collect())
}

fn sentences(versions: &[AuditionVersion], again: &[Landing]) -> Vec<String> {
    let mut sentences = Vec::new();
    for version in versions {
        let name = match version.version {
            Version::Open => continue,
            Version::Expected => "The expected sound",
            Version::Found => "What was found",
        };
        let way = if version.gain_db >= 0.0 { "up" } else { "down" };
        sentences.push(format!(
            "{name} is turned {way} by {:.1} dB, to be as loud as the open drum over its first tenth of a second.",
            version.gain_db.abs()
        ));
    }
    if versions.iter().any(|version| version.version == Version::Expected) {
        sentences.push(
            "The expected sound is your own strike with other decays and pitches. What the device does to the attack is an estimate, \
             and buzz of a device lying loose is not in it."
                .into(),
        );
    }
    if !again.is_empty() {
        let times: Vec<String> = again.iter().map(|landing| format!("{:.0} ms", 1000.0 * landing.at_s)).collect();
        sentences.push(format!(
            "On this drum a beater left in the head strikes again after {}, under a usual foot: that is heard too.",
            times.join(" and ")
        ));
    }
    sentences
}

/// One version as a sound, level-matched to the open drum: WAV, 24 bits.
#[utoipa::path(get, path = "/drums/{id}/audition/{version}", tag = "plans",
    params(("id" = i64, Path), ("version" = Version, Path), Placed),
    responses((status = 200, content_type = "audio/wav"), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn audition_sound(
    State(state): State<AppState>,
    Path((id, version)): Path<(i64, Version)>,
    Query(placed): Query<Placed>,
) -> Result<impl IntoResponse, Problem> {
    let sources = state.store(move |store| Sources::read(store, id)).await?;
    let meant = placed.meant(&sources)?;
    let computing = state.clone();
    let work = move |_: Patience| {
        let heard = heard(version, &sources, &meant, &state.learning)?;
        wav_bytes(&heard.samples, heard.rate as u32).map_err(Problem::unprocessable)
    };
    let sound = computing.compute(work).await??;
    Ok(([(header::CONTENT_TYPE, "audio/wav"), (header::CACHE_CONTROL, "no-store")], sound))
}
