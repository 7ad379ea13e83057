//! The best treatments of the whole grid to first order: up to three devices, every amount and place, and every angle between them.
//!
//! A branch is left only where a bound proves that nothing in it is among the best: what devices take away and their effort add up, and so
//! does what they do to the body, its pitch and the turn of all rods that brings that back included; overtones decay no faster than the devices'
//! mean effect on a pair allows, however they are turned ([`Judge::least_misfit`]). So what is found is what looking at every single one would
//! find.

use super::candidates::{FAR_SIDE_DEG, overlap};
use super::judge::Judge;
use super::pitch::rods_are_set;
use super::screened::{Screened, Single};
use super::weight::pitch_toll;
use crate::Patience;
use crate::damping::{Placement, Touch};
use crate::target::Wanted;
use rayon::prelude::*;
use std::collections::BinaryHeap;
use std::sync::Mutex;
use std::sync::atomic::{AtomicU8, AtomicU64, Ordering};

/// Angles between two devices, degrees. Turning all together makes no difference: which way a pair of like-pitched modes lies is not
/// known, and the stick excites both.
const APART_DEG: [i16; 7] = [30, 45, 60, 90, 120, 150, 180];
/// The grid's angles are multiples of this.
const STEP_DEG: i16 = 15;
const STEPS: usize = 24;

/// A treatment of the grid and its first-order cost, in steps.
#[derive(Debug, Clone, PartialEq)]
pub struct Ranked {
    /// What it costs the player, as a phrase.
    pub cost: f64,
    /// What lies where.
    pub placements: Vec<Placement>,
}

/// Which treatments are looked at.
pub struct Among<'a> {
    /// Most devices, up to three.
    pub most: usize,
    /// Which placements may lie together.
    pub allow: &'a (dyn Fn(&[&Placement]) -> bool + Sync),
    /// Whether all rods may be turned to bring back the pitch that devices move.
    pub turned: bool,
    /// How long is searched; what was found until then is the answer.
    pub patience: Patience<'a>,
}

/// Places among the singles, and angles in degrees from the first one.
type Spot = ([usize; 3], [i16; 3], usize);

/// A found treatment; the costliest is the greatest.
#[derive(PartialEq)]
struct Found {
    cost: f64,
    spot: Spot,
}

impl Eq for Found {}

impl Ord for Found {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        self.cost.total_cmp(&other.cost).then_with(|| self.spot.cmp(&other.spot))
    }
}

impl PartialOrd for Found {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

/// The `keep` best so far, and what a treatment must cost at most to be among them.
struct Best {
    keep: usize,
    found: Mutex<BinaryHeap<Found>>,
    limit: AtomicU64,
}

impl Best {
    fn new(keep: usize) -> Self {
        Self { keep, found: Mutex::new(BinaryHeap::new()), limit: AtomicU64::new(f64::INFINITY.to_bits()) }
    }

    fn limit(&self) -> f64 {
        f64::from_bits(self.limit.load(Ordering::Relaxed))
    }

    fn put(&self, found: Found) {
        let mut heap = self.found.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        heap.push(found);
        if heap.len() > self.keep {
            heap.pop();
        }
        if heap.len() == self.keep {
            self.limit.store(heap.peek().map_or(f64::INFINITY, |worst| worst.cost).to_bits(), Ordering::Relaxed);
        }
    }
}

/// One search.
struct Search<'a> {
    screened: &'a Screened,
    judge: Judge<'a>,
    among: &'a Among<'a>,
    best: Best,
    /// Whether two devices overlap at an angle between them: 0 not known yet, 1 no, 2 yes.
    overlaps: Vec<AtomicU8>,
}

