//! The facts of the trade: common practice, no published source.

use crate::common::{Measured, measured, played};
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{Expectation, Open, Placement, Predictor};
use ember_core::drum::{Drum, DrumKind, Head};
use ember_core::plan::{followed, validate_layout};
use ember_core::tone::Mode;
use ember_core::tone::{DecayProfile, Partial};
use ember_core::units::cents;
use std::sync::LazyLock;

/// What the predictor expects of a usual drum with `specs` on it.
fn expected(kind: DrumKind, open: &Measured, specs: &[&str]) -> Expectation {
    let drum = BenchDrum::usual(kind);
    let placements: Vec<Placement> = specs.iter().map(|spec| Placement::parse(spec).unwrap()).collect();
    let predictor = Predictor::new(&drum, &open.partials).unwrap();
    let grips: Vec<_> = placements.iter().map(|placement| predictor.grip(placement)).collect();
    predictor.expect(&Open { partials: &open.partials, profile: &open.summary.profile }, &placements, &grips.iter().collect::<Vec<_>>())
}

/// The untouched drum, played and measured once.
fn open(kind: DrumKind) -> &'static Measured {
    static OPEN: LazyLock<[Measured; 4]> =
        LazyLock::new(|| DrumKind::OF_A_KIT.map(|kind| measured(&played(&BenchDrum::new(&BenchDrum::usual(kind), &[]).unwrap(), 2))));
    &OPEN[DrumKind::OF_A_KIT.iter().position(|other| *other == kind).unwrap()]
}

/// The simulated drum itself with `specs` on it.
fn found(kind: DrumKind, specs: &[&str]) -> Measured {
    let placements: Vec<Placement> = specs.iter().map(|spec| Placement::parse(spec).unwrap()).collect();
    measured(&played(&BenchDrum::new(&BenchDrum::usual(kind), &placements).unwrap(), 2))
}

fn body(expected: &Expectation) -> f64 {
    expected.profile.body_t60_s.unwrap()
}

/// A gel pad shortens ring first, the body a little; nearer the centre it takes more of the body.
#[test]
fn nearer_the_edge_takes_ring_and_nearer_the_centre_takes_body() {
    let open = open(DrumKind::Tom);
    let edge = expected(DrumKind::Tom, open, &["gel_pad:0:0.92:180"]);
    let centre = expected(DrumKind::Tom, open, &["gel_pad:0:0.5:180"]);
    let before = open.summary.profile.body_t60_s.unwrap();
    assert!(body(&edge) > 0.8 * before, "at the edge the body stays: {} of {before} s", body(&edge));
    assert!(body(&centre) < 0.6 * body(&edge), "towards the centre it goes: {} against {} s", body(&centre), body(&edge));
    // The same on the simulated drum, which knows nothing of the predictor.
    let (edge, centre) = (found(DrumKind::Tom, &["gel_pad:0:0.92:180"]), found(DrumKind::Tom, &["gel_pad:0:0.5:180"]));
    let body = |take: &Measured| take.summary.profile.body_t60_s.unwrap();
    assert!(body(&edge) > 0.8 * before && body(&centre) < 0.6 * body(&edge), "{} and {}", body(&edge), body(&centre));
}

/// One small device leaves one member of a pair ringing; where the second one goes decides.
#[test]
fn where_the_second_pad_goes_matters() {
    let open = open(DrumKind::Tom);
    let misses = |apart: f64| {
        let specs = [format!("gel_pad:0:0.85:{}", 180.0 - apart / 2.0), format!("gel_pad:0:0.85:{}", 180.0 + apart / 2.0)];
        let expected = expected(DrumKind::Tom, open, &specs.iter().map(String::as_str).collect::<Vec<_>>());
        // The longest of the (1,1) pair.
        let pair = expected.partials.iter().filter(|p| p.tone == Some(Mode::alone(1, 1).into())).filter_map(|p| p.t60_s);
        pair.fold(0.0, f64::max)
    };
    // Pads across from each other lie on one diameter and leave the member that has its node there; a right angle gets both.
    assert!(misses(90.0) < 0.5 * misses(180.0), "{} against {} s", misses(90.0), misses(180.0));
}

