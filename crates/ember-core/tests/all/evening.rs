//! An evening on two measured drums: what is chosen keeps to the gaps, the shelf and the pins, and the two ends are the ends.

use crate::common::{Measured, measured, played, wanted};
use ember_core::Patience;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Placement, Strengths};
use ember_core::drum::{Drum, DrumKind};
use ember_core::plan::{Evening, EveningDrum, EveningPlan, Limits, Screened, Settled, Setup, ShelfItem, Sound, Weighing, choose, packing};
use ember_core::target::Wanted;
use std::sync::LazyLock;

const KINDS: [DrumKind; 2] = [DrumKind::Snare, DrumKind::FloorTom];
/// Loud and dry, quiet and open, and back.
const SONGS: [(&str, f64); 5] = [("surf", 160.0), ("funk", 104.0), ("lullaby", 66.0), ("traditional_jazz", 160.0), ("metal", 180.0)];

static DRUMS: LazyLock<Vec<(Drum, Measured)>> = LazyLock::new(|| {
    KINDS
        .iter()
        .map(|kind| (BenchDrum::usual(*kind), measured(&played(&BenchDrum::new(&BenchDrum::usual(*kind), &[]).unwrap(), 2))))
        .collect()
});

struct Night {
    shelf: Vec<ShelfItem>,
    setups: Vec<Vec<Setup>>,
    wishes: Vec<Vec<Wanted>>,
}

fn night(count: u32) -> Night {
    night_of(count, &SONGS)
}

fn night_of(count: u32, songs: &[(&str, f64)]) -> Night {
    night_wanting(count, songs, |_, _| {})
}

/// With wishes changed by `change`, which is told the song.
fn night_wanting(count: u32, songs: &[(&str, f64)], change: impl Fn(usize, &mut Wanted)) -> Night {
    let shelf = DeviceKind::ALL.map(|device| ShelfItem::new(device, count)).to_vec();
    let mut wishes: Vec<Vec<Wanted>> = KINDS
        .iter()
        .zip(DRUMS.iter())
        .map(|(kind, (_, open))| songs.iter().map(|(genre, bpm)| wanted(genre, *bpm, *kind, open)).collect())
        .collect();
    wishes.iter_mut().for_each(|songs| songs.iter_mut().enumerate().for_each(|(song, wanted)| change(song, wanted)));
    let setups = DRUMS
        .iter()
        .zip(&wishes)
        .map(|((drum, measured), wishes)| {
            let screened = Screened::new(drum, &measured.partials, &shelf, &Limits::default(), &Strengths::default()).unwrap();
            let open = Sound { partials: measured.partials.clone(), profile: measured.summary.profile.clone() };
            choose(&screened, &[(Vec::new(), open)], &[vec![Placement::parse("tape:1").unwrap()]], wishes, Patience::ENDLESS)
        })
        .collect();
    Night { shelf, setups, wishes }
}

fn solved(night: &Night, weighing: Weighing, gap_s: f64, pin: Option<(usize, usize, usize)>) -> EveningPlan {
    let drums = night.setups.iter().zip(&night.wishes).enumerate().map(|(d, (setups, wishes))| {
        let pinned = |song| pin.filter(|(pinned_song, drum, _)| (*pinned_song, *drum) == (song, d)).map(|pin| pin.2);
        let settled = (0..wishes.len()).map(|song| Settled { pin: pinned(song), ..Settled::default() }).collect();
        EveningDrum { setups, wishes, settled }
    });
    planned(night, weighing, gap_s, drums.collect())
}

fn planned(night: &Night, weighing: Weighing, gap_s: f64, drums: Vec<EveningDrum>) -> EveningPlan {
    let songs = night.wishes[0].len();
    Evening {
        drums,
        gaps_s: vec![gap_s; songs],
        swaps_s: vec![0.0; songs],
        breaks: vec![false; songs],
        shelf: &night.shelf,
        patience: Patience::ENDLESS,
    }
    .plan(weighing)
    .unwrap()
}

