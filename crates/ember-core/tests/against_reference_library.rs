//! Backward integration against an independent implementation: numbers and sounds from `reference/make.py`
//! (pyroomacoustics 0.10.1, `measure_rt60`).

use ember_core::decay::{DecayCurve, NoiseFloor};
use std::collections::BTreeMap;
use std::path::Path;

#[test]
fn t20_and_t30_agree_with_the_reference_library() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/reference");
    let numbers = std::fs::read_to_string(folder.join("numbers.json")).unwrap();
    let numbers: BTreeMap<String, BTreeMap<String, f64>> = serde_json::from_str(&numbers).unwrap();
    assert_eq!(numbers.len(), 3);
    for (name, reference) in numbers {
        let mut reader = hound::WavReader::open(folder.join(format!("{name}.wav"))).unwrap();
        let rate = f64::from(reader.spec().sample_rate);
        let samples: Vec<f32> = reader.samples::<i16>().map(|x| f32::from(x.unwrap()) / 32768.0).collect();
        let found = DecayCurve::new(&samples, rate, NoiseFloor::Tail).evaluate();
        for (key, value) in [("t20_s", found.t20_s), ("t30_s", found.t30_s)] {
            let (ours, theirs) = (value.unwrap(), reference[key]);
            // The library takes two points of the curve, ISO 3382-1 a straight line through all of them: a drum's decay bends a
            // little, noise wobbles a little.
            assert!((ours / theirs - 1.0).abs() < 0.05, "{name} {key}: {ours} against {theirs}");
        }
    }
}
