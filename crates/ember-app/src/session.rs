//! A session with one channel a microphone, in which the kit is played: which drum was hit when, and what is known of each.

use crate::microphones::NoMicrophones;
use crate::sound::{ReadProgress, SoundError, read_pieces, write_channels};
use ember_core::bench_drum::SAMPLE_RATE;
use ember_core::decay::{StrikeAnalyzer, StrikeMeasurement};
use ember_core::microphones::{ChannelHeard, Microphone, ToneSetting, above, nearest, tone_to_begin_with};
use ember_core::numeric::{LogNormal, Range};
use ember_core::session::{
    DrumHeard, Event, GHOST_NOTE_DB, Given, SessionAsked, SessionEars, SimulatedSession, Window, followed_s, give, heard, over_bleed,
    simulated_session, windows,
};
use ember_core::units::median;
use ember_words::{Text, Words, text, words};
use rayon::prelude::*;
use serde::Serialize;
use std::path::Path;
use std::sync::OnceLock;
use utoipa::ToSchema;

/// Sound is handed on in pieces of at least so many samples a channel, so that channels are listened to side by side.
const PIECE: usize = 16_384;
/// Longest session that is listened to, s.
const MOST_S: f64 = 2.0 * 3600.0;
/// Reading for the hits is this part of the work; cutting out what is measured is the rest.
const FIRST_PASS: f64 = 0.7;
/// A full stroke's peak is the middle of so many of the loudest.
const LOUDEST: usize = 6;

/// A figure with the bounds in which it lies nine times in ten.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
pub struct Known {
    /// The figure.
    pub value: f64,
    /// The bounds.
    pub range: Range,
}

impl From<LogNormal> for Known {
    fn from(known: LogNormal) -> Self {
        Self { value: known.median(), range: known.range() }
    }
}

/// What is known of one drum.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SessionDrum {
    /// Number of the channel that stands nearest to it, from 1.
    pub channel: usize,
    /// What that microphone is.
    pub microphone: Microphone,
    /// The same in words.
    pub name: Words,
    /// Full strokes.
    pub strokes: usize,
    /// Ghost notes.
    pub ghosts: usize,
    /// Hits that rang by themselves for long enough to tell something.
    pub measured: usize,
    /// Its body's pitch, Hz.
    pub body_hz: Option<f64>,
    /// How long its body lasts, s to fall by 60 dB.
    pub body_t60_s: Option<Known>,
    /// Its ring's pitch, Hz.
    pub ring_hz: Option<f64>,
    /// How long its ring lasts, s to fall by 60 dB.
    pub ring_t60_s: Option<Known>,
    /// All of it as a sentence.
    pub sentence: Words,
    /// What is not known, why, and what would help; null where all is.
    pub missing: Option<Words>,
    /// Where the knobs of its microphones' channels begin, the nearest one first.
    pub tone: Vec<ChannelTone>,
}

/// Where the knobs of one channel begin.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ChannelTone {
    /// Its number, from 1.
    pub channel: usize,
    /// What its microphone is called.
    pub name: Words,
    /// The knobs, in the order of a channel strip.
    pub settings: Vec<ToneLine>,
}

/// Where one knob begins, said as one types it into a mixer.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ToneLine {
    /// The knob and its figures.
    pub says: Words,
    /// The same as figures, and why.
    #[serde(flatten)]
    pub setting: ToneSetting,
}

/// What a session says.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SessionHeard {
    /// How long it is, s.
    pub duration_s: f64,
    /// The drums, in the order of their channels.
    pub drums: Vec<SessionDrum>,
    /// Moments that no drum explains: cymbals, voices, a stick that fell.
    pub others: usize,
}

/// What one pass over the sound found.
struct Listened {
    rate: f64,
    length: usize,
    events: Vec<Event>,
    given: Given,
    windows: Vec<Window>,
}

/// Listens to the file at `path` (named `name`), whose channels are what `roles` say, and measures each drum that has a microphone of its own. What is kept in
/// memory are the moments (some 80 bytes a channel each) and the windows that are measured, not the sound. `bpm` are the quarter notes a minute that are played tonight.
pub fn hear_session(
    path: &Path,
    name: &str,
    roles: &[Microphone],
    bpm: Option<f64>,
    progress: &ReadProgress,
) -> Result<SessionHeard, NoMicrophones> {
    let drums = nearest(roles);
    let listened = listen(path, name, roles, &drums, progress)?;
    let strikes = measure(path, name, &drums, &listened, progress)?;
    let of_drum = |drum: usize| -> Vec<StrikeMeasurement> {
        let mine = |(window, _): &(&Window, &Option<StrikeMeasurement>)| window.drum == drum;
        listened.windows.iter().zip(&strikes).filter(mine).filter_map(|(_, strike)| strike.clone()).collect()
    };
    let followed = |drum: usize| followed_s(listened.windows.iter().filter(|window| window.drum == drum));
    let told = |(drum, channel): (usize, &usize)| {
        let strikes = of_drum(drum);
        let heard = heard(&strikes, followed(drum));
        let tone = tones(&Stood { roles, drums: &drums, listened: &listened, bpm }, drum, &heard, full_stroke_dbfs(&strikes));
        SessionDrum { tone, ..view(drum, *channel, roles[*channel], &listened.given, heard) }
    };
    let views = drums.iter().enumerate().map(told).collect();
    Ok(SessionHeard { duration_s: listened.length as f64 / listened.rate, drums: views, others: listened.given.others })
}