/// Setups of `plan` by drum and song.
fn by_drum(plan: &EveningPlan) -> Vec<Vec<usize>> {
    (0..KINDS.len()).map(|drum| plan.rows.iter().map(|row| row.cells[drum].setup).collect()).collect()
}

/// An evening with the `wishes` of another one, where the plan `kept` is kept to and the first songs were `played`.
fn mended(night: &Night, wishes: &[Vec<Wanted>], kept: &[Vec<usize>], played: usize) -> Vec<Vec<usize>> {
    let drums = night.setups.iter().zip(wishes).zip(kept).map(|((setups, wishes), kept)| {
        let settled =
            kept.iter().enumerate().map(|(song, kept)| Settled { kept: Some(*kept), played: song < played, ..Settled::default() });
        EveningDrum { setups, wishes, settled: settled.collect() }
    });
    let drums: Vec<EveningDrum> = drums.collect();
    let songs = wishes[0].len();
    let evening = Evening {
        drums,
        gaps_s: vec![30.0; songs],
        swaps_s: vec![0.0; songs],
        breaks: vec![false; songs],
        shelf: &night.shelf,
        patience: Patience::ENDLESS,
    };
    by_drum(&evening.plan(Weighing::FewLooks).unwrap())
}

/// A plan that is kept to is mended: a song a beat faster or one dropped moves nothing, a song that is quite another one moves what is
/// heard to be off in it, and what was played stays as it was whatever comes.
#[test]
fn a_kept_plan_is_mended_and_not_made_anew() {
    let songs: Vec<(&str, f64)> = (0..20).map(|song| SONGS[(3 * song / 4) % SONGS.len()]).collect();
    let night = night_of(2, &songs);
    let kept = by_drum(&solved(&night, Weighing::FewLooks, 30.0, None));
    let with = |song: usize, other: (&str, f64)| {
        let mut songs = songs.clone();
        songs[song] = other;
        night_of(2, &songs).wishes
    };
    assert_eq!(mended(&night, &with(10, (songs[10].0, songs[10].1 + 1.0)), &kept, 0), kept, "one beat a minute");
    let shorter = |all: &[Vec<usize>]| -> Vec<Vec<usize>> {
        all.iter().map(|of| of.iter().enumerate().filter(|(song, _)| *song != 7).map(|(_, setup)| *setup).collect()).collect()
    };
    let dropped: Vec<(&str, f64)> = songs.iter().enumerate().filter(|(song, _)| *song != 7).map(|(_, song)| *song).collect();
    assert_eq!(mended(&night, &night_of(2, &dropped).wishes, &shorter(&kept), 0), shorter(&kept), "one song dropped");
    let another = with(10, ("surf", 200.0));
    let (now, frozen) = (mended(&night, &another, &kept, 0), mended(&night, &another, &kept, 15));
    for (now, kept) in now.iter().zip(&kept) {
        let touched: Vec<usize> = (0..20).filter(|song| now[*song] != kept[*song]).collect();
        assert!(touched.iter().all(|song| (9..=11).contains(song)), "{touched:?}");
    }
    assert!(frozen.iter().zip(&kept).all(|(now, kept)| now[..15] == kept[..15]), "what was played cannot be changed");
}

/// A drum that is not played in a song is right in it whatever lies on it, and counts for nothing.
#[test]
fn a_drum_that_is_out_is_never_off() {
    let night = night(2);
    let all_out = |d: usize| vec![Settled { out: d == 0, ..Settled::default() }; SONGS.len()];
    let drums = night.setups.iter().zip(&night.wishes).enumerate();
    let drums = drums.map(|(d, (setups, wishes))| EveningDrum { setups, wishes, settled: all_out(d) }).collect();
    let plan = planned(&night, Weighing::FewLooks, 60.0, drums);
    let alone = solved(&Night { shelf: night.shelf.clone(), ..night_of(2, &SONGS) }, Weighing::FewLooks, 60.0, None);
    assert_eq!(plan.cells, alone.cells / 2, "only the other drum counts");
    assert!(plan.rows.iter().all(|row| row.cells[0].out && row.cells[0].fits && row.cells[0].off.is_none() && row.cells[0].misfit == 0.0));
    assert!(plan.rows.iter().all(|row| row.cells[0].change.is_none()), "nobody touches it");
}

