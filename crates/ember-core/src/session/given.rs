//! Gives each moment of a session to the drums that were hit in it. What a drum sends into the other microphones is learned from the moments in which it was
//! clearly hit alone; a microphone then tells of its own drum only what the others' bleed does not explain.

use super::ears::{BANDS, Event};
use crate::units::{decibels, median};
use std::cmp::Ordering;

/// How loud a drum is usually hit is told by its loudest moments: so many.
const LOUDEST: usize = 6;
/// A drum was clearly hit alone where its level, against its own full stroke, lies so far above that of every other against theirs, dB.
const ALONE_DB: f64 = 8.0;
/// And not softer than this against its usual, dB.
const FULL_DB: f64 = -12.0;
/// So many such moments tell what it sends into other microphones.
const FEWEST_ALONE: usize = 2;
/// What it sends into another microphone is this quantile of what that one gained in those moments: whatever else sounds at the same time only adds.
const BLEED_QUANTILE: f64 = 0.35;
/// Where every drum's microphone stays under this against its usual, no drum was hit hard, dB.
const NO_DRUM_DB: f64 = -10.0;
/// Such moments tell what cymbals send: the louder half of them above the kit, for soft hits on a drum are among the others, and there the middle.
const FEWEST_CYMBALS: usize = 6;
const CYMBALS_QUANTILE: f64 = 0.5;
/// What a microphone gains must be this many times what bleed explains, in at least [`SHOWING`] bands.
const BEYOND_BLEED: f64 = 2.5;
const SHOWING: usize = 2;
/// What is softer than this against the drum's usual must stand out by so much more, in so many bands less those in which the drum still rings, and these
/// must agree on how loud it was, dB.
const SOFT_DB: f64 = -11.0;
const BEYOND_BLEED_SOFT: f64 = 4.0;
const SHOWING_SOFT: usize = 3;
const AGREE_DB: f64 = 8.0;
/// A hit still grows for so long, s: what follows it within that is explained by this part of what it sends.
const GROWS_S: f64 = 0.05;
const GROWTH: f64 = 0.5;
/// No softer than this against its usual is a hit, dB.
const SOFTEST_DB: f64 = -34.0;

/// A hit softer than this against a full stroke is a ghost note, dB.
pub const GHOST_NOTE_DB: f64 = -14.0;

/// A hit, given to a drum.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct GivenHit {
    /// Which moment, by its index.
    pub event: usize,
    /// Which drum, by its place among the microphones that tell of one.
    pub drum: usize,
    /// When its own microphone heard it, s.
    pub at_s: f64,
    /// How loud, against the drum's usual full stroke, dB.
    pub level_db: f64,
}

/// All hits of a session.
#[derive(Debug, Clone, PartialEq)]
pub struct Given {
    /// In the order of time.
    pub hits: Vec<GivenHit>,
    /// For each drum whether it was clearly hit alone often enough to be told from the others' bleed.
    pub told: Vec<bool>,
    /// Moments that no drum explains: cymbals, a voice, something that fell.
    pub others: usize,
}

/// What a drum sends into each microphone, by band: power against what its own gains in all bands.
type Sends = Vec<[f64; BANDS]>;

fn total(gained: &[f64; BANDS]) -> f64 {
    gained.iter().sum()
}

/// How loud each of `drums` (the microphones that tell of them) is at a full stroke.
fn usual(events: &[Event], drums: &[usize]) -> Vec<f64> {
    let of = |channel: &usize| {
        let mut levels: Vec<f64> = events.iter().map(|event| total(&event.gained[*channel])).collect();
        levels.sort_by(|a, b| b.total_cmp(a));
        levels.truncate(LOUDEST);
        median(&levels).unwrap_or(0.0)
    };
    drums.iter().map(of).collect()
}

