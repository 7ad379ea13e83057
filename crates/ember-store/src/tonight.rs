//! What is played tonight, where, and what the player rules out.

use crate::damaged::{optional_text, text};
use crate::{Store, StoreError};
use ember_core::drum::Drum;
use ember_core::plan::Limits;
use ember_core::target::{Music, OpenSound, Preset, Situation, Wanted};
use ember_core::venue::Venue;
use rusqlite::OptionalExtension;
use serde::{Deserialize, Serialize};

/// Tonight with its limits.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptTonight {
    /// What is played now: the song's, where there is one.
    #[serde(flatten)]
    pub music: Music,
    /// What is ruled out.
    #[serde(flatten)]
    pub limits: Limits,
    /// Null: no song in particular.
    #[serde(default)]
    pub song_id: Option<i64>,
    /// Number of the venue; null where there is none.
    #[serde(default)]
    pub venue_id: Option<i64>,
    /// Number of the set list that is played; null where it is none.
    #[serde(default)]
    pub set_list_id: Option<i64>,
}

/// All that decides what is wanted tonight.
#[derive(Debug, Clone)]
pub struct Scene {
    /// What is played tonight, where, and what is ruled out.
    pub tonight: KeptTonight,
    /// The genre.
    pub preset: Preset,
    /// The place; none where there is none.
    pub venue: Option<Venue>,
}

impl Scene {
    /// What is wanted of `drum`, which sounds like `open` with nothing on it.
    pub fn wanted(&self, drum: &Drum, open: Option<&OpenSound>) -> Wanted {
        Wanted::new(&Situation { preset: &self.preset, music: &self.tonight.music, venue: self.venue.as_ref() }, drum, open)
    }
}

/// What is played as long as nothing was chosen.
fn usual_music() -> Music {
    Music::new("rock", 118.0)
}

impl Store {
    /// What was last chosen; a plain rock evening before anything was.
    pub fn tonight(&self) -> Result<KeptTonight, StoreError> {
        // A song, place or set list that was removed no longer counts.
        let kept = self
            .connection
            .query_row(
                "SELECT tonight.music, clear_surface, nothing_inside, song.id, song.content, venue.id, set_list.id, no_residue,
                    nothing_unsightly, within_a_minute, nothing_bought FROM tonight
                 LEFT JOIN song ON song.id = song_id AND song.gone_at IS NULL
                 LEFT JOIN venue ON venue.id = venue_id AND venue.gone_at IS NULL
                 LEFT JOIN set_list ON set_list.id = set_list_id AND set_list.gone_at IS NULL",
                [],
                |row| {
                    let limits = Limits {
                        clear_surface: row.get(1)?,
                        nothing_inside: row.get(2)?,
                        no_residue: row.get(7)?,
                        nothing_unsightly: row.get(8)?,
                        within_a_minute: row.get(9)?,
                        nothing_bought: row.get(10)?,
                    };
                    let music = (text(row, 0)?, optional_text(row, 4)?);
                    Ok((music, limits, row.get(3)?, row.get(5)?, row.get(6)?))
                },
            )
            .optional()?;
        let Some(((music, song), limits, song_id, venue_id, set_list_id)) = kept else {
            return Ok(KeptTonight { music: usual_music(), limits: Limits::default(), song_id: None, venue_id: None, set_list_id: None });
        };
        let song = song.as_ref().and_then(|song| serde_json::from_str(song).ok());
        let music = song.or_else(|| serde_json::from_str(&music).ok()).unwrap_or_else(usual_music);
        Ok(KeptTonight { music, limits, song_id, venue_id, set_list_id })
    }

    /// Changes what is played tonight, where, and what is ruled out.
    pub fn set_tonight(&mut self, kept: &KeptTonight) -> Result<(), StoreError> {
        if let Some(id) = kept.song_id {
            self.song(id)?;
        }
        if let Some(id) = kept.venue_id {
            self.venue(id)?;
        }
        if let Some(id) = kept.set_list_id {
            self.set_list(id)?;
        }
        self.connection.execute(
            "INSERT OR REPLACE INTO tonight (id, music, clear_surface, nothing_inside, song_id, venue_id, set_list_id, no_residue,
                nothing_unsightly, within_a_minute, nothing_bought) VALUES (1, ?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)",
            (
                serde_json::to_string(&kept.music)?,
                kept.limits.clear_surface,
                kept.limits.nothing_inside,
                kept.song_id,
                kept.venue_id,
                kept.set_list_id,
                kept.limits.no_residue,
                kept.limits.nothing_unsightly,
                kept.limits.within_a_minute,
                kept.limits.nothing_bought,
            ),
        )?;
        Ok(())
    }

    /// Tonight with the genre and the place it names.
    pub fn scene(&self) -> Result<Scene, StoreError> {
        let tonight = self.tonight()?;
        let preset = self.preset_or_general(&tonight.music.genre)?;
        let venue = tonight.venue_id.map(|id| self.venue(id)).transpose()?.map(|kept| kept.venue);
        Ok(Scene { tonight, preset, venue })
    }
}
