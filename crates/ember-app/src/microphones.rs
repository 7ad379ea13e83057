//! A file with one channel a microphone: whether those that hear the same drum add up.

use crate::sound::{AllChannels, ReadError, read_channels};
use ember_core::microphones::{Microphone, MicrophonePair, check_pair, hits, overheads, pairs};
use ember_core::physics::SPEED_OF_SOUND;
use ember_core::units::decibels;
use ember_words::{Said, Words, words};
use rayon::prelude::*;
use serde::Serialize;
use std::path::Path;
use utoipa::ToSchema;

/// Most samples that are looked at, in all channels together: 200 MB, a minute and a half of ten channels at 48 kHz.
const MOST_SAMPLES: usize = 50_000_000;
/// Most channels of one file.
pub const MOST_CHANNELS: usize = 64;
/// Hits of a drum that are looked at, the loudest.
const MOST_HITS: usize = 12;
/// A channel that stays under this is silent, dBFS.
const SILENT_DBFS: f64 = -60.0;
/// A channel whose loudest samples lie at this part of the loudest one, and so many of them, is clipped.
const CLIPPED_AT: f32 = 0.999;
const CLIPPED_RUN: usize = 3;
/// The snare is in the middle where both overheads hear it within this of each other, s (3 cm) and dB.
const MIDDLE_S: f64 = 0.0001;
const MIDDLE_DB: f64 = 1.0;

/// Why a file's microphones cannot be held against each other.
#[derive(Debug, thiserror::Error, Said)]
pub enum NoMicrophones {
    /// The file cannot be read.
    #[said(transparent)]
    Read(#[from] ReadError),
    /// It has one channel.
    #[said("The file has only one channel: that is a mix, or one microphone. Export one channel for each microphone.")]
    OneChannel,
    /// It has two channels, and neither is said to be a microphone's.
    #[said(
        "The file has two channels, and neither is named: a stereo mix cannot be taken apart. Name them, or export one channel for each microphone."
    )]
    Mix,
    /// It has too many.
    #[said("The file has {channels} channels; {MOST_CHANNELS} are the most.")]
    TooMany {
        /// How many it has.
        channels: usize,
    },
    /// Names are given for another number of channels.
    #[said("The file has {channels} channels, and {names} are named. Name each, in the order of the file.")]
    Names {
        /// How many it has.
        channels: usize,
        /// How many names there are.
        names: usize,
    },
    /// Nobody knows what a name means.
    #[said(
        "“{0}” is no microphone that is known here. Known are, for example: kick in, kick out, snare top, snare bottom, tom, floor tom, overhead left, overhead right, room, other."
    )]
    Unknown(String),
    /// A place that can be taken once is named twice.
    #[said("“{}” is named twice.", .0.name())]
    Twice(Microphone),
}

/// One channel.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ChannelView {
    /// Its number, from 1.
    pub channel: usize,
    /// What it is.
    pub microphone: Microphone,
    /// The same in words.
    pub name: Words,
    /// Whether it stands at one drum, which can be measured through it.
    pub at_a_drum: bool,
    /// Its loudest sample, dBFS; null where it is silent throughout.
    pub peak_dbfs: Option<f64>,
    /// What is wrong with it, a sentence each.
    pub notes: Vec<Words>,
}

/// Two channels, held against each other.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct PairView {
    /// Numbers of the two, from 1.
    pub channels: [usize; 2],
    /// What they are called.
    pub names: [Words; 2],
    /// What came of it.
    #[serde(flatten)]
    pub pair: MicrophonePair,
}

/// Where the overheads hear the snare.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SnareInOverheads {
    /// How much later the right one hears it, s.
    pub right_later_s: f64,
    /// How much louder the right one hears it, dB.
    pub right_louder_db: f64,
    /// What to do, as a sentence.
    pub sentence: Words,
}

/// All microphones of a file.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MicrophonesChecked {
    /// Samples a second.
    pub sample_rate_hz: u32,
    /// How long what was looked at is, s.
    pub duration_s: f64,
    /// What the reader should know, a sentence each.
    pub notes: Vec<Words>,
    /// The channels, in the file's order.
    pub channels: Vec<ChannelView>,
    /// Every two that hear the same drum, those at one drum first.
    pub pairs: Vec<PairView>,
    /// Where the overheads hear the snare; null without both of them and the snare's own.
    pub snare_in_overheads: Option<SnareInOverheads>,
}

/// What `names` mean, in the order of the channels.
pub fn named(names: &[String]) -> Result<Vec<Microphone>, NoMicrophones> {
    let other = |name: &str| matches!(name.trim().to_lowercase().as_str(), "" | "-" | "other");
    let read = |name: &String| {
        if other(name) {
            Ok(Microphone::Other)
        } else {
            Microphone::read(name).ok_or_else(|| NoMicrophones::Unknown(name.trim().to_string()))
        }
    };
    let read: Vec<Microphone> = names.iter().map(read).collect::<Result<_, _>>()?;
    let may_be_many = |role: &Microphone| {
        matches!(role, Microphone::Tom | Microphone::FloorTom | Microphone::Room | Microphone::Other | Microphone::Ride)
    };
    let twice = read.iter().enumerate().find(|(index, role)| !may_be_many(role) && read[..*index].contains(role));
    twice.map_or(Ok(read.clone()), |(_, role)| Err(NoMicrophones::Twice(*role)))
}