/// Mass added to a head lowers its pitch at the same tension.
#[test]
fn mass_lowers_the_pitch() {
    let open = open(DrumKind::Tom);
    let ring = expected(DrumKind::Tom, open, &["control_ring:1"]);
    let pad = expected(DrumKind::Tom, open, &["gel_pad:0:0.5:180"]);
    assert!(ring.pitch_cents < -2.0 && pad.pitch_cents < -2.0, "{} and {} cents", ring.pitch_cents, pad.pitch_cents);
    let drum = |film_mil| {
        let usual = BenchDrum::usual(DrumKind::Tom);
        ember_core::drum::Drum { batter: Head::plain(film_mil), ..usual }
    };
    let (thin, thick) = (drum(7.5), drum(14.0));
    assert!(thick.areal_mass(thick.batter) > 1.3 * thin.areal_mass(thin.batter));
}

/// A pillow pressed on the batter is shorter than one that grazes both heads.
#[test]
fn a_pressed_pillow_is_shorter_than_a_grazing_one() {
    let open = open(DrumKind::Kick);
    let (grazing, pressed) = (expected(DrumKind::Kick, open, &["pillow:0"]), expected(DrumKind::Kick, open, &["pillow:2"]));
    assert!(body(&pressed) < 0.7 * body(&grazing), "{} against {} s", body(&pressed), body(&grazing));
    let (grazing, pressed) = (found(DrumKind::Kick, &["pillow:0"]), found(DrumKind::Kick, &["pillow:2"]));
    let body = |take: &Measured| take.summary.profile.body_t60_s.unwrap();
    assert!(body(&pressed) < 0.7 * body(&grazing), "{} against {} s", body(&pressed), body(&grazing));
}

/// Cloth over everything is the deadest, and takes the attack; a control ring takes ring before body.
#[test]
fn cloth_is_deadest_and_a_ring_takes_the_ring() {
    let open = open(DrumKind::Snare);
    let cloth = expected(DrumKind::Snare, open, &["thick_cloth:2"]);
    let ring = expected(DrumKind::Snare, open, &["control_ring:0"]);
    let pad = expected(DrumKind::Snare, open, &["gel_pad:0:0.85:180"]);
    assert!(body(&cloth) < 0.5 * body(&ring).min(body(&pad)));
    assert!(cloth.attack_lost_db > ring.attack_lost_db && ring.attack_lost_db > pad.attack_lost_db);
    let profile = &open.summary.profile;
    let kept_body = body(&ring) / profile.body_t60_s.unwrap();
    let kept_share = ring.profile.ring_share.unwrap() / profile.ring_share.unwrap();
    assert!(kept_share < kept_body, "ring {kept_share} body {kept_body}");
}

/// Three lugs nearest the player let down: dry, fat, no ring, and nothing on the head. The simulated drum knows of it by what its rods pull,
/// not by the predictor's patch and tension.
#[test]
fn slack_lugs_take_the_ring_and_lower_the_note() {
    let longest_ring = |partials: &[Partial], body_hz: f64| {
        partials.iter().filter(|p| p.hz > 1.15 * body_hz && p.level_db > -25.0).filter_map(|p| p.t60_s).fold(0.0, f64::max)
    };
    for kind in [DrumKind::Tom, DrumKind::FloorTom, DrumKind::Snare] {
        let open = open(kind);
        let (slack, real) = (expected(kind, open, &["slack_lugs"]), found(kind, &["slack_lugs"]));
        let (before, now, real) = (&open.summary.profile, (&slack.partials, &slack.profile), (&real.partials, &real.summary.profile));
        let (hz, t60) = (|p: &DecayProfile| p.body_hz.unwrap(), |p: &DecayProfile| p.body_t60_s.unwrap());
        for (partials, profile) in [now, real] {
            let body = t60(profile) / t60(before);
            let ring = longest_ring(partials, hz(profile)) / longest_ring(&open.partials, hz(before));
            assert!(ring < 0.85 && ring < body && body > 0.75, "{kind:?}: ring {ring}, body {body}");
            assert!((0.82..0.92).contains(&(hz(profile) / hz(before))), "{kind:?}: the note falls to {} Hz", hz(profile));
        }
        assert!((hz(now.1) / hz(real.1) - 1.0).abs() < 0.01 && (t60(now.1) / t60(real.1) - 1.0).abs() < 0.15, "{kind:?}: {now:?} {real:?}");
        assert!(slack.attack_lost_db < 0.5);
    }
}