impl Screened {
    /// The `keep` cheapest treatments of the grid for `wanted`, cheapest first.
    pub fn best(&self, wanted: &Wanted, keep: usize, among: &Among) -> Vec<Ranked> {
        let count = self.singles.len();
        let search = Search {
            screened: self,
            judge: Judge::new(&self.model, wanted),
            among,
            best: Best::new(keep.max(1)),
            overlaps: (0..count * count * STEPS).map(|_| AtomicU8::new(0)).collect(),
        };
        search.ones();
        if among.most >= 2 {
            (0..count).into_par_iter().for_each(|i| search.twos(i));
        }
        if among.most >= 3 {
            (0..count).into_par_iter().for_each(|i| search.threes(i));
        }
        let found = search.best.found.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner);
        found.into_sorted_vec().into_iter().map(|found| Ranked { cost: found.cost, placements: self.placed(&found.spot) }).collect()
    }

    /// Treatments on the grid with up to `most` devices, those that would overlap among them, each with and without a turn of all rods.
    pub fn grid_size(&self, most: usize) -> usize {
        let singles = &self.singles;
        let ways = |turned: usize| [1, 1, APART_DEG.len(), thirds().count()][turned];
        let count = |of: &[usize]| {
            let turned = of.iter().filter(|i| singles[**i].placement.has_angle()).count();
            let turns = if rods_are_set(of.iter().map(|i| &singles[*i].placement)) { 0 } else { self.turns.len() };
            ways(turned) * (1 + turns)
        };
        let mut size = (0..singles.len()).map(|i| count(&[i])).sum();
        for i in 0..singles.len() {
            for j in (i..singles.len()).filter(|j| most >= 2 && may_join(&singles[i], &singles[*j])) {
                size += count(&[i, j]);
                let third = |k: &usize| most >= 3 && may_be_three(singles, [i, j, *k]);
                size += (j..singles.len()).filter(third).map(|k| count(&[i, j, k])).sum::<usize>();
            }
        }
        size
    }

    /// As they are laid: one alone on the far side, several evenly about it, and what is fixed there where it is.
    fn placed(&self, (indices, angles, count): &Spot) -> Vec<Placement> {
        let last = angles[..*count].iter().map(|angle| f64::from(*angle)).fold(0.0, f64::max);
        let first = angles[..*count].iter().map(|angle| f64::from(*angle)).fold(0.0, f64::min);
        let fixed = indices[..*count].iter().zip(angles).find(|(index, _)| self.singles[**index].is_fixed);
        let middle = fixed.map_or(0.5 * (first + last), |(_, angle)| f64::from(*angle));
        let place = |(index, angle): (&usize, &i16)| {
            let placement = self.singles[*index].placement;
            let angle_deg = if placement.has_angle() { FAR_SIDE_DEG + f64::from(*angle) - middle } else { placement.angle_deg };
            Placement { angle_deg, ..placement }
        };
        indices[..*count].iter().zip(angles).map(place).collect()
    }
}

/// Whether two devices may be used together: as many as are owned; two amounts of the same thing in the same place are one thing.
fn may_join(a: &Single, b: &Single) -> bool {
    let (a_is, b_is) = (&a.placement, &b.placement);
    if a.is_fixed && b.is_fixed {
        return false;
    }
    a_is.device != b_is.device || a.owned >= 2 && a_is.has_angle() && a_is.amount == b_is.amount
}

fn may_be_three(singles: &[Single], [i, j, k]: [usize; 3]) -> bool {
    let [a, b, c] = [i, j, k].map(|index| &singles[index]);
    let all_alike = a.placement.device == b.placement.device && b.placement.device == c.placement.device;
    may_join(a, b) && may_join(b, c) && may_join(a, c) && (!all_alike || a.owned >= 3)
}

/// Angles of a second and a third device from the first: the second to one side (the other one is its mirror image), the third anywhere.
fn thirds() -> impl Iterator<Item = (i16, i16)> {
    let third = APART_DEG.iter().flat_map(|apart| [*apart, -*apart]).filter(|apart| *apart != -180);
    APART_DEG.into_iter().flat_map(move |second| third.clone().filter(move |third| *third != second).map(move |third| (second, third)))
}

