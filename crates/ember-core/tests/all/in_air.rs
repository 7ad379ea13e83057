//! The predictor against the simulated drum in air ([`BenchDrum::in_air`]): a field of air in and around two heads of uneven tension, stepped in
//! time, of which it shares no formula. What each tone truly is, is read off how the heads move.
//!
//! A few cases run with every test. All of them take half an hour, and run when asked:
//! `cargo test --release -p ember-core --test all in_air:: -- --ignored --nocapture`; docs/METHOD.md has their figures.

use crate::common::{Measured, measured, random_treatment, wanted};
use ember_core::Patience;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Open, Placement, Predictor, Strengths, device_info};
use ember_core::drum::{Drum, DrumKind, DrumModel, Head, Member, MembraneMode};
use ember_core::numeric::Range;
use ember_core::plan::{Limits, Question, ShelfItem, Sounding, followed, plan};
use ember_core::target::{Wanted, assess};
use ember_core::tone::{HeardBy, Partial};
use ember_core::tone::{Motion, Tone};
use ember_core::units::median;
use rand::{Rng, SeedableRng, rngs::StdRng, seq::IndexedRandom};
use rayon::prelude::*;
use std::f64::consts::PI;

/// A partial is named where it stands no further below the loudest than this, dB.
const NAMED_DB: f64 = -26.0;
/// What one membrane mode must have of the batter's motion for a partial to be clearly that.
const CLEARLY: f64 = 0.55;
/// What is further off than this (logarithm) is printed.
const FAR_OFF_LN: f64 = 0.35;
/// Levels under which nothing is heard any more, for the tone that is heard longest, dB.
const HEARD_DB: f64 = -45.0;

/// (nodal diameters, circles) of the modes looked for. Two whose zeros lie within 2 % are told apart by their level alone.
const MODES: [(usize, usize); 16] =
    [(0, 1), (1, 1), (2, 1), (0, 2), (3, 1), (1, 2), (4, 1), (2, 2), (0, 3), (5, 1), (3, 2), (6, 1), (1, 3), (4, 2), (2, 3), (0, 4)];

/// A drum as kits have them, its size, heads, tuning and unevenness drawn anew.
struct Drawn {
    drum: Drum,
    batter_hz: f64,
    lower_hz: f64,
    uneven: f64,
    /// How strong devices are against their priors, where not as strong.
    strengths: Vec<(DeviceKind, f64)>,
}

impl Drawn {
    fn new(rng: &mut StdRng, index: usize) -> Self {
        let usual = BenchDrum::usual(DrumKind::OF_A_KIT[index % DrumKind::OF_A_KIT.len()]);
        let film = *[7.5, 10.0, 12.0].choose(rng).expect("films");
        let drum = Drum {
            diameter_in: usual.diameter_in + *[-2.0, -1.0, 0.0, 1.0].choose(rng).expect("sizes"),
            depth_in: usual.depth_in * rng.random_range(0.75..1.25),
            batter: if rng.random_bool(0.6) { Head::plain(film) } else { Head::double(14.0) },
            ..usual
        };
        let batter_hz = drum.usual_batter_hz() * rng.random_range(0.85..1.2);
        let interval = if drum.kind == DrumKind::Snare { rng.random_range(1.3..1.9) } else { rng.random_range(0.9..1.45) };
        Self { lower_hz: batter_hz * interval, batter_hz, uneven: rng.random_range(-0.05..0.05), drum, strengths: Vec::new() }
    }

    /// The same with devices as strong as their priors deem likely, each drawn anew.
    fn with_likely_strengths(mut self, rng: &mut StdRng) -> Self {
        // Twelve even numbers add up to nearly a normal one.
        let normal = |rng: &mut StdRng| (0..12).map(|_| rng.random_range(0.0..1.0)).sum::<f64>() - 6.0;
        let likely = |kind: DeviceKind| (kind, (device_info(kind).prior.resistance_ln_sd * normal(rng)).exp());
        self.strengths = DeviceKind::ALL.into_iter().filter(|kind| !kind.is_own()).map(likely).collect();
        self
    }

    fn with(&self, placements: &[Placement]) -> BenchDrum {
        let bench =
            BenchDrum::new(&self.drum, placements).expect("a treatment that can be").with_known_devices().with_strengths(&self.strengths);
        bench.tuned(self.batter_hz, self.lower_hz).uneven(self.uneven, -0.7 * self.uneven).in_air()
    }