/// Loudest sample of a full stroke, dBFS.
fn full_stroke_dbfs(strikes: &[StrikeMeasurement]) -> Option<f64> {
    let mut peaks: Vec<f64> = strikes.iter().map(|strike| strike.peak_dbfs).collect();
    peaks.sort_by(|a, b| b.total_cmp(a));
    peaks.truncate(LOUDEST);
    median(&peaks)
}

/// Where microphones stood, and what was heard of all of them.
struct Stood<'a> {
    roles: &'a [Microphone],
    /// Channels of the microphones that stand nearest to one drum each.
    drums: &'a [usize],
    listened: &'a Listened,
    bpm: Option<f64>,
}

/// Where the knobs of all channels at `drum` begin.
fn tones(stood: &Stood, drum: usize, heard: &DrumHeard, peak_dbfs: Option<f64>) -> Vec<ChannelTone> {
    let own = stood.drums[drum];
    let others = stood.roles[own].other_side();
    // Where several drums have such a microphone it is not known whose this is.
    let is_only = stood.drums.iter().filter(|channel| stood.roles[**channel] == stood.roles[own]).count() == 1;
    let partners = (0..stood.roles.len()).filter(|channel| *channel != own && is_only && Some(stood.roles[*channel]) == others);
    let channels: Vec<usize> = std::iter::once(own).chain(partners).collect();
    let known = |hz: Option<f64>, t60_s: Option<LogNormal>| Some((hz?, t60_s?.median()));
    let of = |channel: usize| {
        let channel_heard = ChannelHeard {
            microphone: stood.roles[channel],
            has_partner: channels.len() > 1,
            body: known(heard.body_hz, heard.body_t60_s),
            ring: known(heard.ring_hz, heard.ring_t60_s),
            peak_dbfs: peak_dbfs.filter(|_| channel == own),
            over_bleed: over_bleed(&stood.listened.events, &stood.listened.given, drum, channel),
            bpm: stood.bpm,
        };
        let settings = tone_to_begin_with(&channel_heard).into_iter().map(|setting| ToneLine { says: setting.says(), setting });
        ChannelTone { channel: channel + 1, name: stood.roles[channel].name().words(), settings: settings.collect() }
    };
    channels.iter().map(|channel| of(*channel)).collect()
}

/// Finds every hit and gives it to a drum.
fn listen(path: &Path, name: &str, roles: &[Microphone], drums: &[usize], progress: &ReadProgress) -> Result<Listened, NoMicrophones> {
    let mut ears: Option<(SessionEars, f64)> = None;
    let mut waiting: Vec<Vec<f32>> = vec![Vec::new(); roles.len()];
    let mut length = 0;
    let push = |ears: &mut SessionEars, waiting: &mut Vec<Vec<f32>>| {
        let pieces: Vec<&[f32]> = waiting.iter().map(Vec::as_slice).collect();
        ears.push(&pieces);
        waiting.iter_mut().for_each(Vec::clear);
    };
    let mut wrong = None;
    read_pieces(
        path,
        name,
        |share| progress.at(FIRST_PASS * share),
        |rate, pieces| {
            if pieces.len() != roles.len() {
                wrong = Some(pieces.len());
                return false;
            }
            let rate = f64::from(rate);
            let (ears, _) = ears.get_or_insert_with(|| (SessionEars::new(rate, roles.iter().map(|role| role.is_close()).collect()), rate));
            for (waiting, piece) in waiting.iter_mut().zip(pieces) {
                waiting.extend_from_slice(piece);
            }
            length += pieces[0].len();
            if waiting[0].len() >= PIECE {
                push(ears, &mut waiting);
                progress.found(ears.found());
            }
            length as f64 / rate < MOST_S
        },
    )?;
    if let Some(channels) = wrong {
        return Err(NoMicrophones::Names { channels, names: roles.len() });
    }
    let Some((mut ears, rate)) = ears else { return Err(NoMicrophones::OneChannel) };
    push(&mut ears, &mut waiting);
    let events = ears.finish();
    let given = give(&events, drums, above(roles));
    let windows = windows(&events, &given, drums, length as f64 / rate);
    Ok(Listened { rate, length, events, given, windows })
}

