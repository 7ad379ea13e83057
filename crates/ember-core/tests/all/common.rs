//! What several tests of the core need: strikes on the simulated drum, measured.

use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::damping::{DeviceKind, Placement, device_info};
use ember_core::decay::{Listener, StrikeMeasurement, TakeSummary, combine_partials, mark_ghosts, summarize};
use ember_core::drum::{Drum, DrumKind};
use ember_core::plan::{Sounding, validate_layout};
use ember_core::target::{Music, OpenSound, Situation, Wanted, built_in_preset};
use ember_core::tone::{HeardBy, Partial};
use rand::{Rng, rngs::StdRng, seq::IndexedRandom};
use rayon::prelude::*;
use std::collections::HashMap;
use std::ops::Range;
use std::sync::{Arc, LazyLock, Mutex};

/// A take as it would be kept.
pub struct Measured {
    pub strikes: Vec<StrikeMeasurement>,
    pub partials: Vec<Partial>,
    pub summary: TakeSummary,
}

/// What `genre` at `bpm` leaves room for on the usual drum of `kind`, which sounds like `open` with nothing on it, nowhere in particular.
pub fn wanted(genre: &str, bpm: f64, kind: DrumKind, open: &Measured) -> Wanted {
    let preset = built_in_preset(genre).expect("a built-in genre");
    Wanted::new(
        &Situation { preset, music: &Music::new(genre, bpm), venue: None, time_keepers: &[] },
        &BenchDrum::usual(kind),
        Some(&OpenSound::new(&open.partials, &open.summary)),
    )
}

/// Sounds by drum, as it is written out for debugging, and number of the hit.
type Hits = HashMap<(String, usize), Arc<Vec<f32>>>;

/// The sound of `strikes` hits, each simulated once for all tests.
pub fn played(drum: &BenchDrum, strikes: usize) -> Vec<f32> {
    const SEED: u64 = 7;
    static HITS: LazyLock<Mutex<Hits>> = LazyLock::new(Mutex::default);
    let name = format!("{drum:?}");
    let hit = |index: usize| {
        let key = (name.clone(), index);
        let known = HITS.lock().expect("whoever held it went on").get(&key).cloned();
        // The lock is not held meanwhile: a thread that waits for it could be one that the simulation itself waits for.
        known.unwrap_or_else(|| {
            let sound = Arc::new(drum.strike(SEED, index));
            HITS.lock().expect("whoever held it went on").insert(key, sound.clone());
            sound
        })
    };
    let hits: Vec<Arc<Vec<f32>>> = (0..strikes).into_par_iter().map(hit).collect();
    hits.iter().fold(drum.lead(SEED), |mut sound, hit| {
        sound.extend(hit.iter());
        sound
    })
}

/// Sound (48 kHz) through the one way that all sound takes.
pub fn measured(sound: &[f32]) -> Measured {
    measured_by(sound, HeardBy::Partials)
}

/// The same by what is to be measured.
pub fn measured_by(sound: &[f32], heard_by: HeardBy) -> Measured {
    let mut listener = Listener::hearing(f64::from(SAMPLE_RATE), heard_by);
    let mut heard = listener.push(sound);
    heard.extend(listener.finish());
    let mut strikes: Vec<StrikeMeasurement> = heard.into_iter().map(|strike| strike.measurement).collect();
    mark_ghosts(&mut strikes);
    Measured { partials: combine_partials(&strikes), summary: summarize(&strikes), strikes }
}

impl Measured {
    pub fn sounding(&self) -> Sounding<'_> {
        Sounding { partials: &self.partials, profile: &self.summary.profile }
    }
}

/// Devices of those `wanted`, as many as `count` says, that can lie on `drum` together: amounts and places drawn anew, no further in or out than
/// `radii`.
pub fn random_treatment(
    rng: &mut StdRng,
    drum: &Drum,
    wanted: impl Fn(DeviceKind) -> bool,
    count: impl Fn(&mut StdRng) -> usize,
    radii: Range<f64>,
) -> Vec<Placement> {
    let fits = |kind: &DeviceKind| !kind.is_own() && wanted(*kind) && device_info(*kind).kinds.contains(&drum.kind);
    let kinds: Vec<DeviceKind> = DeviceKind::ALL.into_iter().filter(fits).collect();
    loop {
        let count = count(rng);
        let place = |rng: &mut StdRng| {
            let device = *kinds.choose(rng).expect("devices");
            let amount = rng.random_range(0..device_info(device).amounts.len());
            Placement {
                device,
                amount,
                radius: rng.random_range(radii.clone()),
                angle_deg: rng.random_range(0.0..360.0),
                made: None,
                other_head: false,
            }
        };
        let placements: Vec<Placement> = (0..count).map(|_| place(rng)).collect();
        if validate_layout(drum, &placements).is_ok() {
            return placements;
        }
    }
}
