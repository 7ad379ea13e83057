//! One tap beside a lug: what its sound holds, made ready to be held against the other taps of a round.

use crate::decay::PartialFinder;
use crate::signal::{BandPasses, CapturedStrike, Ending};
use crate::units::decibels;
use ember_words::{Words, words};
use realfft::RealFftPlanner;
use serde::{Deserialize, Serialize};

/// Time after the tap from which its spectrum is taken, s: the stick's own sound is over.
const SPECTRUM_FROM_S: f64 = 0.03;
/// Length of sound that a spectrum is taken of, s.
const SPECTRUM_S: f64 = 0.5;
/// Samples of a spectrum's transform.
const TRANSFORM: usize = 4096;
/// A tap that does not stand this far out of the noise is asked again, dB.
const CLEAR_DB: f64 = 14.0;
/// Sound this long after the tap is needed at least, s.
const SHORTEST_S: f64 = 0.25;
/// High-frequency sound this long after the tap comes from wires, not from the stick, s.
const WIRES_FROM_S: f64 = 0.06;
const WIRES_TO_S: f64 = 0.16;
/// Wires lie on if the sound up there is no further than this below the whole, dB.
const WIRES_DB: f64 = -32.0;

/// Why a tap is asked again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum TapFault {
    /// Too soft.
    TooSoft,
    /// Too loud.
    TooLoud,
    /// The next sound came before this one had been heard long enough.
    CutShort,
    /// The wires rattle along.
    WiresOn,
    /// Another drum or the other head rings along.
    SomethingElseRings,
    /// Nothing in it has a lug's pitch.
    NoPitch,
    /// It fits another lug better than the one asked for.
    AnotherLug,
    /// The head's tones are not where the round's other taps have them: a rod was turned in between.
    Retuned,
}

impl TapFault {
    /// What is wrong and what to do, when lug `lug` (from 0) was asked for and the tap sounded like `sounds_like`.
    pub fn sentence(self, lug: usize, sounds_like: Option<usize>) -> Words {
        let number = lug + 1;
        match (self, sounds_like) {
            (Self::TooSoft, _) => words!("Too soft to hear its pitch. Tap lug {number} again, a little harder."),
            (Self::TooLoud, _) => words!("Too loud for the microphone. Tap lug {number} softer, or move it away."),
            (Self::CutShort, _) => words!("Something sounded into it. Tap lug {number} again and wait for the next number."),
            (Self::WiresOn, _) => words!("The wires buzz along. Throw them off or put a stick under them, then tap lug {number} again."),
            (Self::SomethingElseRings, _) => {
                words!(
                    "Something else rings along. Quieten the drums around, and the other head if there is one, then tap lug {number} again."
                )
            }
            (Self::NoPitch, _) => words!("No clear pitch in it. Tap lug {number} again, an inch inside the hoop."),
            (Self::AnotherLug, Some(other)) => {
                words!("That sounded like lug {} or the one across from it. Tap lug {number}, the one that is lit.", other + 1)
            }
            (Self::Retuned, _) => words!(
                "The head sounds otherwise than at the taps before. If you turned a rod, begin a new round; if not, tap lug {number} again."
            ),
            (Self::AnotherLug, None) => words!("That sounded like another lug. Tap lug {number}, the one that is lit."),
        }
    }
}

/// The sound of one tap.
#[derive(Debug, Clone)]
pub struct TapSound {
    /// Thinned-out sound from the tap on.
    pub(super) slow: Vec<f64>,
    /// Samples a second of `slow`.
    pub(super) slow_rate: f64,
    /// Power by [`bin_hz`](Self::bin_hz), over the whole's sum.
    pub(super) spectrum: Vec<f64>,
    /// Loudest sample, dBFS.
    pub peak_dbfs: f64,
    /// What is wrong with it by itself.
    pub fault: Option<TapFault>,
}

/// Makes taps ready; holds the filters for one sample rate.
pub struct TapReader {
    finder: PartialFinder,
}

impl TapReader {
    /// For `rate` samples a second (8 to 192 kHz).
    pub fn new(rate: f64) -> Self {
        Self { finder: PartialFinder::new(rate) }
    }