/// Reads the sound again and measures what lies in the windows, one measurement each; none where the file ended too soon.
fn measure(
    path: &Path,
    name: &str,
    drums: &[usize],
    listened: &Listened,
    progress: &ReadProgress,
) -> Result<Vec<Option<StrikeMeasurement>>, NoMicrophones> {
    let rate = listened.rate;
    let at = |s: f64| (s * rate) as usize;
    let mut cut: Vec<Vec<f32>> = vec![Vec::new(); listened.windows.len()];
    let mut from = 0;
    read_pieces(
        path,
        name,
        |share| progress.at(FIRST_PASS + (1.0 - FIRST_PASS) * share),
        |_, pieces| {
            let to = from + pieces[0].len();
            for (window, cut) in listened.windows.iter().zip(&mut cut) {
                let (begin, end) = (at(window.from_s).max(from), at(window.to_s).min(to));
                if begin < end {
                    cut.extend_from_slice(&pieces[drums[window.drum]][begin - from..end - from]);
                }
            }
            from = to;
            from < listened.length
        },
    )?;
    let analyzer = StrikeAnalyzer::new(rate);
    let measured = listened.windows.par_iter().zip(cut).map(|(window, samples)| window.measured(&samples, rate, &analyzer));
    Ok(measured.collect())
}

/// The simulated session is always the same: two hits on each drum by itself, then eight bars.
const SIMULATED: SessionAsked = SessionAsked { seed: 7, bpm: 112.0, alone: 2, bars: 8 };

/// Writes the session that stands in for an interface with many inputs as a WAV file to `path`; what its channels are, as codes.
pub fn write_simulated(path: &Path) -> Result<Vec<String>, SoundError> {
    static SESSION: OnceLock<SimulatedSession> = OnceLock::new();
    let session = SESSION.get_or_init(|| simulated_session(SIMULATED));
    let channels: Vec<&[f32]> = session.channels.iter().map(|(_, samples)| samples.as_slice()).collect();
    write_channels(path, &channels, SAMPLE_RATE)?;
    Ok(session.channels.iter().map(|(microphone, _)| microphone.name().english().into()).collect())
}

fn view(drum: usize, channel: usize, microphone: Microphone, given: &Given, heard: DrumHeard) -> SessionDrum {
    let hits = || given.hits.iter().filter(|hit| hit.drum == drum);
    let ghosts = hits().filter(|hit| hit.level_db < GHOST_NOTE_DB).count();
    let strokes = hits().count() - ghosts;
    let missing = missing(given.told[drum], strokes, &heard);
    let (body_t60_s, ring_t60_s) = (heard.body_t60_s.map(Known::from), heard.ring_t60_s.map(Known::from));
    let name = microphone.name().words();
    let (body, ring) = (said(text!("body"), heard.body_hz, body_t60_s), said(text!("ring"), heard.ring_hz, ring_t60_s));
    let (number, hits) = (channel + 1, counted(strokes, ghosts));
    SessionDrum {
        channel: channel + 1,
        microphone,
        sentence: words!("{number} {name}: {hits}; {body}; {ring}."),
        name,
        strokes,
        ghosts,
        measured: heard.measured,
        body_hz: heard.body_hz,
        body_t60_s,
        ring_hz: heard.ring_hz,
        ring_t60_s,
        missing,
        tone: Vec::new(),
    }
}

fn counted(strokes: usize, ghosts: usize) -> Words {
    match (strokes, ghosts) {
        (1, 0) => words!("1 hit"),
        (_, 0) => words!("{strokes} hits"),
        (_, 1) => words!("{strokes} hits and 1 ghost note"),
        _ => words!("{strokes} hits and {ghosts} ghost notes"),
    }
}

fn said(what: Text, hz: Option<f64>, t60_s: Option<Known>) -> Words {
    match (hz, t60_s) {
        (Some(hz), Some(Known { value, range: Range { low, high } })) => {
            words!("{what} {hz:.0} Hz, {value:.2} s to fall by 60 dB ({low:.2} to {high:.2})")
        }
        (Some(hz), None) => words!("{what} about {hz:.0} Hz, length not known"),
        (None, _) => words!("{what} not known"),
    }
}

