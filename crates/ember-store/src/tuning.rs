//! Rounds of taps on heads, what was turned after them, and what heads are to be tuned to.

use crate::damaged::{optional_text, text};
use crate::{Source, Store, StoreError, order};
use ember_core::drum::HeadSide;
use ember_core::tuning::{RoundPitches, TapFault, TurnTrial};
use ember_words::text;
use rusqlite::{OptionalExtension, Row, params};
use serde::{Deserialize, Serialize};

/// Doubt of a trial's lug pitches where their own is not known, cents.
const USUAL_SD_CENTS: f64 = 1.5;

/// Rounds on one head that are looked back on.
const MOST_ROUNDS: usize = 60;

/// A round of taps.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptRound {
    /// Its number.
    pub id: i64,
    /// Number of the drum.
    pub drum_id: i64,
    /// Which head.
    pub side: HeadSide,
    /// Where its sound came from.
    pub source: Source,
    /// Milliseconds since 1970, UTC, as the clock said.
    pub begun_at: i64,
    /// Its place in the order of all that happened, whatever the clock said.
    pub seq: i64,
    /// How many lugs it has.
    pub lugs: usize,
    /// What its taps say.
    pub pitches: RoundPitches,
    /// Eighths of a turn that each rod was given after it, in hoop order; null where none were reported.
    pub turned: Option<Vec<i32>>,
}

impl KeptRound {
    /// Pitch of each lug in hoop order, Hz; none where it was not heard.
    pub fn lug_hz(&self) -> Vec<Option<f64>> {
        let of = |lug| self.pitches.lugs.iter().find(|pitch| pitch.lug == lug).map(|pitch| pitch.hz);
        (0..self.lugs).map(of).collect()
    }

    /// Whether every lug was heard.
    pub fn complete(&self) -> bool {
        self.pitches.lugs.len() >= self.lugs
    }

    /// Typical doubt of its lug pitches, cents.
    pub fn sd_cents(&self) -> f64 {
        let sds: Vec<f64> = self.pitches.lugs.iter().map(|pitch| pitch.sd_cents).collect();
        ember_core::units::median(&sds).unwrap_or(USUAL_SD_CENTS)
    }
}

/// One tap as it is kept.
#[derive(Debug, Clone)]
pub struct KeptTap {
    /// Number of the lug, from 0.
    pub lug: usize,
    /// FLAC.
    pub sound: Vec<u8>,
    /// Index of the hit in the samples.
    pub onset_index: usize,
}

const COLUMNS: &str = "id, drum_id, side, source, begun_at, lugs, pitches, turned, seq";
/// Columns that are codes or JSON: source, side, pitches, what was turned.
type Texts = ([String; 3], Option<String>);

pub(crate) fn side_code(side: HeadSide) -> &'static str {
    match side {
        HeadSide::Batter => "batter",
        HeadSide::Lower => "lower",
    }
}

/// The head that a code stands for; one that nobody knows is an error.
pub(crate) fn side_of(code: &str) -> Result<HeadSide, serde_json::Error> {
    serde_json::from_value(code.into())
}

fn read(row: &Row) -> rusqlite::Result<(KeptRound, Texts)> {
    let round = KeptRound {
        id: row.get(0)?,
        drum_id: row.get(1)?,
        side: HeadSide::Batter,
        source: Source::File,
        begun_at: row.get(4)?,
        seq: row.get(8)?,
        lugs: row.get::<_, i64>(5)? as usize,
        pitches: RoundPitches::default(),
        turned: None,
    };
    Ok((round, ([text(row, 3)?, text(row, 2)?, text(row, 6)?], optional_text(row, 7)?)))
}

fn with_texts((mut round, ([source, side, pitches], turned)): (KeptRound, Texts)) -> Result<KeptRound, StoreError> {
    round.source = Source::of_code(&source)?;
    round.side = side_of(&side)?;
    round.pitches = serde_json::from_str(&pitches)?;
    round.turned = turned.map(|text| serde_json::from_str(&text)).transpose()?;
    Ok(round)
}

