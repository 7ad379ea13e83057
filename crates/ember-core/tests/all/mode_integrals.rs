//! What devices do to modes, against answers from outside: sums over outlines against SciPy's quadrature (scripts/mode-integrals.py), a
//! small mass and a small resistance against first-order theory (Lord Rayleigh, *The Theory of Sound*, 88 and 102), and an even resistance
//! over the whole head against the closed form of a damped oscillator.

use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Made, Outline, Placement, Predictor, Strength, device_info};
use ember_core::drum::{Drum, DrumKind, Member, MembraneMode};
use ember_core::tone::Partial;
use ember_core::tone::Tone;
use ember_core::units::decay_rate;
use serde::Deserialize;

#[derive(Deserialize)]
struct Reference {
    modes: Vec<ReferenceMode>,
    cases: Vec<ReferenceCase>,
}

#[derive(Deserialize)]
struct ReferenceMode {
    m: usize,
    n: usize,
    member: String,
}

#[derive(Deserialize)]
struct ReferenceCase {
    outline: Outline,
    integrals: Vec<Vec<f64>>,
}

#[test]
fn sums_over_outlines_are_the_integrals_that_scipy_finds() {
    let reference: Reference = serde_json::from_str(include_str!("../reference/mode_integrals.json")).unwrap();
    let member = |name: &str| if name == "cos" { Member::Cos } else { Member::Sin };
    let modes: Vec<MembraneMode> = reference.modes.iter().map(|mode| MembraneMode::new(mode.m, mode.n, member(&mode.member))).collect();
    for case in &reference.cases {
        let points = case.outline.points();
        for (i, f) in modes.iter().enumerate() {
            for (k, g) in modes.iter().enumerate() {
                let sum: f64 = points.iter().map(|(r, angle, share)| share * f.shape(*r, *angle) * g.shape(*r, *angle)).sum();
                let exact = case.integrals[i][k];
                // Against what the two modes have there: a product that is nearly odd comes to nearly nothing.
                let size = (case.integrals[i][i] * case.integrals[k][k]).sqrt();
                assert!(
                    (sum - exact).abs() < 0.02 * size + 2e-6,
                    "{:?}, {} with {}: {sum:.6} against {exact:.6}",
                    case.outline,
                    f.label(),
                    g.label()
                );
            }
        }
    }
}

/// A tom without a lower head, on which every mode is a membrane's own.
fn membrane() -> (Drum, Predictor) {
    let drum = Drum { lower: None, ..BenchDrum::usual(DrumKind::Tom) };
    let partial =
        |hz: f64, mode: &str| Partial { hz, t60_s: Some(1.2), t60_sd_s: None, t60_scatter_s: None, level_db: 0.0, tone: Tone::read(mode) };
    let partials = [partial(140.0, "(0,1)"), partial(223.07, "(1,1)"), partial(299.03, "(2,1)"), partial(321.36, "(0,2)")];
    let predictor = Predictor::new(&drum, &partials).unwrap();
    (drum, predictor)
}

/// A scrap of paper weighs little and grips little: there first order is right.
#[test]
fn a_small_load_moves_pitch_and_decay_as_rayleigh_says() {
    let (drum, predictor) = membrane();
    let sigma = drum.areal_mass(drum.batter);
    let made = Made { name: "scrap".parse().unwrap(), length_m: 0.02, width_m: 0.02, mass_kg: 1e-4 };
    let scrap = Placement { device: DeviceKind::OWN[0], amount: 0, radius: 0.4, angle_deg: 180.0, made: Some(made), other_head: false };
    let prior = scrap.prior();
    let body = &predictor.solve(&[&predictor.grip(&scrap)], Strength::EXPECTED)[0];
    let part = MembraneMode::new(0, 1, Member::Cos).shape(0.4, 0.0).powi(2) * (0.02 / drum.radius()).powi(2) / std::f64::consts::PI / sigma;
    // Kinetic energy of the scrap's mass and power lost in its resistance, against the membrane's own energy.
    let hz = 140.0 / (1.0 + prior.mass * part).sqrt();
    assert!(((140.0 - body.hz) / (140.0 - hz) - 1.0).abs() < 0.03, "{} against {hz} Hz", body.hz);
    let resistance = prior.resistance * (140.0f64 / 200.0).powf(prior.exponent);
    let more = (decay_rate(1.2) + 0.5 * resistance * part) / (1.0 + prior.mass * part) - decay_rate(1.2);
    let found = decay_rate(body.t60_s.unwrap()) - decay_rate(1.2);
    assert!((found / more - 1.0).abs() < 0.03 && more > 0.05, "{found} against {more} 1/s");
}

/// Cloth over the whole head: each mode by itself is a damped oscillator.
#[test]
fn an_even_resistance_over_the_whole_head_is_the_closed_form() {
    let (drum, predictor) = membrane();
    let sigma = drum.areal_mass(drum.batter);
    let prior = device_info(DeviceKind::ThinCloth).prior;
    let cloth = Placement { device: DeviceKind::ThinCloth, amount: 2, radius: 0.85, angle_deg: 180.0, made: None, other_head: false };
    for times in [0.1, 0.5] {
        let grip = predictor.grip(&cloth).as_strong((f64::ln(times), 0.0));
        for partial in predictor.solve(&[&grip], Strength::EXPECTED).iter().filter(|partial| partial.level_db > -10.0) {
            // Cloth weighs on a mode as on all of it: (sigma + mu) q'' + (2 d sigma + R) q' + sigma omega^2 q = 0.
            let [mut near, mut far] = [f64::INFINITY; 2];
            for hz in [140.0f64, 223.07, 299.03, 321.36] {
                let resistance = times * prior.resistance * (hz / 200.0).powf(prior.exponent);
                let mass = sigma + prior.mass;
                let decay = (2.0 * decay_rate(1.2) * sigma + resistance) / (2.0 * mass);
                let stiffness = sigma * ((2.0 * std::f64::consts::PI * hz).powi(2) + decay_rate(1.2).powi(2));
                let damped = (stiffness / mass - decay * decay).sqrt() / (2.0 * std::f64::consts::PI);
                if (damped / partial.hz - 1.0).abs() < near {
                    near = (damped / partial.hz - 1.0).abs();
                    far = (decay_rate(partial.t60_s.unwrap()) / decay - 1.0).abs();
                }
            }
            assert!(near < 0.01 && far < 0.05, "{partial:?}: pitch off by {near}, decay by {far}");
        }
    }
}
