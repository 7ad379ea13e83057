//! Genres: those that come with the program, those of them the user changed, and the user's own.

use crate::damaged::text;
use crate::{Refused, Store, StoreError};
use ember_core::target::{NO_GENRE, Preset, built_in_preset, built_in_presets};
use ember_words::{Words, text};
use rusqlite::OptionalExtension;
use serde::{Deserialize, Serialize};

/// Where a preset comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Origin {
    /// Built in.
    BuiltIn,
    /// Built in, with the user's changes.
    Changed,
    /// The user's own.
    Own,
}

/// A preset with where it comes from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptPreset {
    /// Where it comes from.
    pub origin: Origin,
    /// What it is called, in the language of whoever reads it.
    pub said_name: Words,
    /// Why its figures are as they are, likewise.
    pub said_reason: Words,
    /// The genre.
    #[serde(flatten)]
    pub preset: Preset,
}

impl KeptPreset {
    /// A `preset` that comes from `origin`.
    pub fn new(origin: Origin, preset: Preset) -> Self {
        Self { origin, said_name: preset.said_name(), said_reason: preset.said_reason(), preset }
    }
}

impl Store {
    /// Built-in ones from open to dead, then the user's own by name.
    pub fn presets(&self) -> Result<Vec<KeptPreset>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT content FROM preset ORDER BY code")?;
        let rows = statement.query_map([], |row| text(row, 0))?.collect::<Result<Vec<_>, _>>()?;
        // They have no numbers; their place among them tells which is meant.
        let numbered = rows.iter().zip(1..).map(|(content, number)| (number, serde_json::from_str(content).map_err(StoreError::from)));
        let mut kept: Vec<Preset> = self.readable(text!("genre of your own"), numbered)?;
        let mut presets: Vec<KeptPreset> = built_in_presets()
            .iter()
            .map(|preset| match kept.iter().position(|other| other.code == preset.code) {
                Some(at) => KeptPreset::new(Origin::Changed, kept.swap_remove(at)),
                None => KeptPreset::new(Origin::BuiltIn, preset.clone()),
            })
            .collect();
        kept.sort_by_key(|preset| preset.name.to_lowercase());
        presets.extend(kept.into_iter().map(|preset| KeptPreset::new(Origin::Own, preset)));
        Ok(presets)
    }

    /// The preset with this code; the general one where there is none by now.
    pub fn preset_or_general(&self, code: &str) -> Result<Preset, StoreError> {
        let found = self.preset(code)?;
        match found {
            Some(preset) => Ok(preset),
            None => self.preset(NO_GENRE)?.ok_or_else(|| Refused::NoGeneralGenre.into()),
        }
    }

    /// The preset with this code.
    pub fn preset(&self, code: &str) -> Result<Option<Preset>, StoreError> {
        let kept: Option<String> =
            self.connection.query_row("SELECT content FROM preset WHERE code = ?1", [code], |row| text(row, 0)).optional()?;
        Ok(match kept {
            // A damaged change of a built-in one leaves what it was.
            Some(content) => match serde_json::from_str(&content) {
                Ok(preset) => Some(preset),
                Err(_) => built_in_preset(code).cloned(),
            },
            None => built_in_preset(code).cloned(),
        })
    }

    /// Keeps a preset under its code, in place of what was there.
    pub fn set_preset(&mut self, preset: &Preset) -> Result<(), StoreError> {
        if built_in_preset(&preset.code) == Some(preset) {
            self.connection.execute("DELETE FROM preset WHERE code = ?1", [&preset.code])?;
            return Ok(());
        }
        self.connection
            .execute("INSERT OR REPLACE INTO preset (code, content) VALUES (?1, ?2)", (&preset.code, serde_json::to_string(preset)?))?;
        Ok(())
    }

    /// Makes a built-in preset what it was, or removes one of the user's own, as long as nothing is played by it.
    pub fn reset_preset(&mut self, code: &str) -> Result<(), StoreError> {
        if built_in_preset(code).is_none() {
            if self.preset(code)?.is_none() {
                return Err(Refused::UnknownGenre(code.to_string()).into());
            }
            let songs: i64 = self.connection.query_row(
                "SELECT count(*) FROM song WHERE gone_at IS NULL AND json_extract(content, '$.genre') = ?1",
                [code],
                |row| row.get(0),
            )?;
            let tonight = self.tonight()?.music.genre == code;
            if songs > 0 || tonight {
                return Err(Refused::GenreInUse { songs }.into());
            }
        }
        self.connection.execute("DELETE FROM preset WHERE code = ?1", [code])?;
        Ok(())
    }
}
