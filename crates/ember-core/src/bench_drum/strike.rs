//! Strikes on the simulated drum, as a microphone would give them.

use super::air_box::AirBox;
use super::cavity::{Cavity, OpeningLoss, flapping, is_hole};
use super::foot::{Foot, PressedBeater, Touch};
use super::hidden::{HELD_BEATER, head_losses, lower_ratio, true_strength};
use super::membrane_grid::{HeadPhysics, Load, MembraneGrid};
use super::metal::Metal;
use super::rods::{Rods, SLACKEST};
use super::sound::{SAMPLE_RATE, gaussian};
use super::surroundings::Surroundings;
use crate::blow::{Blow, beater_info};
use crate::damping::{DeviceKind, InvalidPlacement, Patch, Placement, device_info};
use crate::decay::Dynamic;
use crate::drum::{DOT_MASS, Drum, DrumKind, EDGE_RING_FROM, FEWEST_RODS, Head, HeadSide, MIL, Role, WireTension, air_spring};
use crate::physics::AIR_DENSITY;
use crate::signal::{Decimator, LowPass};
use crate::tuning::EIGHTH_TENSION;
use crate::units::amplitude;
use rand::{SeedableRng, rngs::StdRng};
use rayon::prelude::*;
use std::f64::consts::PI;

/// Time before the first strike, s.
const LEAD_S: f64 = 0.8;
/// In this time a hand on the head takes 20 dB off, s.
const HAND_S: f64 = 0.07;
const NOISE: f64 = 6e-5;
/// Sound this far under the noise of the place, and motion and pressure that are this part of their most, are not followed any further; looked at
/// over so many steps at a time.
const SILENT: f64 = 0.05 * NOISE;
const GONE: f64 = 1e-4;
const LOOKED_BACK: usize = 1024;
/// Areal resistance of a ring built in at the edge, and of a dot's glue, N s/m3.
const EDGE_RING_RESISTANCE: f64 = 45.0;
const DOT_RESISTANCE: f64 = 1.5;
/// In a drum with less radius than this the air needs short steps, m.
const SMALL_RADIUS: f64 = 0.19;
/// Rate at which the pressure inside a drum with nothing in it falls off by losses at its walls, 1/s.
const SHELL_RATE: f64 = 1.5;

/// Something that is laid on the batter head while it sounds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hold {
    /// When, s after the hit.
    pub from_s: f64,
    /// Where: distance of its middle and its own radius, as parts of the head's, and degrees from the player.
    pub radius: f64,
    /// Degrees from the player, anticlockwise.
    pub angle_deg: f64,
    /// Its own radius, in parts of the head's.
    pub size: f64,
    /// Areal resistance, N s/m3.
    pub resistance: f64,
}

/// What the heads did in a hit, at the grid's rate.
pub(super) struct Heads {
    sound: Vec<f64>,
    /// Motion of the wires' head.
    wires: Vec<f64>,
    /// Mean acceleration of the other head, m/s2, and pressure inside, Pa.
    front: Vec<f64>,
    inside: Vec<f64>,
    /// When the beater touched the batter head, where a foot pressed it on.
    touches: Vec<Touch>,
}

/// How long a hit is followed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Until {
    /// Until what is left of it lies 26 dB under the noise: the rest is silence.
    Silence,
    End,
}

impl Heads {
    fn with_capacity(steps: usize) -> Self {
        let room = || Vec::with_capacity(steps);
        Self { sound: room(), wires: room(), front: room(), inside: room(), touches: Vec::new() }
    }

    fn are_silent(&self) -> bool {
        let peak = |part: &[f64]| part.iter().fold(0.0, |most: f64, x| most.max(x.abs()));
        let gone = |all: &[f64]| peak(&all[all.len() - LOOKED_BACK..]) <= GONE * peak(all);
        peak(&self.sound[self.sound.len() - LOOKED_BACK..]) < SILENT
            && [&self.wires, &self.front, &self.inside].into_iter().all(|all| gone(all))
    }

    /// The same with silence behind it, `steps` long.
    fn lengthened(mut self, steps: usize) -> Self {
        [&mut self.sound, &mut self.wires, &mut self.front, &mut self.inside].into_iter().for_each(|all| all.resize(steps, 0.0));
        self
    }
}

