//! The grid that is searched: every amount and place of every device on the shelf, and what would lie on one another.

use crate::damping::{Amount, DeviceInfo, DeviceKind, Footprint, Made, Outline, Placement, Toll, device_info};
use crate::drum::{Drum, Role};
use ember_words::{Text, Words, text};
use serde::{Deserialize, Serialize};

/// A device the user owns.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ShelfItem {
    /// Which device it is.
    pub device: DeviceKind,
    /// How many of them.
    pub count: u32,
    /// What a thing of the player's own is; none for what the catalogue knows, and for an empty place.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub made: Option<Made>,
}

impl ShelfItem {
    /// Of the catalogue.
    pub fn new(device: DeviceKind, count: u32) -> Self {
        Self { device, count, made: None }
    }

    /// What it is called.
    pub fn name(&self) -> Words {
        self.made.as_ref().map_or_else(|| device_info(self.device).name.words(), |made| Words::verbatim(made.name.as_str()))
    }
}

/// What the user rules out.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Limits {
    /// Nothing where brushes sweep, sticks land or the beater swings.
    #[serde(default)]
    pub clear_surface: bool,
    /// Nothing at all on the batter head.
    #[serde(default)]
    pub nothing_on_batter: bool,
    /// Nothing for which a drum key is needed, as on a stage.
    #[serde(default)]
    pub no_tools: bool,
    /// Nothing that takes from how stick or beater come back.
    #[serde(default)]
    pub keeps_feel: bool,
    /// Nothing that slides or falls off when it is played hard.
    #[serde(default)]
    pub stays_on: bool,
    /// Nothing that wanders when the drum is carried.
    #[serde(default)]
    pub survives_transport: bool,
    /// Nothing for which a head has to come off.
    #[serde(default)]
    pub nothing_inside: bool,
    /// Nothing that leaves something on the head.
    #[serde(default)]
    pub no_residue: bool,
    /// Nothing that does not look good.
    #[serde(default)]
    pub nothing_unsightly: bool,
    /// Nothing that takes longer than a minute to put on.
    #[serde(default)]
    pub within_a_minute: bool,
    /// No more than one thing on a drum.
    #[serde(default)]
    pub one_thing: bool,
    /// Nothing that has to be bought: what is not owned is suggested only where it lies about in any household.
    #[serde(default)]
    pub nothing_bought: bool,
}

impl Limits {
    /// The same on a kit of somebody else's, a club's house kit perhaps: nothing is opened or left sticky, there are minutes, and few things at hand
    /// (common practice, no published source).
    pub fn of_a_borrowed_kit(self) -> Self {
        Self { nothing_inside: true, no_residue: true, within_a_minute: true, one_thing: true, ..self }
    }

    /// Most devices on one drum.
    pub(super) fn most_things(&self) -> usize {
        if self.one_thing { 1 } else { MOST_DEVICES }
    }

    /// Why a device may not be used, as a sentence; none where it may in some amount.
    pub fn rule_out(&self, device: DeviceKind) -> Option<Text> {
        let info = device_info(device);
        let reasons: Vec<Text> = info.amounts.iter().map_while(|amount| self.against(info, amount)).collect();
        reasons.first().copied().filter(|_| reasons.len() == info.amounts.len())
    }

    /// Whether a device may be used in an amount.
    pub fn allows(&self, info: &DeviceInfo, amount: &Amount) -> bool {
        self.against(info, amount).is_none()
    }

    /// Whether a device may be used as it is laid; of an amount that is not known, as an older file may have, whether the device may.
    pub fn allows_placed(&self, placement: &Placement) -> bool {
        let info = device_info(placement.device);
        info.amounts.get(placement.amount).map_or_else(|| self.rule_out(info.kind).is_none(), |amount| self.allows(info, amount))
    }

    /// What speaks against a device in an amount, as a sentence.
    fn against(&self, info: &DeviceInfo, amount: &Amount) -> Option<Text> {
        let tolls = info.tolls_of(amount);
        let has = |toll: Toll| tolls.contains(&toll);
        let inside = info.inside && !amount.outside;
        let rules = [
            (self.nothing_inside && inside, text!("Ruled out: a head would have to come off.")),
            (self.clear_surface && has(Toll::InTheWay), text!("Ruled out: it lies where brushes sweep, sticks land or the beater swings.")),
            (self.nothing_on_batter && info.lies_on_batter(amount), text!("Ruled out: it lies on the batter head.")),
            (self.no_tools && (inside || info.kind.is_tuning()), text!("Ruled out: it takes a drum key.")),
            (self.no_residue && has(Toll::Residue), text!("Ruled out: it leaves something on the head.")),
            (self.nothing_unsightly && has(Toll::Looks), text!("Ruled out: it does not look good.")),
            (self.keeps_feel && (has(Toll::Rebound) || has(Toll::FootForce)), text!("Ruled out: stick or beater come back less.")),
            (self.stays_on && has(Toll::FallsOff), text!("Ruled out: it slides or falls off when it is played hard.")),
            (self.survives_transport && has(Toll::Wanders), text!("Ruled out: it wanders when the drum is carried.")),
            (self.within_a_minute && amount.seconds > MINUTE_S, text!("Ruled out: it takes longer than a minute to put on.")),
        ];
        rules.into_iter().find(|(ruled_out, _)| *ruled_out).map(|(_, sentence)| sentence)
    }
}

