//! Speed of what a user waits for. Compare within one run: `cargo bench -p ember-core`.

use divan::Bencher;
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::damping::DeviceKind;
use ember_core::decay::{Listener, StrikeMeasurement, combine_partials, summarize};
use ember_core::drum::DrumKind;
use ember_core::plan::{Limits, Question, ShelfItem, plan};
use ember_core::target::{Tonight, Wanted};

fn main() {
    divan::main();
}

fn tom() -> BenchDrum {
    BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).expect("a bare drum")
}

fn heard(sound: &[f32]) -> Vec<StrikeMeasurement> {
    let mut listener = Listener::new(f64::from(SAMPLE_RATE));
    let mut strikes = listener.push(sound);
    strikes.extend(listener.finish());
    strikes.into_iter().map(|strike| strike.measurement).collect()
}

/// One strike of about 2 s at 48 kHz, found and measured.
#[divan::bench(sample_count = 10)]
fn measure_one_strike(bencher: Bencher) {
    let sound = tom().play(1, 3);
    bencher.bench_local(|| heard(&sound));
}

/// One simulated strike.
#[divan::bench(sample_count = 5)]
fn simulate_one_strike(bencher: Bencher) {
    let tom = tom();
    bencher.bench_local(|| tom.strike(3, 0));
}

/// The whole shelf for a tom.
#[divan::bench(sample_count = 10)]
fn plan_a_tom(bencher: Bencher) {
    let strikes = heard(&tom().play(3, 3));
    let (partials, summary, drum) = (combine_partials(&strikes), summarize(&strikes), BenchDrum::usual(DrumKind::Tom));
    let shelf = DeviceKind::ALL.map(|device| ShelfItem { device, count: 4 });
    let wanted = Wanted::new(&Tonight { genre: "cumbia".into(), bpm: 96.0 }, drum.kind).expect("a known genre");
    let question =
        Question { drum: &drum, partials: &partials, profile: &summary.profile, wanted, shelf: &shelf, limits: Limits::default() };
    bencher.bench_local(|| plan(&question));
}
