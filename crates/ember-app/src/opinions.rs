//! What the player says of drums as they sound, and does about them: the wish learns from it.

use crate::learning::Learning;
use crate::refusal::{NotNow, Refusal};
use crate::snapshot::{DrumSnapshot, PlanSnapshot};
use ember_core::Patience;
use ember_core::damping::Placement;
use ember_core::drum::Role;
use ember_core::plan::{Offer, Question, evaluate};
use ember_core::target::{Deed, Evidence, OpenSound, Opinion, Preferred, Said, Standing, Wanted, assess};
use ember_store::{KeptTake, KeptTreatment, Store, StoreError};
use serde::Deserialize;
use utoipa::ToSchema;

/// What is taken off so soon after it was heard was not liked; what stays on for so long was, ms (from experience, no published source). In between it is
/// the evening that is over.
const SOON_MS: i64 = 15 * 60 * 1000;
const LONG_MS: i64 = 24 * 60 * 60 * 1000;

/// What the book wants of the drum as it is in `now`. What was learned so far is left out: else every word would count twice.
fn book(now: &DrumSnapshot) -> Wanted {
    let open = now.open.as_ref().map(|take| OpenSound::new(&take.partials, &take.summary));
    now.scene.wanted(now.drum(), open.as_ref())
}

/// How `take` stands against the book.
fn standing(take: &KeptTake, book: &Wanted) -> Option<Standing> {
    Standing::of(&assess(&take.partials, &take.summary.profile, book, None), book)
}

/// Keeps an opinion on a drum as it was last heard, in tonight's genre, said at `at` (ms since 1970). Its number.
pub fn say(store: &mut Store, drum_id: i64, opinion: Opinion, at: i64) -> Result<i64, Refusal> {
    let now = DrumSnapshot::read(store, drum_id)?;
    let unheard = || NotNow::Unheard { name: now.drum().name.clone() };
    let take = now.as_it_is().ok_or_else(unheard)?;
    let wanted = book(&now);
    let found = assess(&take.partials, &take.summary.profile, &wanted, None);
    let said = Said::of(opinion, &found, &wanted).ok_or_else(unheard)?;
    Ok(store.add_opinion(now.drum().kind.role(), &now.scene.tonight.music.genre, &Evidence::Said(said), at)?)
}

/// Takes a treatment off at `at` (ms since 1970). Whether that was soon after it was heard, or long after, tells how it was liked.
pub fn take_off(store: &mut Store, treatment_id: i64, at: i64) -> Result<KeptTreatment, StoreError> {
    let on = store.treatment(treatment_id)?;
    // What cannot be told of it keeps nobody from taking it off.
    let told = on.off_at.is_none().then(|| told_by_taking_off(store, &on, at).ok().flatten()).flatten();
    let kept = store.take_off(treatment_id, at)?;
    if let Some((role, genre, deed)) = told {
        store.add_opinion(role, &genre, &Evidence::Preferred(deed), at)?;
    }
    Ok(kept)
}

fn told_by_taking_off(store: &Store, on: &KeptTreatment, at: i64) -> Result<Option<(Role, String, Preferred)>, StoreError> {
    let now = DrumSnapshot::read(store, on.drum_id)?;
    // A trial of the other end is meant to be undone.
    let (Some(open), Some(found), None) = (&now.open, &now.found, &on.plan.front) else { return Ok(None) };
    let deed = match at - found.begun_at {
        since if since < SOON_MS => Deed::TookOff,
        since if since >= LONG_MS => Deed::Kept,
        _ => return Ok(None),
    };
    let wanted = book(&now);
    let Some((open, found)) = standing(open, &wanted).zip(standing(found, &wanted)) else { return Ok(None) };
    let (rather, than) = if deed == Deed::TookOff { (open, found) } else { (found, open) };
    let told = Preferred { deed, rather, than, treatment_id: Some(on.id) };
    Ok(Some((now.drum().kind.role(), now.scene.tonight.music.genre.clone(), told)))
}

/// Puts a treatment back on that was taken off; what that told is taken back.
pub fn put_back(store: &mut Store, treatment_id: i64) -> Result<KeptTreatment, StoreError> {
    let kept = store.put_back(treatment_id)?;
    store.remove_deeds_of(treatment_id)?;
    Ok(kept)
}

/// One layout that was chosen over another.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct Choice {
    /// What was done.
    pub deed: Deed,
    /// The layout that was chosen; empty: open.
    pub rather: Vec<Placement>,
    /// The one that stood there.
    pub than: Vec<Placement>,
    /// Number of the song that it is for; null for what is played tonight.
    #[serde(default)]
    pub song_id: Option<i64>,
}

/// Reads the drum in tonight's scene, or as the song wants it.
pub fn read_for(store: &Store, drum_id: i64, song_id: Option<i64>) -> Result<PlanSnapshot, StoreError> {
    let mut snapshot = PlanSnapshot::read(store, drum_id)?;
    if let Some(id) = song_id {
        let music = store.song(id)?.song.music;
        let scene = &mut snapshot.now.scene;
        (scene.preset, scene.tonight.music) = (store.preset_or_general(&music.genre)?, music);
    }
    Ok(snapshot)
}

/// What a choice tells, with the part of the kit and the genre that it tells of; none where nothing is heard of one of the two.
pub fn told_by_choice(
    snapshot: &PlanSnapshot,
    choice: &Choice,
    learning: &Learning,
    patience: Patience,
) -> Result<Option<(Role, String, Preferred)>, Refusal> {
    let now = &snapshot.now;
    let (open, wanted) = (now.measured_open()?, book(now));
    let of = |placements: &[Placement]| {
        if placements.is_empty() {
            return Ok(standing(open, &wanted));
        }
        let laid = snapshot.laid(placements.to_vec())?;
        let plan = snapshot
            .asked(learning, patience, |question| evaluate(&Question { wanted: wanted.clone(), ..*question }, Offer::Own, &laid))?;
        Ok::<_, Refusal>(Standing::of(&plan.assessment, &wanted))
    };
    let told = of(&choice.rather)?.zip(of(&choice.than)?);
    let genre = now.scene.tonight.music.genre.clone();
    Ok(told.map(|(rather, than)| (now.drum().kind.role(), genre, Preferred { deed: choice.deed, rather, than, treatment_id: None })))
}

/// Forgets all that was said of such drums in tonight's genre, at `at` (ms since 1970): the book's wish holds again.
pub fn forget(store: &mut Store, drum_id: i64, at: i64) -> Result<(), StoreError> {
    let (drum, scene) = (store.drum(drum_id)?, store.scene()?);
    store.forget_opinions(drum.drum.kind.role(), &scene.tonight.music.genre, at)
}

/// Brings back what was forgotten last of such drums in tonight's genre.
pub fn recall(store: &mut Store, drum_id: i64) -> Result<(), StoreError> {
    let (drum, scene) = (store.drum(drum_id)?, store.scene()?);
    store.recall_opinions(drum.drum.kind.role(), &scene.tonight.music.genre)
}
