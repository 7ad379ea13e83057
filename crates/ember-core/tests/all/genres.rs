//! Each genre's wish against what its players usually do. Common practice, no published source: the genres' figures are anchored in it.

use crate::common::{Measured, measured, played};
use ember_core::Patience;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Placement, Price, Strengths, device_info};
use ember_core::drum::DrumKind;
use ember_core::plan::{Limits, Question, ShelfItem, plan};
use ember_core::target::{Aspect, Assessment, Fit, Music, OpenSound, Preset, School, Situation, Usual, Wanted, assess, built_in_presets};
use rayon::prelude::*;
use std::collections::HashMap;
use std::sync::LazyLock;

/// Makes the takes. Whoever looks at them from many threads of the pool calls it first: making them needs the pool, and waits for ever where its threads
/// wait for them.
pub fn make_takes() {
    LazyLock::force(&TAKES);
}

/// The usual drum of `kind` with nothing on it.
pub fn open_take(kind: DrumKind) -> &'static Measured {
    &TAKES[&(kind, index(Usual::Open))]
}

/// The usual drum of each kind with each treatment that any genre names for it, open and at its deadest, on the simulated drum.
static TAKES: LazyLock<HashMap<(DrumKind, usize), Measured>> = LazyLock::new(|| {
    let of = |kind: DrumKind, usual: Usual| {
        let bench = BenchDrum::new(&BenchDrum::usual(kind), &usual.placements()).unwrap();
        ((kind, index(usual)), measured(&played(&bench, 2)))
    };
    let is_named = |kind: DrumKind, usual: Usual| {
        usual == Usual::Open
            || usual == Usual::deadest(kind)
            || built_in_presets().iter().any(|preset| preset.wish(kind).usual == Some(usual))
    };
    let all = DrumKind::OF_A_KIT.into_iter().flat_map(|kind| Usual::ALL.map(|usual| (kind, usual)));
    all.filter(|(kind, usual)| is_named(*kind, *usual)).map(|(kind, usual)| of(kind, usual)).collect()
});

fn index(usual: Usual) -> usize {
    Usual::ALL.iter().position(|other| *other == usual).expect("all are listed")
}

/// The usual drum with `usual` in `preset` at `bpm`.
fn judged(preset: &Preset, kind: DrumKind, usual: Usual, bpm: f64) -> Assessment {
    let (open, take) = (&TAKES[&(kind, index(Usual::Open))], &TAKES[&(kind, index(usual))]);
    let open = OpenSound::new(&open.partials, &open.summary);
    let music = Music::new(&preset.code, bpm);
    let wanted = Wanted::new(&Situation { preset, music: &music, venue: None, time_keepers: &[] }, &BenchDrum::usual(kind), Some(&open));
    let lost_db = usual.placements().iter().map(Placement::attack_db).sum();
    assess(&take.partials, &take.summary.profile, &wanted, Some(lost_db))
}

fn said(found: &Assessment) -> String {
    let word = match found.fit {
        Fit::In => "in",
        Fit::Nearly => "nearly",
        Fit::Off => "off",
    };
    found.off.first().map_or(word.to_string(), |worst| format!("{word}: {}", worst.sentence))
}

