//! A beater that a foot presses on after the hit: whether it stays in the head, or the drum throws it back and it strikes again.
//!
//! The head is its coupled motions and the batter's others; the beater is a mass on the spring of its felt (Hunt & Crossley, J. Appl.
//! Mech. 42, 1975) under a constant push. Both are followed in time, since a contact comes and goes.

use super::coupled::{Closed, Coupled, Inner, axial, coupled};
use crate::blow::{Blow, beater_info};
use crate::damping::Range;
use crate::drum::{Member, MembraneMode, bessel_j, modes_up_to};
use crate::units::decibels;
use nalgebra::{DMatrix, DVector, Matrix3};
use pulp::{Arch, Simd, WithSimd};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;
use std::sync::LazyLock;

/// What moves with a beater, kg; the speed at which it lands, m/s; the push of a foot that leaves it in the head, light, usual and firm, N;
/// and what the foot takes of any motion, N s/m (from experience, no source; only the push against mass and speed counts).
const MASS: f64 = 0.1;
const SPEED: f64 = 3.0;
const PUSHES: [f64; 3] = [5.0, 10.0, 20.0];
const RESISTANCE: f64 = 2.3;
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
        let apart = gives + 0.5 * STEP_S * STEP_S / MASS;
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
            speed += STEP_S / MASS * (push - RESISTANCE * speed);
            position += 0.5 * STEP_S * (before + speed);
            let at = product(meets, &next[..count]) + product(&others.meets, &placed);
            // By the mean of where both are before and after, so that a hard beater neither rattles on the steps nor loses by them.
            let spring = 0.5 * stiffness * (1.0 + GIVE * met / SPEED).max(0.0);
            let force = spring * (depth + position - at).max(0.0) / (1.0 + spring * apart);
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

/// Sum of products.
#[inline(always)]
fn product(a: &[f64], b: &[f64]) -> f64 {
    a.iter().zip(b).map(|(x, y)| x * y).sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::bisect::bisect;
    use crate::drum::{DrumKind, Front};

    const BLOW: Blow = Blow { beater: crate::blow::BeaterKind::Felt, spot: 0.25, left_in: true };

    /// On a head too tight to move, a beater comes back as from a wall: it leaves with e times its speed, where
    /// g - ln(1 + g) = -g e - ln(1 - g e) for a give of g (Hunt & Crossley's force with a linear spring, integrated over the contact), and the
    /// foot brings it back as any body under a constant push against a resistance.
    #[test]
    fn from_a_wall_it_comes_back_as_in_the_closed_form() {
        let (drum, front) = (BenchDrum::usual(DrumKind::Kick), Front::Whole);
        let inner = Inner { batter_hz: 6000.0, front_hz: 6000.0, loss: 4.0, loss_by_wave: 0.01 };
        let head = Head::new(&Closed::new(&drum, &front), &inner, 1.0, BLOW);
        let lost = |e: f64| GIVE - (1.0 + GIVE).ln() + GIVE * e + (1.0 - GIVE * e).ln();
        // As long as without give and push, which change it by less than it counts here.
        let contact = beater_info(BLOW.beater).contact_s;
        // The foot's own resistance takes its part during the contact, too.
        let away = SPEED * bisect(0.2, 1.0, 50, |e| lost(e) > 0.0) * (-0.5 * RESISTANCE * contact / MASS).exp();
        for push in PUSHES {
            let rest = push / RESISTANCE;
            let place = |t: f64| rest * t - MASS / RESISTANCE * (away + rest) * (1.0 - (-RESISTANCE * t / MASS).exp());
            let wanted = contact + bisect(0.002, 0.4, 50, |t| place(t) < 0.0);
            let found = landings(&head, BLOW, push).first().map(|landing| landing.at_s).unwrap();
            assert!((found / wanted).ln().abs() < 0.07, "{push} N: {found} for {wanted}");
        }
    }

    /// A whole front throws any foot's beater back; a large hole lets a firm foot keep it (common practice, no published source).
    #[test]
    fn a_solid_front_throws_it_back_and_a_hole_lets_it_rest() {
        let drum = BenchDrum::usual(DrumKind::Kick);
        let inner = Inner { batter_hz: 57.0, front_hz: 64.0, loss: 4.5, loss_by_wave: 0.011 };
        let rebound = |front: &Front| Rebound::of(&Closed::new(&drum, front), &inner, 1.0, BLOW);
        let (whole, ported) = (rebound(&Front::Whole), rebound(&Front::usual_port(8.0, 22.0)));
        assert!(whole.fewest >= 1 && ported.fewest == 0, "{whole:?} {ported:?}");
        assert!(
            whole
                .second_s
                .is_some_and(|range| range.low > APART_S && range.low <= whole.again[0].at_s && whole.again[0].at_s <= range.high)
        );
        assert!(whole.again.iter().all(|landing| landing.level_db < 0.0 && landing.level_db >= HEARD_DB));
    }
}