/// What touches the batter head in a hit.
struct Hand {
    contact_s: f64,
    /// N s.
    impulse: f64,
    /// Cells that are hit.
    hit: Vec<usize>,
    /// What is laid on it: from when on, on which cells, and its areal resistance.
    held: Vec<(f64, Vec<usize>, f64)>,
    /// A beater that a foot presses on.
    pressed: Option<PressedBeater>,
}

impl Hand {
    /// What it pushes each cell with (Pa), `t` s after the hit began.
    fn pushes(&mut self, batter: &MembraneGrid, t: f64, dt: f64) -> Vec<(usize, f64)> {
        let Self { contact_s, impulse, hit, held, pressed } = self;
        let shape = if t < *contact_s { (PI * t / *contact_s).sin().powi(2) * 2.0 / *contact_s } else { 0.0 };
        let hit_area = hit.len() as f64 * batter.cell_area();
        let push = match pressed {
            Some(beater) => {
                let mean = |of: &dyn Fn(usize) -> f64| hit.iter().map(|cell| of(*cell)).sum::<f64>() / hit.len() as f64;
                beater.step(mean(&|cell| batter.at(cell)), mean(&|cell| batter.speed(cell)), dt) / hit_area
            }
            None => *impulse * shape / hit_area,
        };
        let mut pushes: Vec<(usize, f64)> = if push > 0.0 { hit.iter().map(|cell| (*cell, push)).collect() } else { Vec::new() };
        for (_, cells, resistance) in held.iter().filter(|(from_s, ..)| t >= *from_s) {
            pushes.extend(cells.iter().map(|cell| (*cell, -*resistance * batter.speed(*cell))));
        }
        pushes
    }
}

/// A drum to practise on.
#[derive(Debug)]
pub struct BenchDrum {
    drum: Drum,
    placements: Vec<Placement>,
    batter: HeadPhysics,
    lower: Option<HeadPhysics>,
    rods: [Rods; 2],
    /// What its owner has the rods pull, before what is turned on purpose.
    pull: [Vec<f64>; 2],
    openings: OpeningLoss,
    /// How it is struck, where otherwise than usual.
    blow: Option<Blow>,
    holds: Vec<Hold>,
    /// The foot that presses the beater on, where one does.
    foot: Option<Foot>,
    /// Whether the air in and around it is a field of its own.
    in_air: bool,
    /// Of every kind of device, its resistance against the prior's.
    strengths: [f64; DeviceKind::ALL.len()],
}

impl BenchDrum {
    /// The stand-in for `drum` with devices on it, tuned as such drums usually are.
    pub fn new(drum: &Drum, placements: &[Placement]) -> Result<Self, InvalidPlacement> {
        placements.iter().try_for_each(|placement| placement.validate(drum))?;
        let batter_hz = drum.usual_batter_hz();
        let (loss, by_wave) = match drum.kind {
            DrumKind::Snare => (9.0, 0.0045),
            DrumKind::Tom => (3.6, 0.0032),
            DrumKind::FloorTom | DrumKind::SecondKick => (2.7, 0.0027),
            DrumKind::Kick => (4.5, 0.0110),
            DrumKind::ConcertTom => (3.8, 0.0034),
            DrumKind::ConcertBass => (1.8, 0.0090),
            DrumKind::MarchingBass => (5.5, 0.0100),
            DrumKind::HandDrum | DrumKind::Other => (4.6, 0.0056),
            // The losses of metal are those of a plate.
            _ => (1.0, 0.001),
        };
        let head = |head: Head, hz: f64| {
            let (more, more_by_wave) = head_losses(head);
            HeadPhysics {
                radius: drum.radius(),
                areal_mass: drum.areal_mass(head),
                hz,
                uneven: 0.0,
                // Young's modulus of PET film, 4.5 GPa, in both directions (1 - 0.3).
                stretch: 4.5e9 * head.film_mil * MIL / (2.0 * 0.7),
                loss: loss * more,
                loss_by_wave: by_wave * more_by_wave,
            }
        };
        let even = vec![1.0; usize::from(drum.lugs)];
        let one = Self {
            drum: drum.clone(),
            placements: placements.to_vec(),
            batter: head(drum.batter, batter_hz),
            openings: OpeningLoss::HIDDEN,
            lower: drum.lower_film().map(|lower| head(lower, batter_hz * lower_ratio(drum.kind))),
            rods: [Rods::even(), Rods::even()],
            pull: [even.clone(), even.clone()],
            blow: None,
            holds: Vec::new(),
            foot: None,
            in_air: false,
            strengths: DeviceKind::ALL.map(true_strength),
        };
        Ok(if one.is_tuned_otherwise() { one.with_rods(&even, &even) } else { one })
    }