const MINUTE_S: f64 = 60.0;

/// Most devices that a treatment has.
pub const MOST_DEVICES: usize = 3;

/// The greatest number of devices in a treatment that is offered for `drum` under `limits`.
/// A kick gets one thing inside, and perhaps another at a head (common practice, no published source).
pub(super) fn most_offered(drum: &Drum, limits: &Limits) -> usize {
    if drum.kind.role() == Role::Kick { 2.min(limits.most_things()) } else { limits.most_things() }
}

/// How many of `placements` are devices: a turn of all rods comes on top of them.
pub(super) fn devices(placements: &[Placement]) -> usize {
    placements.iter().filter(|placement| placement.device != DeviceKind::RodsTurned).count()
}

/// Side on which a lone device is laid: away from the player.
pub(super) const FAR_SIDE_DEG: f64 = 180.0;

/// Every single device in every amount and place; turns of all rods are none by themselves (see `pitch.rs`).
pub fn singles(drum: &Drum, shelf: &[ShelfItem], limits: &Limits) -> Vec<Placement> {
    let allowed = |item: &&ShelfItem| item.count > 0 && item.device != DeviceKind::RodsTurned && limits.rule_out(item.device).is_none();
    let mut found: Vec<Placement> = Vec::new();
    for item in shelf.iter().filter(allowed) {
        let info = device_info(item.device);
        for amount in (0..info.amounts.len()).filter(|amount| limits.allows(info, &info.amounts[*amount])) {
            for &radius in radii_of(item.device, amount) {
                let radius = radius.min(furthest_out(item.device, amount, drum));
                let placement =
                    Placement { device: item.device, amount, radius, angle_deg: FAR_SIDE_DEG, made: item.made, other_head: false };
                found.push(placement);
            }
            if is_laid_on_the_other_head(item.device, drum) {
                let radius = OTHER_HEAD_RADIUS;
                found.push(Placement { device: item.device, amount, radius, angle_deg: FAR_SIDE_DEG, made: item.made, other_head: true });
            }
        }
    }
    let mut tried: Vec<Placement> = Vec::new();
    for placement in found {
        if !tried.contains(&placement) && placement.validate(drum).is_ok() && is_done(&placement, drum) {
            tried.push(placement);
        }
    }
    tried
}

/// Where things are stuck on the other head from outside: off to one side.
const OTHER_HEAD_RADIUS: f64 = 0.75;
/// Pads on a drum that a pedal strikes lie no further in than this, a part of its radius.
const KICK_PADS_FROM: f64 = 0.8;
/// Cymbals smaller than this are not draped, in.
const LEAST_DRAPED_IN: f64 = 12.0;
/// Most of a cymbal that a disc about its middle covers, a part of its diameter.
const DISC_OF_CYMBAL: f64 = 0.7;

/// Whether `device` is also tried on the other head: on kicks small things off to one side are (common practice, no published source); elsewhere a
/// player may lay them there by hand.
fn is_laid_on_the_other_head(device: DeviceKind, drum: &Drum) -> bool {
    drum.kind.is_upright() && drum.kind.has_pedal() && (device == DeviceKind::Tissue || device.is_own())
}

