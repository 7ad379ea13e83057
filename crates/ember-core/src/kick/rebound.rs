//! A beater that a foot presses on after the hit: whether it stays in the head, or the drum throws it back and it strikes again.
//!
//! The head is its coupled motions and the batter's others; the beater is a mass on the spring of its felt (Hunt & Crossley, J. Appl.
//! Mech. 42, 1975) under a constant push. Both are followed in time, since a contact comes and goes.

use super::coupled::{Closed, Coupled, Inner, axial, coupled};
use crate::blow::{Blow, beater_info};
use crate::drum::{Member, MembraneMode, modes_up_to};
use crate::numeric::Range;
use crate::numeric::bessel_j;
use crate::units::decibels;
use nalgebra::{DMatrix, DVector, Matrix3};
use pulp::{Arch, Simd, WithSimd};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;
use std::sync::LazyLock;

/// What moves with a beater, kg; the speed at which it lands, m/s; and the push of a foot that leaves it in the head, light, usual and firm, N.
/// No leg answers within so short a time: it pushes on evenly. All so that practice is met: a usual foot's beater comes back from a whole front;
/// ported or open it stays in the head (from experience, no source; only the push against mass and speed counts).
const MASS: f64 = 0.1;
const SPEED: f64 = 3.0;
const PUSHES: [f64; 3] = [30.0, 40.0, 44.0];
/// What felt and joints take, as a part of the force per speed at which beater and head meet, s/m.
const GIVE: f64 = 0.5;
/// Landings that are softer than this against the first are not heard as hits, dB (from experience, no source).
const HEARD_DB: f64 = -15.0;
/// Step and length of what is followed, s: later, a beater that still bounces is played on.
const STEP_S: f64 = 2e-4;
const LENGTH_S: f64 = 0.15;
/// A beater that touches the head for so long rests there, s.
const RESTS_S: f64 = 0.05;
/// Touches closer together than this are one hit to the ear, s (from experience, no source).
const APART_S: f64 = 0.012;
/// Highest zero of the batter's modes that are followed.
const HIGHEST_ZERO: f64 = 15.0;

/// A landing after the first.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Landing {
    /// When, s after the first.
    pub at_s: f64,
    /// How hard, against the first, dB.
    pub level_db: f64,
}

/// What a beater does that is left in the head.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rebound {
    /// The landings after the first that are heard, under a usual foot; none where it stays.
    pub again: Vec<Landing>,
    /// How many are heard, from the foot with which there are fewest to that with most.
    pub fewest: usize,
    /// The most further landings, of any foot.
    pub most: usize,
    /// When the second one comes under any of these feet, s; null where under none.
    pub second_s: Option<Range>,
}

impl Rebound {
    /// On a drum closed so; `opening` scales what openings take.
    pub(super) fn of(closed: &Closed, inner: &Inner, opening: f64, blow: Blow) -> Self {
        let head = Head::new(closed, inner, opening, blow);
        let feet = PUSHES.map(|push| landings(&head, blow, push));
        let counts = feet.iter().map(Vec::len);
        let seconds = feet.iter().filter_map(|landings| Some(landings.first()?.at_s));
        let second_s = seconds.fold(None, |range: Option<Range>, at| {
            Some(range.map_or(Range { low: at, high: at }, |range| Range { low: range.low.min(at), high: range.high.max(at) }))
        });
        let (fewest, most) = counts.fold((usize::MAX, 0), |(fewest, most), count| (fewest.min(count), most.max(count)));
        let [_, again, _] = feet;
        Self { again, fewest, most, second_s }
    }
}

/// The batter head as a beater meets it.
struct Head {
    /// How a state (coordinates, then speeds) goes on over one step, column by column, and what a force of 1 N adds to it.
    on: DMatrix<f64>,
    per_newton: DVector<f64>,
    /// Displacement under the beater by the coordinates.
    meets: DVector<f64>,
    others: Others,
}

/// Modes that move no air as a whole, each by itself: the four numbers that carry its displacement and speed over a step, what a force adds to
/// both, and the displacement under the beater.
struct Others {
    on: [Vec<f64>; 4],
    per_newton: [Vec<f64>; 2],
    meets: Vec<f64>,
}