    fn is_tuned_otherwise(&self) -> bool {
        self.placements.iter().any(|placement| placement.device.is_tuning())
    }

    /// With rods that pull unevenly, `pull` in units in which the usual tuning has 1 everywhere (see [`super::rods_pull`]).
    pub fn with_rods(mut self, batter_pull: &[f64], lower_pull: &[f64]) -> Self {
        self.pull = [batter_pull.to_vec(), lower_pull.to_vec()];
        let mut batter_pull = batter_pull.to_vec();
        let lugs = batter_pull.len();
        for placement in &self.placements {
            match placement.device {
                DeviceKind::SlackLugs if lugs >= FEWEST_RODS => {
                    [0, 1, lugs - 1].into_iter().for_each(|lug| batter_pull[lug] = SLACKEST);
                }
                DeviceKind::RodsTurned => {
                    let more = EIGHTH_TENSION * f64::from(placement.eighths()) * self.strength(placement.device);
                    batter_pull.iter_mut().for_each(|pull| *pull = (*pull + more).max(SLACKEST));
                }
                _ => {}
            }
        }
        let before = self.rods.each_ref().map(|rods| rods.tension);
        self.rods = [Rods::new(&batter_pull), Rods::new(lower_pull)];
        let heads = [Some(&mut self.batter), self.lower.as_mut()];
        for ((head, rods), before) in heads.into_iter().zip(&self.rods).zip(before) {
            if let Some(head) = head {
                head.hz *= (rods.tension / before).sqrt();
                head.uneven = rods.uneven;
            }
        }
        self
    }

    /// With heads that alone would sound at these pitches, Hz.
    pub fn tuned(mut self, batter_hz: f64, lower_hz: f64) -> Self {
        self.batter.hz = batter_hz;
        if let Some(lower) = &mut self.lower {
            lower.hz = lower_hz;
        }
        self
    }

    /// With heads whose tension along the player's line lies over its mean, and across it under it, by these parts.
    pub fn uneven(mut self, batter: f64, lower: f64) -> Self {
        self.batter.uneven = batter;
        if let Some(head) = &mut self.lower {
            head.uneven = lower;
        }
        self
    }

    /// With the air in and around it as a field of its own ([`AirBox`]), instead of a spring and a mass that are the same for all its motions:
    /// several times the work, and nothing of it is known to the predictor.
    pub fn in_air(self) -> Self {
        Self { in_air: true, ..self }
    }

    /// Struck as `blow` says.
    pub fn struck(self, blow: Blow) -> Self {
        Self { blow: Some(blow), ..self }
    }

    /// With `holds` laid on it after each hit.
    pub fn held(self, holds: Vec<Hold>) -> Self {
        Self { holds, ..self }
    }

    /// Struck with a beater that `foot` goes on pressing against the head.
    pub fn pressed_on(self, foot: Foot) -> Self {
        Self { foot: Some(foot), ..self }
    }

    /// When and how hard a beater that a foot presses on touches the head in hit number `index` (see [`pressed_on`](Self::pressed_on)).
    pub fn touches(&self, seed: u64, index: usize) -> Vec<Touch> {
        let mut rng = StdRng::seed_from_u64(seed.wrapping_mul(1_000_003).wrapping_add(index as u64 + 1));
        self.heads(1.0, &mut rng).touches
    }

    /// Energies, 10 to 300 ms after hit number `index`, of the other head's mean acceleration (0 where there is none) and of the pressure inside, as
    /// microphones close in front and inside would have them; in units of their own.
    pub fn energies_in_front_and_inside(&self, seed: u64, index: usize) -> [f64; 2] {
        let mut rng = StdRng::seed_from_u64(seed.wrapping_mul(1_000_003).wrapping_add(index as u64 + 1));
        let heads = self.heads(1.0, &mut rng);
        let part = |signal: &[f64]| {
            let at = |seconds: f64| ((seconds * self.grid_rate()) as usize).min(signal.len());
            signal[at(0.01)..at(0.3)].iter().map(|x| x * x).sum()
        };
        [part(&heads.front), part(&heads.inside)]
    }