impl Store {
    /// Begins a round on a head of `lugs` lugs.
    pub fn begin_round(
        &mut self,
        drum_id: i64,
        side: HeadSide,
        lugs: usize,
        source: Source,
        begun_at: i64,
    ) -> Result<KeptRound, StoreError> {
        self.drum(drum_id)?;
        self.connection.execute(
            "INSERT INTO tuning_round (drum_id, side, source, begun_at, lugs, pitches, seq) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
            params![
                drum_id,
                side_code(side),
                source.code(),
                begun_at,
                lugs as i64,
                serde_json::to_string(&RoundPitches::default())?,
                order::next(&self.connection)?
            ],
        )?;
        self.round(self.connection.last_insert_rowid())
    }

    /// The round with this number.
    pub fn round(&self, id: i64) -> Result<KeptRound, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM tuning_round WHERE id = ?1"))?;
        with_texts(statement.query_row([id], read).map_err(StoreError::missing(text!("round"), id))?)
    }

    /// Keeps a tap and what the round says with it. When this returns both are on the disk.
    pub fn add_tap(
        &mut self,
        round_id: i64,
        tap: &KeptTap,
        fault: Option<TapFault>,
        heard_at: i64,
        pitches: &RoundPitches,
    ) -> Result<KeptRound, StoreError> {
        let fault = fault.map(serde_json::to_value).transpose()?.and_then(|code| code.as_str().map(str::to_string));
        let transaction = self.connection.transaction()?;
        transaction.execute(
            "INSERT INTO tap (round_id, lug, heard_at, fault, sound, onset_index) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
            params![round_id, tap.lug as i64, heard_at, fault, tap.sound, tap.onset_index as i64],
        )?;
        transaction.execute("UPDATE tuning_round SET pitches = ?2 WHERE id = ?1", (round_id, serde_json::to_string(pitches)?))?;
        transaction.commit()?;
        self.round(round_id)
    }

    /// The taps of a round that count: of each lug the last one without a fault, in the order they were heard.
    pub fn taps(&self, round_id: i64) -> Result<Vec<KeptTap>, StoreError> {
        let mut statement = self.connection.prepare_cached(
            "SELECT lug, sound, onset_index FROM tap WHERE id IN
             (SELECT max(id) FROM tap WHERE round_id = ?1 AND fault IS NULL GROUP BY lug) ORDER BY id",
        )?;
        let read = |row: &Row| {
            Ok(KeptTap { lug: row.get::<_, i64>(0)? as usize, sound: row.get(1)?, onset_index: row.get::<_, i64>(2)? as usize })
        };
        Ok(statement.query_map([round_id], read)?.collect::<Result<_, _>>()?)
    }

    /// The newest rounds on the head that is on the drum now, newest first, those with another number of lugs left out.
    pub fn rounds(&self, drum_id: i64, side: HeadSide) -> Result<Vec<KeptRound>, StoreError> {
        let lugs = i64::from(self.drum(drum_id)?.drum.lugs);
        let mut statement = self.connection.prepare_cached(&format!(
            "SELECT {COLUMNS} FROM tuning_round WHERE drum_id = ?1 AND side = ?2 AND lugs = ?3 AND gone_at IS NULL
             AND seq > coalesce((SELECT max(seq) FROM head_change
                 WHERE head_change.drum_id = ?1 AND head_change.side = ?2 AND head_change.gone_at IS NULL), 0)
             ORDER BY seq DESC LIMIT {MOST_ROUNDS}"
        ))?;
        let rows = statement.query_map((drum_id, side_code(side), lugs), read)?.collect::<Result<Vec<_>, _>>()?;
        self.readable(text!("round"), rows.into_iter().map(|row| (row.0.id, with_texts(row))))
    }

    /// Says what was turned after a round, or, with none, that nothing was.
    pub fn set_turned(&mut self, round_id: i64, turned: Option<&[i32]>) -> Result<KeptRound, StoreError> {
        let text = turned.map(serde_json::to_string).transpose()?;
        match self.connection.execute("UPDATE tuning_round SET turned = ?2 WHERE id = ?1", (round_id, text))? {
            0 => Err(StoreError::NotFound { what: text!("round"), id: round_id }),
            _ => self.round(round_id),
        }
    }

    /// Marks a round as removed at `gone_at`, or brings it back.
    pub fn set_round_gone(&mut self, round_id: i64, gone_at: Option<i64>) -> Result<(), StoreError> {
        match self.connection.execute("UPDATE tuning_round SET gone_at = ?2 WHERE id = ?1", (round_id, gone_at))? {
            0 => Err(StoreError::NotFound { what: text!("round"), id: round_id }),
            _ => Ok(()),
        }
    }

    /// When a rod of either head was last turned, as far as that was noted, in the order of all that happened; 0 for never.
    pub fn last_turned(&self, drum_id: i64) -> Result<i64, StoreError> {
        let mut statement = self.connection.prepare_cached(
            "SELECT coalesce(max(seq), 0) FROM (
                 SELECT seq FROM tuning_round WHERE drum_id = ?1 AND turned IS NOT NULL AND gone_at IS NULL
                 UNION ALL SELECT max(begun_seq, coalesce(ended_seq, 0)) FROM uneven WHERE drum_id = ?1 AND gone_at IS NULL)",
        )?;
        Ok(statement.query_row([drum_id], |row| row.get(0))?)
    }

    /// Pitch that the lugs of a head are to have, Hz.
    pub fn wanted_hz(&self, drum_id: i64, side: HeadSide) -> Result<Option<f64>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT wanted_hz FROM head WHERE drum_id = ?1 AND side = ?2")?;
        Ok(statement.query_row((drum_id, side_code(side)), |row| row.get(0)).optional()?.flatten())
    }

    /// Says what pitch the lugs of a head are to have; with none, they are to be even at the pitch the head has.
    pub fn set_wanted_hz(&mut self, drum_id: i64, side: HeadSide, hz: Option<f64>) -> Result<(), StoreError> {
        self.drum(drum_id)?;
        self.connection.execute(
            "INSERT INTO head (drum_id, side, wanted_hz) VALUES (?1, ?2, ?3)
             ON CONFLICT (drum_id, side) DO UPDATE SET wanted_hz = excluded.wanted_hz",
            (drum_id, side_code(side), hz),
        )?;
        Ok(())
    }

    /// When a head was last seated, from finger-tight rods, in the order of all that happened.
    pub fn seated_seq(&self, drum_id: i64, side: HeadSide) -> Result<Option<i64>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT seated_seq FROM head WHERE drum_id = ?1 AND side = ?2")?;
        Ok(statement.query_row((drum_id, side_code(side)), |row| row.get(0)).optional()?.flatten())
    }

    /// Says that a head was seated at `at`, from finger-tight rods.
    pub fn set_seated(&mut self, drum_id: i64, side: HeadSide, at: i64) -> Result<(), StoreError> {
        self.drum(drum_id)?;
        self.connection.execute(
            "INSERT INTO head (drum_id, side, seated_at, seated_seq) VALUES (?1, ?2, ?3, ?4)
             ON CONFLICT (drum_id, side) DO UPDATE SET seated_at = excluded.seated_at, seated_seq = excluded.seated_seq",
            (drum_id, side_code(side), at, order::next(&self.connection)?),
        )?;
        Ok(())
    }
}

