//! Which of a tap's tones is the lug's: the lowest pair of modes that an edge tap drives, found by the company it keeps.

use super::tap::TapSound;
use crate::drum::Drum;
use crate::numeric::bessel_zero;
use std::sync::LazyLock;

/// Modes with nodal diameters that a tap near the edge drives, as pitch against (1,1), and how much each speaks.
static COMPANY: LazyLock<Vec<(f64, f64)>> = LazyLock::new(|| {
    let first = bessel_zero(1, 1);
    [(1, 1, 1.0), (2, 1, 1.0), (3, 1, 0.8), (4, 1, 0.6), (1, 2, 0.6), (5, 1, 0.4), (2, 2, 0.4)]
        .into_iter()
        .map(|(m, n, weight)| (bessel_zero(m, n) / first, weight))
        .collect()
});
/// Modes with circles only, against (1,1): they may sound, and say nothing.
static CIRCLES: LazyLock<Vec<f64>> = LazyLock::new(|| (1..=3).map(|n| bessel_zero(0, n) / bessel_zero(1, 1)).collect());
/// How far an uneven head or the air may move a tone from where an ideal membrane has it, parts of its pitch.
const TOLERANCE: f64 = 0.055;
/// A tone weaker than this against the loudest counts for nothing, dB.
const WEAKEST_DB: f64 = -35.0;

/// Where a lug's pitch is looked for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Expected {
    /// Pitch, Hz.
    pub hz: f64,
    /// Standard deviation of its logarithm.
    pub ln_sd: f64,
}

impl Expected {
    /// Nothing known but the drum: it may be half or twice as tight as usual.
    pub fn of(drum: &Drum) -> Self {
        Self { hz: drum.usual_batter_hz() * bessel_zero(1, 1) / bessel_zero(0, 1), ln_sd: 0.30 }
    }

    /// From lug pitches heard before, Hz.
    pub fn heard(hz: f64) -> Self {
        Self { hz, ln_sd: 0.12 }
    }
}

/// A peak of a spectrum.
struct Peak {
    hz: f64,
    /// Power over all peaks' sum.
    power: f64,
    level_db: f64,
}

/// Pitch about which the lugs' tones lie, Hz, from all taps together. `None` where nothing rings.
pub(super) fn centre(taps: &[&TapSound], expected: Expected) -> Option<f64> {
    let peaks = peaks(taps);
    let mut best: Option<(f64, f64)> = None;
    for peak in peaks.iter().filter(|peak| (peak.hz / expected.hz).ln().abs() < 3.0 * expected.ln_sd) {
        // The pair's two members both may be there: the centre lies at one, or between it and its neighbour.
        for hz in std::iter::once(peak.hz).chain(neighbours(&peaks, peak.hz)) {
            let off = (hz / expected.hz).ln() / expected.ln_sd;
            let worth = explained(&peaks, hz) * (-0.5 * off * off).exp();
            if best.is_none_or(|(_, most)| worth > most) {
                best = Some((hz, worth));
            }
        }
    }
    best.map(|(hz, _)| hz)
}

/// Pitch (Hz) of something that rings as loud as the lugs' tones at `centre_hz` and is no tone of this head.
pub(super) fn stranger(tap: &TapSound, centre_hz: f64) -> Option<f64> {
    let belongs = |hz: f64| {
        let near = |ratio: f64, tolerance: f64| (hz / centre_hz / ratio - 1.0).abs() < tolerance;
        COMPANY.iter().any(|(ratio, _)| near(*ratio, 0.10)) || CIRCLES.iter().any(|ratio| near(*ratio, 0.06)) || hz > 2.0 * centre_hz
    };
    let peaks = peaks(&[tap]);
    let own = peaks.iter().filter(|peak| belongs(peak.hz)).map(|peak| peak.power).fold(0.0, f64::max);
    peaks.iter().filter(|peak| !belongs(peak.hz) && peak.power > 1.5 * own).map(|peak| peak.hz).next()
}

fn neighbours(peaks: &[Peak], hz: f64) -> impl Iterator<Item = f64> + '_ {
    peaks.iter().filter(move |other| other.hz > hz && other.hz < 1.13 * hz).map(move |other| (other.hz * hz).sqrt())
}

/// How well the tones of a head whose lugs sound about `hz` explain what is loud: what they explain, less the part that nothing
/// of this head explains.
fn explained(peaks: &[Peak], hz: f64) -> f64 {
    let (mut own, mut foreign) = (0.0, 0.0);
    for peak in peaks {
        let loud = peak.level_db - WEAKEST_DB;
        let near = |ratio: f64| (1.0 - ((peak.hz / hz / ratio - 1.0) / TOLERANCE).powi(2)).max(0.0);
        let fits = COMPANY.iter().map(|(ratio, weight)| weight * near(*ratio)).fold(0.0, f64::max);
        own += loud * fits;
        // Far above, so many modes lie close together that anything fits and nothing tells.
        if fits == 0.0 && peak.hz < 2.0 * hz && CIRCLES.iter().all(|ratio| near(*ratio) == 0.0) {
            foreign += loud;
        }
    }
    if own > 0.0 { own * own / (own + foreign) } else { 0.0 }
}

/// Peaks of all taps' spectra together, each tap counting alike.
fn peaks(taps: &[&TapSound]) -> Vec<Peak> {
    let Some(first) = taps.first() else { return Vec::new() };
    let bin_hz = first.bin_hz();
    let power: Vec<f64> =
        (0..first.spectrum.len()).map(|bin| taps.iter().map(|tap| tap.spectrum.get(bin).copied().unwrap_or(0.0)).sum::<f64>()).collect();
    let low = (30.0 / bin_hz) as usize;
    let loudest = power[low..].iter().fold(0.0, |most: f64, p| most.max(*p));
    // A peak stands out over the 6 Hz around it.
    let reach = (3.0 / bin_hz).ceil() as usize;
    (low.max(reach)..power.len().saturating_sub(reach))
        .filter(|&bin| power[bin - reach..=bin + reach].iter().all(|other| *other <= power[bin]))
        .map(|bin| {
            let level_db = 10.0 * (power[bin] / loudest).max(1e-30).log10();
            Peak { hz: bin as f64 * bin_hz, power: power[bin], level_db }
        })
        .filter(|peak| peak.level_db > WEAKEST_DB)
        .collect()
}
