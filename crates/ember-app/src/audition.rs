//! Hear it first: the drum's own strike wide open, as it is expected to sound with something changed, and as it was found.

use crate::blows::{rebound, struck_with};
use crate::learning::{Learning, front_trials, opening};
use crate::refusal::{CannotBe, Refusal};
use crate::snapshot::PlanSnapshot;
use crate::sound::{read_kept, wav_bytes};
use ember_core::audition::{Change, GrooveHit, Struck, groove, groove_seconds, matching_gain, remade, with_landings};
use ember_core::blow::{Blow, BlowPredictor};
use ember_core::damping::{Expectation, Open, Placement, Predictor};
use ember_core::drum::{Drum, DrumKind, Front};
use ember_core::kick::{FrontPredictor, FrontTrial, Landing};
use ember_core::target::Music;
use ember_core::tone::Partial;
use ember_core::units::{amplitude, decibels};
use ember_store::{KeptTake, Store, StoreError};
use ember_words::{Joined, Words, text, words};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Sound before the hit that is given along, s: the same in every version, so that they fall on one another.
const LEAD_S: f64 = 0.02;
/// Sounds are given so far below the recording that matched ones have room, dB.
const ROOM_DB: f64 = 6.0;
/// A head is heard tuned by at most so much.
const MOST_SEMITONES: i32 = 7;

/// Which of a drum's sounds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Version {
    /// Wide open, as recorded.
    Open,
    /// The same strike, re-made with what is meant.
    Expected,
    /// With what is on the drum, as recorded.
    Found,
}

/// What is to be heard: devices on the drum, its other end closed or tuned otherwise, or another blow.
#[derive(Debug, Clone, Default, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct WhatIf {
    /// Devices that lie on or in the drum besides.
    pub placements: Vec<Placement>,
    /// How the other end is closed instead; null: as it is.
    pub front: Option<Front>,
    /// By how many semitones the other head is tuned up or down (-7 to 7); null: not at all.
    pub tuned_semitones: Option<i32>,
    /// How the drum is struck instead; null: as it was.
    pub blow: Option<Blow>,
    /// How it was struck when it was measured; null: as such drums usually are.
    pub from: Option<Blow>,
}

/// What is meant, once it is known to be possible.
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

impl WhatIf {
    fn meant(&self, sources: &Sources) -> Result<Meant, Refusal> {
        let drum = sources.plan.drum();
        let other_end = self.other_end(drum)?;
        let blow = match self.blow {
            None => None,
            Some(to) => {
                to.validate()?;
                Some(OtherBlow { from: struck_with(self.from, drum)?, to })
            }
        };
        if blow.is_some() && (other_end.is_some() || !self.placements.is_empty()) {
            return Err(CannotBe::StruckAndChanged.into());
        }
        Ok(Meant { placements: sources.plan.fitting(&self.placements, drum)?, other_end, blow })
    }

    fn other_end(&self, drum: &Drum) -> Result<Option<OtherEnd>, Refusal> {
        match (&self.front, self.tuned_semitones) {
            (Some(_), Some(_)) => Err(CannotBe::ClosedAndTuned.into()),
            (_, Some(by)) if by.abs() > MOST_SEMITONES => Err(CannotBe::Semitones { most: MOST_SEMITONES }.into()),
            (_, Some(by)) => Ok(Some(OtherEnd::Tuned(by))),
            (Some(front), None) => {
                drum.with_front(front).validate()?;
                Ok(Some(OtherEnd::Closed(front.clone())))
            }
            (None, None) => Ok(None),
        }
    }
}

/// One version that can be heard.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct AuditionVersion {
    /// Which of the drum's sounds it is.
    pub version: Version,
    /// By how much it was made louder to match the open drum, dB.
    pub gain_db: f64,
    /// The strike it is made from.
    pub strike_id: i64,
}