    /// Reads the tones of one tap.
    pub fn read(&self, captured: &CapturedStrike) -> TapSound {
        let sound = &captured.samples;
        let (before, after) = sound.split_at(captured.onset_index.min(sound.len()));
        let level = |part: &[f32]| (part.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / part.len().max(1) as f64).sqrt();
        let peak = after.iter().fold(0f32, |most, x| most.max(x.abs()));
        let rate = captured.sample_rate;
        let (slow, slow_rate) = self.finder.slow(sound);
        let onset = (captured.onset_index as f64 / rate * slow_rate) as usize;
        let slow = slow[onset.min(slow.len())..].to_vec();
        let spectrum = spectrum(&slow, slow_rate);
        // Half of the lead-in, since the hit may reach into its end.
        let noise = decibels(level(&before[..before.len() / 2]));
        let ring = &after[((SPECTRUM_FROM_S * rate) as usize).min(after.len())..];
        let early = decibels(level(&ring[..ring.len().min((0.08 * rate) as usize)]));
        let fault = if after.iter().filter(|x| x.abs() > 0.985).count() >= 3 {
            Some(TapFault::TooLoud)
        } else if (after.len() as f64) < SHORTEST_S * rate {
            // What sank into the noise by itself that soon was not loud enough.
            Some(if captured.ending == Ending::Decayed { TapFault::TooSoft } else { TapFault::CutShort })
        } else if early - noise < CLEAR_DB {
            Some(TapFault::TooSoft)
        } else if wires_lie_on(after, rate, noise) {
            Some(TapFault::WiresOn)
        } else {
            None
        };
        TapSound { slow, slow_rate, spectrum, peak_dbfs: decibels(f64::from(peak)), fault }
    }
}

impl TapSound {
    /// Width of a spectrum's bins, Hz.
    pub(super) fn bin_hz(&self) -> f64 {
        self.slow_rate / TRANSFORM as f64
    }
}

fn spectrum(slow: &[f64], rate: f64) -> Vec<f64> {
    let from = ((SPECTRUM_FROM_S * rate) as usize).min(slow.len());
    let part = &slow[from..slow.len().min(from + (SPECTRUM_S * rate) as usize)];
    let transform = RealFftPlanner::<f64>::new().plan_fft_forward(TRANSFORM);
    let mut input = transform.make_input_vec();
    let count = part.len().min(TRANSFORM);
    for (n, x) in part.iter().take(count).enumerate() {
        // Half a Hann window: the sound itself rises at once and fades.
        input[n] = x * (0.5 + 0.5 * (std::f64::consts::PI * n as f64 / count as f64).cos());
    }
    let mut output = transform.make_output_vec();
    // Lengths are the plan's own.
    let _ = transform.process(&mut input, &mut output);
    let power: Vec<f64> = output.iter().map(|x| x.norm_sqr()).collect();
    let whole = power.iter().sum::<f64>().max(1e-30);
    power.into_iter().map(|p| p / whole).collect()
}

/// Wires hiss on while the stick is long over: what lies above the head's own tones against the whole.
fn wires_lie_on(after: &[f32], rate: f64, noise_dbfs: f64) -> bool {
    let high = (0.42 * rate).min(9000.0);
    // Twice the same filter, so that the head's tones far below stay out.
    let mut filters = [BandPasses::new([(0.5 * high, high)], rate), BandPasses::new([(0.5 * high, high)], rate)];
    let (mut hiss, mut whole, mut count) = (0.0, 0.0, 0.0);
    let (from, to) = ((WIRES_FROM_S * rate) as usize, (WIRES_TO_S * rate) as usize);
    for (n, x) in after.iter().take(to).enumerate() {
        let y = filters.iter_mut().fold(f64::from(*x), |x, filter| filter.push(x)[0]);
        if n >= from {
            hiss += y * y;
            whole += f64::from(*x).powi(2);
            count += 1.0;
        }
    }
    if count == 0.0 {
        return false;
    }
    let (hiss, whole) = (decibels((hiss / count).sqrt()), decibels((whole / count).sqrt()));
    hiss > noise_dbfs + 10.0 && hiss - whole > WIRES_DB
}
