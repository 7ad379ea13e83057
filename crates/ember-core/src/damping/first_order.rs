//! Devices to first order: each mode, and each pair turned to its best axes, on its own. Good enough to sort candidates, and quick enough
//! to look at all of them.
//!
//! What a device does to a pair of modes is a mean and a split, the split being a complex number: turning the device about the drum's axis
//! by an angle turns it by twice the pair's nodal diameters times that angle. So devices laid together add up without being worked out
//! anew.

use super::grip::{Grip, QUIETEST_DB};
use crate::drum::{DrumModel, mixed_rate};
use crate::tone::Partial;
use crate::tone::Tone;
use crate::units::{cents, decay_rate, decibels, t60};
use num_complex::Complex64;

/// What devices do to one mode, or to one pair.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
struct Part {
    loss: f64,
    mass: f64,
    split: Complex64,
    split_mass: Complex64,
    /// Logarithm of what the head's tension does to the pitch.
    pitch_ln: f64,
}

/// What devices do to all modes, to first order.
#[derive(Debug, Clone, PartialEq)]
pub struct Touch(Vec<Part>);

impl Touch {
    /// Adds `other`, turned by `turn_deg` about the drum's axis (anticlockwise).
    pub fn add(&mut self, other: &Self, turn_deg: f64, model: &FirstOrder) {
        for ((part, other), family) in self.0.iter_mut().zip(&other.0).zip(&model.families) {
            part.loss += other.loss;
            part.mass += other.mass;
            part.pitch_ln += other.pitch_ln;
            if turn_deg == 0.0 {
                part.split += other.split;
                part.split_mass += other.split_mass;
            } else if family.diameters > 0 {
                let turn = Complex64::cis(2.0 * family.diameters as f64 * turn_deg.to_radians());
                part.split += other.split * turn;
                part.split_mass += other.split_mass * turn;
            }
        }
    }
}

/// One mode, or a pair of them.
#[derive(Debug, Clone, PartialEq)]
struct Family {
    tone: Tone,
    is_body: bool,
    /// Place among the predictor's modes; a pair has the next one too.
    index: usize,
    /// How many modes it is, each moving by itself; 0 where they move together.
    alone: usize,
    /// Nodal diameters: 0 for a mode that has no partner.
    diameters: usize,
    hz: f64,
    decay: f64,
    /// Of each member.
    level_db: f64,
}

/// A measured partial that fits no mode, changed as its neighbours in pitch are.
#[derive(Debug, Clone, PartialEq)]
struct Stranger {
    tone: Tone,
    is_body: bool,
    hz: f64,
    decay: f64,
    level_db: f64,
    /// (family, whether its strongly or its weakly damped member)
    neighbours: Vec<(usize, bool)>,
}

/// A drum's modes and pairs as first order sees them.
#[derive(Debug, Clone, PartialEq)]
pub struct FirstOrder {
    families: Vec<Family>,
    strangers: Vec<Stranger>,
}

/// A partial to first order.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sketch {
    /// Its pitch, Hz.
    pub hz: f64,
    /// Amplitude decay rate, 1/s.
    pub decay: f64,
}

/// A partial as it is before anything lies on the drum. The order of all is that of [`FirstOrder::sketch`].
#[derive(Debug, Clone, PartialEq)]
pub struct Start {
    /// Pitch, Hz.
    pub hz: f64,
    /// Level at the strike, dB.
    pub level_db: f64,
    /// Which tone it is.
    pub tone: Tone,
    /// Whether it is the body.
    pub is_body: bool,
}