/// Another drum of the kit in the groove, as it is now.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Backing {
    /// Number of the drum.
    pub drum_id: i64,
    /// What it is called.
    pub name: String,
    /// Which of the drum's sounds it is.
    pub version: Version,
    /// Where it is struck.
    pub hits: Vec<GrooveHit>,
}

/// What can be heard of a drum.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Audition {
    /// Sounds to compare: the open drum, the one expected with the plan, and the one found after it was put on, as far as there are such.
    pub versions: Vec<AuditionVersion>,
    /// Beats a minute of the music.
    pub bpm: f64,
    /// Where the drum is struck in two bars of it, and how long they last, s.
    pub hits: Vec<GrooveHit>,
    /// How long the groove lasts, s.
    pub groove_s: f64,
    /// The other drums of the kit.
    pub backing: Vec<Backing>,
    /// What the sound cannot know.
    pub sentences: Vec<Words>,
}

/// A recorded strike as it is kept, its take and where it is hit.
#[derive(Debug, Clone)]
struct Kept {
    take: KeptTake,
    strike_id: i64,
    onset_index: usize,
    sound: Vec<u8>,
}

impl Kept {
    /// The usable strike of `take` in the middle by level; none where there is none.
    fn of(store: &Store, take: &KeptTake) -> Result<Option<Self>, StoreError> {
        let mut strikes = store.strikes(take.id)?;
        strikes.retain(|strike| !strike.dropped && strike.has_sound && strike.measurement.warnings.is_empty());
        strikes.sort_by(|a, b| a.measurement.peak_dbfs.total_cmp(&b.measurement.peak_dbfs));
        let Some(middle) = strikes.get(strikes.len() / 2) else { return Ok(None) };
        let (strike, sound, onset_index) = store.strike_with_sound(middle.id)?;
        Ok(Some(Self { take: take.clone(), strike_id: strike.id, onset_index, sound }))
    }

    /// Its sample rate and samples.
    fn decoded(&self) -> Result<(f64, Vec<f32>), Refusal> {
        let (rate, samples) = read_kept(self.sound.clone())?;
        Ok((f64::from(rate), samples))
    }
}

/// What a drum's sounds are made from.
#[derive(Debug, Clone)]
pub struct Sources {
    plan: PlanSnapshot,
    open: Option<Kept>,
    found: Option<Kept>,
    front_trials: Vec<FrontTrial>,
}

impl Sources {
    /// Reads what a drum's sounds are made from.
    pub fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        let plan = PlanSnapshot::read(store, drum_id)?;
        let sound = |take: Option<&KeptTake>| take.map(|take| Kept::of(store, take)).transpose().map(Option::flatten);
        let (open, found) = (sound(plan.now.open.as_ref())?, sound(plan.now.found.as_ref())?);
        Ok(Self { front_trials: front_trials(store)?, open, found, plan })
    }
}

/// A drum's sounds with those of the kit around it.
#[derive(Debug, Clone)]
pub struct AuditionSnapshot {
    sources: Sources,
    backing: Vec<Backing>,
}

impl AuditionSnapshot {
    /// Reads a drum's sounds and those of the kit around it.
    pub fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        let sources = Sources::read(store, drum_id)?;
        let backing = backing(store, drum_id, &sources.plan.now.scene.tonight.music)?;
        Ok(Self { sources, backing })
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
    let (drum, partials, profile) = (sources.plan.drum(), &open.take.partials, &open.take.summary.profile);
    if let Some(OtherBlow { from, to }) = &meant.blow {
        let predictor = BlowPredictor::new(drum, partials, profile, *from)?;
        return Some((predictor.bare().to_vec(), predictor.outlook(*to).expected));
    }
    let strengths = sources.plan.strengths(learning);
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
    let (drum, take) = (sources.plan.drum(), &open.take);
    let blow = meant.blow.as_ref().map(|blow| blow.to);
    let rebound = blow.and_then(|blow| rebound(drum, &take.partials, &take.summary.profile, blow, &sources.front_trials));
    rebound.map_or_else(Vec::new, |rebound| rebound.again)
}

