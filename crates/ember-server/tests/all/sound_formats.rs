//! The same strike from every format and rate that can be read. The files were written by libsndfile (`formats/make.py`), those for phones by the
//! encoders of a general-purpose media tool (`formats/phones.sh`).

use ember_app::sound::{ReadProgress, measure_file};
use ember_core::decay::Remark;
use ember_core::tone::HeardBy;
use std::path::Path;

#[test]
fn the_same_strike_measures_the_same_from_every_format() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/formats");
    let measured = |name: &str| {
        let heard =
            measure_file(&folder.join(name), name, HeardBy::Partials, 60.0, 10, &ReadProgress::default(), |strike| strike.measurement)
                .unwrap();
        let [strike] = heard.strikes.try_into().unwrap_or_else(|all: Vec<_>| panic!("{name}: {} strikes", all.len()));
        (heard.facts, strike)
    };
    let (_, reference) = measured("wav-float.wav");
    let files = [
        ("wav-16.wav", 16_000, 1),
        ("wav-24.wav", 16_000, 1),
        ("flac-16.flac", 16_000, 1),
        ("aiff-16.aiff", 16_000, 1),
        ("stereo.flac", 16_000, 2),
        ("vorbis.ogg", 44_100, 1),
        ("mp3.mp3", 44_100, 1),
        ("aac.m4a", 44_100, 1),
        ("alac.m4a", 16_000, 1),
        ("alac.caf", 16_000, 1),
        ("video.mov", 44_100, 1),
        ("opus.ogg", 48_000, 1),
        ("opus.webm", 48_000, 2),
        ("video.webm", 48_000, 1),
        ("slow-8000.flac", 8_000, 1),
        ("fast-192000.flac", 192_000, 1),
    ];
    for (name, rate, channels) in files {
        let (facts, strike) = measured(name);
        assert_eq!((facts.sample_rate, facts.channels), (rate, channels), "{name}");
        assert_eq!(strike.warnings, [], "{name}");
        // What a codec leaves out for want of bits is no compressor's doing.
        assert!(!strike.remarks.contains(&Remark::Compressed), "{name}: {:?}", strike.remarks);
        let (ours, theirs) = (&strike.profile, &reference.profile);
        let off = |a: Option<f64>, b: Option<f64>| (a.unwrap() / b.unwrap() - 1.0).abs();
        assert!(off(ours.body_t60_s, theirs.body_t60_s) < 0.02, "{name}: body {:?} {:?}", ours.body_t60_s, theirs.body_t60_s);
        assert!(off(ours.ring_t60_s, theirs.ring_t60_s) < 0.03, "{name}: ring {:?} {:?}", ours.ring_t60_s, theirs.ring_t60_s);
    }
    // Eight bits leave less than 40 dB below this strike: that is said, and nothing else.
    let (_, coarse) = measured("wav-8.wav");
    assert_eq!(coarse.warnings, [ember_core::decay::Warning::TooNoisy]);
}