/// What turns between `rounds` (newest first) did: each pair of complete rounds with the turns reported between them. Nothing is
/// learned across `breaks` (places in the order of all that happened), at which rods were turned otherwise.
pub fn trials(rounds: &[KeptRound], breaks: &[i64]) -> Vec<TurnTrial> {
    let pairs = rounds.windows(2).rev().filter_map(|pair| {
        let (after, before) = (&pair[0], &pair[1]);
        // A simulated head teaches nothing about a real one.
        let broken = breaks.iter().any(|at| (before.seq..=after.seq).contains(at));
        if after.source != before.source || broken {
            return None;
        }
        let eighths = before.turned.clone()?;
        let sd_cents = before.sd_cents().max(after.sd_cents());
        Some(TurnTrial { before_hz: before.lug_hz(), eighths, after_hz: after.lug_hz(), sd_cents })
    });
    pairs.collect()
}

/// What all turns reported on a head come to for each rod, eighths.
pub fn turned_in_all(rounds: &[KeptRound], lugs: usize) -> Vec<i32> {
    let mut sum = vec![0; lugs];
    for turned in rounds.iter().filter_map(|round| round.turned.as_ref()) {
        sum.iter_mut().zip(turned).for_each(|(sum, eighths)| *sum += eighths);
    }
    sum
}
