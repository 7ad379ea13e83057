//! Sixty situations, each with what a seasoned drum tech would accept and what they would laugh at (common practice, no published source: the
//! judgements stand in `situations.txt`).

use crate::common::{Measured, measured_by, played};
use crate::genres::{make_takes, open_take};
use ember_core::Patience;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Placement, Strengths, device_info};
use ember_core::drum::{Drum, DrumKind, Role, TooMuch};
use ember_core::plan::{Limits, Plan, PlanAnswer, Question, Reach, ShelfItem, plan};
use ember_core::target::{Music, OpenSound, Situation, Wanted, built_in_preset};
use rayon::prelude::*;
use std::collections::HashMap;

/// One line of the table: the drum, the genre, what is on the shelf, and what is accepted and rejected.
struct Row {
    line: &'static str,
    drum: &'static str,
    genre: &'static str,
    shelf: &'static str,
    accept: Vec<&'static str>,
    reject: Vec<&'static str>,
}

fn rows() -> Vec<Row> {
    let lines = include_str!("situations.txt").lines().filter(|line| !line.starts_with('#') && !line.trim().is_empty());
    let row = |line: &'static str| {
        let cells: Vec<&str> = line.split('|').map(str::trim).collect();
        let [drum, genre, shelf, accept, reject] = cells.as_slice() else { panic!("five cells: {line}") };
        let words = |cell: &'static str| cell.split_whitespace().collect();
        Row { line, drum, genre, shelf, accept: words(accept), reject: words(reject) }
    };
    lines.map(row).collect()
}

/// The drums by their names in the table.
fn drum(name: &str) -> Drum {
    let of = |kind: DrumKind, diameter_in: f64, depth_in: f64| Drum { diameter_in, depth_in, ..BenchDrum::usual(kind) };
    let metal = |kind: DrumKind, diameter_in: f64, too_much| Drum { too_much, ..of(kind, diameter_in, 2.0) };
    match name {
        "snare 14" => of(DrumKind::Snare, 14.0, 5.5),
        "tom 10" => of(DrumKind::Tom, 10.0, 7.0),
        "tom 12" => of(DrumKind::Tom, 12.0, 8.0),
        "floor 16" => of(DrumKind::FloorTom, 16.0, 16.0),
        "kick 18" => of(DrumKind::Kick, 18.0, 14.0),
        "kick 22" => of(DrumKind::Kick, 22.0, 16.0),
        "concert bass 36" => of(DrumKind::ConcertBass, 36.0, 18.0),
        "crash 16" => metal(DrumKind::Cymbal, 16.0, None),
        "crash 16 washy" => metal(DrumKind::Cymbal, 16.0, Some(TooMuch::Wash)),
        "splash 10 washy" => metal(DrumKind::Cymbal, 10.0, Some(TooMuch::Wash)),
        "hats 14 bright" => metal(DrumKind::HiHat, 14.0, Some(TooMuch::Brightness)),
        _ => panic!("no drum {name}"),
    }
}

/// The kind of which a drum of the table is the usual one: that is measured for the genres already.
fn usual(name: &str) -> Option<DrumKind> {
    let is_usual = |kind: &DrumKind| Drum { name: String::new(), ..BenchDrum::usual(*kind) } == Drum { name: String::new(), ..drum(name) };
    DrumKind::OF_A_KIT.into_iter().find(is_usual)
}

/// What lies about at home, what a trap case holds, and both, two of each.
fn shelf(name: &str) -> Vec<ShelfItem> {
    let household = [
        DeviceKind::Tissue,
        DeviceKind::ThinCloth,
        DeviceKind::ThickCloth,
        DeviceKind::HangingPad,
        DeviceKind::CottonBalls,
        DeviceKind::Pillow,
    ];
    let household = household.into_iter().chain([DeviceKind::Blanket, DeviceKind::Towel, DeviceKind::StuffedShirt, DeviceKind::SlackLugs]);
    let bag = [DeviceKind::GelPad, DeviceKind::Tape, DeviceKind::ControlRing, DeviceKind::CymbalTape, DeviceKind::SlackLugs];
    let all = DeviceKind::ALL.into_iter().filter(|kind| !kind.is_own());
    let two = |kinds: Vec<DeviceKind>| kinds.into_iter().map(|kind| ShelfItem::new(kind, 4)).collect();
    match name {
        "home" => two(household.collect()),
        "bag" => two(bag.to_vec()),
        "all" => two(all.collect()),
        _ => panic!("no shelf {name}"),
    }
}