    /// With devices and openings exactly as strong as their priors say, to see how far the predictor's physics carry.
    pub fn with_known_devices(self) -> Self {
        Self { strengths: [1.0; DeviceKind::ALL.len()], openings: OpeningLoss::KNOWN, ..self }.turned_anew()
    }

    /// With devices of these strengths against their priors, for what learning has to find.
    pub fn with_strengths(mut self, strengths: &[(DeviceKind, f64)]) -> Self {
        for (own, kind) in self.strengths.iter_mut().zip(DeviceKind::ALL) {
            *own = strengths.iter().find(|(device, _)| *device == kind).map_or(*own, |(_, times)| *times);
        }
        self.turned_anew()
    }

    /// The same where turns go as far as they are now said to.
    fn turned_anew(mut self) -> Self {
        if !self.is_tuned_otherwise() {
            return self;
        }
        let [batter, lower] = std::mem::take(&mut self.pull);
        self.with_rods(&batter, &lower)
    }

    /// A usual drum of `kind` to practise on: with one clear ply of 10 mil on snare and kick, so that what heads of another make do shows beside it.
    pub fn usual(kind: DrumKind) -> Drum {
        let usual = Drum::usual(kind);
        let batter = match kind {
            DrumKind::Snare | DrumKind::Kick => Head::plain(10.0),
            _ => usual.batter,
        };
        Drum { batter, vents: 1, ..usual }
    }

    /// Time from one strike to the next, s.
    pub fn spacing_s(&self) -> f64 {
        match self.drum.kind {
            DrumKind::Snare => 1.4,
            DrumKind::Tom => 2.1,
            DrumKind::FloorTom | DrumKind::SecondKick => 2.4,
            DrumKind::Kick | DrumKind::MarchingBass | DrumKind::HandDrum | DrumKind::Other => 1.7,
            DrumKind::ConcertTom => 2.1,
            DrumKind::ConcertBass => 4.5,
            DrumKind::HiHat => 3.0,
            // Cymbals.
            _ => 6.5,
        }
    }

    /// Output samples a step of the grid: only a snare's fast heads need short steps.
    fn oversampling(&self) -> usize {
        if self.in_air {
            // Steps in which sound crosses less than a cell of the air.
            return if self.drum.radius() < SMALL_RADIUS { 2 } else { 3 };
        }
        if self.drum.kind == DrumKind::Snare { 2 } else { 3 }
    }

    /// Radius of its heads, m.
    pub(super) fn radius(&self) -> f64 {
        self.drum.radius()
    }

    pub(super) fn grid_rate(&self) -> f64 {
        f64::from(SAMPLE_RATE) / self.oversampling() as f64
    }

    /// `strikes` hits one after the other, full scale 1; the same `seed` always gives the same sound.
    pub fn play(&self, strikes: usize, seed: u64) -> Vec<f32> {
        let mut out = self.lead(seed);
        let played: Vec<Vec<f32>> = (0..strikes).into_par_iter().map(|index| self.strike(seed, index)).collect();
        out.extend(played.concat());
        out
    }

    /// The noise of the place before the first strike.
    pub fn lead(&self, seed: u64) -> Vec<f32> {
        self.quiet(LEAD_S, &mut StdRng::seed_from_u64(seed))
    }

    /// The noise of the place for `seconds`.
    fn quiet(&self, seconds: f64, rng: &mut StdRng) -> Vec<f32> {
        (0..(seconds * f64::from(SAMPLE_RATE)) as usize).map(|_| (NOISE * gaussian(rng)) as f32).collect()
    }

    /// How hard a hit asked for as `dynamic` is, against the usual one (for [`strike_as`](Self::strike_as)).
    pub fn how_hard(dynamic: Option<Dynamic>) -> f64 {
        dynamic.map_or(1.0, |dynamic| amplitude(dynamic.level_db() - Dynamic::Hard.level_db()))
    }

    /// Hit number `index`, [`spacing_s`](Self::spacing_s) long, as hard as usual.
    pub fn strike(&self, seed: u64, index: usize) -> Vec<f32> {
        self.strike_as(seed, index, 1.0)
    }