/// What is not known of a drum, and what would help.
fn missing(told: bool, strokes: usize, heard: &DrumHeard) -> Option<Words> {
    match () {
        () if !told => Some(words!("It is never heard clearly by itself: hit it three times alone, at the beginning or the end.")),
        () if heard.measured == 0 => {
            Some(words!("{strokes} hits, and another one follows each of them too soon: let it ring out three times."))
        }
        () if heard.body_t60_s.is_none() => Some(words!("Its hits leave open how long it lasts: let it ring out three times.")),
        () if heard.ring_hz.is_some() && heard.ring_t60_s.is_none() => {
            Some(words!("How long its ring lasts is not known: let it ring out three times."))
        }
        () => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::microphones::named;
    use ember_core::microphones::Knob;
    use ember_core::session::PlayedHit;

    #[test]
    fn a_session_in_a_file_says_what_each_drum_is() {
        let file = tempfile::NamedTempFile::new().unwrap();
        let names = write_simulated(file.path()).unwrap();
        let roles = named(&names).unwrap();
        let progress = ReadProgress::default();
        let heard = hear_session(file.path(), "session.wav", &roles, Some(120.0), &progress).unwrap();
        assert_eq!(heard.drums.len(), 6);
        let (kick, snare) = (&heard.drums[0], &heard.drums[1]);
        assert!(heard.drums.iter().all(|drum| drum.strokes >= 2 && drum.body_t60_s.is_some()), "{:?}", heard.drums);
        assert!(kick.strokes >= 16 && (kick.body_hz.unwrap() / 60.2 - 1.0).abs() < 0.02, "{}", kick.sentence);
        assert!(snare.ghosts > 5 && snare.body_t60_s.unwrap().range.high < 0.6, "{}", snare.sentence);
        assert!(progress.strikes() > 40 && progress.share() > 0.99);
        // Both microphones of the kick begin somewhere, and every close channel of the ten.
        let channels: Vec<usize> = heard.drums.iter().flat_map(|drum| drum.tone.iter().map(|tone| tone.channel)).collect();
        assert_eq!(channels, [1, 2, 3, 4, 5, 6, 7, 8]);
        let gated = |drum: &SessionDrum| drum.tone[0].settings.iter().any(|s| matches!(s.setting.knob, Knob::GateThreshold | Knob::NoGate));
        assert!(heard.drums.iter().all(gated), "{:?}", heard.drums);
        gates_open_for_hits(&heard);
        // Names for another number of channels, and a listener who has gone.
        assert!(matches!(
            hear_session(file.path(), "", &roles[1..], None, &progress),
            Err(NoMicrophones::Names { channels: 10, names: 9 })
        ));
        progress.call_off();
        assert!(hear_session(file.path(), "", &roles, None, &progress).is_err());
    }

    /// Gates that are advised open for nearly every stroke that was truly played, and stay shut for nearly all else.
    fn gates_open_for_hits(heard: &SessionHeard) {
        let played = simulated_session(SIMULATED);
        let mut gates = 0;
        for (index, drum) in heard.drums.iter().enumerate() {
            let threshold = drum.tone[0].settings.iter().find(|line| line.setting.knob == Knob::GateThreshold);
            let Some(threshold_dbfs) = threshold.and_then(|line| line.setting.db) else { continue };
            let channel = &played.channels[drum.channel - 1].1;
            let opens = |at_s: f64| {
                let at = |s: f64| ((s * f64::from(SAMPLE_RATE)) as usize).min(channel.len());
                let peak = channel[at(at_s)..at(at_s + 0.06)].iter().fold(0f32, |most, x| most.max(x.abs()));
                20.0 * f64::from(peak).log10() > threshold_dbfs
            };
            let (own, others): (Vec<&PlayedHit>, Vec<&PlayedHit>) = played.hits.iter().partition(|hit| hit.drum == index);
            let strokes: Vec<bool> = own.iter().filter(|hit| hit.strength > 0.3).map(|hit| opens(hit.at_s)).collect();
            // Where the drum still sounds of its own hit the gate is open anyway.
            let alone = |at_s: f64| own.iter().all(|hit| !(-0.06..1.0).contains(&(at_s - hit.at_s)));
            let rest: Vec<bool> = others.iter().filter(|hit| alone(hit.at_s)).map(|hit| opens(hit.at_s)).collect();
            let open = |all: &[bool]| all.iter().filter(|opens| **opens).count();
            println!(
                "{}: {} of {} strokes, {} of {} others at {threshold_dbfs:.0} dBFS",
                drum.name,
                open(&strokes),
                strokes.len(),
                open(&rest),
                rest.len()
            );
            assert!(10 * open(&strokes) >= 9 * strokes.len() && 10 * open(&rest) <= rest.len(), "{}", drum.name);
            gates += 1;
        }
        assert!(gates >= 4, "{gates} gates");
    }
}