/// What players of a genre do is right in it, at its usual tempo and as loud as it usually is, and what is done in the opposite school is not.
#[test]
fn what_players_of_a_genre_do_is_right_in_it_and_its_opposite_is_not() {
    let mut wrong = Vec::new();
    for preset in built_in_presets() {
        for kind in DrumKind::OF_A_KIT {
            let usual = preset.wish(kind).usual.expect("every genre of ours names one");
            let of = |usual| judged(preset, kind, usual, preset.usual_bpm);
            let (found, open, deadest) = (of(usual), of(Usual::Open), of(Usual::deadest(kind)));
            println!("| {} | {} | {} | {} | {} | {} |", preset.name, kind.word(), usual.words(), said(&found), said(&open), said(&deadest));
            // A cloth takes attack besides: that is another matter than how long it sounds.
            let is_dead_enough = deadest.fits || deadest.off.iter().all(|verdict| verdict.aspect == Aspect::AttackLost);
            let opposite_is_off = match preset.school {
                School::Open => open.fits && deadest.fit == Fit::Off,
                School::Controlled => deadest.fit == Fit::Off,
                School::Dead => is_dead_enough && open.fit == Fit::Off,
            };
            if !found.fits || !opposite_is_off {
                wrong.push(format!("{} {kind:?}", preset.name));
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:?}");
}

/// Two beats a minute more or less are no other song.
#[test]
fn two_beats_a_minute_turn_no_verdict_round() {
    let (mut all, mut flips, mut round) = (0, 0, 0);
    for preset in built_in_presets() {
        for kind in DrumKind::OF_A_KIT {
            for usual in [Usual::Open, preset.wish(kind).usual.unwrap(), Usual::deadest(kind)] {
                let fits: Vec<Fit> = (20..120).map(|bpm| judged(preset, kind, usual, f64::from(2 * bpm)).fit).collect();
                for pair in fits.windows(2) {
                    all += 1;
                    flips += usize::from((pair[0] == Fit::Off) != (pair[1] == Fit::Off));
                    round += usize::from(pair[0] != pair[1] && pair[0] != Fit::Nearly && pair[1] != Fit::Nearly);
                }
            }
        }
    }
    println!("{all} pairs of songs 2 BPM apart: {flips} from right or nearly so to off or back, {round} from right to off or back");
    assert!(100 * flips <= all && round == 0, "{flips} of {all}, {round} at once");
}

/// With what lies about in any household, two of each, the usual drum comes right in nearly every genre, also a fifth slower and faster. One song in
/// `one_in` is planned; a number that divides neither drums nor tempi goes round through them.
fn the_household_is_enough(one_in: usize) {
    let household = DeviceKind::ALL.into_iter().filter(|kind| matches!(device_info(*kind).price, Price::Nothing | Price::Household));
    let shelf: Vec<ShelfItem> = household.map(|kind| ShelfItem::new(kind, 2)).collect();
    let songs: Vec<(&Preset, DrumKind, f64)> = built_in_presets()
        .iter()
        .flat_map(|preset| DrumKind::OF_A_KIT.map(|kind| [0.8, 1.0, 1.25].map(|times| (preset, kind, times * preset.usual_bpm))))
        .flatten()
        .step_by(one_in)
        .collect();
    let is_reached = |(preset, kind, bpm): &(&Preset, DrumKind, f64)| {
        let take = &TAKES[&(*kind, index(Usual::Open))];
        let open = OpenSound::new(&take.partials, &take.summary);
        let (music, drum) = (Music::new(&preset.code, *bpm), BenchDrum::usual(*kind));
        let wanted = Wanted::new(&Situation { preset, music: &music, venue: None, time_keepers: &[] }, &drum, Some(&open));
        let question = Question {
            drum: &drum,
            partials: &take.partials,
            profile: &take.summary.profile,
            wanted,
            shelf: &shelf,
            limits: Limits::default(),
            strengths: &Strengths::default(),
            patience: Patience::ENDLESS,
        };
        let answer = plan(&question).expect("a clear body");
        let reached = answer.now.fits || answer.plans.iter().any(|plan| plan.assessment.fits);
        if !reached {
            let nearest = answer.plans.first().and_then(|plan| plan.assessment.off.first()).map(|worst| worst.sentence.clone());
            println!("{} at {bpm} BPM, {}: {nearest:?}", preset.name, kind.word());
        }
        reached
    };
    make_takes();
    let reached = songs.par_iter().filter(|song| is_reached(song)).count();
    println!("{reached} of {} reached", songs.len());
    assert!(100 * reached >= 95 * songs.len(), "{reached} of {}", songs.len());
}

#[test]
fn the_household_is_enough_for_nearly_every_song() {
    the_household_is_enough(5);
}

#[test]
#[ignore = "takes half a minute; its figures stand in docs/METHOD.md"]
fn the_household_is_enough_for_nearly_all_songs_there_are() {
    the_household_is_enough(1);
}
