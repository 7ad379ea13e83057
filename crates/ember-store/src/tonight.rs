//! What is played tonight, where, and what the player rules out.

use crate::damaged::{optional_text, text};
use crate::{Store, StoreError};
use ember_core::drum::Drum;
use ember_core::plan::Limits;
use ember_core::target::{Music, OpenSound, Preset, Situation, TimeKeeper, Wanted};
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
    /// Number of the kit that is played; null for the first.
    #[serde(default)]
    pub kit_id: Option<i64>,
}

/// All that decides what is wanted tonight.
#[derive(Debug, Clone)]
pub struct Scene {
    /// What is played tonight, where, and what is ruled out.
    pub tonight: KeptTonight,
    /// What is ruled out, by the player or because the kit is borrowed.
    pub limits: Limits,
    /// Whether the kit is somebody else's.
    pub borrowed: bool,
    /// The genre.
    pub preset: Preset,
    /// The place; none where there is none.
    pub venue: Option<Venue>,
    /// The kit's cymbals that keep time, where the band was measured there.
    pub time_keepers: Vec<TimeKeeper>,
}

impl Scene {
    /// What is wanted of `drum`, which sounds like `open` with nothing on it.
    pub fn wanted(&self, drum: &Drum, open: Option<&OpenSound>) -> Wanted {
        Wanted::new(
            &Situation { preset: &self.preset, music: &self.tonight.music, venue: self.venue.as_ref(), time_keepers: &self.time_keepers },
            drum,
            open,
        )
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
                "SELECT tonight.music, song.content, limits, song.id, venue.id, set_list.id, kit.id FROM tonight
                 LEFT JOIN song ON song.id = song_id AND song.gone_at IS NULL
                 LEFT JOIN venue ON venue.id = venue_id AND venue.gone_at IS NULL
                 LEFT JOIN set_list ON set_list.id = set_list_id AND set_list.gone_at IS NULL
                 LEFT JOIN kit ON kit.id = kit_id AND kit.gone_at IS NULL",
                [],
                |row| {
                    let texts = (text(row, 0)?, optional_text(row, 1)?, text(row, 2)?);
                    Ok((texts, [row.get(3)?, row.get(4)?, row.get(5)?, row.get(6)?]))
                },
            )
            .optional()?;
        let Some(((music, song, limits), [song_id, venue_id, set_list_id, kit_id])) = kept else {
            let (music, limits) = (usual_music(), Limits::default());
            return Ok(KeptTonight { music, limits, song_id: None, venue_id: None, set_list_id: None, kit_id: None });
        };
        let song = song.as_ref().and_then(|song| serde_json::from_str(song).ok());
        let music = song.or_else(|| serde_json::from_str(&music).ok()).unwrap_or_else(usual_music);
        let limits = serde_json::from_str(&limits).unwrap_or_default();
        Ok(KeptTonight { music, limits, song_id, venue_id, set_list_id, kit_id })
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
        if let Some(id) = kept.kit_id {
            self.kit(id)?;
        }
        self.connection.execute(
            "INSERT OR REPLACE INTO tonight (id, music, limits, song_id, venue_id, set_list_id, kit_id) VALUES (1, ?1, ?2, ?3, ?4, ?5, ?6)",
            (
                serde_json::to_string(&kept.music)?,
                serde_json::to_string(&kept.limits)?,
                kept.song_id,
                kept.venue_id,
                kept.set_list_id,
                kept.kit_id,
            ),
        )?;
        Ok(())
    }

    /// Tonight with the kit, the genre and the place it names.
    pub fn scene(&self) -> Result<Scene, StoreError> {
        let tonight = self.tonight()?;
        let preset = self.preset_or_general(&tonight.music.genre)?;
        let venue = tonight.venue_id.map(|id| self.venue(id)).transpose()?.map(|kept| kept.venue);
        let borrowed = self.kit_tonight()?.is_some_and(|kept| kept.kit.borrowed);
        let limits = if borrowed { tonight.limits.of_a_borrowed_kit() } else { tonight.limits };
        let time_keepers = self.time_keepers(tonight.kit_id, venue.as_ref())?;
        Ok(Scene { tonight, limits, borrowed, preset, venue, time_keepers })
    }

    /// The cymbals of a kit that keep time, as they were last measured with nothing on them; none where no band was measured in `venue`, for only with one
    /// they count.
    pub fn time_keepers(&self, kit_id: Option<i64>, venue: Option<&Venue>) -> Result<Vec<TimeKeeper>, StoreError> {
        if venue.is_none_or(|venue| venue.band.is_none()) {
            return Ok(Vec::new());
        }
        let mut keepers = Vec::new();
        for (kept, at) in self.drums_of_kit(kit_id)? {
            if at.in_case || !TimeKeeper::may_be(&kept.drum) {
                continue;
            }
            let take = self.newest_take(kept.id, None)?;
            keepers.extend(take.and_then(|take| TimeKeeper::new(&kept.drum, &take.partials, &take.summary)));
        }
        Ok(keepers)
    }
}