fn heard(version: Version, sources: &Sources, meant: &Meant, learning: &Learning) -> Result<Heard, Refusal> {
    let open = sources.open.as_ref().ok_or(Refusal::NotMeasured)?;
    let (open_rate, open_samples) = open.decoded()?;
    let mut again = Vec::new();
    let (samples, rate, from) = match version {
        Version::Open => (open_samples.clone(), open_rate, open),
        Version::Expected => {
            let (before, expected) = expected(sources, open, meant, learning).ok_or(Refusal::NoBody)?;
            let change = Change { before: &before, after: &expected.partials, attack_lost_db: expected.stroke_lost_db() };
            let once = remade(&open_samples, open_rate, open.onset_index, &change);
            again = landings(sources, open, meant);
            (with_landings(&once, open_rate, open.onset_index, &again), open_rate, open)
        }
        Version::Found => {
            let found = sources.found.as_ref().ok_or(Refusal::NotHitYet)?;
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
pub fn audition(snapshot: &AuditionSnapshot, what: &WhatIf, learning: &Learning) -> Result<Audition, Refusal> {
    let sources = &snapshot.sources;
    let meant = what.meant(sources)?;
    let mut wanted = vec![Version::Open];
    wanted.extend((!meant.is_nothing()).then_some(Version::Expected));
    wanted.extend(sources.found.is_some().then_some(Version::Found));
    let (mut versions, mut again) = (Vec::new(), Vec::new());
    for version in wanted {
        let Heard { gain_db, strike_id, again: landings, .. } = heard(version, sources, &meant, learning)?;
        versions.push(AuditionVersion { version, gain_db, strike_id });
        again.extend(landings);
    }
    let music = &sources.plan.now.scene.tonight.music;
    Ok(Audition {
        bpm: music.bpm,
        hits: groove(sources.plan.drum().kind, music),
        groove_s: groove_seconds(music),
        backing: snapshot.backing.clone(),
        sentences: sentences(&versions, &again),
        versions,
    })
}

/// One version as a sound, level-matched to the open drum: WAV, 24 bits.
pub fn sound_of(sources: &Sources, version: Version, what: &WhatIf, learning: &Learning) -> Result<Vec<u8>, Refusal> {
    let heard = heard(version, sources, &what.meant(sources)?, learning)?;
    Ok(wav_bytes(&heard.samples, heard.rate as u32)?)
}

/// The other drums of the kit that were measured, one of each kind that has a part of its own.
fn backing(store: &Store, drum_id: i64, music: &Music) -> Result<Vec<Backing>, StoreError> {
    let own = store.drum(drum_id)?.drum.kind;
    let mut backing: Vec<(DrumKind, Backing)> = Vec::new();
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

fn sentences(versions: &[AuditionVersion], again: &[Landing]) -> Vec<Words> {
    let mut sentences = Vec::new();
    for version in versions {
        let name = match version.version {
            Version::Open => continue,
            Version::Expected => text!("The expected sound"),
            Version::Found => text!("What was found"),
        };
        let way = if version.gain_db >= 0.0 { text!("up") } else { text!("down") };
        sentences.push(words!(
            "{name} is turned {way} by {:.1} dB, to be as loud as the open drum over its first tenth of a second.",
            version.gain_db.abs()
        ));
    }
    if versions.iter().any(|version| version.version == Version::Expected) {
        sentences.push(words!(
            "The expected sound is your own strike with other decays and pitches. What the device does to the attack is an estimate, \
             and buzz of a device lying loose is not in it."
        ));
    }
    if !again.is_empty() {
        let times = again.iter().map(|landing| words!("{:.0} ms", 1000.0 * landing.at_s));
        sentences.push(words!(
            "On this drum a beater left in the head strikes again after {}, under a usual foot: that is heard too.",
            Words::list(Joined::And, times)
        ));
    }
    sentences
}
