//! Speed of what a user waits for. Compare within one run: `cargo bench -p ember-core`.

use divan::Bencher;
use ember_core::Patience;
use ember_core::audition::{Change, remade};
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE, TapManner, TappedHead};
use ember_core::damping::{DeviceKind, Placement, Predictor, Strength, Strengths};
use ember_core::decay::{Listener, StrikeMeasurement, combine_partials, summarize};
use ember_core::drum::{Drum, DrumKind, HeadSide};
use ember_core::kick::{FrontPredictor, fronts};
use ember_core::plan::{
    Among, Evening, EveningDrum, Limits, MOST_SETUPS, Offer, Question, Screened, Settled, Setup, ShelfItem, Sound, Weighing, choose,
    evaluate, plan,
};
use ember_core::signal::{CapturedStrike, Ending};
use ember_core::target::{Music, Situation, Wanted, built_in_preset, built_in_presets};
use ember_core::tuning::{Expected, Goal, Influence, RoundTap, TapReader, TapSound, TurnTrial, TurnedHead, hear_round, next_turns};
use ember_core::venue::Masking;

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

fn wanted(music: &Music, drum: &Drum) -> Wanted {
    let preset = built_in_preset(&music.genre).expect("a built-in genre");
    Wanted::new(&Situation { preset, music, venue: None, time_keepers: &[] }, drum, None)
}

/// A sound of 3 s at 48 kHz with one strike in it, found and measured.
#[divan::bench(sample_count = 30)]
fn measure_one_strike(bencher: Bencher) {
    let tom = tom();
    let noise = (4..).flat_map(|seed| tom.lead(seed));
    let sound: Vec<f32> = tom.play(1, 3).into_iter().chain(noise).take(3 * SAMPLE_RATE as usize).collect();
    bencher.bench_local(|| heard(&sound));
}

/// Works out 480 wishes under a measured band: 40 songs on twelve drums.
#[divan::bench(sample_count = 10)]
fn cover_an_evening() -> f64 {
    let band = [-57.6, -55.1, -54.7, -56.4, -59.8, -64.3, -69.7].map(Some);
    let of = |drum: usize| Masking::of_levels(&[band], -20.0 - drum as f64);
    (0..480).filter_map(|wish| of(wish % 12)).map(|masking| masking.threshold_db[2]).sum()
}

/// One simulated strike.
#[divan::bench(sample_count = 5)]
fn simulate_one_strike(bencher: Bencher) {
    let tom = tom();
    bencher.bench_local(|| tom.strike(3, 0));
}

/// The last tap of a round on eight lugs, heard with the seven before it.
#[divan::bench(sample_count = 10)]
fn hear_a_tap(bencher: Bencher) {
    let drum = Drum { lugs: 8, ..BenchDrum::usual(DrumKind::Tom) };
    let head = TappedHead::of(&drum, HeadSide::Batter, 3, &[0; 8]);
    let reader = TapReader::new(f64::from(SAMPLE_RATE));
    let lead = head.quiet(0.05, 1e-4, 1);
    let onset_index = lead.len();
    let captured: Vec<CapturedStrike> = (0..8)
        .map(|lug| {
            let samples = [lead.clone(), head.tap(lug, TapManner::default(), 1)].concat();
            CapturedStrike { sample_rate: f64::from(SAMPLE_RATE), onset_s: 0.05, samples, onset_index, ending: Ending::Decayed }
        })
        .collect();
    let sounds: Vec<TapSound> = captured.iter().map(|tap| reader.read(tap)).collect();
    bencher.bench_local(|| {
        let last = reader.read(&captured[7]);
        let taps: Vec<RoundTap> = sounds[..7].iter().chain([&last]).enumerate().map(|(lug, sound)| RoundTap { lug, sound }).collect();
        hear_round(&taps, 8, Expected::of(&drum))
    });
}

/// Next turns on ten lugs that differ by about 150 cents, with what two rounds taught.
#[divan::bench(sample_count = 10)]
fn next_turns_on_ten_lugs(bencher: Bencher) {
    let drum = BenchDrum::usual(DrumKind::Snare);
    let hz = |lug: usize| Some(290.0 * 2f64.powf((75.0 * (2.6 * lug as f64).sin()) / 1200.0));
    let now: Vec<Option<f64>> = (0..10).map(hz).collect();
    let trial =
        TurnTrial { before_hz: vec![Some(290.0); 10], eighths: vec![1, 0, -1, 0, 2, 0, 0, -2, 0, 0], after_hz: now.clone(), sd_cents: 1.0 };
    bencher.bench_local(|| {
        let influence = Influence::learned(10, 290.0, &[trial.clone(), trial.clone()]);
        let head = TurnedHead { drum: &drum, head: drum.batter, influence: &influence, since_seated: None };
        next_turns(&head, &now, 1.0, Goal::Even)
    });
}

