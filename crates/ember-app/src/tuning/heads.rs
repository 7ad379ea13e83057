//! The head that is on a drum, how it has worn, and what another one would do.

use super::view::head_of;
use ember_core::damping::{HeadEffect, HeadLosses};
use ember_core::drum::{Head, HeadSide};
use ember_core::units::cents;
use ember_store::{Store, StoreError};
use ember_words::{Joined, Words, text, words};
use serde::Serialize;
use utoipa::ToSchema;

/// Another head and what it should do in place of the one that is on.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct HeadOption {
    /// The head.
    pub head: Head,
    /// What it is, in words.
    pub words: Words,
    /// What it would do.
    pub effect: HeadEffect,
}

/// How the open drum has changed on the same heads, tuned alike.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Drift {
    /// The first take on these heads, ms since 1970, UTC.
    pub since: i64,
    /// How far the body's pitch has moved, cents; null where it is not known.
    pub body_cents: Option<f64>,
    /// T60 of the ring in the first take and in the newest, s.
    pub ring_before_s: Option<f64>,
    /// T60 of the ring in the newest take, s.
    pub ring_now_s: Option<f64>,
    /// The same as a sentence.
    pub sentence: Words,
}

/// The head that is on.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct HeadState {
    /// Null where it is off.
    pub head: Option<Head>,
    /// What it is, in words.
    pub words: Words,
    /// When it was put on; null where that was not noted.
    pub since: Option<i64>,
    /// How the drum has changed since; null where that is not known.
    pub drift: Option<Drift>,
    /// What others would do in its place, at the same tension; for batter heads, whose decay is heard.
    pub options: Vec<HeadOption>,
    /// Changes of heads that this has learned from.
    pub learned_from: usize,
}

/// Reads the head on `side`.
pub fn head_state(store: &Store, drum_id: i64, side: HeadSide) -> Result<HeadState, StoreError> {
    let drum = store.drum(drum_id)?.drum;
    let head = head_of(&drum, side);
    let losses = HeadLosses::learned(&store.head_trials()?);
    let options = match head.filter(|_| side == HeadSide::Batter) {
        Some(now) => {
            others(now).into_iter().map(|head| HeadOption { head, words: head.words(), effect: losses.effect(&drum, now, head) }).collect()
        }
        None => Vec::new(),
    };
    let since = store.head_changes(drum_id)?.iter().find(|change| change.side == side).map(|change| change.at);
    Ok(HeadState {
        head,
        words: head.map_or_else(|| words!("off"), Head::words),
        since,
        drift: drift(store, drum_id)?,
        options,
        learned_from: losses.trials(),
    })
}

/// The usual other heads, new.
fn others(now: Head) -> Vec<Head> {
    let (single, double) = (Head::plain(10.0), Head::double(14.0));
    let kinds = [
        single,
        Head { coated: true, ..single },
        Head { coated: true, dot: true, ..single },
        double,
        Head { coated: true, ..double },
        Head { edge_ring: true, ..double },
        Head { oil: true, ..double },
    ];
    let mut others: Vec<Head> = kinds.into_iter().filter(|head| *head != Head { played_h: 0.0, ..now }).collect();
    if now.played_h >= 20.0 {
        others.insert(0, Head { played_h: 0.0, ..now });
    }
    others
}

fn drift(store: &Store, drum_id: i64) -> Result<Option<Drift>, StoreError> {
    // Rods that were turned change more than wear does.
    let Some((first, newest)) = store.first_and_newest(drum_id, store.last_turned(drum_id)?)? else { return Ok(None) };
    let (before, now) = (&first.summary.profile, &newest.summary.profile);
    let body_cents = before.body_hz.zip(now.body_hz).map(|(before, now)| cents(before, now));
    let ring = before.ring_t60_s.zip(now.ring_t60_s);
    let pitch = body_cents.map(|by| match by.round() as i64 {
        0 => words!("the body has kept its pitch"),
        by => words!("the body has gone {} by {} cents", if by < 0 { text!("down") } else { text!("up") }, by.abs()),
    });
    let length = ring.map(|(before, now)| words!("the ring from {before:.2} to {now:.2} s"));
    let parts: Vec<Words> = pitch.into_iter().chain(length).collect();
    if parts.is_empty() {
        return Ok(None);
    }
    Ok(Some(Drift {
        since: first.begun_at,
        body_cents,
        ring_before_s: before.ring_t60_s,
        ring_now_s: now.ring_t60_s,
        sentence: words!("Since the first take on these heads as they are tuned {}.", Words::list(Joined::Comma, parts)),
    }))
}