impl FirstOrder {
    /// Of a drum's modes.
    pub fn new(drum: &DrumModel) -> Self {
        let modes = &drum.modes;
        let mut families = Vec::new();
        let mut i = 0;
        if drum.is_spread() {
            families.extend(Self::alone(drum));
            i = modes.len();
        }
        while i < modes.len() {
            let paired = i + 1 < modes.len() && modes[i + 1].tone == modes[i].tone;
            let diameters = modes[i].tone.mode().map_or(0, |mode| usize::from(mode.diameters));
            families.push(Family {
                tone: modes[i].tone,
                is_body: drum.body == Some(modes[i].tone),
                index: i,
                alone: 0,
                diameters: if paired { diameters } else { 0 },
                hz: modes[i].hz,
                decay: modes[i].decay,
                level_db: modes[i].level_db - if paired { decibels(2f64.sqrt()) } else { 0.0 },
            });
            i += if paired { 2 } else { 1 };
        }
        let mut order: Vec<(f64, usize, bool)> = families
            .iter()
            .enumerate()
            .flat_map(|(i, family)| {
                let weak = (family.diameters > 0).then_some((family.hz, i, false));
                [Some((family.hz, i, true)), weak].into_iter().flatten()
            })
            .collect();
        order.sort_by(|a, b| a.0.total_cmp(&b.0));
        let strangers = drum
            .strangers()
            .map(|stranger| {
                let at = order.partition_point(|other| other.0 < stranger.hz);
                let near = &order[at.saturating_sub(2)..(at + 2).min(order.len())];
                Stranger {
                    tone: stranger.tone.unwrap_or(Tone::Number(0)),
                    is_body: drum.body == stranger.tone,
                    hz: stranger.hz,
                    decay: stranger.t60_s.map_or(0.0, decay_rate),
                    level_db: stranger.level_db,
                    neighbours: near.iter().map(|(_, family, strong)| (*family, *strong)).collect(),
                }
            })
            .filter(|stranger: &Stranger| !stranger.neighbours.is_empty())
            .collect();
        let mut model = Self { families, strangers };
        model.forget_the_unheard();
        model
    }

    /// Octaves or tones of modes that move by themselves.
    fn alone(drum: &DrumModel) -> Vec<Family> {
        let mut index = 0;
        let groups = drum.modes.chunk_by(|a, b| a.tone == b.tone);
        groups
            .map(|modes| {
                let mode = &modes[0];
                let family = Family {
                    tone: mode.tone,
                    is_body: drum.body == Some(mode.tone),
                    index,
                    alone: modes.len(),
                    diameters: 0,
                    hz: mode.hz,
                    decay: mode.decay,
                    level_db: mode.level_db,
                };
                index += modes.len();
                family
            })
            .collect()
    }

    /// Leaves out what is neither heard nor decides what happens to a stranger.
    fn forget_the_unheard(&mut self) {
        let needed = |i: usize| {
            Self::is_heard(&self.families[i])
                || self.strangers.iter().any(|stranger| stranger.neighbours.iter().any(|(near, _)| *near == i))
        };
        let kept: Vec<usize> = (0..self.families.len()).filter(|i| needed(*i)).collect();
        for (family, _) in self.strangers.iter_mut().flat_map(|stranger| &mut stranger.neighbours) {
            *family = kept.iter().position(|i| i == family).unwrap_or(0);
        }
        self.families = kept.into_iter().map(|i| self.families[i].clone()).collect();
    }

    /// Nothing on the drum.
    pub fn untouched(&self) -> Touch {
        Touch(vec![Part::default(); self.families.len()])
    }

    /// What `grip` comes to.
    pub fn touch(&self, grip: &Grip) -> Touch {
        let part = |family: &Family| {
            let at = |r: usize, c: usize| (grip.loss[(r, c)], grip.mass[(r, c)]);
            let (loss, mass) = at(family.index, family.index);
            let pitch_ln = grip.tension.as_ref().map_or(0.0, |tension| tension.pitch(family.index).ln());
            if family.alone > 0 {
                // By itself it lets them decay as this one loss would; several devices add up.
                let rates = (family.index..family.index + family.alone).map(|i| family.decay + 0.5 * at(i, i).0);
                let loss = 2.0 * (mixed_rate(&rates.collect::<Vec<f64>>()) - family.decay);
                return Part { loss, mass, ..Part::default() };
            }
            if family.diameters == 0 {
                return Part { loss, mass, pitch_ln, ..Part::default() };
            }
            let (other, other_mass) = at(family.index + 1, family.index + 1);
            let (cross, cross_mass) = at(family.index, family.index + 1);
            Part {
                loss: 0.5 * (loss + other),
                mass: 0.5 * (mass + other_mass),
                split: Complex64::new(0.5 * (loss - other), cross),
                split_mass: Complex64::new(0.5 * (mass - other_mass), cross_mass),
                pitch_ln,
            }
        };
        Touch(self.families.iter().map(part).collect())
    }

