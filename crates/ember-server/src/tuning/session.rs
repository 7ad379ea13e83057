//! One round of taps: each tap is taken for the lug that was asked for, kept with its sound, and answered at once.

use crate::listening::{ListenEvent, ListenProblem, NotKept, TapVerdict, Work, mend};
use crate::state::{AppState, now_ms};
use ember_app::sound::{kept_sound, read_kept};
use ember_core::signal::{CapturedStrike, Ending, Limits, StrikeFinder};
use ember_core::tuning::{Expected, FaintTaps, RoundPitches, RoundTap, TapFault, TapReader, TapSound, crosswise, hear_round};
use ember_store::{KeptRound, KeptTap};
use ember_words::{Text, text, words};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};
use tokio::sync::mpsc::{Receiver, UnboundedSender};

/// Level that nothing has, dBFS.
const SILENT_DBFS: f64 = -120.0;
const LEVEL_EVERY: Duration = Duration::from_millis(50);
/// Taps in a row without a pitch after which the head, not the hand, is to blame, and what is said then.
const PATIENCE: usize = 3;
const TOO_UNEVEN: Text =
    text!("Still no clear pitch. The head may be so uneven here that this lug has none: skip it, or stop and seat the head anew.");
/// A tap is answered this long after it at the latest, s: by then it has told its pitch.
const TAP_S: f64 = 0.8;

/// The lug that is asked for, and how many taps were answered: what a simulated hand goes by.
#[derive(Debug)]
pub struct Asking {
    lug: Mutex<Option<usize>>,
    answered: AtomicUsize,
}

impl Asking {
    /// Asks for `lug` from the start, so that a hand that is quicker than the session does not think that nothing is asked.
    pub fn first(lug: Option<usize>) -> Self {
        Self { lug: Mutex::new(lug), answered: AtomicUsize::new(0) }
    }

    /// The lug that is asked for; none when it is over.
    pub fn lug(&self) -> Option<usize> {
        *self.lug.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// How many taps were answered.
    pub fn answered(&self) -> usize {
        self.answered.load(Ordering::SeqCst)
    }

    fn ask(&self, lug: Option<usize>) {
        *self.lug.lock().unwrap_or_else(PoisonError::into_inner) = lug;
    }
}

/// Who taps what.
pub struct TapSession {
    /// What all requests share.
    pub state: AppState,
    /// The round that is begun or gone on with.
    pub round: KeptRound,
    /// Where lug pitches are looked for.
    pub expected: Expected,
    /// Lugs to ask for, in this order.
    pub asked: Vec<usize>,
    /// Samples a second.
    pub rate: u32,
    /// The lug that is asked for.
    pub asking: Arc<Asking>,
    /// Where it is told.
    pub events: UnboundedSender<ListenEvent>,
}

/// A tap that counts.
struct Heard {
    lug: usize,
    sound: TapSound,
}

/// How far a round has come.
struct Tapping {
    reader: TapReader,
    finder: StrikeFinder,
    faint: FaintTaps,
    heard: Vec<Heard>,
    /// Place among the lugs that are asked for.
    step: usize,
    /// Index of the next sample, and of the one at which was stepped by hand.
    next: u64,
    stepped_at: u64,
    /// Loudest since it was last told, dBFS, and when that was.
    loudest: f64,
    last_level: Instant,
    /// Taps in a row that had no pitch.
    without_pitch: usize,
}

impl Tapping {
    fn new(rate: u32, heard: Vec<Heard>) -> Self {
        let rate = f64::from(rate);
        Self {
            reader: TapReader::new(rate),
            finder: StrikeFinder::new(rate, Limits { longest_s: TAP_S, quiet_s: 0.1 }),
            faint: FaintTaps::default(),
            heard,
            step: 0,
            next: 0,
            stepped_at: 0,
            loudest: SILENT_DBFS,
            last_level: Instant::now(),
            without_pitch: 0,
        }
    }
}

impl TapSession {
    /// Lugs of `round` still to be heard, crosswise.
    pub fn left(round: &KeptRound) -> Vec<usize> {
        let heard = |lug: &usize| round.pitches.lugs.iter().any(|pitch| pitch.lug == *lug);
        crosswise(round.lugs).into_iter().filter(|lug| !heard(lug)).collect()
    }

    /// Works until every lug asked for was heard, the window stops, or its sender is gone.
    pub fn run(mut self, mut work: Receiver<Work>) {
        let mut tapping = match self.heard_before() {
            Ok(heard) => Tapping::new(self.rate, heard),
            Err(error) => return self.tell(ListenEvent::problem(ListenProblem::NotKept, &error)),
        };
        self.ask(tapping.step, None);
        while tapping.step < self.asked.len() {
            match work.blocking_recv() {
                Some(Work::Samples { start, mut samples }) => {
                    if let Err(error) = mend(&mut samples, start, tapping.next, self.rate) {
                        self.tell(ListenEvent::problem(ListenProblem::BadSamples, &error));
                        break;
                    }
                    tapping.next += samples.len() as u64;
                    if let Err(error) = self.hear(&mut tapping, &samples) {
                        return self.tell(ListenEvent::problem(ListenProblem::NotKept, &error));
                    }
                    self.tell_level(&mut tapping);
                }
                Some(Work::Next) => self.go_to(&mut tapping, |step| step + 1),
                Some(Work::Back) => self.go_to(&mut tapping, |step| step.saturating_sub(1)),
                Some(Work::Finish) | None => break,
            }
        }
        self.asking.ask(None);
        let good = self.round.pitches.lugs.len();
        self.tell(ListenEvent::Done { take: None, good, rejected: 0, complete: self.round.complete() });
    }