    fn treatment(&self, rng: &mut StdRng) -> Vec<Placement> {
        let count = |rng: &mut StdRng| if rng.random_bool(0.6) { 1 } else { 2 };
        random_treatment(rng, &self.drum, |kind| !kind.is_tuning(), count, 0.45..0.93)
    }
}

/// What a partial truly is: the mode that has most of the batter's motion at its pitch, and whether both heads go the same way in it. None where
/// no mode clearly has.
fn truth(bench: &BenchDrum, partials: &[Partial]) -> Vec<Option<(usize, usize, bool)>> {
    let members = |&(m, n): &(usize, usize)| {
        let both: &[Member] = if m == 0 { &[Member::Cos] } else { &[Member::Cos, Member::Sin] };
        both.iter().map(move |member| MembraneMode::new(m, n, *member)).collect::<Vec<_>>()
    };
    let modes: Vec<MembraneMode> = MODES.iter().flat_map(members).collect();
    let shapes: Vec<_> = modes.iter().map(|mode| move |r: f64, angle: f64| mode.shape(r, angle)).collect();
    let (moves, rate) = bench.moves_as(7, 0, &shapes);
    let one = |partial: &Partial| {
        let from = (0.015 * rate) as usize;
        let length = (1.2 * partial.t60_s.unwrap_or(0.3)).clamp(0.15, 1.0);
        // The discrete Fourier transform at the partial's pitch, under Hann's window.
        let at = |moved: &[f64]| {
            let part = &moved[from.min(moved.len())..(from + (length * rate) as usize).min(moved.len())];
            let turn = |n: usize| 2.0 * PI * partial.hz * n as f64 / rate;
            let window = |n: usize| 0.5 - 0.5 * (2.0 * PI * n as f64 / part.len() as f64).cos();
            part.iter()
                .enumerate()
                .fold((0.0, 0.0), |(re, im), (n, x)| (re + window(n) * x * turn(n).cos(), im - window(n) * x * turn(n).sin()))
        };
        let mut of_mode = vec![(0.0, 0.0); MODES.len()];
        for (i, mode) in modes.iter().enumerate() {
            let (batter, lower) = (at(&moves[0][i]), at(&moves[1][i]));
            let slot = MODES.iter().position(|wanted| *wanted == (mode.m, mode.n)).expect("one of them");
            of_mode[slot].0 += batter.0.hypot(batter.1).powi(2);
            of_mode[slot].1 += batter.0 * lower.0 + batter.1 * lower.1;
        }
        let all: f64 = of_mode.iter().map(|mode| mode.0).sum();
        let most = (0..MODES.len()).max_by(|a, b| of_mode[*a].0.total_cmp(&of_mode[*b].0)).expect("modes");
        (of_mode[most].0 > CLEARLY * all).then_some((MODES[most].0, MODES[most].1, of_mode[most].1 > 0.0))
    };
    partials.iter().map(one).collect()
}

/// A promise and what came of it.
struct Outcome {
    what: &'static str,
    expected: f64,
    found: f64,
    within: bool,
}

#[derive(Default)]
struct Found {
    named: usize,
    right: usize,
    outcomes: Vec<Outcome>,
    /// The tone that is heard longest: logarithm of found against expected.
    longest: Vec<f64>,
}

fn names(drawn: &Drawn, open: &Measured, found: &mut Found) {
    let model = DrumModel::fit(&drawn.drum, &open.partials).expect("a clear body");
    for (partial, truth) in model.partials.iter().zip(truth(&drawn.with(&[]), &open.partials)) {
        let Some((m, n, together)) = truth.filter(|_| partial.level_db >= NAMED_DB) else { continue };
        let right = partial.tone.and_then(Tone::mode).is_some_and(|mode| {
            let same = usize::from(mode.diameters) == m && usize::from(mode.circles) == n;
            // From the third on the lower head hardly moves with the batter: then it is not said which way it goes.
            same && (m > 0 || n > 2 || (mode.motion == Motion::Opposed) != together)
        });
        if !right {
            println!("{:?} {:.1} Hz, {:.0} dB: said {:?}, is ({m},{n})", drawn.drum.kind, partial.hz, partial.level_db, partial.tone);
        }
        found.named += 1;
        found.right += usize::from(right);
    }
}