    /// How far the body's pitch moves, cents (negative is down); 0 where the drum has none. The same however devices are turned about the
    /// drum's axis: the body has no partner.
    pub fn body_cents(&self, touch: &Touch) -> f64 {
        let body = self.families.iter().zip(&touch.0).find(|(family, _)| family.is_body);
        body.map_or(0.0, |(family, part)| cents(family.hz, member(family, part, true).hz))
    }

    fn is_heard(family: &Family) -> bool {
        family.level_db >= QUIETEST_DB
    }

    /// The partials that [`sketch`](Self::sketch) speaks of, with nothing on the drum.
    pub fn starts(&self) -> Vec<Start> {
        let heard = self.families.iter().filter(|family| Self::is_heard(family)).flat_map(|family| {
            let start = Start { hz: family.hz, level_db: family.level_db, tone: family.tone, is_body: family.is_body };
            std::iter::repeat_n(start, if family.diameters > 0 { 2 } else { 1 })
        });
        heard.chain(self.strangers.iter().map(|s| Start { hz: s.hz, level_db: s.level_db, tone: s.tone, is_body: s.is_body })).collect()
    }

    /// Pitch and decay of every partial that is heard, of pairs first the member that is damped more.
    pub fn sketch(&self, touch: &Touch, mut put: impl FnMut(Sketch)) {
        for (family, part) in self.families.iter().zip(&touch.0).filter(|(family, _)| Self::is_heard(family)) {
            put(member(family, part, true));
            if family.diameters > 0 {
                put(member(family, part, false));
            }
        }
        for stranger in &self.strangers {
            let (mut more, mut ratio) = (0.0, 0.0);
            for (index, strong) in &stranger.neighbours {
                let family = &self.families[*index];
                let near = member(family, &touch.0[*index], *strong);
                more += near.decay - family.decay;
                ratio += near.hz / family.hz;
            }
            let count = stranger.neighbours.len() as f64;
            put(Sketch { hz: stranger.hz * ratio / count, decay: stranger.decay + (more / count).max(0.0) });
        }
    }

    /// Decays that no turning of the devices in `touch` about the drum's axis exceeds, in the order of [`sketch`](Self::sketch); of a pair's
    /// members, on the mean. Modes without a partner are as they are.
    pub fn most(&self, touch: &Touch, mut put: impl FnMut(f64)) {
        // The weaker member takes half of the mean loss at most; mass only holds it up.
        let weaker = |family: &Family, part: &Part| family.decay + 0.5 * part.loss;
        for (family, part) in self.families.iter().zip(&touch.0).filter(|(family, _)| Self::is_heard(family)) {
            if family.diameters > 0 {
                put(weaker(family, part));
                put(weaker(family, part));
            } else {
                put(member(family, part, true).decay);
            }
        }
        for stranger in &self.strangers {
            let more = |(index, strong): &(usize, bool)| {
                let (family, part) = (&self.families[*index], &touch.0[*index]);
                let both = stranger.neighbours.contains(&(*index, !strong));
                match (family.diameters > 0, *strong && !both) {
                    (false, _) => member(family, part, true).decay - family.decay,
                    (true, false) => 0.5 * part.loss,
                    (true, true) => part.loss,
                }
            };
            let more = stranger.neighbours.iter().map(more).sum::<f64>() / stranger.neighbours.len() as f64;
            put(stranger.decay + more.max(0.0));
        }
    }

    /// The same as [`sketch`](Self::sketch) as partials, low to high.
    pub fn partials(&self, touch: &Touch) -> Vec<Partial> {
        let mut starts = self.starts().into_iter();
        let mut partials: Vec<Partial> = Vec::new();
        self.sketch(touch, |Sketch { hz, decay }| {
            if let Some(start) = starts.next() {
                partials.push(Partial {
                    hz,
                    t60_s: Some(t60(decay)),
                    t60_sd_s: None,
                    t60_scatter_s: None,
                    level_db: start.level_db,
                    tone: Some(start.tone),
                });
            }
        });
        partials.sort_by(|a, b| a.hz.total_cmp(&b.hz));
        partials
    }
}