impl Search<'_> {
    fn singles(&self) -> &[Single] {
        &self.screened.singles
    }

    fn allows(&self, indices: &[usize]) -> bool {
        let placements: Vec<&Placement> = indices.iter().map(|i| &self.singles()[*i].placement).collect();
        (self.among.allow)(&placements)
    }

    fn ones(&self) {
        for (i, single) in self.singles().iter().enumerate() {
            if self.allows(&[i]) {
                self.weigh(&single.touch, [i, 0, 0], [0, 0, 0], 1);
            }
        }
    }

    fn twos(&self, i: usize) {
        let singles = self.singles();
        for j in i..singles.len() {
            if singles[i].toll + singles[j].toll > self.best.limit() || self.among.patience.is_over() {
                break;
            }
            if !may_join(&singles[i], &singles[j]) || !self.allows(&[i, j]) {
                continue;
            }
            let touch = self.sum(&singles[i].touch, j);
            if self.may_be_among(&touch, &[i, j]) {
                self.turn([i, j, 0], 2);
            }
        }
    }

    fn threes(&self, i: usize) {
        let singles = self.singles();
        for j in i..singles.len() {
            if singles[i].toll + 2.0 * singles[j].toll > self.best.limit() || self.among.patience.is_over() {
                break;
            }
            if !may_join(&singles[i], &singles[j]) {
                continue;
            }
            let two = self.sum(&singles[i].touch, j);
            for k in j..singles.len() {
                if singles[i].toll + singles[j].toll + singles[k].toll > self.best.limit() {
                    break;
                }
                if may_be_three(singles, [i, j, k]) && self.allows(&[i, j, k]) && self.may_be_among(&self.sum(&two, k), &[i, j, k]) {
                    self.turn([i, j, k], 3);
                }
            }
        }
    }

    fn sum(&self, touch: &Touch, index: usize) -> Touch {
        let mut sum = touch.clone();
        sum.add(&self.singles()[index].touch, 0.0, &self.screened.model);
        sum
    }

    fn toll(&self, indices: &[usize]) -> (f64, f64) {
        indices.iter().fold((0.0, 0.0), |(toll, attack), i| (toll + self.singles()[*i].toll, attack + self.singles()[*i].attack_db))
    }

    /// What the drift of the pitch costs, or the turn that brings it back: the same at every angle.
    fn pitch(&self, touch: &Touch, indices: &[usize]) -> f64 {
        let cents = self.screened.model.body_cents(touch);
        let placements = indices.iter().map(|i| &self.singles()[*i].placement);
        if self.among.turned { self.screened.turns.least(cents, placements).0 } else { pitch_toll(cents) }
    }

    /// Whether these devices may be among the best in some way of turning them.
    fn may_be_among(&self, touch: &Touch, indices: &[usize]) -> bool {
        let (toll, attack_db) = self.toll(indices);
        let limit = self.best.limit();
        let toll = toll + self.pitch(touch, indices);
        toll + self.judge.least_misfit(touch, attack_db) <= limit
    }

    /// Every angle between the devices that makes a difference.
    fn turn(&self, indices: [usize; 3], count: usize) {
        let turns: Vec<bool> = indices[..count].iter().map(|i| self.singles()[*i].placement.has_angle()).collect();
        let lay = |angles: [i16; 3]| {
            let mut touch = self.singles()[indices[0]].touch.clone();
            for at in 1..count {
                touch.add(&self.singles()[indices[at]].touch, f64::from(angles[at] - angles[0]), &self.screened.model);
            }
            self.weigh(&touch, indices, angles, count);
        };
        let free: Vec<usize> = (0..count).filter(|at| turns[*at]).collect();
        match free.as_slice() {
            [_, second] => APART_DEG.iter().for_each(|apart| {
                let mut angles = [0; 3];
                angles[*second] = *apart;
                lay(angles);
            }),
            [_, _, _] => thirds().for_each(|(second, third)| lay([0, second, third])),
            _ => lay([0; 3]),
        }
    }

    fn weigh(&self, touch: &Touch, indices: [usize; 3], angles: [i16; 3], count: usize) {
        let (toll, attack_db) = self.toll(&indices[..count]);
        let cost = toll + self.pitch(touch, &indices[..count]) + self.judge.misfit(touch, attack_db);
        if cost <= self.best.limit() && !self.overlap(&indices[..count], &angles) {
            self.best.put(Found { cost, spot: (indices, angles, count) });
        }
    }

    fn overlap(&self, indices: &[usize], angles: &[i16]) -> bool {
        (1..indices.len()).any(|b| (0..b).any(|a| self.two_overlap(indices[a], indices[b], angles[b] - angles[a])))
    }

    fn two_overlap(&self, a: usize, b: usize, apart_deg: i16) -> bool {
        let step = (apart_deg.rem_euclid(360) / STEP_DEG) as usize;
        let known = &self.overlaps[(a * self.singles().len() + b) * STEPS + step];
        match known.load(Ordering::Relaxed) {
            0 => {
                let [mut first, mut second] = [a, b].map(|index| self.singles()[index].placement);
                if first.has_angle() {
                    first.angle_deg = FAR_SIDE_DEG;
                }
                if second.has_angle() {
                    second.angle_deg = FAR_SIDE_DEG + f64::from(apart_deg);
                }
                let found = overlap(&first, &second, &self.screened.predictor.drum);
                known.store(if found { 2 } else { 1 }, Ordering::Relaxed);
                found
            }
            known => known == 2,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::candidates::{Limits, ShelfItem, singles};
    use super::super::pitch::{LEFT_ALONE_CENTS, MOST_EIGHTHS};
    use super::super::weight::{attack, effort};
    use super::*;
    use crate::Patience;
    use crate::bench_drum::BenchDrum;
    use crate::damping::{DeviceKind, Strengths, device_info};
    use crate::drum::DrumKind;
    use crate::target::{Music, Situation, built_in_preset};
    use crate::tone::Partial;
    use crate::tone::Tone;
    use proptest::prelude::*;

    fn partials() -> Vec<Partial> {
        let partial = |hz: f64, t60: f64, level_db: f64, mode: Option<&str>| Partial {
            hz,
            t60_s: Some(t60),
            t60_sd_s: None,
            t60_scatter_s: None,
            level_db,
            tone: mode.and_then(Tone::read),
        };
        vec![
            partial(140.0, 0.9, 0.0, Some("(0,1)")),
            partial(222.0, 1.1, -3.0, Some("(1,1)")),
            partial(265.0, 0.7, -9.0, None),
            partial(298.0, 0.9, -8.0, Some("(2,1)")),
        ]
    }

    fn wanted(genre: &str, bpm: f64) -> Wanted {
        let situation =
            Situation { preset: built_in_preset(genre).unwrap(), music: &Music::new(genre, bpm), venue: None, time_keepers: &[] };
        Wanted::new(&situation, &BenchDrum::usual(DrumKind::Tom), None)
    }

    /// Costs of every treatment on the grid, each laid down and worked out by itself.
    fn all_costs(screened: &Screened, shelf: &[ShelfItem], wanted: &Wanted, most: usize) -> Vec<f64> {
        let drum = BenchDrum::usual(DrumKind::Tom);
        let singles = singles(&drum, shelf, &Limits::default());
        let angles = |placement: &Placement| -> Vec<f64> {
            if placement.has_angle() { (0..24).map(|step| f64::from(step) * 15.0).collect() } else { vec![180.0] }
        };
        let on_grid = |apart: f64| APART_DEG.iter().any(|on| (f64::from(*on) - apart.min(360.0 - apart)).abs() < 1e-9);
        let owned = |device| shelf.iter().find(|item| item.device == device).map_or(0, |item| item.count as usize);
        let allowed = |all: &[Placement]| {
            let turned: Vec<&Placement> = all.iter().filter(|placement| placement.has_angle()).collect();
            // Angles count from the device with the least toll; of two others only their place against it is on the grid.
            let order = |of: &Placement| {
                let is = |single: &Single| Placement { angle_deg: of.angle_deg, ..single.placement } == *of;
                screened.singles.iter().position(is)
            };
            let first = turned.iter().map(|of| order(of)).min().flatten();
            let from = |origin: &Placement| {
                turned
                    .iter()
                    .filter(|other| !std::ptr::eq(**other, origin))
                    .all(|other| on_grid((other.angle_deg - origin.angle_deg).rem_euclid(360.0)))
            };
            (turned.len() < 2 || turned.iter().any(|origin| order(origin) == first && from(origin)))
                && all.iter().enumerate().all(|(i, a)| {
                    all.iter().filter(|b| b.device == a.device).count() <= owned(a.device)
                        && all[..i].iter().all(|b| {
                            let one_thing = a.device == b.device && (!a.has_angle() || a.amount != b.amount);
                            !one_thing && !overlap(b, a, &drum)
                        })
                })
        };
        let judge = Judge::new(&screened.model, wanted);
        let cost = |all: &[Placement]| {
            let mut touch = screened.model.untouched();
            all.iter().for_each(|it| {
                touch.add(&screened.model.touch(&screened.predictor.grip_known(it, &Strengths::default())), 0.0, &screened.model)
            });
            let before = judge.misfit(&touch, attack(all)) + attack(all);
            // Every turn of all rods tried by hand.
            let turns = (0..device_info(DeviceKind::RodsTurned).amounts.len())
                .map(|amount| Placement { amount, ..Placement::parse("rods_turned").unwrap() })
                .filter(|turn| turn.eighths().abs() <= MOST_EIGHTHS);
            let turned = turns
                .filter(|_| owned(DeviceKind::RodsTurned) > 0 && all.iter().all(|it| it.device != DeviceKind::SlackLugs))
                .map(|turn| {
                    let mut turned = touch.clone();
                    turned.add(&screened.model.touch(&screened.predictor.grip(&turn)), 0.0, &screened.model);
                    let body = |touch: &Touch| screened.model.partials(touch)[0].hz;
                    let with_it = effort(&[all, &[turn]].concat()) - effort(all);
                    pitch_toll(crate::units::cents(body(&screened.model.untouched()), body(&turned))) + with_it
                });
            let drift = screened.model.body_cents(&touch);
            let pitch = pitch_toll(drift);
            turned.filter(|_| drift.abs() >= LEFT_ALONE_CENTS).fold(pitch, f64::min) + before + effort(all)
        };
        let mut treatments: Vec<Vec<Placement>> = singles.iter().map(|it| vec![*it]).collect();
        let mut grown = treatments.clone();
        for _ in 1..most {
            let longer = |all: &Vec<Placement>| {
                let turned: Vec<Placement> = singles
                    .iter()
                    .flat_map(|single| angles(single).into_iter().map(|angle_deg| Placement { angle_deg, ..*single }))
                    .collect();
                turned.into_iter().map(|next| [all.clone(), vec![next]].concat()).filter(|all| allowed(all)).collect::<Vec<_>>()
            };
            grown = grown.iter().flat_map(longer).collect();
            treatments.extend(grown.clone());
        }
        let mut costs: Vec<f64> = treatments.iter().map(|all| cost(all)).collect();
        costs.sort_by(f64::total_cmp);
        costs
    }

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(10) })]
        /// The search leaves nothing out: what it finds is what every single treatment of the grid, laid down by hand, comes to.
        #[test]
        fn nothing_on_the_grid_is_better(
            kinds in prop::sample::subsequence(
                vec![
                    DeviceKind::HangingPad,
                    DeviceKind::ControlRing,
                    DeviceKind::ThinCloth,
                    DeviceKind::HalfRing,
                    DeviceKind::Tape,
                    DeviceKind::CentrePatch,
                    DeviceKind::SlackLugs,
                ],
                1..3,
            ),
            turned in 0u32..2,
            count in 1u32..4,
            (genre, bpm) in prop::sample::select(vec![("metal", 180.0), ("cumbia", 96.0), ("surf", 152.0)]),
            most in 1usize..4,
        ) {
            let mut shelf: Vec<ShelfItem> = kinds.iter().map(|device| ShelfItem::new(*device, count)).collect();
            shelf.push(ShelfItem::new(DeviceKind::RodsTurned, turned));
            let wanted = wanted(genre, bpm);
            let drum = BenchDrum::usual(DrumKind::Tom);
            let screened = Screened::new(&drum, &partials(), &shelf, &Limits::default(), &Strengths::default()).unwrap();
            let among = Among { most, allow: &|_| true, turned: turned > 0, patience: Patience::ENDLESS };
            let best = screened.best(&wanted, 1, &among);
            let all = all_costs(&screened, &shelf, &wanted, most);
            prop_assert!((best[0].cost - all[0]).abs() < 1e-6, "{:?}: {} where {} is possible", best[0].placements, best[0].cost, all[0]);
            // And many are found in order, each as good as it was said to be.
            let many = screened.best(&wanted, 40, &among);
            prop_assert!(many.windows(2).all(|pair| pair[0].cost <= pair[1].cost));
            prop_assert_eq!(&many[0], &best[0]);
            let judge = Judge::new(&screened.model, &wanted);
            for ranked in &many {
                let by_itself = screened.sketched(&ranked.placements).cost(&judge);
                let turning_gains = by_itself - ranked.cost;
                prop_assert!(turning_gains > -1e-6 && (turned > 0 || turning_gains < 1e-6), "{:?}", ranked.placements);
            }
        }
    }

    #[test]
    fn one_pad_cannot_lie_in_two_places_and_what_is_not_allowed_is_not_found() {
        let drum = BenchDrum::usual(DrumKind::Tom);
        let shelf = [ShelfItem::new(DeviceKind::GelPad, 1), ShelfItem::new(DeviceKind::Tape, 2)];
        let screened = Screened::new(&drum, &partials(), &shelf, &Limits::default(), &Strengths::default()).unwrap();
        let found =
            screened.best(&wanted("metal", 180.0), 500, &Among { most: 3, allow: &|_| true, turned: true, patience: Patience::ENDLESS });
        let count = |all: &[Placement], kind| all.iter().filter(|it| it.device == kind).count();
        assert!(
            found.len() == 500
                && found.iter().all(|it| count(&it.placements, DeviceKind::GelPad) <= 1 && count(&it.placements, DeviceKind::Tape) <= 2)
        );
        let with_pads = |all: &[&Placement]| all.iter().all(|it| it.device == DeviceKind::GelPad);
        let pads =
            screened.best(&wanted("metal", 180.0), 500, &Among { most: 3, allow: &with_pads, turned: true, patience: Patience::ENDLESS });
        assert_eq!(pads.len(), 12, "three amounts at four distances");
    }
}