/// The drum that was clearly hit alone in `event`, if one was.
fn alone(event: &Event, drums: &[usize], usual: &[f64]) -> Option<usize> {
    let level_db = |drum: usize| {
        let gained = total(&event.gained[drums[drum]]);
        if usual[drum] > 0.0 { 0.5 * decibels(gained / usual[drum]) } else { f64::NEG_INFINITY }
    };
    let mut levels: Vec<(usize, f64)> = (0..drums.len()).map(|drum| (drum, level_db(drum))).collect();
    levels.sort_by(|a, b| b.1.total_cmp(&a.1));
    let (first, loudest) = *levels.first()?;
    let next = levels.get(1).map_or(f64::NEG_INFINITY, |next| next.1);
    (loudest > FULL_DB && loudest > next + ALONE_DB && event.rose_s[drums[first]].is_some()).then_some(first)
}

/// What `drum` sends into each microphone, from the moments at which it was hit alone.
fn sends(moments: &[&Event], own: usize) -> Sends {
    let channels = moments.first().map_or(0, |event| event.gained.len());
    let part = |channel: usize, band: usize| {
        let parts = moments.iter().map(|event| event.gained[channel][band] / total(&event.gained[own])).collect();
        // Of its own microphone the middle.
        quantile(parts, if channel == own { 0.5 } else { BLEED_QUANTILE })
    };
    (0..channels).map(|channel| std::array::from_fn(|band| part(channel, band))).collect()
}

/// Gives the hits in `events` to drums; `drums` are the channels of the microphones that stand nearest to one each, `above` is one over the whole kit, if
/// there is one: it tells what cymbals send into the others.
pub fn give(events: &[Event], drums: &[usize], above: Option<usize>) -> Given {
    let usual = usual(events, drums);
    let mut moments: Vec<Vec<&Event>> = vec![Vec::new(); drums.len()];
    for event in events {
        if let Some(drum) = alone(event, drums, &usual) {
            moments[drum].push(event);
        }
    }
    let told: Vec<bool> = moments.iter().map(|moments| moments.len() >= FEWEST_ALONE).collect();
    let sends: Vec<Sends> =
        moments.iter().zip(drums).map(|(moments, own)| if moments.is_empty() { Vec::new() } else { sends(moments, *own) }).collect();
    let cymbals = above.and_then(|above| Cymbals::learned(events, drums, &usual, above));
    let kit = Kit { drums, usual, sends, cymbals };
    let mut given = Given { hits: Vec::new(), told, others: 0 };
    for (index, event) in events.iter().enumerate() {
        let before = given.hits.len();
        kit.hits_in(index, event, &mut given);
        given.others += usize::from(given.hits.len() == before);
    }
    given.hits.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    given
}

/// What cymbals send into each microphone, told by one above the kit.
struct Cymbals {
    /// Its channel.
    above: usize,
    /// Power in each channel by band, against what the one above gains in its highest band.
    sends: Sends,
}

impl Cymbals {
    /// From the moments at which no drum stands out and the one above gains anything. None where there are too few.
    fn learned(events: &[Event], drums: &[usize], usual: &[f64], above: usize) -> Option<Self> {
        let soft = 10f64.powf(NO_DRUM_DB / 10.0);
        let no_drum = |event: &&Event| drums.iter().zip(usual).all(|(own, usual)| total(&event.gained[*own]) < soft * usual);
        let mut moments: Vec<&Event> = events.iter().filter(no_drum).filter(|event| event.gained[above][BANDS - 1] > 0.0).collect();
        moments.sort_by(|a, b| b.gained[above][BANDS - 1].total_cmp(&a.gained[above][BANDS - 1]));
        moments.truncate(moments.len().div_ceil(2));
        let channels = moments.first().filter(|_| moments.len() >= FEWEST_CYMBALS)?.gained.len();
        let part = |channel: usize, band: usize| {
            let parts = moments.iter().map(|event| event.gained[channel][band] / event.gained[above][BANDS - 1]).collect();
            quantile(parts, CYMBALS_QUANTILE)
        };
        let sends = (0..channels).map(|channel| std::array::from_fn(|band| part(channel, band))).collect();
        Some(Self { above, sends })
    }

    /// How loud they were in `event`, beyond what the drums found so far explain and a further one `may` send; 0 where nothing is left.
    fn beyond(&self, event: &Event, explained: &[[f64; BANDS]], may: f64) -> f64 {
        (event.gained[self.above][BANDS - 1] - explained[self.above][BANDS - 1] - may).max(0.0)
    }
}