fn answer(row: &Row, take: &Measured) -> (Drum, PlanAnswer) {
    let (drum, preset) = (drum(row.drum), built_in_preset(row.genre).unwrap_or_else(|| panic!("{}", row.line)));
    let open = OpenSound::new(&take.partials, &take.summary);
    let music = Music::new(row.genre, preset.usual_bpm);
    let question = Question {
        drum: &drum,
        partials: &take.partials,
        profile: &take.summary.profile,
        wanted: Wanted::new(&Situation { preset, music: &music, venue: None, time_keepers: &[] }, &drum, Some(&open)),
        shelf: &shelf(row.shelf),
        limits: Limits::default(),
        strengths: &Strengths::default(),
        patience: Patience::ENDLESS,
    };
    let answer = plan(&question).unwrap_or_else(|| panic!("{}: no clear body", row.line));
    (drum, answer)
}

/// What is laughed at on any drum, whatever the row says.
fn laughed_at(drum: &Drum, plan: &Plan) -> Option<&'static str> {
    let placements = &plan.placements;
    let has = |test: &dyn Fn(&Placement) -> bool| placements.iter().any(test);
    let is_pad = |placement: &Placement| matches!(placement.device, DeviceKind::GelPad | DeviceKind::Tissue);
    let laid = placements.iter().filter(|placement| placement.device != DeviceKind::RodsTurned).count();
    let wide_disc = |placement: &Placement| placement.device == DeviceKind::ClothDisc && placement.amount == 1 && drum.diameter_in < 12.0;
    let from_the_top = |placement: &Placement| (placement.angle_deg.rem_euclid(360.0) - 180.0).abs();
    match () {
        () if drum.kind.role() == Role::Kick && laid > 2 => Some("three things on a kick"),
        () if has(&wide_disc) => Some("a disc larger than the cymbal"),
        () if drum.kind.has_heads() && has(&|placement| is_pad(placement) && placement.radius < 0.6) => Some("a pad half way in"),
        () if drum.kind == DrumKind::ConcertBass && has(&|placement| placement.device == DeviceKind::Tape) => {
            Some("tape on a concert bass drum")
        }
        () if drum.kind.is_upright()
            && has(&|placement| placement.device == DeviceKind::Towel && placement.amount == 2 && from_the_top(placement) > 30.0) =>
        {
            Some("a towel on the side of an upright hoop")
        }
        () => None,
    }
}

fn said(answer: &PlanAnswer) -> String {
    let one = |plan: &Plan| {
        let names: Vec<&str> = plan.placements.iter().map(|placement| device_info(placement.device).kind.code()).collect();
        format!("{} ({:.0})", names.join("+"), plan.assessment.misfit)
    };
    format!("{:?}, open {:.0}: {}", answer.reach, answer.now.misfit, answer.plans.iter().map(one).collect::<Vec<_>>().join("; "))
}

/// What of an answer a tech would not sign; none where they would.
fn fault(row: &Row, (drum, answer): &(Drum, PlanAnswer)) -> Option<String> {
    let nothing = answer.reach == Reach::NothingNeeded;
    if row.accept == ["nothing"] {
        return (!nothing).then(|| "nothing should be needed".into());
    }
    if nothing {
        return (!row.accept.contains(&"nothing")).then(|| "something is needed".into());
    }
    let first = answer.plans.first().map_or(&[][..], |plan| &plan.placements);
    let laid: Vec<&str> = first.iter().map(|placement| placement.device.code()).filter(|code| *code != "rods_turned").collect();
    if let Some(laughed) = answer.plans.iter().find_map(|plan| laughed_at(drum, plan)) {
        return Some(laughed.into());
    }
    if !laid.iter().any(|code| row.accept.contains(code)) {
        return Some(format!("none of {:?} comes first", row.accept));
    }
    laid.iter().find(|code| row.reject.contains(code)).map(|code| format!("{code} comes first"))
}

#[test]
fn sixty_situations_get_what_a_drum_tech_would_sign() {
    let rows = rows();
    assert_eq!(rows.len(), 60);
    let mut others: Vec<&str> = rows.iter().map(|row| row.drum).filter(|name| usual(name).is_none()).collect();
    others.sort_unstable();
    others.dedup();
    make_takes();
    let take = |name: &&'static str| (*name, measured_by(&played(&BenchDrum::new(&drum(name), &[]).unwrap(), 1), drum(name).heard_by()));
    let others: HashMap<&str, Measured> = others.par_iter().map(take).collect();
    let take_of = |name: &str| -> &Measured {
        match usual(name) {
            Some(kind) => open_take(kind),
            None => &others[name],
        }
    };
    let judged: Vec<(String, Option<String>)> = rows
        .par_iter()
        .map(|row| {
            let answer = answer(row, take_of(row.drum));
            (format!("{} -> {}", row.line, said(&answer.1)), fault(row, &answer))
        })
        .collect();
    judged
        .iter()
        .for_each(|(said, fault)| println!("{} {said} {}", if fault.is_some() { "NO " } else { "yes" }, fault.as_deref().unwrap_or("")));
    let wrong = judged.iter().filter(|(_, fault)| fault.is_some()).count();
    assert_eq!(wrong, 0, "{wrong} of {} would not be signed", judged.len());
}
