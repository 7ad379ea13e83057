//! The next turns: which rods, by how many eighths, in which order, to make a head even or bring it to a pitch.

use super::influence::Influence;
use super::pattern::{FEWEST_LUGS, crosswise};
use super::tension::{TensionLimit, head_from_lugs, lugs_from_head, tension, tension_limit};
use crate::drum::{Drum, Head};
use crate::units::cents;
use ember_words::{Words, text, words};
use serde::{Deserialize, Serialize};

/// Most that one rod is turned in one go, eighths: before its head has shown what a turn does, and after.
const MOST_AT_FIRST: i32 = 6;
const MOST_EIGHTHS: i32 = 12;
/// A head whose lugs lie within this is even to the ear, cents (common practice, no published source).
pub const EVEN_CENTS: f64 = 8.0;
/// What an eighth more costs against a lug that is off, as a squared number of cents.
const EIGHTH_COSTS: f64 = 0.12;
/// What one more rod costs.
const ROD_COSTS: f64 = 0.3;
/// What the variance of an expected pitch counts for against a lug that is off, squared.
const UNSURE_COUNTS: f64 = 0.1;
/// What the squared distance from the highest to the lowest lug counts for.
const SPREAD_COUNTS: f64 = 0.15;
/// A rod that holds less than this works itself loose, N (from experience, no source).
const SLACK_ROD_N: f64 = 40.0;
/// A rod stays at least so much up from finger-tight, eighths (from experience, no source).
const LEAST_TURNED: i32 = 1;
/// What one bolt is turned by, eighths, and how far above the usual pitch it reaches, cents (from experience, no source).
const HALF_TURN: i32 = 4;
const BOLT_REACHES_CENTS: f64 = 300.0;
/// Lay-outs of turns that are followed up at each step.
const BEAM: usize = 48;

/// What is wanted of a head.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Goal {
    /// Even at the pitch it has.
    Even,
    /// Even, its lugs at this pitch, Hz.
    Pitch(f64),
}

/// One rod to turn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Turn {
    /// Number of the lug from 0, clockwise from the first.
    pub lug: usize,
    /// Eighths of a turn, tighter positive.
    pub eighths: i32,
}

/// What the next turns are expected to do.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextTurns {
    /// In the order in which to make them: crosswise.
    pub turns: Vec<Turn>,
    /// Lug pitches expected after them, Hz, in hoop order. Null where a lug was not heard.
    pub expected_hz: Vec<Option<f64>>,
    /// Doubt of one of them, cents.
    pub sd_cents: f64,
    /// Highest above lowest lug expected, cents.
    pub expected_spread_cents: f64,
    /// Whether nothing needs turning.
    pub done: bool,
    /// What to look out for, as sentences.
    pub cautions: Vec<Words>,
}

/// The head whose rods are turned.
#[derive(Debug, Clone, Copy)]
pub struct TurnedHead<'a> {
    /// The drum.
    pub drum: &'a Drum,
    /// The head.
    pub head: Head,
    /// What each rod does to each lug.
    pub influence: &'a Influence,
    /// What each rod was turned since the head was seated finger-tight, eighths. Null where that is not known.
    pub since_seated: Option<&'a [i32]>,
}