fn longest(partials: &[Partial]) -> f64 {
    partials.iter().filter_map(|p| Some((p.level_db - HEARD_DB).max(0.0) / 60.0 * p.t60_s?)).fold(0.0, f64::max)
}

fn treatment(drawn: &Drawn, open: &Measured, placements: &[Placement], found: &mut Found) {
    let predictor = Predictor::new(&drawn.drum, &open.partials).expect("a clear body");
    let grips: Vec<_> = placements.iter().map(|placement| predictor.grip(placement)).collect();
    let start = Open { partials: &open.partials, profile: &open.summary.profile };
    let expected = predictor.expect(&start, placements, &grips.iter().collect::<Vec<_>>());
    let treated = measured(&drawn.with(placements).play(1, 7));
    let sounding = Sounding { partials: &treated.partials, profile: &treated.summary.profile };
    let (_, profile) = followed(sounding, &expected);
    let mut add = |what: &'static str, expected: Option<f64>, is: Option<f64>, range: Option<Range>| {
        if let (Some(expected), Some(is), Some(range)) = (expected, is, range) {
            if (is / expected).ln().abs() > FAR_OFF_LN {
                let laid: Vec<String> =
                    placements.iter().map(|p| format!("{}:{}:{:.2}:{:.0}", p.device.code(), p.amount, p.radius, p.angle_deg)).collect();
                println!("{:?} {what}: {expected:.3} s expected, {is:.3} s found with {}", drawn.drum.kind, laid.join(" "));
            }
            found.outcomes.push(Outcome { what, expected, found: is, within: (range.low..=range.high).contains(&is) });
        }
    };
    add("body", expected.profile.body_t60_s, profile.body_t60_s, expected.body_t60_s);
    add("ring", expected.profile.ring_t60_s, profile.ring_t60_s, expected.ring_t60_s);
    let (should, is) = (longest(&expected.partials), longest(&treated.partials));
    if should > 0.0 && is > 0.0 {
        found.longest.push((is / should).ln());
    }
}

fn all(drums: usize, treatments: usize, seed: u64, likely: bool) -> Found {
    let one = |index: usize| {
        let mut rng = StdRng::seed_from_u64(seed + index as u64);
        let drawn = Drawn::new(&mut rng, index);
        let drawn = if likely { drawn.with_likely_strengths(&mut rng) } else { drawn };
        let open = measured(&drawn.with(&[]).play(2, 7));
        let mut found = Found::default();
        if HeardBy::Partials.body(&open.partials).is_some() {
            names(&drawn, &open, &mut found);
            (0..treatments).for_each(|_| treatment(&drawn, &open, &drawn.treatment(&mut rng), &mut found));
        }
        found
    };
    (0..drums).into_par_iter().map(one).reduce(Found::default, |mut a, b| {
        (a.named, a.right) = (a.named + b.named, a.right + b.right);
        a.outcomes.extend(b.outcomes);
        a.longest.extend(b.longest);
        a
    })
}

/// (median, 90th percentile) of the sizes of logarithms, as parts.
fn sizes(logs: impl Iterator<Item = f64>) -> (f64, f64) {
    let mut sizes: Vec<f64> = logs.map(|log| log.abs().exp_m1()).collect();
    sizes.sort_by(f64::total_cmp);
    (median(&sizes).unwrap_or(f64::NAN), sizes.get(sizes.len() * 9 / 10).copied().unwrap_or(f64::NAN))
}

/// Prints what was found; medians of body, ring and the tone heard longest, the part of names that is right, and the part within its range.
fn say(found: &Found) -> [f64; 5] {
    let of = |what: &'static str| found.outcomes.iter().filter(move |one| one.what == what);
    let errors = |what: &'static str| sizes(of(what).map(|one| (one.found / one.expected).ln()));
    let within = found.outcomes.iter().filter(|one| one.within).count() as f64 / found.outcomes.len().max(1) as f64;
    let right = found.right as f64 / found.named.max(1) as f64;
    for what in ["body", "ring"] {
        let (middle, most) = errors(what);
        println!("| {what} | {} | {:.1} % | {:.0} % |", of(what).count(), 100.0 * middle, 100.0 * most);
    }
    let (middle, most) = sizes(found.longest.iter().copied());
    println!("| heard longest | {} | {:.1} % | {:.0} % |", found.longest.len(), 100.0 * middle, 100.0 * most);
    println!("{} of {} names right, {:.0} % within their range", found.right, found.named, 100.0 * within);
    [errors("body").0, errors("ring").0, middle, right, within]
}