/// What was learned of a kit.
struct Kit<'a> {
    drums: &'a [usize],
    usual: Vec<f64>,
    sends: Vec<Sends>,
    cymbals: Option<Cymbals>,
}

impl Kit<'_> {
    /// Adds the hits in one moment, loudest first, so that what each sends into the others' microphones is known before these are asked.
    fn hits_in(&self, index: usize, event: &Event, given: &mut Given) {
        let told = |drum: &usize| given.told[*drum] && self.usual[*drum] > 0.0 && event.rose_s[self.drums[*drum]].is_some();
        let mut order: Vec<(usize, f64)> =
            (0..self.drums.len()).filter(told).map(|drum| (drum, total(&event.gained[self.drums[drum]]) / self.usual[drum])).collect();
        order.sort_by(|a, b| b.1.partial_cmp(&a.1).unwrap_or(Ordering::Equal));
        let mut explained = vec![[0.0; BANDS]; event.gained.len()];
        for hit in given.hits.iter().rev().take_while(|hit| hit.at_s > event.at_s - GROWS_S) {
            add(&mut explained, &self.sends[hit.drum], GROWTH * self.usual[hit.drum] * 10f64.powf(hit.level_db / 10.0));
        }
        for (drum, _) in order {
            let own = self.drums[drum];
            let cymbals = self.cymbals.as_ref().map(|cymbals| {
                let may = total(&event.gained[own]) * self.sends[drum][cymbals.above][BANDS - 1];
                (cymbals.beyond(event, &explained, may), &cymbals.sends[own])
            });
            let others = |band: usize| explained[own][band] + cymbals.map_or(0.0, |(power, sent)| power * sent[band]);
            let Some((power, level_db)) = self.hit(drum, event, others) else { continue };
            add(&mut explained, &self.sends[drum], power);
            let later_s = event.rose_s[own].unwrap_or(0.0);
            given.hits.push(GivenHit { event: index, drum, at_s: event.at_s + later_s, level_db });
        }
    }

    /// How loud `drum` was hit in `event` where `others` explain a part of what its microphone gained: power, and against its usual, dB. None where it was
    /// not. What is soft may be bleed: it must stand out further, and look like the drum in more bands.
    fn hit(&self, drum: usize, event: &Event, others: impl Fn(usize) -> f64) -> Option<(f64, f64)> {
        let channel = self.drums[drum];
        let (own, gained, held) = (&self.sends[drum][channel], &event.gained[channel], &event.held[channel]);
        // What rings on wavers by itself.
        let masked = |band: usize| gained[band] <= held[band];
        let showing =
            |beyond: f64| (0..BANDS).filter(|band| !masked(*band) && gained[*band] > beyond * others(*band)).collect::<Vec<usize>>();
        // How loud it was, as each band that shows it says.
        let says = |band: &usize| (gained[*band] - others(*band)) / own[*band].max(1e-3);
        let louder = showing(BEYOND_BLEED);
        let power = median(&louder.iter().map(says).collect::<Vec<_>>()).filter(|_| louder.len() >= SHOWING)?;
        let level_db = 0.5 * decibels(power / self.usual[drum]);
        if level_db < SOFT_DB {
            let hidden = (0..BANDS).filter(|band| masked(*band)).count();
            let agree = |band: &usize| (0.5 * decibels(says(band) / power)).abs() < AGREE_DB;
            let alike = showing(BEYOND_BLEED_SOFT).iter().filter(|band| agree(band)).count();
            if alike < SHOWING_SOFT.saturating_sub(hidden).max(SHOWING) {
                return None;
            }
        }
        (level_db >= SOFTEST_DB).then_some((power, level_db))
    }
}

/// Adds what a drum sends that was hit with `power`.
fn add(explained: &mut [[f64; BANDS]], sends: &Sends, power: f64) {
    for (explained, sent) in explained.iter_mut().zip(sends) {
        explained.iter_mut().zip(sent).for_each(|(sum, part)| *sum += power * part);
    }
}

/// The value under which the `part` of `values` lies.
fn quantile(mut values: Vec<f64>, part: f64) -> f64 {
    values.sort_by(f64::total_cmp);
    values.get((values.len().saturating_sub(1) as f64 * part).round() as usize).copied().unwrap_or(0.0)
}