/// The next turns from lug pitches `now_hz` (in hoop order, null where not heard) with a doubt of `sd_cents` each.
/// `None` with fewer than half of the lugs heard.
pub fn next_turns(head: &TurnedHead, now_hz: &[Option<f64>], sd_cents: f64, goal: Goal) -> Option<NextTurns> {
    let lugs = head.influence.lugs();
    let heard: Vec<f64> = now_hz.iter().flatten().copied().collect();
    if now_hz.len() != lugs || heard.is_empty() || 2 * heard.len() < lugs {
        return None;
    }
    if lugs < FEWEST_LUGS {
        return Some(half_turns(head, heard[0], sd_cents, goal));
    }
    let search = Search { influence: head.influence, now_hz, goal, since_seated: head.since_seated };
    let spread_now = spread(now_hz);
    let off_goal = match goal {
        Goal::Even => 0.0,
        Goal::Pitch(hz) => cents(hz, mean(&heard)).abs(),
    };
    // Turning on what is only doubt would chase its own tail.
    let done = spread_now <= EVEN_CENTS.max(2.5 * sd_cents.min(8.0)) && off_goal <= EVEN_CENTS;
    let eighths = if done { vec![0; lugs] } else { search.best() };
    let expected_hz = search.expected(&eighths);
    let sd = (0..lugs)
        .filter_map(|lug| expected_hz[lug].map(|hz| head.influence.sd(lug, &eighths) / (2.0 * hz * hz)))
        .map(|relative| 1200.0 / std::f64::consts::LN_2 * relative)
        .fold(0.0, f64::max);
    let turns = crosswise(lugs).into_iter().filter(|lug| eighths[*lug] != 0).map(|lug| Turn { lug, eighths: eighths[lug] }).collect();
    Some(NextTurns {
        turns,
        expected_spread_cents: spread(&expected_hz),
        cautions: cautions(head, &eighths, &expected_hz, goal),
        expected_hz,
        sd_cents: sd.hypot(sd_cents),
        done,
    })
}

/// One bolt pulls the whole hoop: it is turned by half turns, each a clear step of pitch, and reaches no high tension (CP 11).
fn half_turns(head: &TurnedHead, now_hz: f64, sd_cents: f64, goal: Goal) -> NextTurns {
    let wanted_hz = match goal {
        Goal::Even => now_hz,
        Goal::Pitch(hz) => hz,
    };
    let most = (MOST_EIGHTHS / HALF_TURN) as f64;
    let halves = (head.influence.all_rods(now_hz, wanted_hz) / f64::from(HALF_TURN)).round().clamp(-most, most) as i32;
    let eighths = vec![HALF_TURN * halves];
    let expected = head.influence.after(&[now_hz * now_hz], &eighths)[0].max(1.0).sqrt();
    let mut cautions = cautions(head, &eighths, &[Some(expected)], goal);
    let usual_hz = lugs_from_head(head.drum.usual_batter_hz());
    if cents(usual_hz, wanted_hz) > BOLT_REACHES_CENTS {
        cautions
            .push(words!("One bolt does not reach so high a tension. Stop where it gets hard; more strips its thread or bends the hoop."));
    }
    NextTurns {
        turns: eighths.iter().filter(|e| **e != 0).map(|e| Turn { lug: 0, eighths: *e }).collect(),
        expected_hz: vec![Some(expected)],
        sd_cents: (1731.0 * head.influence.sd(0, &eighths) / (2.0 * expected * expected)).hypot(sd_cents),
        expected_spread_cents: 0.0,
        done: halves == 0,
        cautions,
    }
}

fn mean(hz: &[f64]) -> f64 {
    (hz.iter().map(|hz| hz.ln()).sum::<f64>() / hz.len().max(1) as f64).exp()
}

/// Highest above lowest, cents.
fn spread(hz: &[Option<f64>]) -> f64 {
    let (low, high) = hz.iter().flatten().fold((f64::INFINITY, 0.0), |(low, high): (f64, f64), hz| (low.min(*hz), high.max(*hz)));
    if low.is_finite() { cents(low, high) } else { 0.0 }
}

struct Search<'a> {
    influence: &'a Influence,
    now_hz: &'a [Option<f64>],
    goal: Goal,
    since_seated: Option<&'a [i32]>,
}

