//! Other beaters, spots and hands on large drums: what is expected against the simulated drum, which pushes and holds cells of its head in
//! time.

use crate::common::{Measured, measured, played};
use ember_core::bench_drum::{BenchDrum, Foot, Hold, SAMPLE_RATE, Touch};
use ember_core::blow::{BeaterKind, Blow, BlowPredictor, StopKind, roll, stops};
use ember_core::damping::Predictor;
use ember_core::decay::sounded;
use ember_core::drum::{Drum, DrumKind, DrumModel, Front};
use ember_core::kick::FrontPredictor;
use ember_core::signal::{Limits, StrikeFinder};
use ember_core::tone::Partial;
use ember_core::tone::{Mode, Tone};
use ember_core::units::median;
use ember_words::text;

fn struck(drum: &Drum, blow: Blow) -> Measured {
    measured(&played(&BenchDrum::new(drum, &[]).unwrap().struck(blow), 3))
}

/// Level of the partials of the tones that are `wanted` together, dB.
fn level(partials: &[Partial], wanted: impl Fn(Tone) -> bool) -> Option<f64> {
    let power: f64 = partials.iter().filter(|p| p.tone.is_some_and(&wanted)).map(|p| 10f64.powf(p.level_db / 10.0)).sum();
    (power > 0.0).then(|| 10.0 * power.log10())
}

/// A harder beater brings out the overtones against the body, a softer one hides them, and near the hoop there are more of them: as much on
/// the simulated drum as expected, to 2 dB in the middle of all.
#[test]
fn overtones_come_and_go_with_beater_and_spot() {
    let mut off = Vec::new();
    for kind in [DrumKind::Kick, DrumKind::MarchingBass, DrumKind::ConcertBass] {
        let drum = BenchDrum::usual(kind);
        let from = Blow { beater: BeaterKind::Felt, spot: 0.25, left_in: false };
        let before = struck(&drum, from);
        let predictor = BlowPredictor::new(&drum, &before.partials, &before.summary.profile, from).unwrap();
        for to in [
            Blow { beater: BeaterKind::Plastic, ..from },
            Blow { beater: BeaterKind::HardFelt, ..from },
            Blow { beater: BeaterKind::Fleece, ..from },
            Blow { spot: 0.5, ..from },
        ] {
            let expected = predictor.outlook(to).expected.partials;
            let found = DrumModel::fit(&drum, &struck(&drum, to).partials).expect("a clear body").partials;
            for mode in [1, 2, 3].map(|diameters| Mode::alone(diameters, 1)) {
                let over = |partials: &[Partial]| Some(level(partials, |tone| tone == mode.into())? - level(partials, Tone::is_lowest)?);
                let (Some(was), Some(should), Some(is)) = (over(predictor.bare()), over(&expected), over(&found)) else { continue };
                println!("{} {to:?} {mode:?}: {was:.1} dB before, {should:.1} expected, {is:.1} found", kind.word());
                off.push((should - is).abs());
            }
        }
    }
    let middle = median(&off).unwrap();
    println!("{} figures, median {middle:.1} dB off", off.len());
    assert!(off.len() >= 10 && middle < 2.0, "{middle:.1} dB off");
}

/// A beater that is left in the head shortens the body (common practice, no published source), by about as much as on the simulated kick.
#[test]
fn a_beater_left_in_the_head_shortens_the_body() {
    for diameter_in in [18.0, 22.0] {
        let drum = Drum { diameter_in, ..BenchDrum::usual(DrumKind::Kick) };
        let from = Blow::usual(DrumKind::Kick).unwrap();
        let before = struck(&drum, from);
        let outlook =
            BlowPredictor::new(&drum, &before.partials, &before.summary.profile, from).unwrap().outlook(Blow { left_in: true, ..from });
        let found = struck(&drum, Blow { left_in: true, ..from }).summary.profile.body_t60_s.unwrap();
        let (body, range) = (outlook.expected.profile.body_t60_s.unwrap(), outlook.expected.body_t60_s.unwrap());
        println!("{diameter_in} in: {:?} to {body:.3} s in {range:?}, found {found:.3}", before.summary.profile.body_t60_s);
        assert!(body < 0.8 * before.summary.profile.body_t60_s.unwrap());
        assert!((range.low..=range.high).contains(&found) && (found / body).ln().abs() < 0.3, "{found} for {body}");
    }
}