/// A place that a microphone may have.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MicrophoneChoice {
    /// Which one.
    pub microphone: Microphone,
    /// What it is called in a list of channels.
    pub code: String,
    /// What it is called.
    pub name: Words,
}

/// Every place that a microphone may have.
pub fn microphone_choices() -> Vec<MicrophoneChoice> {
    let choice = |microphone: Microphone| MicrophoneChoice {
        microphone,
        code: if microphone == Microphone::Other { "-".into() } else { microphone.name().english().into() },
        name: microphone.name().words(),
    };
    Microphone::ALL.into_iter().map(choice).collect()
}

/// Holds the microphones of the file at `path` against each other; `names` say what each channel is: without them the channels are only listed. `name`
/// helps to tell the file's format.
pub fn check_microphones(path: &Path, name: &str, names: Option<&[String]>) -> Result<MicrophonesChecked, NoMicrophones> {
    let roles = names.map(named).transpose()?;
    let all = read_channels(path, name, MOST_SAMPLES)?;
    let channels = all.channels.len();
    let unnamed = |roles: &Vec<Microphone>| roles.iter().all(|role| *role == Microphone::Other);
    let stereo_mix = channels == 2 && roles.as_ref().is_some_and(unnamed);
    let roles = roles.unwrap_or_else(|| vec![Microphone::Other; channels]);
    match channels {
        0 | 1 => return Err(NoMicrophones::OneChannel),
        _ if stereo_mix => return Err(NoMicrophones::Mix),
        more if more > MOST_CHANNELS => return Err(NoMicrophones::TooMany { channels }),
        more if more != roles.len() => return Err(NoMicrophones::Names { channels, names: roles.len() }),
        _ => {}
    }
    Ok(checked(&all, &roles))
}

fn checked(all: &AllChannels, roles: &[Microphone]) -> MicrophonesChecked {
    let rate = f64::from(all.sample_rate);
    let duration_s = all.channels[0].len() as f64 / rate;
    let channels: Vec<ChannelView> =
        all.channels.par_iter().zip(roles).enumerate().map(|(index, (samples, role))| channel(index, samples, *role)).collect();
    let hits_of: Vec<Vec<usize>> = all
        .channels
        .par_iter()
        .zip(roles)
        .map(|(samples, role)| if role.is_close() { hits(samples, rate, MOST_HITS) } else { Vec::new() })
        .collect();
    let pair = |first: usize, second: usize| {
        let of = |index: usize| (all.channels[index].as_slice(), roles[index].name());
        check_pair(of(first), of(second), &hits_of[first], rate)
    };
    let checked = pairs(roles).into_par_iter().map(|found| PairView {
        channels: [found.first + 1, found.second + 1],
        names: [channels[found.first].name.clone(), channels[found.second].name.clone()],
        pair: pair(found.first, found.second),
    });
    let snare_in_overheads = overheads(roles).and_then(|found| {
        let between = check_pair(
            (&all.channels[found.left], roles[found.left].name()),
            (&all.channels[found.right], roles[found.right].name()),
            &hits_of[found.snare],
            rate,
        );
        let loud = |index: usize| loudness_db(&all.channels[index], &hits_of[found.snare], rate);
        Some(in_the_middle(between.later_s?, loud(found.right) - loud(found.left)))
    });
    let notes = all.cut_short.then(|| words!("Only the first {duration_s:.0} s were looked at: a minute of hits is enough."));
    MicrophonesChecked {
        sample_rate_hz: all.sample_rate,
        duration_s,
        notes: notes.into_iter().collect(),
        pairs: checked.collect(),
        channels,
        snare_in_overheads,
    }
}

fn channel(index: usize, samples: &[f32], microphone: Microphone) -> ChannelView {
    let peak = samples.iter().fold(0.0f32, |most, x| most.max(x.abs()));
    let peak_dbfs = (peak > 0.0).then(|| decibels(f64::from(peak)));
    let mut notes = Vec::new();
    if microphone != Microphone::Other {
        if peak_dbfs.is_none_or(|peak| peak < SILENT_DBFS) {
            notes.push(words!("Nothing is heard in it: is it plugged in, and phantom power on where it needs that?"));
        }
        let clipped =
            samples.windows(CLIPPED_RUN).any(|run| run.iter().all(|x| x.abs() >= CLIPPED_AT.max(peak * CLIPPED_AT)) && peak > 0.9);
        if clipped {
            notes.push(words!("It clips: turn its gain down, and record the hits again."));
        }
    }
    ChannelView { channel: index + 1, microphone, name: microphone.name().words(), at_a_drum: microphone.is_close(), peak_dbfs, notes }
}