/// Whether a seasoned drum tech would put it there, of what would be possible (common practice, no published source). What is never done is not
/// offered; it can still be laid out by hand.
fn is_done(placement: &Placement, drum: &Drum) -> bool {
    let footprint = device_info(placement.device).amounts[placement.amount].footprint;
    match footprint {
        // What lies there already takes the room.
        Footprint::Fill { .. } | Footprint::Tube { .. } | Footprint::LooseRing { .. } | Footprint::Balls { .. }
            if drum.inside.is_some() =>
        {
            device_info(placement.device).amounts[placement.amount].outside
        }
        // One patch is enough.
        _ if placement.device == DeviceKind::BeaterPatch && drum.batter.patch => false,
        // The beater swings there; and what is heavy enough to hang there is a towel.
        Footprint::Cover { .. } if drum.kind.is_upright() => false,
        // Further in a pad takes body, for which a kick has its pillow.
        Footprint::Pad { .. } if drum.kind.has_pedal() => placement.radius >= KICK_PADS_FROM,
        Footprint::OverHoop { .. } if drum.kind.is_upright() => placement.device == DeviceKind::Towel,
        // Nothing is left to strike.
        Footprint::Cover { .. } if drum.kind.is_metal() => drum.diameter_in >= LEAST_DRAPED_IN,
        // A disc nearly as large as the cymbal is a drape.
        Footprint::Centre { radius } if drum.kind.is_metal() => radius <= DISC_OF_CYMBAL * drum.radius(),
        // Film of that size is not held by tape for long, and nobody sticks any on it.
        _ if drum.kind.is_damped_by_hand() => placement.device != DeviceKind::Tape,
        _ => true,
    }
}

/// Distances from the middle at which a device is tried.
fn radii_of(device: DeviceKind, amount: usize) -> &'static [f64] {
    match device_info(device).amounts[amount].footprint {
        // From beside the bell to the edge.
        Footprint::Strip { .. } if device == DeviceKind::CymbalTape => &[0.4, 0.55, 0.7, 0.82, 0.93],
        // Nearer to the middle it takes body and is in the way: nobody lays it there to shorten a ring (common practice, no published source).
        Footprint::Pad { .. } => &[0.65, 0.75, 0.85, 0.92],
        Footprint::Strip { .. } => &[0.7, 0.8, 0.9],
        _ => &[0.85],
    }
}

/// How far out a piece lies on a cymbal with all of it: on a head the hoop holds it back, here it would stick out over the edge.
fn furthest_out(device: DeviceKind, amount: usize, drum: &Drum) -> f64 {
    match device_info(device).amounts[amount].footprint {
        Footprint::Strip { length, width } if drum.kind.is_metal() => {
            let (half_length, half_width) = (length / 2.0 / drum.radius(), width / 2.0 / drum.radius());
            (1.0 - half_length * half_length).max(0.0).sqrt() - half_width - 0.01
        }
        _ => 1.0,
    }
}

