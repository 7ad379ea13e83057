//! What must hold of any device on any drum, whatever its figures.

use crate::common::{Measured, measured, played};
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Open, Placement, Predictor, Strength, device_info};
use ember_core::drum::{Drum, DrumKind, Head, HeadSide};
use ember_core::tone::Partial;
use ember_core::tone::{Mode, Tone};
use proptest::prelude::*;
use std::sync::LazyLock;

static TOM: LazyLock<Measured> = LazyLock::new(|| measured(&played(&BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap(), 2)));

fn predictor() -> Predictor {
    Predictor::new(&BenchDrum::usual(DrumKind::Tom), &TOM.partials).unwrap()
}

fn solved(predictor: &Predictor, placements: &[Placement], strength: Strength) -> Vec<Partial> {
    let grips: Vec<_> = placements.iter().map(|placement| predictor.grip(placement)).collect();
    predictor.solve(&grips.iter().collect::<Vec<_>>(), strength)
}

fn any_device() -> impl Strategy<Value = Placement> {
    // A turn of every rod is no device: it gives pitch and takes nothing (see the facts of the trade).
    let kinds = DeviceKind::ALL.into_iter().filter(|kind| !kind.is_own() && *kind != DeviceKind::RodsTurned);
    let kinds: Vec<DeviceKind> = kinds.filter(|kind| device_info(*kind).kinds.contains(&DrumKind::Tom)).collect();
    (prop::sample::select(kinds), 0usize..3, 0.3f64..0.95, 0f64..360.0).prop_map(|(device, amount, radius, angle_deg)| Placement {
        device,
        amount: amount % device_info(device).amounts.len(),
        radius,
        angle_deg,
        made: None,
        other_head: false,
    })
}

/// The open drum's longest and shortest decay times, s.
fn longest(partials: &[Partial]) -> f64 {
    partials.iter().filter_map(|p| p.t60_s).fold(0.0, f64::max)
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(24) })]

    #[test]
    fn a_device_only_takes(device in any_device(), other in any_device()) {
        let predictor = predictor();
        let open = solved(&predictor, &[], Strength::EXPECTED);
        let treated = solved(&predictor, &[device, other], Strength::EXPECTED);
        prop_assert!(treated.iter().all(|p| p.t60_s.is_some_and(|t| t.is_finite() && t > 0.0) && p.hz.is_finite()));
        // Mass on a head holds its motion up a little: a part in ten is left for that.
        prop_assert!(longest(&treated) < 1.1 * longest(&open), "{} against {}", longest(&treated), longest(&open));
        // What lies on a head never raises its lowest pitch.
        prop_assert!(treated[0].hz < 1.01 * open[0].hz);
    }

    /// A thing that damps is never said to lengthen: the body and the ring of what is expected are those of the open drum, and another overtone
    /// that rings most by then is said beside them, with what it was before.
    #[test]
    fn body_and_ring_stay_one_tone_and_last_no_longer(device in any_device(), other in any_device()) {
        let predictor = predictor();
        let placements = [device, other];
        let grips: Vec<_> = placements.iter().map(|placement| predictor.grip(placement)).collect();
        let open = Open { partials: &TOM.partials, profile: &TOM.summary.profile };
        let expected = predictor.expect(&open, &placements, &grips.iter().collect::<Vec<_>>());
        let (before, after) = (open.profile, &expected.profile);
        // Mass on a head holds its motion up a little: a part in ten is left for that.
        prop_assert!(after.body_t60_s <= before.body_t60_s.map(|t60| 1.1 * t60), "{after:?}");
        if let Some(rings_on) = &expected.rings_on {
            prop_assert!(rings_on.before_s.is_none_or(|before| rings_on.t60_s <= 1.1 * before), "{rings_on:?}");
            let said = format!("{:.2} s", rings_on.t60_s);
            prop_assert!(rings_on.sentence.contains(&said) && Some(rings_on.hz) != after.ring_hz, "{rings_on:?}");
        } else {
            prop_assert!(after.ring_t60_s <= before.ring_t60_s.map(|t60| 1.1 * t60), "{after:?}");
        }
    }

    #[test]
    fn turning_everything_together_changes_nothing(first in any_device(), second in any_device(), turn in 0f64..360.0) {
        // Lugs are let slack at the player, and stay there.
        prop_assume!(!first.device.is_tuning() && !second.device.is_tuning());
        let predictor = predictor();
        let turned = |p: &Placement| Placement { angle_deg: p.angle_deg + turn, ..*p };
        let (here, there) = (
            solved(&predictor, &[first, second], Strength::EXPECTED),
            solved(&predictor, &[turned(&first), turned(&second)], Strength::EXPECTED),
        );
        // Which way a pair lies is not known, so that only what all partials do together may be compared.
        let late = |partials: &[Partial]| partials.iter().map(|p| p.energy_between(0.08, 0.4)).sum::<f64>();
        prop_assert!((late(&here) / late(&there) - 1.0).abs() < 0.1, "{} {}", late(&here), late(&there));
        prop_assert!((here[0].t60_s.unwrap() / there[0].t60_s.unwrap() - 1.0).abs() < 0.02);
        prop_assert!((longest(&here) / longest(&there) - 1.0).abs() < 0.05, "{} {}", longest(&here), longest(&there));
    }

    #[test]
    fn a_stronger_device_leaves_the_body_no_longer(device in any_device()) {
        let predictor = predictor();
        let body = |strength| solved(&predictor, &[device], strength)[0].t60_s.unwrap();
        // A device of any strength is between none and clamped, where a stronger one moves less; below that it takes more.
        let (weak, strong) = (body(Strength(-3.0)), body(Strength::EXPECTED));
        prop_assert!(strong <= 1.05 * weak, "{weak} {strong}");
    }
}