    /// The same `hard` times as hard as usual (0.1 to 1).
    pub fn strike_as(&self, seed: u64, index: usize, hard: f64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed.wrapping_mul(1_000_003).wrapping_add(index as u64 + 1));
        let strength = hard * (1.0 + 0.12 * gaussian(&mut rng)).max(0.5);
        let mut out = if self.drum.kind.is_metal() {
            let metal = Metal::new(&self.drum, &self.placements, |placement| self.strength(placement.device));
            let mut out = metal.sound(strength, self.spacing_s(), &mut rng);
            self.add_stick(&mut out, strength, &mut rng);
            out
        } else {
            let heads = self.heads(strength, &mut rng);
            let mut out = upsampled(&heads.sound, self.oversampling());
            self.add_stick(&mut out, strength, &mut rng);
            self.add_wires(&mut out, &heads.wires, &mut rng);
            out
        };
        for sample in &mut out {
            *sample += NOISE * gaussian(&mut rng);
        }
        out.iter().map(|x| x.clamp(-1.0, 1.0) as f32).collect()
    }

    /// Hit number `index` with a hand laid on the head `damped_s` after it, which takes 20 dB off in [`HAND_S`].
    pub fn damped_note(&self, seed: u64, index: usize, damped_s: f64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed.wrapping_add(index as u64).wrapping_mul(69_069));
        let mut sound = self.strike(seed, index);
        for (n, sample) in sound.iter_mut().enumerate() {
            let held_s = n as f64 / f64::from(SAMPLE_RATE) - damped_s;
            if held_s > 0.0 {
                *sample = (f64::from(*sample) * 10f64.powf(-held_s / HAND_S) + NOISE * gaussian(&mut rng)) as f32;
            }
        }
        sound
    }

    fn heads(&self, strength: f64, rng: &mut StdRng) -> Heads {
        self.heads_until(Until::Silence, strength, rng, |_, _| ())
    }

    /// The same, with `watch` shown both heads after every step.
    pub(super) fn heads_watched(&self, strength: f64, rng: &mut StdRng, watch: impl FnMut(&MembraneGrid, Option<&MembraneGrid>)) -> Heads {
        self.heads_until(Until::End, strength, rng, watch)
    }

    fn heads_until(
        &self,
        until: Until,
        strength: f64,
        rng: &mut StdRng,
        mut watch: impl FnMut(&MembraneGrid, Option<&MembraneGrid>),
    ) -> Heads {
        let dt = 1.0 / self.grid_rate();
        let mut batter = self.grid(&self.batter, HeadSide::Batter, dt);
        let mut lower = self.lower.as_ref().map(|head| self.grid(head, HeadSide::Lower, dt));
        let mut hand = self.hand(&batter, strength, rng);
        self.place_microphone(&mut batter);
        let mut surroundings = if self.in_air {
            Surroundings::Field(Box::new(AirBox::new(&self.drum, &batter, lower.as_ref(), self.fill_rate(), dt)))
        } else {
            Surroundings::Spring(Cavity::new(&self.drum, self.openings, self.fill_loss()))
        };
        let steps = (self.spacing_s() * self.grid_rate()) as usize;
        let mut heads = Heads::with_capacity(steps);
        let (mut mean, mut lower_mean, mut lower_speed) = (0.0, 0.0, 0.0);
        for n in 0..steps {
            let pushes = hand.pushes(&batter, n as f64 * dt, dt);
            let now = batter.mean();
            let lower_now = lower.as_ref().map_or(0.0, MembraneGrid::mean);
            let speed = (now - mean) / dt;
            let lower_speed_before = std::mem::replace(&mut lower_speed, (lower_now - lower_mean) / dt);
            let means = ((now, speed), (lower_now, lower_speed));
            let on_batter = surroundings.advance(&mut batter, lower.as_mut(), means, &pushes, dt);
            heads.sound.push(self.gain() * batter.heard());
            heads.wires.push(lower_speed);
            heads.front.push((lower_speed - lower_speed_before) / dt);
            heads.inside.push(on_batter);
            watch(&batter, lower.as_ref());
            (mean, lower_mean) = (now, lower_now);
            if until == Until::Silence && n % LOOKED_BACK == LOOKED_BACK - 1 && heads.are_silent() {
                break;
            }
        }
        heads.touches = hand.pressed.map_or_else(Vec::new, |beater| beater.touches);
        heads.lengthened(steps)
    }

    /// How long a stick or beater touches the head, s, over what radius, m, and the impulse of a usual hit, N s.
    fn contact(&self) -> (f64, f64, f64) {
        let (contact_s, patch, impulse) = match self.drum.kind {
            DrumKind::Kick => (0.006, 0.035, 0.045),
            DrumKind::SecondKick => (0.006, 0.035, 0.030),
            DrumKind::ConcertTom => (0.0025, 0.012, 0.014),
            // A soft beater.
            DrumKind::ConcertBass => (0.011, 0.070, 0.090),
            DrumKind::MarchingBass => (0.004, 0.030, 0.045),
            DrumKind::FloorTom => (0.0030, 0.014, 0.022),
            DrumKind::Tom => (0.0025, 0.012, 0.014),
            DrumKind::Snare => (0.0016, 0.011, 0.030),
            // Fingers; cymbals are not struck here.
            _ => (0.003, 0.018, 0.010),
        };
        let beater = self.blow.map(|blow| beater_info(blow.beater));
        beater.map_or((contact_s, patch, impulse), |beater| (beater.contact_s, beater.radius, impulse))
    }

    /// A hit `strength` times as hard as usual, on a spot that nobody hits twice.
    fn hand(&self, batter: &MembraneGrid, strength: f64, rng: &mut StdRng) -> Hand {
        let a = self.drum.radius();
        let off = (0.02 * gaussian(rng), 0.02 * gaussian(rng));
        let spot =
            self.blow.map_or((0.22 * a + off.0, 0.12 * a + off.1), |blow| (0.88 * blow.spot * a + off.0, 0.48 * blow.spot * a + off.1));
        let (contact_s, patch, impulse) = self.contact();
        let hit: Vec<usize> = near(batter, spot, patch);
        let mut held: Vec<(f64, Vec<usize>, f64)> =
            self.holds.iter().map(|hold| (hold.from_s, under(batter, hold, a), hold.resistance)).collect();
        if self.blow.is_some_and(|blow| blow.left_in) {
            held.push((contact_s, hit.clone(), HELD_BEATER));
        }
        let pressed = self.foot.map(|foot| PressedBeater::new(Foot { speed: strength * foot.speed, ..foot }, contact_s));
        Hand { contact_s, impulse: strength * impulse, hit, held, pressed }
    }

    /// What lies inside takes from air that is squeezed, N s/m3.
    fn fill_loss(&self) -> f64 {
        self.placements.iter().map(|placement| self.strength(placement.device) * placement.air_loss(&self.drum)).sum()
    }

    /// The same as a rate at which the pressure of the air inside falls off by itself, 1/s: what the shell takes, and the fill's loss factor at the
    /// drum's usual pitch.
    fn fill_rate(&self) -> f64 {
        let omega = 2.0 * PI * self.drum.usual_batter_hz();
        SHELL_RATE + omega * omega * self.fill_loss() / air_spring(self.drum.depth())
    }

    /// How strong a device is here against its prior.
    fn strength(&self, device: DeviceKind) -> f64 {
        DeviceKind::ALL.iter().position(|kind| *kind == device).map_or(1.0, |at| self.strengths[at])
    }

    fn grid(&self, head: &HeadPhysics, side: HeadSide, dt: f64) -> MembraneGrid {
        let patches: Vec<(&Placement, Patch)> = self
            .placements
            .iter()
            .flat_map(|placement| placement.patches(&self.drum).into_iter().map(move |patch| (placement, patch)))
            .filter(|(placement, patch)| patch.side == side && !placement.device.is_tuning())
            .collect();
        let (rods, own) = match side {
            HeadSide::Batter => (&self.rods[0], Some(self.drum.batter)),
            HeadSide::Lower => (&self.rods[1], self.drum.lower_film()),
        };
        let load = |r: f64, angle: f64| {
            let mut load = Load { resistance: rods.resistance_at(r, angle), ..Load::default() };
            if own.is_some_and(|own| own.edge_ring) && r > EDGE_RING_FROM {
                load.resistance += EDGE_RING_RESISTANCE;
            }
            for (mass, _) in own.into_iter().flat_map(|own| own.in_the_middle(head.radius)).filter(|(_, to)| r < *to) {
                load.mass += mass;
                load.resistance += DOT_RESISTANCE * mass / DOT_MASS;
            }
            for (placement, patch) in patches.iter().filter(|(_, patch)| patch.outline.contains(r, angle)) {
                let (device, prior) = (placement.device, placement.prior());
                let resistance = prior.resistance * self.strength(placement.device) * patch.contact;
                // Part of it acts on fast motion only, so that it grows with frequency as real ones do.
                load.resistance += 0.8 * resistance;
                load.fast_resistance += 0.5 * resistance;
                load.mass += prior.mass * patch.contact;
                if device_info(device).loose && side == HeadSide::Lower {
                    load.loose_at = 0.02;
                }
            }
            if side == HeadSide::Lower {
                load.resistance += flapping(&self.drum, self.openings, r, angle);
            }
            load
        };
        let head = if self.in_air { own.map_or(*head, |own| alone(head, own)) } else { *head };
        MembraneGrid::new(&head, dt, load, |r, angle| side == HeadSide::Lower && is_hole(&self.drum, r, angle))
    }

    /// A microphone a hand above the head, over the edge, or where a kick's player sits: every point's acceleration by its nearness.
    fn place_microphone(&self, batter: &mut MembraneGrid) {
        let a = self.drum.radius();
        // A kick is listened to from where the player sits, further off; so are other bass drums.
        let (x, y, height) = if self.drum.kind.role() == Role::Kick { (-0.4 * a, 0.3 * a, 0.25) } else { (-0.55 * a, 0.5 * a, 0.06) };
        let area = batter.cell_area();
        batter.set_microphone(|px, py| area * AIR_DENSITY / (2.0 * PI) / ((px - x).powi(2) + (py - y).powi(2) + height * height).sqrt());
    }

    /// Pascal to full scale, so that a usual hit peaks around -9 dBFS.
    fn gain(&self) -> f64 {
        match self.drum.kind {
            // Small snares are louder at the same hit, and would clip.
            DrumKind::Snare => 2.2e-3 * (self.drum.diameter_in / 14.0).min(1.0).powi(2),
            DrumKind::Kick => 3.0e-3,
            DrumKind::ConcertBass => 6.0e-3,
            DrumKind::MarchingBass => 2.5e-3,
            _ => 3.5e-3,
        }
    }

    fn add_stick(&self, out: &mut [f64], strength: f64, rng: &mut StdRng) {
        let lost: f64 = self.placements.iter().map(|placement| placement.attack_db() - placement.click_db()).sum();
        let (level, length) = if self.drum.kind.role() == Role::Kick { (0.05, 0.002) } else { (0.10, 0.0012) };
        let level = level * strength * 10f64.powf(-lost / 20.0);
        for (n, sample) in out.iter_mut().take(1200).enumerate() {
            let t = n as f64 / f64::from(SAMPLE_RATE);
            *sample += level * gaussian(rng) * (t / 0.0003).min(1.0) * (-t / length).exp();
        }
    }

    /// Wires rattle against the lower head: noise that follows its motion.
    fn add_wires(&self, out: &mut [f64], motion: &[f64], rng: &mut StdRng) {
        let Some(wires) = self.drum.wires.filter(|_| self.drum.kind == DrumKind::Snare) else { return };
        // Slack wires are thrown further and come to rest later; tight ones lie still again while the head still moves.
        let (loudness, release, held) = match wires.tension {
            WireTension::Loose => (1.25, 0.00025, 0.0),
            WireTension::Medium => (1.0, 0.0006, 0.01),
            WireTension::Tight => (0.7, 0.0013, 0.05),
        };
        let held = held * motion.iter().fold(0.0, |most: f64, speed| most.max(speed.abs()));
        let loudness = 0.012 * loudness * (f64::from(wires.strands) / 20.0).sqrt();
        let (mut level, mut last) = (0.0, 0.0);
        for (n, sample) in out.iter_mut().enumerate() {
            let speed = (motion.get(n / self.oversampling()).copied().unwrap_or(0.0).abs() - held).max(0.0);
            level += (speed - level) * if speed > level { 0.02 } else { release };
            let noise = gaussian(rng);
            *sample += loudness * level.min(1.0) * (noise - 0.9 * last);
            last = noise;
        }
    }
}

