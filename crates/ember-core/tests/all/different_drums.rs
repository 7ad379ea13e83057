//! Drums that are not of an ordinary kit: what the trade says of them holds for what is expected and for what the simulated drum does.

use crate::common::{Measured, measured_by, played, wanted};
use ember_core::Patience;
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::damping::{DeviceKind, Open, Placement, Predictor, Strengths, device_info};
use ember_core::decay::NoteEnding;
use ember_core::drum::{Drum, DrumKind, Front};
use ember_core::kick::FrontPredictor;
use ember_core::plan::{Limits, Question, ShelfItem, followed, plan};
use ember_core::target::{NoteTrainer, NoteValue, NoteVerdict, PlayedNote, Stroke, WrittenNote};
use ember_core::tuning::{PairSchool, SeatingTask, seating_steps};

fn take(drum: &Drum) -> Measured {
    measured_by(&played(&BenchDrum::new(drum, &[]).unwrap(), 2), drum.heard_by())
}

fn body(take: &Measured) -> (f64, f64) {
    let profile = &take.summary.profile;
    (profile.body_hz.expect("a body"), profile.body_t60_s.expect("its length"))
}

/// Every kind is heard, has a wish, devices that fit, and a plan; nothing in it is made for another drum.
#[test]
fn every_kind_is_measured_wished_for_and_planned() {
    let shelf: Vec<ShelfItem> = DeviceKind::ALL.into_iter().filter(|kind| !kind.is_own()).map(|kind| ShelfItem::new(kind, 2)).collect();
    // Cymbals differ by their size alone: one of them stands for all.
    let is_another_cymbal = |kind: &DrumKind| matches!(kind, DrumKind::Splash | DrumKind::Crash | DrumKind::Ride | DrumKind::China);
    for kind in DrumKind::ALL.into_iter().filter(|kind| !is_another_cymbal(kind)) {
        let drum = BenchDrum::usual(kind);
        drum.validate().unwrap();
        let take = take(&drum);
        println!("{kind:?}: {:?}", body(&take));
        let question = Question {
            drum: &drum,
            partials: &take.partials,
            profile: &take.summary.profile,
            wanted: wanted("rock", 120.0, kind, &take),
            shelf: &shelf,
            limits: Limits::default(),
            strengths: &Strengths::default(),
            patience: Patience::ENDLESS,
        };
        let answer = plan(&question).expect("a clear body");
        for placement in answer.plans.iter().flat_map(|plan| &plan.placements) {
            placement.validate(&drum).unwrap();
            assert!(device_info(placement.device).kinds.contains(&kind));
        }
        assert!(!kind.has_heads() || !seating_steps(&drum, ember_core::drum::HeadSide::Batter, SeatingTask::NewHead).is_empty());
    }
}

/// Concert bass drum: low, long; marching bass drum: higher (common practice, no published source; CP 12).
#[test]
fn a_concert_bass_drum_is_low_and_long_and_a_marching_one_higher_and_shorter() {
    let [concert, marching, kick] =
        [DrumKind::ConcertBass, DrumKind::MarchingBass, DrumKind::Kick].map(|kind| body(&take(&BenchDrum::usual(kind))));
    assert!(concert.0 < 0.75 * kick.0 && concert.1 > 1.5 * kick.1, "{concert:?} against {kick:?}");
    assert!(marching.0 > 1.1 * kick.0 && marching.1 < concert.1, "{marching:?} against {kick:?}");
    // It is to last: no genre's kick is its measure.
    assert!(wanted("funk", 100.0, DrumKind::ConcertBass, &take(&BenchDrum::usual(DrumKind::ConcertBass))).body_length_most_s > 5.0);
}

/// A tom without its lower head is short and lower, so that its batter is tuned up; a mesh does the same and rattles less. Its clear pitch is
/// that of the lowest tone that lasts (common practice, no published source; CP 6).
#[test]
fn a_tom_without_its_lower_head_falls_in_pitch_and_length() {
    let tom = BenchDrum::usual(DrumKind::Tom);
    let whole = take(&tom);
    let predictor = FrontPredictor::new(&tom, &whole.partials, &whole.summary.profile).unwrap();
    let (whole_hz, whole_s) = body(&whole);
    for front in [Front::Off, Front::Mesh] {
        let expected = predictor.outlook(&front).expected;
        let (hz, t60_s) = (expected.profile.body_hz.unwrap(), expected.profile.body_t60_s.unwrap());
        assert!(hz < 0.95 * whole_hz && t60_s < 0.8 * whole_s, "{hz} Hz {t60_s} s after {whole_hz} Hz {whole_s} s");
        let take = take(&tom.with_front(&front));
        let note = body(&take);
        assert!(note.0 > 1.2 * hz && note.1 > 3.0 * t60_s, "its note is {note:?}");
        let profile = followed(take.sounding(), &expected).1;
        let found = (profile.body_hz.unwrap(), profile.body_t60_s.unwrap());
        assert!((found.0 / hz - 1.0).abs() < 0.06 && (found.1 / t60_s).ln().abs() < 0.3, "{found:?} for {hz} Hz {t60_s} s");
    }
}