fn others() -> &'static [MembraneMode] {
    static OTHERS: LazyLock<Vec<MembraneMode>> = LazyLock::new(|| {
        // Where the beater lands, the other member of each pair stands still.
        modes_up_to(HIGHEST_ZERO).into_iter().filter(|mode| mode.m > 0 && mode.member == Member::Cos).collect()
    });
    &OTHERS
}

impl Head {
    fn new(closed: &Closed, inner: &Inner, opening: f64, blow: Blow) -> Self {
        let drum = closed.drum;
        let (a, density) = (drum.radius(), drum.areal_mass(drum.batter));
        let area = PI * a * a;
        let size = beater_info(blow.beater).radius / a;
        // A mode's mean over a small disc is its middle times 2 J1(x) / x.
        let under = |mode: &MembraneMode| {
            let x = mode.zero * size;
            mode.radial(blow.spot) * 2.0 * bessel_j(1, x) / x / density.sqrt()
        };
        let Coupled { mass, loss, stiffness, .. } = coupled(closed, inner, opening);
        let count = mass.nrows();
        let meets = DVector::from_fn(count, |k, _| axial().get(k).map_or(0.0, under));
        let (on, push) = stepped(&mass, &loss, &stiffness, &(&meets / area));
        let speed = 2.0 * PI * a * inner.batter_hz / axial()[0].zero;
        let one = |mode: &MembraneMode| {
            let wave = mode.zero / a;
            let (spring, drag) = ((speed * wave).powi(2), 2.0 * (inner.loss + inner.loss_by_wave * wave * wave));
            // As in `stepped`, for one.
            (Matrix3::new(0.0, 1.0, 0.0, -spring, -drag, under(mode) / area, 0.0, 0.0, 0.0) * STEP_S).exp()
        };
        let ons: Vec<Matrix3<f64>> = others().iter().map(one).collect();
        let each = |row: usize, column: usize| ons.iter().map(|on| on[(row, column)]).collect();
        let others = Others {
            on: [each(0, 0), each(0, 1), each(1, 0), each(1, 1)],
            per_newton: [each(0, 2), each(1, 2)],
            meets: others().iter().map(under).collect(),
        };
        Self { on, per_newton: push, meets, others }
    }
}

/// How `mass q'' + loss q' + stiffness q = push` goes on over one step with the push constant: what carries the state, and what the push
/// adds (matrix exponential of the first-order form; Van Loan, IEEE Trans. Automatic Control 23, 1978).
fn stepped(mass: &DMatrix<f64>, loss: &DMatrix<f64>, stiffness: &DMatrix<f64>, push: &DVector<f64>) -> (DMatrix<f64>, DVector<f64>) {
    let count = mass.nrows();
    let inverse = mass.clone().try_inverse().unwrap_or_else(|| DMatrix::identity(count, count));
    let mut first_order = DMatrix::zeros(2 * count + 1, 2 * count + 1);
    first_order.view_mut((0, count), (count, count)).fill_with_identity();
    first_order.view_mut((count, 0), (count, count)).copy_from(&(-&inverse * stiffness));
    first_order.view_mut((count, count), (count, count)).copy_from(&(-&inverse * loss));
    first_order.view_mut((count, 2 * count), (count, 1)).copy_from(&(&inverse * push));
    let on = (first_order * STEP_S).exp();
    (on.view((0, 0), (2 * count, 2 * count)).into_owned(), on.view((0, 2 * count), (2 * count, 1)).column(0).into_owned())
}

/// The landings after the first that are heard, on `head` under a foot that goes on with `push` N.
fn landings(head: &Head, blow: Blow, push: f64) -> Vec<Landing> {
    Arch::new().dispatch(Followed { head, blow, push })
}

/// Head and beater, followed step by step with what this processor's instructions can do.
struct Followed<'a> {
    head: &'a Head,
    blow: Blow,
    push: f64,
}