/// `head` of the make `own` at the same tension, without the air that it is otherwise taken to carry along.
fn alone(head: &HeadPhysics, own: Head) -> HeadPhysics {
    let areal_mass = own.areal_mass();
    let lighter = head.areal_mass / areal_mass;
    // The same tension and the same resistances.
    let (loss, loss_by_wave) = (head.loss * lighter, head.loss_by_wave * lighter);
    HeadPhysics { areal_mass, hz: head.hz * lighter.sqrt(), loss, loss_by_wave, ..*head }
}

/// Cells under `hold` on a head of radius `a` m.
fn under(grid: &MembraneGrid, hold: &Hold, a: f64) -> Vec<usize> {
    let angle = hold.angle_deg.to_radians();
    near(grid, (hold.radius * a * angle.cos(), hold.radius * a * angle.sin()), hold.size * a)
}

/// Cells within `patch` of `spot`; at least the nearest one.
fn near(grid: &MembraneGrid, spot: (f64, f64), patch: f64) -> Vec<usize> {
    let distance = |x: f64, y: f64| (x - spot.0).hypot(y - spot.1);
    let within: Vec<usize> = grid.points().filter(|(_, x, y)| distance(*x, *y) <= patch).map(|p| p.0).collect();
    if within.is_empty() {
        let nearest = grid.points().min_by(|a, b| distance(a.1, a.2).total_cmp(&distance(b.1, b.2)));
        nearest.map(|p| vec![p.0]).unwrap_or_default()
    } else {
        within
    }
}