#[cfg(test)]
pub(super) mod tests {
    use super::*;
    use proptest::prelude::*;
    use rand::{Rng, SeedableRng, rngs::StdRng};

    /// Moments that were made up, and who was hit in each how hard, dB.
    pub struct MadeUp {
        pub events: Vec<Event>,
        pub drums: Vec<usize>,
        pub played: Vec<Vec<(usize, f64)>>,
    }

    /// `drums` drums with a microphone each, hit alone or two at a time, every 0.4 s; each sends into the others' microphones what it sends into its own, 14
    /// to 30 dB softer. What a band gains differs from hit to hit by up to half a decibel.
    pub fn made_up(drums: usize, moments: usize, rng: &mut StdRng) -> MadeUp {
        let spectrum = |_| {
            let bands: [f64; BANDS] = std::array::from_fn(|_| rng.random_range(0.1..1.0));
            bands.map(|band| band / total(&bands))
        };
        let own: Vec<[f64; BANDS]> = (0..drums).map(spectrum).collect();
        let softer: Vec<Vec<f64>> = (0..drums).map(|_| (0..drums).map(|_| 10f64.powf(-rng.random_range(1.4..3.0))).collect()).collect();
        let (mut events, mut played) = (Vec::new(), Vec::new());
        for index in 0..moments {
            // Each drum in turn, so that each is hit alone often enough.
            let first = index % drums;
            let mut hits = vec![(first, rng.random_range(-6.0..0.0))];
            if rng.random_bool(0.3) {
                hits.push(((first + rng.random_range(1..drums)) % drums, rng.random_range(-6.0..0.0)));
            }
            let mut gained = vec![[0.0; BANDS]; drums];
            for (drum, level_db) in &hits {
                for (channel, gained) in gained.iter_mut().enumerate() {
                    let part = if channel == *drum { 1.0 } else { softer[*drum][channel] };
                    for (band, gained) in gained.iter_mut().enumerate() {
                        *gained += part * own[*drum][band] * 10f64.powf((level_db + rng.random_range(-0.5..0.5)) / 10.0);
                    }
                }
            }
            events.push(Event { at_s: 0.4 * index as f64, rose_s: vec![Some(0.0); drums], gained, held: vec![[0.0; BANDS]; drums] });
            played.push(hits);
        }
        MadeUp { events, drums: (0..drums).collect(), played }
    }

    proptest! {
        /// Where bleed is all that confuses, every hit goes to the drum that was hit, to no other, as loud as it was.
        #[test]
        fn every_hit_goes_to_its_drum_and_none_to_another(seed in any::<u64>(), drums in 2usize..7) {
            let made_up = made_up(drums, 14 * drums, &mut StdRng::seed_from_u64(seed));
            let given = give(&made_up.events, &made_up.drums, None);
            prop_assert!(given.told.iter().all(|told| *told) && given.others == 0);
            let mut off_db = vec![Vec::new(); drums];
            for (index, played) in made_up.played.iter().enumerate() {
                let mut should: Vec<usize> = played.iter().map(|hit| hit.0).collect();
                let here: Vec<&GivenHit> = given.hits.iter().filter(|hit| hit.event == index).collect();
                let mut is: Vec<usize> = here.iter().map(|hit| hit.drum).collect();
                should.sort_unstable();
                is.sort_unstable();
                prop_assert_eq!(is, should, "moment {}", index);
                for (drum, level_db) in played {
                    off_db[*drum].extend(here.iter().filter(|hit| hit.drum == *drum).map(|hit| hit.level_db - level_db));
                }
            }
            // A level is told against the drum's loudest hits, so that all levels of one drum may be off by the same amount.
            for off in off_db {
                let middle = median(&off).unwrap();
                prop_assert!(off.iter().all(|off| (off - middle).abs() < 1.5), "{:?}", off);
            }
        }
    }

    #[test]
    fn without_moments_nothing_is_given_and_nothing_told() {
        let given = give(&[], &[0, 1], Some(2));
        assert_eq!(given, Given { hits: Vec::new(), told: vec![false; 2], others: 0 });
    }
}