#[test]
fn lugs_are_let_slack_once_and_only_where_enough_others_hold_the_head() {
    let tom = BenchDrum::usual(DrumKind::Tom);
    let [slack, ring] = ["slack_lugs", "control_ring:0"].map(|spec| Placement::parse(spec).unwrap());
    assert!(!slack.is_inside() && validate_layout(&tom, &[slack, ring]).is_ok(), "a ring may lie where lugs are slack");
    assert!(validate_layout(&tom, &[slack, slack]).unwrap_err().to_string().contains("only once"));
    assert!(slack.validate(&Drum { lugs: 5, ..tom.clone() }).unwrap_err().to_string().contains("too few"));
    let turned = Placement::parse("rods_turned:1").unwrap();
    let pads = ["gel_pad:0:0.85:90", "gel_pad:0:0.85:180", "gel_pad:0:0.85:270"].map(|spec| Placement::parse(spec).unwrap());
    assert!(validate_layout(&tom, &[pads.as_slice(), &[turned]].concat()).is_ok(), "a turn comes on top of three devices");
    assert!(validate_layout(&tom, &[turned, turned]).unwrap_err().to_string().contains("only once"));
    assert!(validate_layout(&tom, &[slack, turned]).unwrap_err().to_string().contains("slack"));
    assert!(turned.validate(&Drum { lugs: 1, ..tom.clone() }).unwrap_err().to_string().contains("Tune"), "one bolt turns otherwise");
    assert!(validate_layout(&Drum { lower: None, ..tom }, &[turned]).is_ok(), "it needs no lower head");
}

/// A turn of every rod moves the note and no length (a hanging pad goes with a quarter turn down, CP). The simulated drum knows of turns by what
/// its rods pull; both heads and the air between them make the note.
#[test]
fn every_rod_turned_moves_the_note_and_no_length() {
    for kind in [DrumKind::Tom, DrumKind::FloorTom, DrumKind::Snare, DrumKind::Kick] {
        let open = open(kind);
        let (from, before) = (open.summary.profile.body_hz.unwrap(), open.summary.profile.body_t60_s.unwrap());
        for (spec, way) in [("rods_turned:3", 1.0), ("rods_turned:8", -1.0)] {
            let turned = [Placement::parse(spec).unwrap()];
            let simulated = BenchDrum::new(&BenchDrum::usual(kind), &turned).unwrap().with_known_devices();
            let real = measured(&played(&simulated, 2)).summary.profile;
            let should = cents(from, expected(kind, open, &[spec]).profile.body_hz.unwrap());
            let is = cents(from, real.body_hz.unwrap());
            assert!(way * should > 30.0 && (should - is).abs() < 4.0, "{kind:?}: {should} cents, found {is}");
            assert!((real.body_t60_s.unwrap() / before - 1.0).abs() < 0.08, "{kind:?}: {before} s, then {:?}", real.body_t60_s);
        }
    }
}

/// Body, ring and late overtones (energy 80 to 400 ms after the hit, dB) with a treatment against the open drum.
struct Left {
    body: f64,
    ring: f64,
    overtones_db: f64,
}

/// What is expected of `specs` on the usual drum of `kind`, and what the simulated one does with them: both must meet practice.
fn both(kind: DrumKind, specs: &[&str]) -> [Left; 2] {
    let open = open(kind);
    let (expected, found) = (expected(kind, open, specs), found(kind, specs));
    let (_, found_profile) = followed(found.sounding(), &expected);
    let was = &open.summary.profile;
    let body_hz = was.body_hz.unwrap();
    let late = |partials: &[Partial]| partials.iter().filter(|p| p.hz > 1.15 * body_hz).map(|p| p.energy_between(0.08, 0.4)).sum::<f64>();
    let left = |partials: &[Partial], profile: &DecayProfile| Left {
        body: profile.body_t60_s.unwrap_or(0.0) / was.body_t60_s.unwrap(),
        ring: profile.ring_t60_s.unwrap_or(0.0) / was.ring_t60_s.unwrap(),
        overtones_db: 10.0 * (late(partials) / late(&open.partials)).log10(),
    };
    [left(&expected.partials, &expected.profile), left(&found.partials, &found_profile)]
}

