//! Times the estimate of partials in bands alone, without what measuring a strike does besides: `partials_in_bands SOUND.wav`.
//!
//! Prints milliseconds a strike (the best of three rounds over all of them). `scripts/compare-speed.py` holds it against the same estimate
//! in NumPy and SciPy.

use ember_core::decay::{PartialFinder, Span};
use ember_core::signal::{CapturedStrike, Limits, StrikeFinder};
use std::time::Instant;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let path = std::env::args().nth(1).ok_or("Which sound? partials_in_bands SOUND.wav")?;
    let mut reader = hound::WavReader::open(path)?;
    let (rate, scale) = (f64::from(reader.spec().sample_rate), 0.5f32.powi(i32::from(reader.spec().bits_per_sample) - 1));
    let samples: Vec<f32> = reader.samples::<i32>().map(|x| x.map(|x| x as f32 * scale)).collect::<Result<_, _>>()?;
    let mut strikes = StrikeFinder::new(rate, Limits::default());
    let mut found: Vec<CapturedStrike> = strikes.push(&samples);
    found.extend(strikes.finish());
    if found.is_empty() {
        return Err("There is no strike in it.".into());
    }
    let finder = PartialFinder::new(rate);
    let round = || {
        let began = Instant::now();
        for strike in &found {
            let span = Span {
                onset_s: strike.onset_index as f64 / rate,
                settle_s: 0.04,
                length_s: (strike.samples.len() - strike.onset_index) as f64 / rate,
                energy_rate: 20.0,
                clipped_s: 0.0,
            };
            let (slow, _) = finder.slow(&strike.samples);
            std::hint::black_box(finder.find(&slow, &span));
        }
        1000.0 * began.elapsed().as_secs_f64() / found.len() as f64
    };
    println!("{:.2}", (0..3).map(|_| round()).fold(f64::INFINITY, f64::min));
    Ok(())
}