/// Mean level of the first tenth of a second of the hits, dB.
fn loudness_db(samples: &[f32], hits: &[usize], rate: f64) -> f64 {
    let length = (0.1 * rate) as usize;
    let energy: f64 = hits.iter().flat_map(|hit| samples.iter().skip(*hit).take(length)).map(|sample| f64::from(*sample).powi(2)).sum();
    10.0 * (energy / (hits.len() * length).max(1) as f64).max(1e-20).log10()
}

fn in_the_middle(right_later_s: f64, right_louder_db: f64) -> SnareInOverheads {
    let (cm, louder) = (100.0 * SPEED_OF_SOUND * right_later_s.abs(), right_louder_db.abs());
    let sentence = match () {
        () if right_later_s.abs() <= MIDDLE_S && louder <= MIDDLE_DB => words!("The snare is in the middle of the overheads."),
        () if right_later_s.abs() <= MIDDLE_S && right_louder_db > 0.0 => {
            words!(
                "The snare comes at once in both overheads, but {louder:.1} dB louder on the right: turn the right one down by that much."
            )
        }
        () if right_later_s.abs() <= MIDDLE_S => {
            words!("The snare comes at once in both overheads, but {louder:.1} dB louder on the left: turn the left one down by that much.")
        }
        () if right_later_s > 0.0 => {
            words!("The right overhead is {cm:.0} cm further from the snare than the left one. Move one of them until both are as far.")
        }
        () => words!("The left overhead is {cm:.0} cm further from the snare than the right one. Move one of them until both are as far."),
    };
    SnareInOverheads { right_later_s, right_louder_db, sentence }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ember_core::bench_drum::SAMPLE_RATE;
    use ember_core::microphones::{Fix, Polarity, simulated_soundcheck};

    const NAMES: [&str; 6] = ["snare top", "snare bottom", "kick in", "kick out", "overhead left", "overhead right"];

    fn session() -> AllChannels {
        let channels = simulated_soundcheck(7).into_iter().map(|(_, samples)| samples).collect();
        AllChannels { sample_rate: SAMPLE_RATE, channels, cut_short: false }
    }

    fn roles() -> Vec<Microphone> {
        named(&NAMES.map(String::from)).unwrap()
    }

    #[test]
    fn a_soundcheck_says_what_to_flip_and_what_to_move() {
        let found = checked(&session(), &roles());
        let pair = |first: usize, second: usize| &found.pairs.iter().find(|pair| pair.channels == [first, second]).unwrap().pair;
        let (snare, kick) = (pair(1, 2), pair(3, 4));
        assert_eq!((snare.polarity, snare.fix), (Some(Polarity::Opposite), Fix::Flip), "{snare:?}");
        assert!((snare.later_s.unwrap() - 0.02 / SPEED_OF_SOUND).abs() < 1e-4 && snare.gain_db > 3.0);
        assert!(kick.polarity == Some(Polarity::Same) && kick.fix != Fix::Flip, "{kick:?}");
        assert!((kick.farther_m.unwrap() - 0.45).abs() < 0.03, "{kick:?}");
        // A close microphone and one above: a metre of air.
        assert!((pair(1, 5).farther_m.unwrap() - 1.05).abs() < 0.03 && pair(1, 5).polarity == Some(Polarity::Same));
        let above = found.snare_in_overheads.as_ref().unwrap();
        assert!((above.right_later_s - 0.3 / SPEED_OF_SOUND).abs() < 1e-4);
        assert!(above.sentence.starts_with("The right overhead is 30 cm further"), "{}", above.sentence);
    }

    #[test]
    fn what_is_silent_clipped_or_named_wrongly_is_said() {
        let mut all = session();
        all.channels[1].fill(0.0);
        all.channels[2].iter_mut().for_each(|sample| *sample = (*sample * 9.0).clamp(-1.0, 1.0));
        let found = checked(&all, &roles());
        assert!(found.channels[1].notes[0].contains("plugged in") && found.channels[1].peak_dbfs.is_none());
        assert!(found.channels[2].notes[0].contains("clips") && found.channels[0].notes.is_empty());
        assert!(found.pairs.iter().find(|pair| pair.channels == [1, 2]).unwrap().pair.polarity.is_none());
        let said = |names: &[&str]| named(&names.iter().map(|name| (*name).to_string()).collect::<Vec<_>>()).unwrap_err().to_string();
        assert!(said(&["snare top", "Snare"]).contains("named twice") && said(&["vox"]).contains("no microphone"));
        assert_eq!(named(&["tom".into(), "Tom 2".into(), "-".into()]).unwrap(), [Microphone::Tom, Microphone::Tom, Microphone::Other]);
    }
}