    /// Steps by hand; what began before that was meant for the lug before it.
    fn go_to(&self, tapping: &mut Tapping, to: impl FnOnce(usize) -> usize) {
        (tapping.step, tapping.stepped_at) = (to(tapping.step), tapping.next);
        self.ask(tapping.step, None);
    }

    /// Finds taps in `samples` and answers them, each for the lug that is asked for by then.
    fn hear(&mut self, tapping: &mut Tapping, samples: &[f32]) -> Result<(), NotKept> {
        let rate = f64::from(self.rate);
        for piece in samples.chunks((self.rate / 200).max(1) as usize) {
            for captured in tapping.finder.push(piece) {
                let Some(lug) = self.asked.get(tapping.step).copied() else { break };
                if captured.onset_s * rate < tapping.stepped_at as f64 {
                    continue;
                }
                let mut verdict = self.answer(&tapping.reader, captured, lug, &mut tapping.heard)?;
                tapping.without_pitch = if verdict.fault == Some(TapFault::NoPitch) { tapping.without_pitch + 1 } else { 0 };
                if tapping.without_pitch >= PATIENCE {
                    verdict.sentence = TOO_UNEVEN.into();
                }
                tapping.step += usize::from(verdict.fault.is_none());
                self.asking.answered.fetch_add(1, Ordering::SeqCst);
                self.ask(tapping.step, Some(verdict));
            }
            let level_db = tapping.finder.level_db();
            tapping.loudest = tapping.loudest.max(level_db);
            let too_soft = tapping.faint.push(level_db, tapping.finder.is_ringing(), piece.len() as f64 / rate);
            if let Some(lug) = self.asked.get(tapping.step).copied().filter(|_| too_soft) {
                let fault = TapFault::TooSoft;
                // Nothing in it could be kept.
                self.ask(tapping.step, Some(TapVerdict { lug, fault: Some(fault), sentence: fault.sentence(lug, None) }));
            }
        }
        Ok(())
    }

    fn tell_level(&self, tapping: &mut Tapping) {
        if tapping.last_level.elapsed() >= LEVEL_EVERY {
            self.tell(ListenEvent::Level { level_dbfs: tapping.loudest, ringing: tapping.finder.is_ringing() });
            (tapping.loudest, tapping.last_level) = (SILENT_DBFS, Instant::now());
        }
    }

    /// Reads the taps again that were kept before listening stopped. Sound of another sample rate cannot be heard together with
    /// what comes now: its lugs are asked for again.
    fn heard_before(&mut self) -> Result<Vec<Heard>, NotKept> {
        let kept = self.state.with_store(|store| store.taps(self.round.id))?;
        let mut heard = Vec::new();
        for tap in kept {
            let (rate, samples) = read_kept(tap.sound)?;
            if rate == self.rate {
                let sample_rate = f64::from(rate);
                let onset_s = tap.onset_index as f64 / sample_rate;
                let captured = CapturedStrike { sample_rate, onset_s, samples, onset_index: tap.onset_index, ending: Ending::Decayed };
                heard.push(Heard { lug: tap.lug, sound: TapReader::new(sample_rate).read(&captured) });
            } else if !self.asked.contains(&tap.lug) {
                self.asked.push(tap.lug);
            }
        }
        Ok(heard)
    }

    /// Hears a tap with those before it, and keeps it; in that order, so that what the window is told is never lost.
    fn answer(&mut self, reader: &TapReader, captured: CapturedStrike, lug: usize, heard: &mut Vec<Heard>) -> Result<TapVerdict, NotKept> {
        let before = heard.iter().position(|tap| tap.lug == lug).map(|at| heard.remove(at));
        heard.push(Heard { lug, sound: reader.read(&captured) });
        let hear = |heard: &[Heard]| {
            let taps: Vec<RoundTap> = heard.iter().map(|tap| RoundTap { lug: tap.lug, sound: &tap.sound }).collect();
            hear_round(&taps, self.round.lugs, self.expected)
        };
        let mut pitches = hear(heard);
        let fault = pitches.fault;
        let sentence = match (fault, pitches.lugs.iter().find(|pitch| pitch.lug == lug)) {
            (Some(fault), _) => fault.sentence(lug, pitches.sounds_like_lug),
            (None, Some(pitch)) => words!("Lug {}: {:.1} Hz, {} {:+.0} cents.", lug + 1, pitch.hz, pitch.note.name, pitch.note.cents),
            (None, None) => words!("Heard, but this head is so uneven that no lug has a pitch of its own. Go on; the round shows where."),
        };
        // What does not count must not speak in the taps to come, nor take the place of one that does.
        if fault.is_some() {
            heard.pop();
            heard.extend(before);
            let others = hear(heard);
            pitches = RoundPitches { fault, sounds_like_lug: pitches.sounds_like_lug, ..others };
        }
        let sound = kept_sound(&captured.samples, self.rate)?;
        let tap = KeptTap { lug, sound, onset_index: captured.onset_index };
        let id = self.round.id;
        self.round = self.state.with_store(|store| store.add_tap(id, &tap, fault, now_ms(), &pitches))?;
        Ok(TapVerdict { lug, fault, sentence })
    }

    fn ask(&self, step: usize, tapped: Option<TapVerdict>) {
        let asked_lug = self.asked.get(step).copied();
        self.asking.ask(asked_lug);
        self.tell(ListenEvent::Tap { round: Box::new(self.round.clone()), asked_lug, tapped });
    }

    fn tell(&self, event: ListenEvent) {
        // A window that is gone cannot be told; what was heard is kept all the same.
        let _ = self.events.send(event);
    }
}