impl Search<'_> {
    /// The furthest that a rod can be turned back, eighths (not positive), when at most `most` are turned: it has to stay [`LEAST_TURNED`] up from
    /// finger-tight, or it turns by itself.
    fn furthest_back(&self, rod: usize, most: i32) -> i32 {
        self.since_seated.map_or(-most, |since| (LEAST_TURNED - since[rod]).clamp(-most, 0))
    }

    fn expected(&self, eighths: &[i32]) -> Vec<Option<f64>> {
        let squares: Vec<f64> = self.now_hz.iter().map(|hz| hz.map_or(0.0, |hz| hz * hz)).collect();
        let after = self.influence.after(&squares, eighths);
        self.now_hz.iter().zip(after).map(|(hz, square)| hz.map(|_| square.max(1.0).sqrt())).collect()
    }

    /// What a lay-out of turns costs: how far lugs are off, how many rods and how much, and how far from sure it is.
    fn cost(&self, eighths: &[i32]) -> f64 {
        let expected = self.expected(eighths);
        let heard: Vec<f64> = expected.iter().flatten().copied().collect();
        let wanted = match self.goal {
            Goal::Even => mean(&heard),
            Goal::Pitch(hz) => hz,
        };
        let unsure = |lug: usize, hz: f64| 1731.0 * self.influence.sd(lug, eighths) / (2.0 * hz * hz);
        let off = expected
            .iter()
            .enumerate()
            .filter_map(|(lug, hz)| hz.map(|hz| cents(wanted, hz).powi(2) + UNSURE_COUNTS * unsure(lug, hz).powi(2)));
        let rods = eighths.iter().filter(|t| **t != 0).count() as f64;
        let turned: i32 = eighths.iter().map(|t| t.abs()).sum();
        // Both the sum and the worst pair count: one lug far off is heard however alike the others are.
        off.sum::<f64>() / heard.len().max(1) as f64
            + SPREAD_COUNTS * spread(&expected).powi(2)
            + ROD_COSTS * rods
            + EIGHTH_COSTS * f64::from(turned)
    }

    /// The cheapest lay-out that a beam of single eighths leads to, from none and from all rods alike.
    fn best(&self) -> Vec<i32> {
        let lugs = self.influence.lugs();
        // A lug that was not heard may have no rod: it is left as it is.
        let has_rod = |lug: usize| self.now_hz[lug].is_some();
        let mut best = vec![0; lugs];
        let mut least = self.cost(&best);
        let most = if self.influence.trials() == 0 { MOST_AT_FIRST } else { MOST_EIGHTHS };
        let furthest_back: &[i32] = &(0..lugs).map(|rod| self.furthest_back(rod, most)).collect::<Vec<_>>();
        let all_by = |all: i32| (0..lugs).map(|lug| if has_rod(lug) { all.max(furthest_back[lug]) } else { 0 }).collect::<Vec<i32>>();
        let starts = (-most..=most).map(all_by);
        let mut beam: Vec<(f64, Vec<i32>)> = starts.map(|start| (self.cost(&start), start)).collect();
        if self.goal == Goal::Even {
            beam.retain(|(_, start)| start.iter().all(|t| *t == 0));
        }
        let mut idle = 0;
        // A step that gains nothing by itself may open the way for one that does: go on a few steps more.
        while idle < 4 {
            beam.sort_by(|a, b| a.0.total_cmp(&b.0).then_with(|| a.1.cmp(&b.1)));
            beam.dedup_by(|a, b| a.1 == b.1);
            beam.truncate(BEAM);
            idle += 1;
            for (cost, eighths) in &beam {
                if *cost < least - 1e-9 {
                    (least, best, idle) = (*cost, eighths.clone(), 0);
                }
            }
            let next = beam.iter().flat_map(|(_, eighths)| {
                (0..2 * lugs).filter(|step| has_rod(step / 2)).filter_map(move |step| {
                    let mut next = eighths.clone();
                    next[step / 2] += if step % 2 == 0 { 1 } else { -1 };
                    (furthest_back[step / 2]..=most).contains(&next[step / 2]).then_some(next)
                })
            });
            let mut next: Vec<Vec<i32>> = next.collect();
            next.sort();
            next.dedup();
            beam = next.into_iter().map(|eighths| (self.cost(&eighths), eighths)).collect();
        }
        best
    }
}

