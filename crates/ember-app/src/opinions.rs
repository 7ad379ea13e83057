//! What the player says of drums as they sound: the wish learns from it.

use crate::snapshot::DrumSnapshot;
use ember_core::target::{OpenSound, Opinion, Said, assess};
use ember_store::{Store, StoreError};

/// Keeps an opinion on a drum as it was last heard, in tonight's genre, said at `at` (ms since 1970). Its number.
pub fn say(store: &mut Store, drum_id: i64, opinion: Opinion, at: i64) -> Result<i64, StoreError> {
    let now = DrumSnapshot::read(store, drum_id)?;
    let unheard = || StoreError::Refused(format!("Hit the {} first: nobody knows how it sounds now.", now.drum().name));
    let take = now.as_it_is().ok_or_else(unheard)?;
    let open = now.open.as_ref().map(|take| OpenSound::new(&take.partials, &take.summary));
    // Held against the book, not against what was learned so far: else every word would count twice.
    let wanted = now.scene.wanted(now.drum(), open.as_ref());
    let found = assess(&take.partials, &take.summary.profile, &wanted, None);
    let said = Said::of(opinion, &found, &wanted).ok_or_else(unheard)?;
    store.add_opinion(now.drum().kind.role(), &now.scene.tonight.music.genre, &said, at)
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