/// Whether two devices would lie on one another: then neither touches the head as its model says, and the upper one slides. What lies
/// under the head is in nothing's way on top of it, and where lugs are slack nothing lies.
pub(super) fn overlap(a: &Placement, b: &Placement, drum: &Drum) -> bool {
    // A spare head lies over a ring as over the head itself: that stack is a treatment of its own (common practice, no published source).
    let is_stack = |over: &Placement, under: &Placement| {
        matches!(over.device, DeviceKind::SpareHead | DeviceKind::Doughnut) && under.device == DeviceKind::ControlRing
    };
    if a.is_inside() != b.is_inside() || a.device.is_tuning() != b.device.is_tuning() || is_stack(a, b) || is_stack(b, a) {
        return false;
    }
    let covers = |over: &Outline, under: &Outline| under.points().iter().any(|(r, angle, _)| over.contains(*r, *angle));
    let (on_a, on_b) = (a.patches(drum), b.patches(drum));
    on_a.iter().any(|a| on_b.iter().any(|b| a.side == b.side && (covers(&a.outline, &b.outline) || covers(&b.outline, &a.outline))))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    fn all(count: u32) -> Vec<ShelfItem> {
        DeviceKind::ALL.map(|device| ShelfItem::new(device, count)).to_vec()
    }

    #[test]
    fn tape_never_sticks_out_over_a_cymbals_edge() {
        let hi_hat = BenchDrum::usual(DrumKind::HiHat);
        let found = singles(&hi_hat, &all(1), &Limits::default());
        assert!(found.iter().filter(|placement| placement.device == DeviceKind::CymbalTape).count() >= 10);
        for placement in found.iter().filter(|placement| placement.device == DeviceKind::CymbalTape) {
            let covered: f64 = placement.patches(&hi_hat)[0].outline.points().iter().map(|point| point.2).sum();
            let Outline::Strip { length, width, .. } = placement.patches(&hi_hat)[0].outline else { panic!("{placement:?}") };
            assert!((covered / (length * width / std::f64::consts::PI) - 1.0).abs() < 1e-9, "{placement:?}");
        }
    }

    fn placed(spec: &str) -> Placement {
        Placement::parse(spec).unwrap()
    }

    #[test]
    fn nothing_is_laid_on_something_else() {
        let tom = BenchDrum::usual(DrumKind::Tom);
        let lie_on = |a: &str, b: &str| overlap(&placed(a), &placed(b), &tom);
        assert!(lie_on("gel_pad:0:0.92", "control_ring:1"), "the ring would lie on the pad");
        assert!(!lie_on("gel_pad:0:0.5", "control_ring:1"));
        assert!(lie_on("gel_pad:0:0.5", "thin_cloth:2"), "cloth covers everything");
        assert!(!lie_on("control_ring:0", "loose_ring"), "they lie on different heads");
        assert!(!lie_on("gel_pad:0:0.92", "under_ring:1"), "they lie on different sides of one");
        assert!(
            !lie_on("spare_head:0", "control_ring:0") && lie_on("spare_head:0", "gel_pad:0:0.8"),
            "a ring goes under an upturned head, a pad does not"
        );
        assert!(lie_on("half_ring:0:0:90", "cotton_balls:1") && !lie_on("gel_pad:0:0.85:180", "gel_pad:0:0.85:150"));
    }

    #[test]
    fn only_what_is_owned_fits_and_is_allowed_is_tried() {
        let (tom, kick) = (BenchDrum::usual(DrumKind::Tom), BenchDrum::usual(DrumKind::Kick));
        let kinds = |drum: &Drum, shelf: &[ShelfItem], limits: Limits| {
            let mut kinds: Vec<DeviceKind> = singles(drum, shelf, &limits).iter().map(|placement| placement.device).collect();
            kinds.dedup();
            kinds
        };
        use DeviceKind::*;
        assert_eq!(kinds(&tom, &all(0), Limits::default()), []);
        assert_eq!(
            kinds(&tom, &all(1), Limits::default()),
            [
                GelPad,
                Tape,
                ControlRing,
                ThinCloth,
                ThickCloth,
                HangingPad,
                LooseRing,
                Tissue,
                Doughnut,
                SpareHead,
                UnderRing,
                CentrePatch,
                HalfRing,
                CottonBalls,
                SlackLugs
            ]
        );
        assert_eq!(
            kinds(&kick, &all(1), Limits::default()),
            [
                GelPad,
                Tape,
                Pillow,
                Tissue,
                FeltStrip,
                Blanket,
                Towel,
                FoamBlock,
                StuffedShirt,
                InflatedTube,
                BeaterCloth,
                BeaterPatch,
                SteelCan
            ]
        );
        // What can lie outside stays where no head may come off.
        let closed = Limits { nothing_inside: true, ..Limits::default() };
        assert_eq!(kinds(&kick, &all(1), closed), [GelPad, Tape, Tissue, Towel, InflatedTube, BeaterCloth, BeaterPatch]);
        assert!(singles(&kick, &all(1), &closed).iter().all(|placement| !placement.is_inside()));
        assert_eq!(
            kinds(&tom, &all(1), Limits { clear_surface: true, nothing_inside: true, ..Limits::default() }),
            [Tape, HangingPad, SlackLugs]
        );
        let quick = Limits { within_a_minute: true, no_residue: true, nothing_unsightly: true, ..Limits::default() };
        assert_eq!(kinds(&tom, &all(1), quick), [GelPad, ControlRing, HangingPad, SpareHead]);
        // Limits that a player feels: nothing at all on the head that is struck leaves no tape either.
        let untouched = Limits { nothing_on_batter: true, ..Limits::default() };
        assert_eq!(kinds(&tom, &all(1), untouched), [LooseRing, UnderRing, CentrePatch, HalfRing, CottonBalls, SlackLugs]);
        assert_eq!(kinds(&kick, &all(1), untouched), [Pillow, FeltStrip, Blanket, Towel, FoamBlock, StuffedShirt, InflatedTube, SteelCan]);
        let on_stage = Limits { no_tools: true, stays_on: true, ..Limits::default() };
        assert_eq!(kinds(&tom, &all(1), on_stage), [Tape, ControlRing, Doughnut, SpareHead]);
        let felt = Limits { keeps_feel: true, clear_surface: true, survives_transport: true, ..Limits::default() };
        assert!(!kinds(&kick, &all(1), felt).contains(&Pillow) && kinds(&kick, &all(1), felt).contains(&FeltStrip));
        let tubes = singles(&kick, &all(1), &Limits { clear_surface: true, ..Limits::default() });
        let tubes: Vec<&Placement> = tubes.iter().filter(|placement| placement.device == InflatedTube).collect();
        assert!(!tubes.is_empty() && tubes.iter().all(|tube| tube.is_inside()), "a tube outside the heads is in the beater's way");
        let open_tom = Drum { lower: None, ..tom.clone() };
        assert!(!kinds(&open_tom, &all(1), Limits::default()).contains(&LooseRing), "there is nothing for it to lie on");
    }
}
