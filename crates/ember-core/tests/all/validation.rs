//! The modal predictor against the finite-difference drum over 200 random drums, devices and places, devices as strong as assumed. Takes
//! minutes, so it runs when asked: `cargo test --release -p ember-core --test all validation:: -- --ignored --nocapture`. With SCATTER set to a
//! path it draws what it found; docs/METHOD.md shows the picture and the figures.

use crate::common::{Measured, measured, played, random_treatment};
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Open, Placement, Predictor, device_info};
use ember_core::drum::{Drum, DrumKind, Head};
use ember_core::plan::{Figure, check};
use ember_core::units::median;
use rand::{Rng, SeedableRng, rngs::StdRng, seq::IndexedRandom};
use rayon::prelude::*;

const DRUMS: usize = 20;
const TREATMENTS: usize = 10;

/// A drum like those in kits, its size, heads and tuning drawn anew.
fn random_drum(rng: &mut StdRng, index: usize) -> (Drum, BenchDrum) {
    let usual = BenchDrum::usual(DrumKind::OF_A_KIT[index % DrumKind::OF_A_KIT.len()]);
    let film = *[7.5, 10.0, 12.0, 14.0].choose(rng).expect("films");
    let drum = Drum {
        diameter_in: usual.diameter_in + *[-1.0, 0.0, 1.0].choose(rng).expect("sizes"),
        depth_in: usual.depth_in * rng.random_range(0.8..1.25),
        batter: if rng.random_bool(0.5) { Head::plain(film) } else { Head::double(14.0) },
        ..usual
    };
    let bench = BenchDrum::new(&drum, &[]).expect("a drum that can be");
    (drum, bench)
}

/// A turn of every rod by itself changes no decay time: foretelling that is no feat.
fn with_something_laid(rng: &mut StdRng, drum: &Drum) -> Vec<Placement> {
    loop {
        let placements = random_treatment(rng, drum, |_| true, |rng| rng.random_range(1..=2), 0.4..0.93);
        if placements.iter().any(|placement| placement.device != DeviceKind::RodsTurned) {
            return placements;
        }
    }
}

struct Case {
    drum: Drum,
    placements: Vec<Placement>,
    figure: Figure,
    open: f64,
    expected: f64,
    found: f64,
    within: bool,
}

fn cases(index: usize) -> Vec<Case> {
    let mut rng = StdRng::seed_from_u64(9_000 + index as u64);
    let (drum, bench) = random_drum(&mut rng, index);
    let open: Measured = measured(&played(&bench, 2));
    let Some(predictor) = Predictor::new(&drum, &open.partials) else { return Vec::new() };
    (0..TREATMENTS)
        .flat_map(|_| {
            let placements = with_something_laid(&mut rng, &drum);
            let grips: Vec<_> = placements.iter().map(|placement| predictor.grip(placement)).collect();
            let start = Open { partials: &open.partials, profile: &open.summary.profile };
            let expected = predictor.expect(&start, &placements, &grips.iter().collect::<Vec<_>>());
            let treated = BenchDrum::new(&drum, &placements).expect("a treatment that can be").with_known_devices();
            let found = measured(&played(&treated, 2));
            let rows = check(open.sounding(), &expected, found.sounding());
            rows.into_iter()
                .filter(|row| matches!(row.figure, Figure::BodyT60 | Figure::RingT60))
                .filter_map(|row| {
                    Some(Case {
                        drum: drum.clone(),
                        placements: placements.clone(),
                        figure: row.figure,
                        open: row.open?,
                        expected: row.expected?,
                        found: row.found?,
                        within: row.within?,
                    })
                })
                .collect::<Vec<_>>()
        })
        .collect()
}

impl Case {
    fn error(&self) -> f64 {
        (self.found / self.expected).ln()
    }
}

/// Median and 90th percentile of the sizes of `errors`, as parts.
fn spread(errors: impl Iterator<Item = f64>) -> (usize, f64, f64) {
    let mut sizes: Vec<f64> = errors.map(|error| error.abs().exp_m1()).collect();
    sizes.sort_by(f64::total_cmp);
    (sizes.len(), median(&sizes).unwrap_or(f64::NAN), sizes.get(sizes.len() * 9 / 10).copied().unwrap_or(f64::NAN))
}