/// A floor tom as a second kick: clear heads, low, lower head a whole step to a third above; a ring and an upturned spare head make it short
/// (common practice, no published source), on the simulated drum as in what is expected.
#[test]
fn a_floor_tom_can_be_played_as_a_kick() {
    let drum = BenchDrum::usual(DrumKind::SecondKick);
    let open = take(&drum);
    let (hz, t60_s) = body(&open);
    assert!(hz < 0.95 * body(&take(&BenchDrum::usual(DrumKind::FloorTom))).0, "{hz} Hz");
    assert_eq!(PairSchool::of(DrumKind::SecondKick)[..2], [PairSchool::WholeStepUp, PairSchool::ThirdUp]);
    let placements = ["loose_ring", "spare_head"].map(|spec| Placement::parse(spec).unwrap());
    placements.iter().for_each(|placement| placement.validate(&drum).unwrap());
    let predictor = Predictor::new(&drum, &open.partials).unwrap();
    let grips = placements.map(|placement| predictor.grip(&placement));
    let start = Open { partials: &open.partials, profile: &open.summary.profile };
    let expected = predictor.expect(&start, &placements, &grips.iter().collect::<Vec<_>>()).profile;
    let bench = BenchDrum::new(&drum, &placements).unwrap().with_known_devices();
    let found = body(&measured_by(&played(&bench, 2), drum.heard_by()));
    println!("{hz} Hz {t60_s} s; {:?} {:?} expected, {found:?} found", expected.body_hz, expected.body_t60_s);
    for (should_hz, should_s) in [(expected.body_hz.unwrap(), expected.body_t60_s.unwrap()), found] {
        assert!(should_s < 0.5 * t60_s && should_hz < hz, "{should_hz} Hz {should_s} s");
    }
}

/// The concert bass drum's note is damped by hand (common practice, no published source): through sound, the trainer hears when.
#[test]
fn a_trainer_hears_when_a_concert_basss_note_was_damped() {
    let drum = BenchDrum::new(&BenchDrum::usual(DrumKind::ConcertBass), &[]).unwrap();
    let mut trainer = NoteTrainer::new(f64::from(SAMPLE_RATE), WrittenNote { value: NoteValue::Quarter, bpm: 120.0 });
    let mut sound = drum.lead(3);
    for (index, damped_s) in [0.44, 0.75, 0.2].into_iter().enumerate() {
        sound.extend(drum.damped_note(3, index, damped_s));
    }
    // A stroke from so far away that its note is lost in the noise of the place.
    let far_away = [vec![0.0; 48_000], drum.damped_note(3, 9, 0.3)].concat().into_iter().enumerate();
    sound.extend(far_away.map(|(n, x)| 0.06 * x + 6e-4 * (((n * 7919) % 2003) as f32 / 1001.0 - 1.0)));
    let mut strokes: Vec<Stroke> = sound.chunks(960).flat_map(|piece| trainer.push(piece)).collect();
    let (last, all) = trainer.finish();
    strokes.extend(last);
    assert_eq!(strokes.iter().filter(|stroke| **stroke == Stroke::TooSoft).count(), 1, "{strokes:?}");
    let heard: Vec<PlayedNote> =
        strokes.into_iter().filter_map(|stroke| if let Stroke::Note(note) = stroke { Some(note) } else { None }).collect();
    let verdicts: Vec<NoteVerdict> = heard.iter().map(|note| note.verdict).collect();
    assert_eq!(verdicts, [NoteVerdict::AsWritten, NoteVerdict::TooLong, NoteVerdict::TooShort], "{heard:?}");
    assert!(heard.iter().all(|note| note.sounded.ending == NoteEnding::Damped), "{heard:?}");
    assert!((heard[1].off_s - 0.29).abs() < 0.06 && (heard[2].off_s + 0.22).abs() < 0.06, "{heard:?}");
    assert!((all.notes, all.as_written) == (3, 1) && all.sentence.unwrap().contains("not steady"));
}
