//! Songs, one by one and in numbers.

use crate::named::{Named, insert, update};
use crate::{Store, StoreError};
use ember_core::target::Song;
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// A song with its number.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptSong {
    /// Its number.
    pub id: i64,
    /// The song.
    #[serde(flatten)]
    pub song: Song,
}

impl Named for Song {
    const TABLE: &'static str = "song";
    const WORD: Text = text!("song");

    fn name(&self) -> &str {
        &self.title
    }
}

impl Store {
    /// All songs by title.
    pub fn songs(&self) -> Result<Vec<KeptSong>, StoreError> {
        Ok(self.all_named()?.into_iter().map(|(id, song)| KeptSong { id, song }).collect())
    }

    /// Songs whose title holds `search`, by title: at most `limit` of them behind the one with the number `after`, and how many there are in all.
    pub fn find_songs(&self, search: &str, after: Option<i64>, limit: usize) -> Result<(Vec<KeptSong>, usize), StoreError> {
        let (found, all) = self.some_named(search, after, limit)?;
        Ok((found.into_iter().map(|(id, song)| KeptSong { id, song }).collect(), all))
    }

    /// The song with this number.
    pub fn song(&self, id: i64) -> Result<KeptSong, StoreError> {
        Ok(KeptSong { id, song: self.one_named(id)? })
    }

    /// Adds a song.
    pub fn add_song(&mut self, song: &Song) -> Result<KeptSong, StoreError> {
        let id = self.add_named(song)?;
        self.song(id)
    }

    /// Changes a song.
    pub fn change_song(&mut self, id: i64, song: &Song) -> Result<KeptSong, StoreError> {
        self.change_named(id, song)?;
        self.song(id)
    }

    /// Removes a song at `gone_at` (ms since 1970), or brings it back. Set lists keep its place.
    pub fn set_song_gone(&mut self, id: i64, gone_at: Option<i64>) -> Result<(), StoreError> {
        self.set_gone::<Song>(id, gone_at)
    }

    /// Adds songs, or puts them in place of the one whose number stands beside them: all of them or none. Returns their numbers.
    pub fn take_in_songs(&mut self, songs: &[(Option<i64>, Song)]) -> Result<Vec<i64>, StoreError> {
        let transaction = self.connection.transaction()?;
        let mut ids = Vec::with_capacity(songs.len());
        for (replaces, song) in songs {
            ids.push(match replaces {
                Some(id) => {
                    update(&transaction, *id, song)?;
                    *id
                }
                None => insert(&transaction, song)?,
            });
        }
        transaction.commit()?;
        Ok(ids)
    }
}