#[test]
#[ignore = "takes minutes; its figures stand in docs/METHOD.md"]
fn two_hundred_random_treatments_come_out_as_predicted() {
    let all: Vec<Case> = (0..DRUMS).into_par_iter().flat_map_iter(cases).collect();
    for case in &all {
        let specs: Vec<String> =
            case.placements.iter().map(|p| format!("{}:{}:{:.2}:{:.0}", p.device.code(), p.amount, p.radius, p.angle_deg)).collect();
        let Case { drum, figure, open, expected, found, within, .. } = case;
        println!(
            "{:?} {:.0} x {:.1} {figure:?}: open {open:.3} expected {expected:.3} found {found:.3} ({:+.0} %, {within}) {}",
            drum.kind,
            drum.diameter_in,
            drum.depth_in,
            100.0 * (found / expected - 1.0),
            specs.join(" ")
        );
    }
    let say = |name: &str, errors: &mut dyn Iterator<Item = f64>| {
        let (count, middle, most) = spread(errors);
        println!("| {name} | {count} | {:.1} % | {:.0} % |", 100.0 * middle, 100.0 * most);
    };
    for figure in [Figure::BodyT60, Figure::RingT60] {
        say(&format!("{figure:?}"), &mut all.iter().filter(|case| case.figure == figure).map(Case::error));
    }
    for kind in DrumKind::OF_A_KIT {
        say(&format!("{kind:?}"), &mut all.iter().filter(|case| case.drum.kind == kind).map(Case::error));
    }
    for device in DeviceKind::ALL {
        let has = |case: &&Case| case.placements.iter().any(|placement| placement.device == device);
        say(device_info(device).name.english(), &mut all.iter().filter(has).map(Case::error));
    }
    let within = all.iter().filter(|case| case.within).count();
    println!("{within} of {} within their range", all.len());
    if let Ok(path) = std::env::var("SCATTER") {
        std::fs::write(path, scatter(&all)).expect("a file that can be written");
    }
    let (count, middle, _) = spread(all.iter().map(Case::error));
    say("all", &mut all.iter().map(Case::error));
    assert!(count >= 330, "{count} figures");
    assert!(middle < 0.08, "median error {:.1} %", 100.0 * middle);
}

/// Expected against found decay times, both in s on logarithmic axes, as SVG.
fn scatter(cases: &[Case]) -> String {
    let at = |seconds: f64| 400.0 * ((seconds / 0.05).ln() / (4.0f64 / 0.05).ln()).clamp(0.0, 1.0);
    let mut svg = String::from(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"-60 -20 490 490\" font-family=\"sans-serif\" font-size=\"14\">\n\
         <title>Decay times of body and ring, expected and found on the simulated drum</title>\n\
         <rect x=\"-60\" y=\"-20\" width=\"490\" height=\"490\" fill=\"white\"/>\n",
    );
    for tick in [0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 4.0] {
        let (x, y) = (at(tick), 400.0 - at(tick));
        svg += &format!(
            "<path d=\"M{x:.1} 0V400M0 {y:.1}H400\" stroke=\"#ddd\"/><text x=\"{x:.1}\" y=\"418\" text-anchor=\"middle\">{tick}</text>\
             <text x=\"-8\" y=\"{:.1}\" text-anchor=\"end\">{tick}</text>\n",
            y + 5.0
        );
    }
    svg += "<path d=\"M0 400L400 0\" stroke=\"#888\"/>\n";
    for case in cases {
        let (x, y) = (at(case.expected), 400.0 - at(case.found));
        svg += &match case.figure {
            Figure::BodyT60 => format!("<circle cx=\"{x:.1}\" cy=\"{y:.1}\" r=\"3.5\" fill=\"none\" stroke=\"#222\"/>\n"),
            _ => format!("<path d=\"M{:.1} {:.1}l6 6m0 -6l-6 6\" stroke=\"#c4400b\"/>\n", x - 3.0, y - 3.0),
        };
    }
    svg += "<text x=\"200\" y=\"445\" text-anchor=\"middle\">expected, s</text>\n\
            <text transform=\"translate(-40 200) rotate(-90)\" text-anchor=\"middle\">found, s</text>\n\
            <circle cx=\"250\" cy=\"360\" r=\"3.5\" fill=\"none\" stroke=\"#222\"/><text x=\"262\" y=\"365\">body</text>\n\
            <path d=\"M247 377l6 6m0 -6l-6 6\" stroke=\"#c4400b\"/><text x=\"262\" y=\"385\">ring</text>\n</svg>\n";
    svg
}