/// One member of a pair, or the mode itself.
fn member(family: &Family, part: &Part, strong: bool) -> Sketch {
    let sign = if strong { 1.0 } else { -1.0 };
    let loss = (part.loss + sign * part.split.norm()).max(0.0);
    let mass = (part.mass + sign * part.split_mass.norm()).max(0.0);
    Sketch { hz: family.hz * part.pitch_ln.exp() / (1.0 + mass).sqrt(), decay: (family.decay + 0.5 * loss) / (1.0 + mass) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::damping::{Placement, Predictor};
    use crate::drum::DrumKind;
    use proptest::prelude::*;

    fn predictor() -> Predictor {
        let partial = |hz: f64, t60: f64, level_db: f64, mode: Option<&str>| Partial {
            hz,
            t60_s: Some(t60),
            t60_sd_s: None,
            t60_scatter_s: None,
            level_db,
            tone: mode.and_then(Tone::read),
        };
        let heard = [
            partial(140.0, 0.9, 0.0, Some("(0,1)")),
            partial(222.0, 0.8, -3.0, Some("(1,1)")),
            partial(260.0, 0.7, -9.0, None),
            partial(298.0, 0.6, -8.0, Some("(2,1)")),
        ];
        Predictor::new(&BenchDrum::usual(DrumKind::Tom), &heard).unwrap()
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]
        /// A device turned, and two added, against the same worked out from their outlines.
        #[test]
        fn devices_turn_and_add_up(radius in 0.3f64..0.95, other in 0.3f64..0.95, turn in -180f64..180.0) {
            let predictor = predictor();
            let model = FirstOrder::new(&predictor.model);
            let pad = |radius, angle_deg| Placement { angle_deg, radius, ..Placement::parse("gel_pad").unwrap() };
            let touch = |placement: &Placement| model.touch(&predictor.grip(placement));
            let mut sum = touch(&pad(radius, 180.0));
            sum.add(&touch(&pad(other, 180.0)), turn, &model);
            let grips = [predictor.grip(&pad(radius, 180.0)), predictor.grip(&pad(other, 180.0 + turn))];
            let direct = predictor.screen(&grips.iter().collect::<Vec<_>>());
            for (a, b) in model.partials(&sum).iter().zip(&direct) {
                prop_assert!((a.hz / b.hz - 1.0).abs() < 1e-6 && (a.t60_s.unwrap() / b.t60_s.unwrap() - 1.0).abs() < 1e-6, "{a:?} {b:?}");
            }
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]
        /// Wherever three devices lie, weaker members decay no faster than the bound says, and pairs no faster on the mean.
        #[test]
        fn the_bound_holds_at_every_angle(specs in prop::collection::vec((0usize..4, 0.3f64..0.95, -180f64..180.0), 3)) {
            let predictor = predictor();
            let model = FirstOrder::new(&predictor.model);
            let (mut turned, mut together) = (model.untouched(), model.untouched());
            for (which, radius, turn) in specs {
                let spec = ["gel_pad:2", "tape:1", "thick_cloth:0", "control_ring:1"][which];
                let touch = model.touch(&predictor.grip(&Placement { radius, ..Placement::parse(spec).unwrap() }));
                turned.add(&touch, turn, &model);
                together.add(&touch, 0.0, &model);
            }
            let (mut most, mut real) = (Vec::new(), Vec::new());
            model.most(&together, |decay| most.push(decay));
            model.sketch(&turned, |sketch| real.push(sketch.decay));
            for (i, start) in model.starts().iter().enumerate() {
                let alike = model.starts().iter().filter(|other| other.tone == start.tone).count();
                if alike < 2 {
                    prop_assert!(real[i] <= most[i] + 1e-9, "{start:?}: {} over {}", real[i], most[i]);
                } else if i + 1 < real.len() && model.starts()[i + 1].tone == start.tone {
                    prop_assert!(real[i + 1] <= most[i] + 1e-9 && real[i] + real[i + 1] <= 2.0 * most[i] + 1e-9, "{start:?}");
                }
            }
        }
    }
}
