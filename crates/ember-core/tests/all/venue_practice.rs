//! What the trade knows about places and music, against what the wish makes of them. Common practice, no published source, unless
//! said otherwise.

use crate::common::{Measured, measured, played};
use ember_core::bench_drum::BenchDrum;
use ember_core::decay::Dynamic;
use ember_core::drum::DrumKind;
use ember_core::target::{
    Assessment, Dynamics, Feel, Music, NoteValue, OpenSound, School, Situation, Wanted, assess, built_in_preset, built_in_presets,
};
use ember_core::venue::{Heard, Loudness, Room, RoomClass, Venue, room_class_infos};
use std::sync::LazyLock;

static TOM: LazyLock<Measured> = LazyLock::new(|| measured(&played(&BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap(), 2)));

fn venue(loudness: Loudness, class: RoomClass, heard: Heard) -> Venue {
    Venue {
        name: "hall".into(),
        room: Room::Class { class },
        loudness: Some(loudness),
        heard,
        band: None,
        empty: None,
        notes: String::new(),
        room_modes: Vec::new(),
        distance_m: None,
    }
}

fn wanted(music: &Music, venue: &Venue, kind: DrumKind) -> Wanted {
    let preset = built_in_preset(&music.genre).unwrap();
    Wanted::new(
        &Situation { preset, music, venue: Some(venue), time_keepers: &[] },
        &BenchDrum::usual(kind),
        Some(&OpenSound::new(&TOM.partials, &TOM.summary)),
    )
}

fn tom(music: &Music, venue: &Venue) -> Assessment {
    assess(&TOM.partials, &TOM.summary.profile, &wanted(music, venue, DrumKind::Tom), None)
}

#[test]
fn close_microphones_keep_the_room_out_and_a_room_microphone_brings_the_ring_back() {
    let music = Music::new("rock", 120.0);
    let heard = |heard| tom(&music, &venue(Loudness::Moderate, RoomClass::StoneHall, heard)).room.map(|room| room.in_room_s);
    let (close, with_room, ear) = (heard(Heard::CloseMics), heard(Heard::CloseAndRoom), heard(Heard::BareEar));
    assert!(with_room.unwrap() > close.unwrap_or(0.0), "{with_room:?} {close:?}");
    assert!(ear.is_some(), "in a stone hall it is the room that is heard");
}

#[test]
fn right_at_home_and_wrong_in_the_hall_is_the_hall() {
    // One drum in one song, heard from the same distance. Its own lengths are the same in every room; the more a room adds, the less the wish leaves
    // for the drum.
    let music = Music::new("rock", 120.0);
    let found: Vec<Assessment> =
        room_class_infos().iter().map(|info| tom(&music, &venue(Loudness::Moderate, info.class, Heard::BareEar))).collect();
    assert!(found.windows(2).all(|pair| pair[0].misfit <= pair[1].misfit && pair[0].ring_length_s == pair[1].ring_length_s));
    assert!(found[0].room.is_none(), "nothing comes back in the open air");
    assert!(found.last().unwrap().room.as_ref().unwrap().sentence.contains("the rest is the room’s"));
}

#[test]
fn what_is_drastic_alone_is_right_under_a_loud_band() {
    let music = Music::new("funk", 102.0);
    let classes = [Loudness::Quiet, Loudness::Moderate, Loudness::Loud, Loudness::VeryLoud];
    let found = classes.map(|loudness| tom(&music, &venue(loudness, RoomClass::OpenAir, Heard::BareEar)));
    assert!(found.windows(2).all(|pair| pair[0].ring_length_s > pair[1].ring_length_s), "the louder the band, the less of a tail is heard");
    // Played hard, an open drum's ring stands out for longer.
    let hard = Music { dynamics: Dynamics { softest: Dynamic::Medium, hardest: Dynamic::Hard }, ..music.clone() };
    let place = venue(Loudness::Loud, RoomClass::OpenAir, Heard::BareEar);
    assert!(tom(&hard, &place).ring_length_s > tom(&music, &place).ring_length_s);
}

#[test]
fn schools_go_from_singing_to_dry() {
    let place = venue(Loudness::Moderate, RoomClass::Club, Heard::BareEar);
    for preset in built_in_presets() {
        for kind in DrumKind::OF_A_KIT {
            let of = |school| wanted(&Music { school: Some(school), ..Music::new(&preset.code, preset.usual_bpm) }, &place, kind);
            let [open, controlled, dead] = [School::Open, School::Controlled, School::Dead].map(of);
            assert!(open.ring_length_most_s > controlled.ring_length_most_s && controlled.ring_length_most_s > dead.ring_length_most_s);
            assert!(open.body_length_most_s > dead.body_length_most_s && open.ring_over_body_most >= dead.ring_over_body_most);
            assert!(
                dead.body_length_least_s > 0.0 && dead.ring_over_body_most > Some(0.0),
                "{} {kind:?}: something is always left",
                preset.name
            );
        }
    }
    // The open genres leave a tom at least twice the ring of the dead ones, at one tempo.
    let ring = |genre: &str| wanted(&Music::new(genre, 120.0), &place, DrumKind::Tom).ring_length_most_s;
    assert!(ring("traditional_jazz") >= 2.0 * ring("metal") && ring("orchestral") >= 2.0 * ring("funk"));
}

#[test]
fn within_one_genre_songs_still_differ() {
    let place = venue(Loudness::Loud, RoomClass::OpenAir, Heard::BareEar);
    let plain = Music::new("cumbia", 96.0);
    let busy = |gap| {
        let mut music = plain.clone();
        music.gaps.tom = Some(gap);
        wanted(&music, &place, DrumKind::Tom).ring_length_most_s
    };
    // The busier the drum, the shorter its ring must be, never longer than the genre allows.
    let all: Vec<f64> = NoteValue::ALL.into_iter().map(busy).collect();
    assert!(all.is_sorted());
    assert_eq!(all.last(), Some(&wanted(&plain, &place, DrumKind::Tom).ring_length_most_s));
    // A swung eighth's short note is clear sooner than a straight one.
    let mut swung = plain.clone();
    swung.gaps.tom = Some(NoteValue::Eighth);
    let straight = wanted(&swung, &place, DrumKind::Tom).ring_length_most_s;
    swung.feel = Feel::Swung;
    assert!((wanted(&swung, &place, DrumKind::Tom).ring_length_most_s / straight - 2.0 / 3.0).abs() < 1e-9);
}