/// The full solve of two devices on a tom.
#[divan::bench(sample_count = 20)]
fn solve_in_full(bencher: Bencher) {
    let predictor = Predictor::new(&BenchDrum::usual(DrumKind::Tom), &combine_partials(&heard(&tom().play(1, 3)))).expect("a clear body");
    let grips = ["gel_pad:0:0.8:150", "tape:1:0.9:210"].map(|spec| predictor.grip(&Placement::parse(spec).expect("a device")));
    bencher.bench_local(|| predictor.solve(&grips.iter().collect::<Vec<_>>(), Strength::EXPECTED));
}

/// A tom, the first so many kinds of devices on the shelf, up to three at a time.
#[divan::bench(sample_count = 10, args = [4, 8, DeviceKind::ALL.len()])]
fn plan_a_tom(bencher: Bencher, kinds: usize) {
    let strikes = heard(&tom().play(3, 3));
    let (partials, summary, drum) = (combine_partials(&strikes), summarize(&strikes), BenchDrum::usual(DrumKind::Tom));
    let shelf: Vec<ShelfItem> = DeviceKind::ALL[..kinds].iter().map(|device| ShelfItem::new(*device, 4)).collect();
    let wanted = wanted(&Music::new("cumbia", 96.0), &drum);
    let question = Question {
        drum: &drum,
        partials: &partials,
        profile: &summary.profile,
        wanted,
        shelf: &shelf,
        limits: Limits::default(),
        strengths: &Strengths::default(),
        patience: Patience::ENDLESS,
    };
    bencher.bench_local(|| plan(&question));
}

/// A layout of two pads worked out in full, as while one is dragged.
#[divan::bench(sample_count = 10)]
fn lay_out_two_pads(bencher: Bencher) {
    let strikes = heard(&tom().play(3, 3));
    let (partials, summary, drum) = (combine_partials(&strikes), summarize(&strikes), BenchDrum::usual(DrumKind::Tom));
    let (wanted, strengths) = (wanted(&Music::new("cumbia", 96.0), &drum), Strengths::default());
    let pads = ["gel_pad:0:0.8:170", "gel_pad:0:0.8:80"].map(|spec| Placement::parse(spec).expect("a pad"));
    let question = Question {
        drum: &drum,
        partials: &partials,
        profile: &summary.profile,
        wanted,
        shelf: &[],
        limits: Limits::default(),
        strengths: &strengths,
        patience: Patience::ENDLESS,
    };
    bencher.bench_local(|| evaluate(&question, Offer::Own, &pads));
}

/// Every way of closing a measured kick, as its page shows them.
#[divan::bench(sample_count = 10)]
fn look_at_a_kicks_front(bencher: Bencher) {
    let drum = BenchDrum::usual(DrumKind::Kick);
    let strikes = heard(&BenchDrum::new(&drum, &[]).expect("a bare drum").play(2, 3));
    let (partials, summary) = (combine_partials(&strikes), summarize(&strikes));
    bencher.bench_local(|| {
        let predictor = FrontPredictor::new(&drum, &partials, &summary.profile).expect("a clear body");
        fronts(&drum).iter().map(|front| predictor.outlook(front)).collect::<Vec<_>>()
    });
}

/// A strike re-made with other decays, as heard first.
#[divan::bench(sample_count = 10)]
fn remake_a_strike(bencher: Bencher) {
    let sound = tom().play(1, 3);
    let strikes = heard(&sound);
    let partials = combine_partials(&strikes);
    let predictor = Predictor::new(&BenchDrum::usual(DrumKind::Tom), &partials).expect("a clear body");
    let grip = predictor.grip(&Placement::parse("gel_pad:0:0.85:180").expect("a pad"));
    let after = predictor.solve(&[&grip], Strength::EXPECTED);
    let onset = (strikes[0].onset_s * f64::from(SAMPLE_RATE)) as usize;
    bencher.bench_local(|| {
        remade(&sound, f64::from(SAMPLE_RATE), onset, &Change { before: predictor.bare(), after: &after, attack_lost_db: 0.3 })
    });
}