#[test]
fn the_bare_model_is_the_drum_as_it_was_measured() {
    let bare = solved(&predictor(), &[], Strength::EXPECTED);
    for heard in TOM.partials.iter().filter(|p| p.level_db > -30.0 && p.tone.and_then(Tone::mode).is_some() && p.t60_s.is_some()) {
        let same = bare.iter().min_by(|a, b| (a.hz - heard.hz).abs().total_cmp(&(b.hz - heard.hz).abs())).unwrap();
        assert!((same.hz / heard.hz - 1.0).abs() < 0.005, "{heard:?} became {same:?}");
        assert!((same.t60_s.unwrap() / heard.t60_s.unwrap() - 1.0).abs() < 0.1, "{heard:?} became {same:?}");
    }
}

#[test]
fn what_lies_inside_on_the_lower_head_reaches_the_body_only_through_the_air() {
    let predictor = predictor();
    let [first, ..] = Placement::parse("loose_ring").unwrap().patches(&BenchDrum::usual(DrumKind::Tom))[..] else { panic!("no patch") };
    assert_eq!(first.side, HeadSide::Lower);
    let open = solved(&predictor, &[], Strength::EXPECTED);
    let ringed = solved(&predictor, &[Placement::parse("loose_ring").unwrap()], Strength::EXPECTED);
    let t60 = |partials: &[Partial], mode: Mode| partials.iter().find(|p| p.tone == Some(mode.into())).and_then(|p| p.t60_s).unwrap();
    let lost = |mode: Mode| t60(&ringed, mode) / t60(&open, mode);
    assert!(lost(Mode::together(0, 1)) < 0.8, "the body moves the air");
    assert!((0.9..=1.0 + 1e-9).contains(&lost(Mode::alone(1, 1))), "of (1,1) only what falls off along the shell reaches the other head");
}

#[test]
fn a_drum_that_cannot_be_is_refused_in_words() {
    let usual = BenchDrum::usual(DrumKind::Snare);
    let with = |change: fn(&mut Drum)| {
        let mut drum = usual.clone();
        change(&mut drum);
        drum.validate().map_err(|error| error.to_string())
    };
    assert_eq!(with(|_| ()), Ok(()));
    assert_eq!(with(|drum| drum.lower = None), Ok(()));
    type Change = fn(&mut Drum);
    let refused: [(Change, &str); 7] = [
        (|drum| drum.name = "  ".into(), "name"),
        (|drum| drum.name = "x".repeat(61), "name"),
        (|drum| drum.diameter_in = 60.0, "diameter"),
        (|drum| drum.depth_in = f64::NAN, "depth"),
        (|drum| drum.lugs = 0, "lugs"),
        (|drum| drum.batter = Head::plain(0.5), "batter"),
        (|drum| drum.lower = Some(Head::plain(500.0)), "lower head"),
    ];
    for (change, word) in refused {
        let said = with(change).unwrap_err();
        assert!(said.contains(word) && said.ends_with('.'), "{said}");
    }
}