/// From the grid's rate to `factor` times that, without images above.
pub(super) fn upsampled(input: &[f64], factor: usize) -> Vec<f64> {
    if factor == 1 {
        return input.to_vec();
    }
    let rate = f64::from(SAMPLE_RATE);
    let half = 0.5 * rate / factor as f64;
    let filter = LowPass::new(0.75 * half, 1.25 * half, 70.0, rate);
    let mut spread = vec![0.0; input.len() * factor];
    for (n, x) in input.iter().enumerate() {
        spread[n * factor] = factor as f64 * x;
    }
    Decimator { filter, factor: 1 }.real(&spread)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_drum_of_any_size_falls_silent_and_does_not_clip() {
        let sizes = [(DrumKind::Tom, 8.0, 7.0), (DrumKind::Tom, 10.0, 7.0), (DrumKind::Snare, 10.0, 5.0), (DrumKind::Kick, 16.0, 14.0)];
        for (kind, diameter_in, depth_in) in sizes {
            let drum = BenchDrum::new(&Drum { diameter_in, depth_in, ..BenchDrum::usual(kind) }, &[]).unwrap();
            let sound = drum.strike(21, 1);
            let peak = |part: &[f32]| part.iter().fold(0f32, |most, x| most.max(x.abs()));
            let (loudest, last) = (peak(&sound), peak(&sound[sound.len() - 4800..]));
            assert!((0.02..0.99).contains(&loudest), "{kind:?} {diameter_in} in: {loudest}");
            assert!(last < 0.005 * loudest, "{kind:?} {diameter_in} in still sounds: {last} of {loudest}");
        }
    }

    /// A push on a loaded point was lost: what covered the spot that is hit left nothing but the stick's own noise.
    #[test]
    fn a_head_that_is_covered_where_it_is_hit_still_sounds() {
        let drum = BenchDrum::usual(DrumKind::Snare);
        let after_the_stick = |placements: &[Placement]| {
            let sound = BenchDrum::new(&drum, placements).unwrap().strike(3, 1);
            sound[1000..].iter().fold(0f32, |most, x| most.max(x.abs()))
        };
        let open = after_the_stick(&[]);
        for spec in ["spare_head:1", "thin_cloth:2", "thick_cloth:2"] {
            let covered = after_the_stick(&[Placement::parse(spec).unwrap()]);
            assert!(covered > 0.03 * open, "{spec}: {covered} of {open}");
        }
    }

    #[test]
    fn the_same_seed_sounds_the_same_and_another_one_does_not() {
        let drum = BenchDrum::new(&BenchDrum::usual(DrumKind::Snare), &[]).unwrap();
        assert_eq!(drum.strike(3, 1), drum.strike(3, 1));
        assert_ne!(drum.strike(3, 1), drum.strike(4, 1));
        assert_ne!(drum.strike(3, 1), drum.strike(3, 2));
    }
}