/// A beater that a foot presses on comes back when it was expected to, and as often, on simulated kicks on which it is a body of its own: a
/// tenth as strong as a foot strikes, where heads still answer in proportion; only push against speed counts.
#[test]
fn a_beater_that_a_foot_presses_on_comes_back_when_expected() {
    let (mut off, mut alike, mut cases) = (Vec::new(), 0, 0);
    for diameter_in in [18.0, 22.0] {
        let drum = Drum { diameter_in, ..BenchDrum::usual(DrumKind::Kick) };
        let before = measured(&played(&BenchDrum::new(&drum, &[]).unwrap(), 3));
        let predictor = FrontPredictor::new(&drum, &before.partials, &before.summary.profile).unwrap();
        for (front, beater) in [
            (Front::Whole, BeaterKind::Felt),
            (Front::Whole, BeaterKind::Wood),
            (Front::usual_port(3.0, diameter_in), BeaterKind::Felt),
            (Front::usual_port(5.0, diameter_in), BeaterKind::Felt),
            (Front::usual_port(8.0, diameter_in), BeaterKind::Felt),
            (Front::Off, BeaterKind::HardFelt),
        ] {
            let blow = Blow { beater, spot: 0.25, left_in: true };
            let rebound = predictor.rebound(&front, blow);
            let found = [3.0, 4.0, 4.4].map(|push| {
                let foot = Foot { mass: 0.1, speed: 0.3, push };
                let struck = BenchDrum::new(&drum.with_front(&front), &[]).unwrap().struck(Blow { left_in: false, ..blow });
                landings(&struck.pressed_on(foot).touches(3, 0))
            });
            println!("{diameter_in} in, {}: {rebound:?}, found {found:?}", front.words(text!("front head")));
            let second_s = found.iter().filter_map(|landings| landings.first().copied());
            for (expected, found) in [
                (rebound.again.first().map(|landing| landing.at_s), found[1].first().copied()),
                (rebound.second_s.map(|range| range.high), second_s.reduce(f64::max)),
            ] {
                if let (Some(expected), Some(found)) = (expected, found) {
                    off.push((found / expected).ln().abs());
                }
            }
            let counts = found.clone().map(|landings| landings.len());
            let (fewest, most) = (counts.iter().min().unwrap(), counts.iter().max().unwrap());
            cases += 1;
            alike += usize::from((*fewest > 0) == (rebound.fewest > 0) && most.abs_diff(rebound.most) <= 1);
            // A solid front throws a buried beater back; ported or open, it makes one clean hit (common practice, no published source), here
            // and there.
            let (clean, solid) = (found[1].is_empty() && rebound.again.is_empty(), front == Front::Whole);
            // On the simulated drum a solid front throws every foot's beater back.
            assert!(if solid { *fewest > 0 && !rebound.again.is_empty() } else { clean }, "{found:?}");
        }
    }
    let middle = median(&off).unwrap();
    println!("{} second landings, median {:.1} % off; {alike} of {cases} come back as often", off.len(), 100.0 * middle);
    assert!(off.len() >= 8 && middle < 0.06 && off.iter().all(|off| *off < 0.15), "{off:?}");
    assert!(3 * alike >= 2 * cases, "{alike} of {cases}");
}

/// When a beater lands again loudly enough to be heard, s after the first; touches in one go are one landing.
fn landings(touches: &[Touch]) -> Vec<f64> {
    let heard = |pair: &&[Touch]| pair[1].from_s - pair[0].to_s > 0.012 && pair[1].speed > 0.178 * touches[0].speed;
    touches.windows(2).filter(heard).map(|pair| pair[1].from_s).filter(|at| *at < 0.15).collect()
}

/// A hand that goes down on the simulated concert bass drum ends its note when it was expected to, within the bounds.
#[test]
fn a_hand_ends_the_note_when_it_was_expected_to() {
    let drum = BenchDrum::usual(DrumKind::ConcertBass);
    let open = measured(&played(&BenchDrum::new(&drum, &[]).unwrap(), 3));
    let predictor = Predictor::new(&drum, &open.partials).unwrap();
    for written_s in [0.6, 0.75] {
        let hand = stops(&predictor, written_s).into_iter().find(|stop| stop.kind == StopKind::FlatHand).unwrap();
        let down = hand.down.expect("a hand is strong enough");
        let hold = Hold { from_s: down.at_s, radius: 0.55, angle_deg: 150.0, size: 0.08 / drum.radius(), resistance: 800.0 };
        let note = BenchDrum::new(&drum, &[]).unwrap().held(vec![hold]).play(1, 5);
        let mut finder = StrikeFinder::new(f64::from(SAMPLE_RATE), Limits { longest_s: 10.0, quiet_s: 0.12 });
        let mut strikes = finder.push(&note);
        strikes.extend(finder.finish());
        let found = sounded(&strikes[0]).expect("it can be told").sounded_s;
        println!("written {written_s} s: hand down at {down:?}; found {found:.3}");
        assert!((found / written_s).ln().abs() < 0.15, "{found} for {written_s}");
    }
    let roll = roll(&open.partials, 0.05).unwrap();
    println!("{roll:?}");
    assert!(roll.low <= roll.strokes && roll.strokes <= roll.high && roll.strokes >= 4.0);
}