#[test]
fn the_two_ends_are_the_ends() {
    let night = night(2);
    let [one, few, best] = Weighing::ALL.map(|weighing| solved(&night, weighing, 40.0, None));
    assert!(one.changes == 0 && one.proved && one.late == 0);
    assert!(best.fitting >= few.fitting && few.fitting >= one.fitting, "{} {} {}", best.fitting, few.fitting, one.fitting);
    assert!(few.change_s <= best.change_s + 1e-9 && few.late == 0);
    assert!(best.changes > 0, "these songs ask for different things");
    assert!([&one, &best].iter().all(|plan| plan.second_best.as_ref().is_some_and(|second| !second.differs.is_empty())));
}

/// Two to four looks of the whole kit, each with its name, and songs of one look alike but for pins.
#[test]
fn songs_share_a_few_looks() {
    // Four dead songs, then four open ones, with nothing between them that would do for both.
    let songs = [[("metal", 180.0); 4], [("traditional_jazz", 160.0); 4]].concat();
    let night = night_wanting(2, &songs, |song, wanted| {
        if song < 4 {
            (wanted.body_length_least_s, wanted.body_length_most_s) = (0.0, 0.12);
        }
    });
    let plan = solved(&night, Weighing::FewLooks, 60.0, Some((1, 0, 0)));
    assert!((2..=4).contains(&plan.looks.len()), "these songs ask for different things: {:?}", plan.looks);
    assert!(plan.changes <= 6, "one change of the kit, and the pin: {}", plan.changes);
    for (song, row) in plan.rows.iter().enumerate() {
        let look = &plan.looks[row.look.unwrap()];
        assert!(row.cells.iter().zip(&look.setups).all(|(cell, setup)| cell.pinned || cell.setup == *setup), "song {song}");
    }
    let names: Vec<String> = plan.looks.iter().map(|look| look.name.to_string()).collect();
    assert!(
        ["Light", "Open"].contains(&names[0].as_str()) && names.last().is_some_and(|name| ["Tight", "Dead"].contains(&name.as_str())),
        "{names:?}"
    );
    assert!(plan.rows[3].look > plan.rows[4].look, "{:?}", plan.rows.iter().map(|row| row.look).collect::<Vec<_>>());
    assert!(solved(&night, Weighing::NoCompromise, 60.0, None).looks.is_empty());
}

#[test]
fn no_change_is_longer_than_its_gap_and_too_short_a_gap_leaves_all_as_it_is() {
    let night = night(2);
    for gap_s in [0.0, 4.0, 12.0, 60.0] {
        let plan = solved(&night, Weighing::FewLooks, gap_s, None);
        assert!(plan.rows.iter().skip(1).all(|row| row.change_s <= 0.75 * gap_s + 1e-9 && row.over_s == 0.0), "{gap_s} s");
        assert!(gap_s > 0.0 || plan.changes == 0);
    }
}

#[test]
fn pins_are_kept_even_where_the_gap_is_too_short_and_that_is_said() {
    let night = night(2);
    let tape = night.setups[0].iter().position(|setup| setup.placements == [Placement::parse("tape:1").unwrap()]).unwrap();
    for weighing in Weighing::ALL {
        let plan = solved(&night, weighing, 0.0, Some((2, 0, tape)));
        let cell = &plan.rows[2].cells[0];
        assert!(cell.pinned && cell.setup == tape, "{weighing:?}");
        let kept = plan.rows.iter().all(|row| row.cells[0].setup == tape);
        assert!(kept || plan.late > 0, "{weighing:?}: a change in no time must be called late");
    }
}