/// Magnitudes of practice (common practice, no published source), which the priors and the simulated drum must both meet.
#[test]
fn a_bundle_that_just_grazes_both_heads_of_a_kick_does_far_more_than_a_gel_pad() {
    let pad = both(DrumKind::Kick, &["gel_pad:0:0.85:180"]);
    for (grazing, pad) in both(DrumKind::Kick, &["pillow:0"]).iter().zip(&pad) {
        assert!(grazing.body < 0.82 && pad.body > 0.9, "grazing {}, a pad {}", grazing.body, pad.body);
        assert!(grazing.overtones_db < pad.overtones_db - 3.0);
    }
}

/// The same of a wallet over the hoop: fat and usable, not choked.
#[test]
fn a_wallet_over_the_hoop_leaves_the_snare_a_body() {
    for left in both(DrumKind::Snare, &["hanging_pad:0:0.9:180"]) {
        assert!((0.6..0.95).contains(&left.body) && left.ring < 1.0 && left.overtones_db < -2.0, "{} {}", left.body, left.overtones_db);
    }
}

/// The same of a wide control ring on a floor tom, which does far more to the overtones than one small pad, and less than both it and a spare head.
#[test]
fn a_wide_ring_is_more_than_a_pad_and_less_than_with_a_spare_head() {
    let [pad, ring, skin] = [&["gel_pad:0:0.85:180"][..], &["control_ring:1"], &["control_ring:1", "spare_head:0"]]
        .map(|specs| both(DrumKind::FloorTom, specs));
    for ((pad, ring), skin) in pad.iter().zip(&ring).zip(&skin) {
        assert!(ring.overtones_db < pad.overtones_db - 3.0 && skin.overtones_db < ring.overtones_db - 3.0, "{}", ring.overtones_db);
        assert!(pad.body > ring.body && ring.body > skin.body);
    }
}

/// The same of cloth off to one side, of a can in a kick, and of cloth where the beater lands.
#[test]
fn cloth_at_the_side_takes_little_body_a_can_the_higher_lows_and_cloth_at_the_pedal_dries_slightly() {
    for side in both(DrumKind::FloorTom, &["thin_cloth:0"]) {
        assert!(side.body > 0.8 && side.ring < side.body && side.overtones_db < -2.0, "{} {}", side.body, side.ring);
    }
    for can in both(DrumKind::Kick, &["steel_can:0"]) {
        assert!(can.body > 0.95 && can.ring < 0.75 && can.overtones_db < -2.0, "{} {}", can.body, can.ring);
    }
    for pedal in both(DrumKind::Kick, &["beater_cloth:0"]) {
        assert!((0.75..0.97).contains(&pedal.body), "{}", pedal.body);
    }
    assert!(expected(DrumKind::Kick, open(DrumKind::Kick), &["beater_cloth:0"]).attack_lost_db > 1.0, "a softer attack");
}

/// The same of a ring loose inside on the lower head, short and punchy, and of a patch in the middle, lower with fewer overtones.
#[test]
fn a_loose_ring_is_short_and_punchy_and_a_centre_patch_lower_and_drier() {
    for ring in both(DrumKind::Tom, &["loose_ring:0"]) {
        assert!(ring.body < 0.7 && ring.overtones_db < -3.0, "{} {}", ring.body, ring.overtones_db);
    }
    assert!(expected(DrumKind::Tom, open(DrumKind::Tom), &["loose_ring:0"]).attack_lost_db < 1.0, "the attack is kept");
    for patch in both(DrumKind::Tom, &["centre_patch:0"]) {
        assert!(patch.overtones_db < -3.0, "{}", patch.overtones_db);
    }
    assert!(expected(DrumKind::Tom, open(DrumKind::Tom), &["centre_patch:0"]).pitch_cents < -40.0);
}