/// Says how far down the head goes where the wish lies further down than its rods can follow.
fn lowest_sentence(head: &TurnedHead, eighths: &[i32], expected_hz: &[Option<f64>], goal: Goal) -> Option<Words> {
    let Goal::Pitch(wanted_hz) = goal else { return None };
    let since = head.since_seated?;
    let heard: Vec<f64> = expected_hz.iter().flatten().copied().collect();
    let at_their_end = since.iter().zip(eighths).any(|(since, turned)| since + turned <= LEAST_TURNED);
    (at_their_end && !heard.is_empty() && cents(wanted_hz, mean(&heard)) > EVEN_CENTS).then(|| {
        words!(
            "{:.0} Hz is as low as these rods go: further down they get too slack to hold and turn by themselves while you play.",
            mean(&heard)
        )
    })
}

fn cautions(head: &TurnedHead, eighths: &[i32], expected_hz: &[Option<f64>], goal: Goal) -> Vec<Words> {
    let mut cautions = Vec::new();
    if let Some(lowest) = lowest_sentence(head, eighths, expected_hz, goal) {
        cautions.push(lowest);
    }
    let heard: Vec<f64> = expected_hz.iter().flatten().copied().collect();
    let rod_n = |hz: f64| {
        tension(head.drum, head.head, head_from_lugs(hz)) * 2.0 * std::f64::consts::PI * head.drum.radius()
            / f64::from(head.drum.lugs.max(1))
    };
    if cautions.is_empty() && eighths.iter().any(|t| *t < 0) && !heard.is_empty() && rod_n(mean(&heard)) < SLACK_ROD_N {
        cautions.push(words!(
            "Each rod would hold less than {SLACK_ROD_N:.0} N, too slack to stay: it may turn by itself while you play. Go no lower."
        ));
    }
    if !heard.is_empty()
        && let Some(limit) = tension_limit(head.drum, head.head, mean(&heard))
    {
        cautions.push(match limit {
            TensionLimit::NearHand => {
                text!("Tension gets high for this head: stop when the key gets hard. A very tight head sends its shock into wrist and arm; pain means stop.")
            }
            TensionLimit::NearFilm => text!("This is near what the film takes: heads, lugs and rods break. Go no further, and keep your face away."),
        }.into());
    }
    cautions
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(12))]
        /// Four and five rods, up to two eighths each way, tried one by one.
        #[test]
        fn turns_are_those_that_trying_all_finds(lugs in 4usize..=5, off in proptest::collection::vec(-35f64..35.0, 5)) {
            let influence = Influence::prior(lugs, 200.0);
            let now: Vec<Option<f64>> = off[..lugs].iter().map(|cents| Some(200.0 * 2f64.powf(cents / 1200.0))).collect();
            let search = Search { influence: &influence, now_hz: &now, goal: Goal::Even, since_seated: None };
            let mut least = f64::INFINITY;
            for code in 0..5usize.pow(lugs as u32) {
                let eighths: Vec<i32> = (0..lugs).map(|rod| (code / 5usize.pow(rod as u32) % 5) as i32 - 2).collect();
                least = least.min(search.cost(&eighths));
            }
            prop_assert!(search.cost(&search.best()) <= least + 1e-9);
        }
    }

    #[test]
    fn an_even_head_is_left_alone_and_half_heard_ones_are_not_guessed_at() {
        let drum = BenchDrum::usual(DrumKind::Tom);
        let influence = Influence::prior(6, 210.0);
        let head = TurnedHead { drum: &drum, head: drum.batter, influence: &influence, since_seated: None };
        let even = next_turns(&head, &[Some(210.0); 6], 2.0, Goal::Even).unwrap();
        assert!(even.done && even.turns.is_empty());
        assert!(next_turns(&head, &[Some(210.0), Some(210.0), None, None, None, None], 2.0, Goal::Even).is_none());
        let without_a_rod = [Some(200.0), None, Some(210.0), Some(204.0), Some(203.0), Some(214.0)];
        let turns = next_turns(&head, &without_a_rod, 2.0, Goal::Even).unwrap().turns;
        assert!(!turns.is_empty() && turns.iter().all(|turn| turn.lug != 1), "{turns:?}");
        let up = next_turns(&head, &[Some(210.0); 6], 2.0, Goal::Pitch(235.0)).unwrap();
        assert!(up.turns.len() == 6 && up.turns.iter().all(|turn| turn.eighths > 0), "{up:?}");
    }

    #[test]
    fn slack_rods_and_high_tension_are_warned_of() {
        let drum = BenchDrum::usual(DrumKind::Tom);
        let influence = Influence::prior(6, 210.0);
        let since = [2; 6];
        let head = TurnedHead { drum: &drum, head: drum.batter, influence: &influence, since_seated: Some(&since) };
        let down = next_turns(&head, &[Some(210.0); 6], 2.0, Goal::Pitch(170.0)).unwrap();
        assert!(down.cautions.iter().any(|caution| caution.contains("as low as these rods go")), "{down:?}");
        assert!(down.turns.iter().all(|turn| since[turn.lug] + turn.eighths >= LEAST_TURNED), "no rod is told to go slack: {down:?}");
        let loose = TurnedHead { since_seated: None, ..head };
        let low = next_turns(&loose, &[Some(95.0); 6], 2.0, Goal::Pitch(80.0)).unwrap();
        assert!(low.cautions.iter().any(|caution| caution.contains("too slack to stay")), "{low:?}");
        let up = next_turns(&head, &[Some(600.0); 6], 2.0, Goal::Pitch(640.0)).unwrap();
        assert!(up.cautions.iter().any(|caution| caution.contains("key gets hard") || caution.contains("film")), "{up:?}");
    }

    /// A lug that is too high and whose rod is barely up from finger-tight: the others come up to it.
    #[test]
    fn where_a_rod_cannot_go_back_the_others_come_up() {
        let drum = BenchDrum::usual(DrumKind::Tom);
        let influence = Influence::prior(6, 210.0);
        let since = [4, 4, 1, 4, 4, 4];
        let mut now = [Some(200.0); 6];
        now[2] = Some(222.0);
        let free = TurnedHead { drum: &drum, head: drum.batter, influence: &influence, since_seated: None };
        let of_lug_3 = |turns: &NextTurns| turns.turns.iter().find(|turn| turn.lug == 2).map_or(0, |turn| turn.eighths);
        assert!(of_lug_3(&next_turns(&free, &now, 2.0, Goal::Even).unwrap()) < 0, "a rod that may go back does");
        let held = next_turns(&TurnedHead { since_seated: Some(&since), ..free }, &now, 2.0, Goal::Even).unwrap();
        assert!(of_lug_3(&held) >= 0 && held.expected_spread_cents < 150.0, "nearer than 181 cents: {held:?}");
    }

    /// CP 11: one screw for the whole hoop, half a turn a clear step of pitch, no high tension.
    #[test]
    fn one_bolt_is_turned_by_half_turns_and_not_too_high() {
        let drum = Drum { lugs: 1, ..BenchDrum::usual(DrumKind::Tom) };
        let usual = lugs_from_head(drum.usual_batter_hz());
        let influence = Influence::prior(1, usual);
        let head = TurnedHead { drum: &drum, head: drum.batter, influence: &influence, since_seated: None };
        let next = |wanted: f64| next_turns(&head, &[Some(usual)], 2.0, Goal::Pitch(wanted)).unwrap();
        let up = next(1.18 * usual);
        assert!(up.turns[0].eighths > 0 && up.turns[0].eighths % HALF_TURN == 0 && up.cautions.is_empty(), "{up:?}");
        assert!(next(1.01 * usual).done, "less than half a half turn is left alone");
        assert!(next(1.4 * usual).cautions.iter().any(|caution| caution.contains("One bolt")));
        assert!(next_turns(&head, &[Some(usual)], 2.0, Goal::Even).unwrap().done);
    }
}