impl WithSimd for Followed<'_> {
    type Output = Vec<Landing>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Vec<Landing> {
        let Self { head, blow, push } = self;
        let Head { others, .. } = head;
        let stiffness = MASS * (PI / beater_info(blow.beater).contact_s).powi(2);
        let (count, meets, per_newton) = (head.meets.len(), head.meets.as_slice(), head.per_newton.as_slice());
        let (mut state, mut next) = (vec![0.0; 2 * count], vec![0.0; 2 * count]);
        let (mut placed, mut moving) = (vec![0.0; others.meets.len()], vec![0.0; others.meets.len()]);
        // How far a force of 1 N moves the head within a step, and head and beater apart.
        let gives = product(meets, &per_newton[..count]) + product(&others.meets, &others.per_newton[0]);
        let contact = Contact { stiffness, apart: gives + 0.5 * STEP_S * STEP_S / MASS };
        let (mut position, mut speed, mut head_speed, mut depth) = (0.0, SPEED, 0.0, 0.0f64);
        let (mut touched_s, mut landed_s) = (0.0, 0.0);
        let mut found: Vec<Landing> = Vec::new();
        for n in 0..(LENGTH_S / STEP_S) as usize {
            next.fill(0.0);
            for (column, from) in head.on.as_slice().chunks_exact(2 * count).zip(&state) {
                next.iter_mut().zip(column).for_each(|(to, by)| *to += from * by);
            }
            for k in 0..placed.len() {
                let (q, v) = (placed[k], moving[k]);
                placed[k] = others.on[0][k] * q + others.on[1][k] * v;
                moving[k] = others.on[2][k] * q + others.on[3][k] * v;
            }
            let met = speed - head_speed;
            let before = speed;
            speed += STEP_S / MASS * push;
            position += 0.5 * STEP_S * (before + speed);
            let at = product(meets, &next[..count]) + product(&others.meets, &placed);
            let force = contact.force(depth, position - at);
            speed -= STEP_S / MASS * force;
            position -= 0.5 * STEP_S * STEP_S / MASS * force;
            depth = position - at - gives * force;
            if force > 0.0 {
                next.iter_mut().zip(per_newton).for_each(|(to, by)| *to += force * by);
                for k in 0..placed.len() {
                    placed[k] += force * others.per_newton[0][k];
                    moving[k] += force * others.per_newton[1][k];
                }
            }
            head_speed = product(meets, &next[count..]) + product(&others.meets, &moving);
            std::mem::swap(&mut state, &mut next);
            let now_s = n as f64 * STEP_S;
            if force > 0.0 {
                if now_s - touched_s > 1.5 * STEP_S {
                    landed_s = now_s;
                }
                if now_s - touched_s > APART_S {
                    found.push(Landing { at_s: now_s, level_db: decibels((met / SPEED).max(1e-3)) });
                }
                touched_s = now_s;
                if now_s - landed_s > RESTS_S {
                    break;
                }
            }
        }
        found.retain(|landing| landing.level_db >= HEARD_DB);
        found
    }
}

/// Where beater and head touch: N/m, and how far a force of 1 N moves them apart within a step, m.
struct Contact {
    stiffness: f64,
    apart: f64,
}

impl Contact {
    /// Force between the two over a step, N, from how deep the beater stands in the head before it to how deep it would stand after it without
    /// one, m: by the mean of both depths and by how fast the depth grows, so that no step gives energy, however hard the beater.
    #[inline(always)]
    fn force(&self, before: f64, unforced: f64) -> f64 {
        let (deep, grows) = (before + unforced, 1.0 + GIVE * (unforced - before) / (STEP_S * SPEED));
        if deep <= 0.0 || grows <= 0.0 {
            return 0.0;
        }
        // F = k/2 (deep - apart F) (grows - slows F), the smaller root.
        let (half, slows) = (0.5 * self.stiffness, GIVE * self.apart / (STEP_S * SPEED));
        let b = 1.0 + half * (deep * slows + self.apart * grows);
        let c = half * deep * grows;
        2.0 * c / (b + (b * b - 4.0 * half * self.apart * slows * c).sqrt())
    }
}