#[test]
fn a_few_drums_in_air_are_named_and_foretold() {
    let [body, ring, longest, right, within] = say(&all(3, 1, 2_000, false));
    assert!(body < 0.08 && ring < 0.15 && longest < 0.25, "body {body}, ring {ring}, longest {longest}");
    assert!(right >= 0.8 && within >= 0.85, "{right} of names right, {within} within");
}

#[test]
#[ignore = "takes half an hour; its figures stand in docs/METHOD.md"]
fn two_hundred_treatments_in_air_come_out_as_predicted() {
    let [body, ring, longest, right, within] = say(&all(40, 5, 7_000, false));
    assert!(body <= 0.05 && ring <= 0.08 && longest <= 0.12, "body {body}, ring {ring}, longest {longest}");
    assert!(right >= 0.85 && (0.85..=1.0).contains(&within), "{right} of names right, {within} within");
}

#[test]
#[ignore = "takes half an hour; its figures stand in docs/METHOD.md"]
fn strengths_that_are_not_known_stay_in_their_ranges_in_air() {
    let [_, _, _, _, within] = say(&all(40, 5, 9_000, true));
    assert!(within >= 0.85, "{within} within");
}

/// Steps off that a treatment of `drawn` is found to be.
fn misfit(drawn: &Drawn, placements: &[Placement], wanted: &Wanted) -> f64 {
    let treated = measured(&drawn.with(placements).play(1, 7));
    assess(&treated.partials, &treated.summary.profile, wanted, None).misfit
}

/// A plan of a drawn drum, and how far off it and random treatments of as many devices turn out: none where nothing is needed.
fn chosen(index: usize, others: usize) -> Option<(f64, f64)> {
    let mut rng = StdRng::seed_from_u64(11_000 + index as u64);
    let drawn = Drawn::new(&mut rng, index);
    let open = measured(&drawn.with(&[]).play(2, 7));
    let (genre, bpm) = *[("rock", 120.0), ("metal", 180.0), ("funk", 100.0), ("swing", 140.0), ("cumbia", 96.0)].choose(&mut rng)?;
    let wanted = wanted(genre, bpm, drawn.drum.kind, &open);
    let shelf: Vec<ShelfItem> = DeviceKind::ALL.into_iter().filter(|kind| !kind.is_own()).map(|kind| ShelfItem::new(kind, 2)).collect();
    let question = Question {
        drum: &drawn.drum,
        partials: &open.partials,
        profile: &open.summary.profile,
        wanted: wanted.clone(),
        shelf: &shelf,
        limits: Limits::default(),
        strengths: &Strengths::default(),
        patience: Patience::ENDLESS,
    };
    let answer = plan(&question)?;
    let best = answer.plans.iter().find(|plan| plan.front.is_none())?;
    let own = misfit(&drawn, &best.placements, &wanted);
    // What is within a step of perfect cannot be beaten by more than one.
    let others = if own > 1.0 { others } else { 0 };
    let other = (0..others).map(|_| misfit(&drawn, &drawn.treatment(&mut rng), &wanted)).fold(f64::INFINITY, f64::min);
    println!(
        "{index} {:?} {genre}: {own:.1} steps off, {:.1} expected; the best of others {other:.1}",
        drawn.drum.kind, best.assessment.misfit
    );
    Some((own, other))
}

#[test]
#[ignore = "takes half an hour; its figures stand in docs/METHOD.md"]
fn chosen_plans_are_hard_to_beat_in_air() {
    let all: Vec<(f64, f64)> = (0..40).into_par_iter().filter_map(|index| chosen(index, 25)).collect();
    let beaten = all.iter().filter(|(own, other)| *other < own - 1.0).count();
    println!("{beaten} of {} beaten by more than one step", all.len());
    assert!(10 * beaten <= all.len(), "{beaten} of {}", all.len());
}
