//! One step on from a check, and lessons about a device.

use crate::common::{Measured, measured, played, wanted};
use ember_core::Patience;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Expectation, Made, Open, Placement, Predictor, Strengths, device_info};
use ember_core::drum::DrumKind;
use ember_core::plan::{Limits, Question, ShelfItem, Sounding, Step, next_step, teaching};
use std::sync::LazyLock;

static TOM: LazyLock<Measured> = LazyLock::new(|| measured(&played(&BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap(), 2)));

fn ask<T>(genre: &str, bpm: f64, shelf: &[ShelfItem], work: impl Fn(&Question) -> T) -> T {
    let drum = BenchDrum::usual(DrumKind::Tom);
    work(&Question {
        drum: &drum,
        partials: &TOM.partials,
        profile: &TOM.summary.profile,
        wanted: wanted(genre, bpm, DrumKind::Tom, &TOM),
        shelf,
        limits: Limits::default(),
        strengths: &Strengths::default(),
        patience: Patience::ENDLESS,
    })
}

fn placed(specs: &[&str]) -> Vec<Placement> {
    specs.iter().map(|spec| Placement::parse(spec).unwrap()).collect()
}

/// The tom as the model expects it with `on`.
fn expected(on: &[Placement]) -> Expectation {
    let predictor = Predictor::new(&BenchDrum::usual(DrumKind::Tom), &TOM.partials).unwrap();
    let grips: Vec<_> = on.iter().map(|placement| predictor.grip(placement)).collect();
    let open = Open { partials: &TOM.partials, profile: &TOM.summary.profile };
    predictor.expect(&open, on, &grips.iter().collect::<Vec<_>>())
}

#[test]
fn what_rings_on_gets_one_more_thing_and_what_is_dead_loses_one() {
    let shelf = [ShelfItem::new(DeviceKind::GelPad, 2), ShelfItem::new(DeviceKind::Tape, 3)];
    // The tape that is on does next to nothing.
    let tape = placed(&["tape:0:0.9:180"]);
    let next = ask("metal", 180.0, &shelf, |question| next_step(question, &tape, TOM.sounding())).unwrap();
    assert_eq!((next.step, next.index), (Step::Add, 1));
    let plan = next.plan.unwrap();
    assert!(plan.placements.len() == 2 && plan.placements[0] == tape[0] && next.then.misfit < next.now.misfit - 0.5);
    // Cloth over everything, where the music wants a note.
    let dead = placed(&["thick_cloth:2", "loose_ring"]);
    let sound = expected(&dead);
    let found = Sounding { partials: &sound.partials, profile: &sound.profile };
    let next = ask("cumbia", 96.0, &shelf, |question| next_step(question, &dead, found)).unwrap();
    assert!(matches!(next.step, Step::TakeAway | Step::Exchange) && next.index == 0, "{:?}", next.step);
}

/// Three things are the most that lie on a head: then what does next to nothing is swapped for something that does.
#[test]
fn where_nothing_more_can_be_added_one_thing_is_swapped_for_another() {
    let shelf = [ShelfItem::new(DeviceKind::GelPad, 1), ShelfItem::new(DeviceKind::ThinCloth, 1), ShelfItem::new(DeviceKind::Tape, 3)];
    let full = placed(&["tape:0:0.9:180", "tape:0:0.9:90", "tape:0:0.9:270"]);
    let next = ask("metal", 180.0, &shelf, |question| next_step(question, &full, TOM.sounding())).unwrap();
    let plan = next.plan.unwrap();
    assert_eq!((next.step, plan.placements.len()), (Step::Exchange, 3));
    assert_ne!(plan.placements[next.index].device, DeviceKind::Tape);
    assert!(next.then.misfit < next.now.misfit - 0.5);
}

/// A turn of every rod goes with what it brings back: it is no step by itself, and goes when that does.
#[test]
fn rods_are_turned_back_with_the_last_device() {
    let shelf = [ShelfItem::new(DeviceKind::RodsTurned, 1)];
    let on = placed(&["thick_cloth:2", "rods_turned:5"]);
    let sound = expected(&on);
    let found = Sounding { partials: &sound.partials, profile: &sound.profile };
    let limits = Limits { nothing_inside: true, ..Limits::default() };
    let next =
        ask("cumbia", 96.0, &shelf, |question| next_step(&Question { limits, wanted: question.wanted.clone(), ..*question }, &on, found));
    let next = next.unwrap();
    assert!(next.step == Step::TakeAway || next.step == Step::Exchange, "{:?}", next.step);
    assert!(next.index == 0 && next.plan.is_none_or(|plan| plan.placements.len() == 2), "the cloth, and the rods with the last of it");
    let ringing = ask("metal", 180.0, &shelf, |question| next_step(question, &placed(&["rods_turned:5"]), TOM.sounding())).unwrap();
    assert_eq!(ringing.step, Step::NoneHelps, "no turn shortens anything");
}

#[test]
fn what_fits_is_left_alone_and_an_empty_shelf_helps_no_further() {
    let pads = placed(&["gel_pad:1:0.75:120", "gel_pad:1:0.8:210"]);
    let sound = expected(&pads);
    let found = Sounding { partials: &sound.partials, profile: &sound.profile };
    let mut easy = wanted("cumbia", 96.0, DrumKind::Tom, &TOM);
    (easy.ring_length_most_s, easy.body_length_most_s, easy.body_length_least_s, easy.ring_over_body_most) = (9.0, 9.0, 0.001, None);
    let next = ask("cumbia", 96.0, &[], |question| {
        let question = Question { wanted: easy.clone(), ..*question };
        next_step(&question, &pads, found)
    });
    assert_eq!(next.unwrap().step, Step::Nothing);
    let strip = placed(&["tape:2:0.9:180"]);
    let next = ask("metal", 180.0, &[], |question| next_step(question, &strip, TOM.sounding())).unwrap();
    assert!(matches!(next.step, Step::NoneHelps | Step::Exchange), "nothing is left to add: {:?}", next.step);
}

#[test]
fn lessons_go_where_nothing_was_tried_until_everything_was() {
    let item = ShelfItem::new(DeviceKind::Tape, 1);
    let mut tested: Vec<Placement> = Vec::new();
    while let Some(next) = ask("cumbia", 96.0, &[], |question| teaching(question, item, &tested)) {
        assert!(tested.iter().all(|other| (other.amount, other.radius) != (next.amount, next.radius)), "{next:?} again");
        tested.push(next);
    }
    assert_eq!(tested.len(), 3 * device_info(DeviceKind::Tape).amounts.len(), "each amount at three distances");
    // Something of one's own is laid as it was measured.
    let made = Made { name: "bandana".parse().unwrap(), length_m: 0.12, width_m: 0.1, mass_kg: 0.006 };
    let own = ShelfItem { device: DeviceKind::OWN[1], count: 1, made: Some(made) };
    let lesson = ask("cumbia", 96.0, &[], |question| teaching(question, own, &[])).unwrap();
    assert_eq!((lesson.made, lesson.name().to_string().as_str()), (Some(made), "bandana"));
    let too_large = Made { length_m: 0.9, ..made };
    assert!(Placement { made: Some(too_large), amount: 0, ..lesson }.validate(&BenchDrum::usual(DrumKind::Tom)).is_err());
    assert!(Placement { made: None, ..lesson }.validate(&BenchDrum::usual(DrumKind::Tom)).is_err());
}