/// Sum of products.
#[inline(always)]
fn product(a: &[f64], b: &[f64]) -> f64 {
    a.iter().zip(b).map(|(x, y)| x * y).sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::blow::BeaterKind;
    use crate::drum::{Drum, DrumKind, Front};
    use crate::numeric::bisect;

    const BLOW: Blow = Blow { beater: BeaterKind::Felt, spot: 0.25, left_in: true };

    /// On a head too tight to move, a beater comes back as from a wall: it leaves with e times its speed, where
    /// g - ln(1 + g) = -g e - ln(1 - g e) for a give of g (Hunt & Crossley's force with a linear spring, integrated over the contact), and the
    /// foot brings it back as a constant push does any body.
    #[test]
    fn from_a_wall_it_comes_back_as_in_the_closed_form() {
        let (drum, front) = (BenchDrum::usual(DrumKind::Kick), Front::Whole);
        let inner = Inner { batter_hz: 6000.0, front_hz: 6000.0, loss: 4.0, loss_by_wave: 0.01 };
        let head = Head::new(&Closed::new(&drum, &front), &inner, 1.0, BLOW);
        let lost = |e: f64| GIVE - (1.0 + GIVE).ln() + GIVE * e + (1.0 - GIVE * e).ln();
        // As long as without give and push, which change it by less than it counts here.
        let contact = beater_info(BLOW.beater).contact_s;
        let away = SPEED * bisect(0.2, 1.0, 50, |e| lost(e) > 0.0);
        // Long enough in the air not to be one hit with the first.
        for push in [10.0, 15.0, 20.0] {
            let wanted = contact + 2.0 * MASS * away / push;
            let found = landings(&head, BLOW, push).first().map(|landing| landing.at_s).unwrap();
            assert!((found / wanted).ln().abs() < 0.07, "{push} N: {found} for {wanted}");
        }
    }

    /// However hard the beater and the foot, the drum gives back no more than it got: no landing is much harder than the first.
    #[test]
    fn no_foot_and_no_beater_draw_strength_from_nowhere() {
        for diameter_in in [14.0, 16.0, 18.0, 22.0] {
            let drum = Drum { diameter_in, ..BenchDrum::usual(DrumKind::Kick) };
            let inner = Inner { batter_hz: 1250.0 / diameter_in, front_hz: 1400.0 / diameter_in, loss: 4.5, loss_by_wave: 0.011 };
            for (front, beater) in [(Front::Whole, BeaterKind::Plastic), (Front::Off, BeaterKind::Plastic), (Front::Off, BeaterKind::Wood)]
            {
                let blow = Blow { beater, ..BLOW };
                let head = Head::new(&Closed::new(&drum, &front), &inner, 1.0, blow);
                for push in [40.0, 60.0, 80.0, 120.0] {
                    let found = landings(&head, blow, push);
                    assert!(found.iter().all(|landing| landing.level_db < 6.0), "{diameter_in} in, {beater:?}, {push} N: {found:?}");
                }
            }
        }
    }

    /// A whole front throws a buried beater back; ported or open, it makes one clean hit (common practice, no published source), on kicks
    /// of 16 to 24 in under a usual foot; a firm one keeps it in an open head as well.
    #[test]
    fn a_solid_front_throws_it_back_and_an_open_one_lets_it_rest() {
        for (diameter_in, batter_hz) in [(16.0, 75.0), (18.0, 68.0), (20.0, 62.0), (22.0, 57.0), (24.0, 52.0)] {
            let drum = Drum { diameter_in, ..BenchDrum::usual(DrumKind::Kick) };
            let inner = Inner { batter_hz, front_hz: 1.12 * batter_hz, loss: 4.5, loss_by_wave: 0.011 };
            let rebound = |front: &Front| Rebound::of(&Closed::new(&drum, front), &inner, 1.0, BLOW);
            let whole = rebound(&Front::Whole);
            let usual = if diameter_in < 18.0 { 4.0 } else { 5.0 };
            for open in [Front::usual_port(usual, diameter_in), Front::usual_port(8.0, diameter_in), Front::Off] {
                let open = rebound(&open);
                assert!(open.again.is_empty() && open.fewest == 0, "{diameter_in} in: {open:?}");
            }
            assert!(!whole.again.is_empty(), "{diameter_in} in: {whole:?}");
            let second_s = whole.second_s.unwrap();
            assert!(second_s.low > APART_S && second_s.low <= whole.again[0].at_s && whole.again[0].at_s <= second_s.high, "{whole:?}");
            // A head on its way back may meet the beater a little faster than the first time.
            assert!(whole.again.iter().all(|landing| (HEARD_DB..3.0).contains(&landing.level_db)), "{whole:?}");
        }
    }
}