/// Forty songs for some drums: four sets of two genres each with breaks between them, or all genres in a jumble.
struct Night {
    shelf: Vec<ShelfItem>,
    setups: Vec<Vec<Setup>>,
    wishes: Vec<Vec<Wanted>>,
}

fn night(drums: usize, in_sets: bool) -> Night {
    let shelf = DeviceKind::ALL.map(|device| ShelfItem::new(device, 4)).to_vec();
    let songs: Vec<Music> = (0..40)
        .map(|i| {
            let which = if in_sets { 4 + 3 * (i / 10) + i % 2 } else { 7 * i };
            let preset = &built_in_presets()[which % built_in_presets().len()];
            Music::new(&preset.code, (preset.usual_bpm * (0.9 + 0.02 * (i % 11) as f64)).clamp(30.0, 300.0))
        })
        .collect();
    let kinds = [DrumKind::Snare, DrumKind::Tom, DrumKind::Tom, DrumKind::FloorTom, DrumKind::Kick, DrumKind::FloorTom];
    let (mut setups, mut wishes) = (Vec::new(), Vec::new());
    for (seed, kind) in kinds.into_iter().cycle().take(drums).enumerate() {
        let drum = BenchDrum::usual(kind);
        let strikes = heard(&BenchDrum::new(&drum, &[]).expect("a bare drum").play(3, seed as u64));
        let sound = Sound { partials: combine_partials(&strikes), profile: summarize(&strikes).profile };
        let screened = Screened::new(&drum, &sound.partials, &shelf, &Limits::default(), &Strengths::default()).expect("a clear body");
        let wished: Vec<Wanted> = songs.iter().map(|music| wanted(music, &drum)).collect();
        let mut chosen = choose(&screened, &[(Vec::new(), sound.clone())], &[], &wished, Patience::ENDLESS);
        // The figure is about thirty setups: where fewer would do, the grid's first ones fill up.
        let fill = screened
            .best(&wished[0], 4 * MOST_SETUPS, &Among { most: 2, allow: &|_| true, turned: false, patience: Patience::ENDLESS })
            .into_iter()
            .map(|ranked| ranked.placements);
        let missing: Vec<_> =
            fill.filter(|placements| chosen.iter().all(|setup| setup.placements != *placements)).take(MOST_SETUPS - chosen.len()).collect();
        if !missing.is_empty() {
            let must: Vec<_> = chosen.iter().skip(1).map(|setup| setup.placements.clone()).chain(missing).collect();
            chosen = choose(&screened, &[(Vec::new(), sound)], &must, &wished, Patience::ENDLESS);
        }
        assert_eq!(chosen.len(), MOST_SETUPS);
        setups.push(chosen);
        wishes.push(wished);
    }
    Night { shelf, setups, wishes }
}

/// 20 s between songs: short enough that the drums compete for them. All drums share one shelf.
fn solved(bencher: Bencher, drums: usize, in_sets: bool, weighing: Weighing) {
    let night = night(drums, in_sets);
    let drums = || {
        night
            .setups
            .iter()
            .zip(&night.wishes)
            .map(|(setups, wishes)| EveningDrum { setups, wishes, settled: vec![Settled::default(); 40] })
            .collect()
    };
    let gaps_s = (0..40).map(|song| if in_sets && song % 10 == 0 { 900.0 } else { 20.0 }).collect();
    let evening = Evening {
        drums: drums(),
        breaks: vec![false; 40],
        swaps_s: vec![0.0; 40],
        gaps_s,
        shelf: &night.shelf,
        patience: Patience::ENDLESS,
    };
    bencher.bench_local(|| evening.plan(weighing).expect("songs and drums"));
}

/// Forty songs, six drums, thirty setups each.
#[divan::bench(sample_count = 10, args = [Weighing::OneSetup, Weighing::FewLooks, Weighing::NoCompromise])]
fn evening_in_sets(bencher: Bencher, weighing: Weighing) {
    solved(bencher, 6, true, weighing);
}

/// The same with twelve drums.
#[divan::bench(sample_count = 10)]
fn evening_of_twelve_drums(bencher: Bencher) {
    solved(bencher, 12, true, Weighing::FewLooks);
}

/// The same with every song of another genre than the one before: here the answer is bounded, not proved.
#[divan::bench(sample_count = 10)]
fn evening_in_a_jumble(bencher: Bencher) {
    solved(bencher, 6, false, Weighing::FewLooks);
}