#[test]
fn two_drums_never_use_more_than_the_shelf_holds() {
    let plan = solved(&night(1), Weighing::FewLooks, 600.0, None);
    assert!(plan.rows.iter().all(|row| row.missing.is_empty()));
}

#[test]
fn the_packing_list_holds_what_the_fullest_song_needs() {
    let night = night(2);
    let plan = solved(&night, Weighing::NoCompromise, 60.0, None);
    let drums: Vec<&Drum> = DRUMS.iter().map(|(drum, _)| drum).collect();
    let setups: Vec<&[Setup]> = night.setups.iter().map(Vec::as_slice).collect();
    let list = packing(&plan, &setups, &drums);
    for row in &plan.rows {
        let on: Vec<&Placement> = row.cells.iter().zip(&setups).flat_map(|(cell, setups)| &setups[cell.setup].placements).collect();
        for placement in &on {
            let name = ember_core::damping::device_info(placement.device).name;
            let needed = on.iter().filter(|other| other.device == placement.device).count() as u32;
            assert!(list.iter().any(|packed| packed.thing == name.words() && packed.count.is_some_and(|count| count >= needed)), "{name}");
        }
    }
    assert!(list.iter().any(|packed| packed.thing == "ear protection"));
    let mut things: Vec<String> = list.iter().map(|packed| packed.thing.to_string()).collect();
    things.sort_unstable();
    things.dedup();
    assert_eq!(things.len(), list.len(), "nothing is listed twice");
}

/// Songs of all genres about their usual tempi, in sets as evenings have them: alike ones together.
fn long_list(songs: usize) -> Vec<(&'static str, f64)> {
    let order = [
        "general",
        "rock",
        "surf",
        "soul",
        "funk",
        "reggae",
        "cumbia",
        "metal",
        "folk",
        "lullaby",
        "musette_waltz",
        "swing",
        "traditional_jazz",
    ];
    (0..songs)
        .map(|song| {
            let genre = order[song * order.len() / songs];
            let usual = ember_core::target::built_in_preset(genre).unwrap().usual_bpm;
            (genre, usual + [-12.0, 0.0, 9.0][song % 3])
        })
        .collect()
}

/// How many placements of songs differ.
fn moved(a: &Night, plan_a: &EveningPlan, b: &Night, plan_b: &EveningPlan) -> usize {
    let placements =
        |night: &Night, plan: &EveningPlan, song: usize, d: usize| night.setups[d][plan.rows[song].cells[d].setup].placements.clone();
    let cells = (0..plan_a.rows.len()).flat_map(|song| (0..KINDS.len()).map(move |d| (song, d)));
    cells.filter(|(song, d)| placements(a, plan_a, *song, *d) != placements(b, plan_b, *song, *d)).count()
}

/// Long evenings need few changes, and one beat a minute in one song is no reason to plan anew.
#[test]
fn long_evenings_stay_as_they_are_when_one_song_is_a_beat_faster() {
    for songs in [20, 40] {
        let list = long_list(songs);
        let night = night_of(2, &list);
        let [one, few, best] = Weighing::ALL.map(|weighing| solved(&night, weighing, 30.0, None));
        let mut edits = Vec::new();
        for song in [3, songs / 2, songs - 2] {
            let mut other = list.clone();
            other[song].1 += 1.0;
            let other = night_of(2, &other);
            edits.push(moved(&night, &few, &other, &solved(&other, Weighing::FewLooks, 30.0, None)));
        }
        println!(
            "{songs} songs: {} / {} / {} of {} fit; {} changes in {} looks, {} without compromise; edits move {edits:?}",
            one.fitting,
            few.fitting,
            best.fitting,
            few.cells,
            few.changes,
            few.looks.len(),
            best.changes
        );
        assert!(few.fitting >= one.fitting && best.fitting >= few.fitting && 3 * few.changes <= best.changes.max(3));
        assert!(edits.iter().all(|moved| *moved <= 3 * KINDS.len()), "{edits:?}");
    }
}
