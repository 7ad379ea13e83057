//! What is kept, with what a page needs to show it.

use ember_core::damping::{DeviceKind, Patch, Placement, Toll, device_info};
use ember_core::decay::{METHOD, Quality};
use ember_core::drum::{Drum, Front, NodalLines, Role, SplitPair, nodal_lines, split_pairs};
use ember_core::plan::{Plan, school_of, seconds_off};
use ember_core::target::{Assessment, AudibleLength, School, Wanted, assess};
use ember_core::tone::{MetalSound, Tone, nearest};
use ember_store::{KeptStrike, KeptTake, KeptTreatment};
use ember_words::{Joined, Text, Words, words};
use serde::Serialize;
use utoipa::ToSchema;

/// A strike with advice on what is wrong with it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct StrikeView {
    /// The strike.
    #[serde(flatten)]
    pub strike: KeptStrike,
    /// A sentence for each warning.
    pub advice: Vec<Text>,
    /// A sentence for each remark.
    pub noted: Vec<Text>,
    /// How well it was measured.
    pub quality: Quality,
}

impl StrikeView {
    /// Of `strike` of a take whose ring is at `ring_hz`: the same tone is its ring, however loud another one is in this strike. By itself, without
    /// a take, its own.
    pub fn new(mut strike: KeptStrike, ring_hz: Option<f64>) -> Self {
        if let Some(hz) = ring_hz {
            let ring = nearest(&strike.measurement.partials, hz).map(|ring| (ring.hz, ring.t60_s));
            let profile = &mut strike.measurement.profile;
            (profile.ring_hz, profile.ring_t60_s) = (ring.map(|ring| ring.0), ring.and_then(|ring| ring.1));
        }
        let advice = strike.measurement.warnings.iter().map(|warning| warning.advice()).collect();
        let noted = strike.measurement.remarks.iter().map(|remark| remark.advice()).collect();
        Self { quality: strike.measurement.quality(), strike, advice, noted }
    }
}

/// A take with its strikes, held against what is wanted.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TakeView {
    /// The take.
    #[serde(flatten)]
    pub take: KeptTake,
    /// Its strikes, in their order.
    pub strikes: Vec<StrikeView>,
    /// Held against what is wanted.
    pub assessment: Assessment,
    /// A sentence for each remark on the take.
    pub noted: Vec<Text>,
    /// Partials that belong together: pairs that an even head would have as one, loudest first.
    pub families: Vec<SplitPair>,
    /// How the drum moves in each of its partials, in a few words; empty where nobody knows.
    pub motions: Vec<Words>,
    /// How long each of its partials is heard in tonight's song.
    pub audible: Vec<Option<AudibleLength>>,
    /// Whether a newer method would measure it otherwise.
    pub outdated: bool,
    /// A cymbal as it is heard; null for a drum.
    pub metal: Option<MetalSound>,
}

impl TakeView {
    /// Of a take and its strikes, held against what is wanted.
    pub fn new(take: KeptTake, strikes: Vec<KeptStrike>, wanted: &Wanted) -> Self {
        let assessment = assess(&take.partials, &take.summary.profile, wanted, None);
        let noted = take.summary.remarks.iter().map(|remark| remark.advice()).collect();
        let families = split_pairs(&take.partials);
        let motions = take.partials.iter().map(|partial| partial.tone.map(Tone::says).unwrap_or_default()).collect();
        let outdated = strikes.iter().any(|strike| strike.measurement.method < METHOD);
        let ring_hz = take.summary.profile.ring_hz;
        let strikes = strikes.into_iter().map(|strike| StrikeView::new(strike, ring_hz)).collect();
        let audible = wanted.audible(&take.partials);
        let metal = MetalSound::of(&take.partials);
        Self { metal, strikes, assessment, noted, families, motions, audible, outdated, take }
    }
}

/// A device in its place, in words and to scale.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct PlacedDevice {
    /// What it is called.
    pub name: Words,
    /// How much of it.
    pub amount: Text,
    /// Where it goes.
    pub place: Words,
    /// Where it touches which head.
    pub patches: Vec<Patch>,
    /// Eighths of a turn on every rod of the batter head, tighter positive; 0 for what is no turn.
    pub eighths: i32,
    /// Whether it can be turned about the drum's axis, and moved towards its middle.
    pub has_angle: bool,
    /// Whether it can be moved towards the middle.
    pub has_radius: bool,
    /// Lies under the batter head or inside.
    pub inside: bool,
    /// Whether it could as well lie on the drum's other head.
    pub other_head_too: bool,
    /// What it costs the player.
    pub tolls: Vec<Toll>,
    /// What it costs the player, as a phrase.
    pub cost: Text,
    /// What to do, one after the other.
    pub steps: Vec<Text>,
    /// How to take it off again.
    pub steps_off: Vec<Text>,
}

impl PlacedDevice {
    fn new(placement: &Placement, drum: &Drum) -> Self {
        let info = device_info(placement.device);
        Self {
            name: placement.name(),
            amount: placement.amount_name(),
            place: placement.place(drum),
            patches: placement.patches(drum),
            eighths: placement.eighths(),
            has_angle: placement.has_angle(),
            has_radius: placement.has_radius(),
            inside: placement.is_inside(),
            other_head_too: placement.can_lie_on_other_head() && drum.lower_film().is_some(),
            tolls: placement.tolls(),
            cost: info.cost,
            steps: info.steps_on(drum),
            steps_off: info.steps_off_of(drum),
        }
    }
}

/// What `placements` are, in few words: "open", "gel pad", "2 gel pads", "2 gel pads and tape", "centre patch, then every rod a quarter up".
pub fn counted(placements: &[Placement]) -> Words {
    let mut kinds: Vec<(&Placement, usize)> = Vec::new();
    let (turns, devices): (Vec<&Placement>, Vec<&Placement>) =
        placements.iter().partition(|placement| placement.device == DeviceKind::RodsTurned);
    for placement in devices {
        match kinds.iter_mut().find(|(other, _)| other.device == placement.device) {
            Some((_, count)) => *count += 1,
            None => kinds.push((placement, 1)),
        }
    }
    let words = |(placement, count): &(&Placement, usize)| match (*count, placement.made) {
        (1, _) => placement.name(),
        (count, Some(_)) => words!("{count} {}", placement.name()),
        (count, None) => words!("{count} {}", device_info(placement.device).plural),
    };
    let laid = Words::list(Joined::And, kinds.iter().map(words));
    let turned = turns.first().map(|turn| words!("every rod {}", turn.amount_name()));
    match turned {
        None if laid.is_empty() => words!("open"),
        None => laid,
        Some(turned) if laid.is_empty() => turned,
        Some(turned) => words!("{laid}, then {turned}"),
    }
}

/// What a plan is, in few words.
pub fn words_of(plan: &Plan, drum: &Drum) -> Words {
    match &plan.front {
        None => counted(&plan.placements),
        Some(front) if plan.placements.is_empty() => front.words(drum.kind.lower_head_word()),
        Some(front) => words!("{} and {}", front.words(drum.kind.lower_head_word()), counted(&plan.placements)),
    }
}

/// Part of a lower head that is open from which on a tom sounds as without one (common practice, no published source: 10 in in a 12 in head).
const MOSTLY_OPEN: f64 = 0.6;

/// How the other end of `drum` comes to be as `front` says.
fn front_steps(front: &Front, drum: &Drum, besides: Option<&Words>) -> Vec<Words> {
    let which = drum.kind.lower_head_word();
    let off = words!("{} Bend your knees when you lift the drum.", drum.taken_off(which));
    let then = match front {
        Front::Off => words!("Leave it off; take loose lug parts out, or tape them, so that they do not rattle."),
        Front::Mesh => words!("Put the mesh head on, hand-tight all round: it only holds hoop and lugs."),
        Front::Whole => words!("{} {}", drum.put_on(words!("a whole {which}")), drum.stop_words()),
        Front::Ported { .. } => words!("{} {}", drum.put_on(words!("the spare head with the hole")), drum.stop_words()),
    };
    let open = front.is_open() || front.open_part(drum.diameter_in) > MOSTLY_OPEN;
    let tuned = (open && matches!(drum.kind.role(), Role::Tom | Role::FloorTom))
        .then(|| words!("Tune the batter higher than with a lower head: alone it sounds lower."));
    let laid = besides.map(|besides| words!("Before it is closed again, see to what goes in it: {besides}, as below."));
    let strike = match besides {
        Some(_) => words!("Strike it a few times where you always do, with nothing more on or in it."),
        None => words!("Strike it a few times where you always do, with nothing else on or in it."),
    };
    std::iter::once(off).chain(laid).chain([then]).chain(tuned).chain([strike]).collect()
}

/// A plan with its devices spelled out.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct PlanView {
    /// The plan.
    #[serde(flatten)]
    pub plan: Plan,
    /// The devices in few words.
    pub words: Words,
    /// The devices in it.
    pub devices: Vec<PlacedDevice>,
    /// Time to take the devices off again, s.
    pub seconds_off: f64,
    /// How to close the drum's other end otherwise, where that is part of it.
    pub front_steps: Vec<Words>,
    /// The school of muffling that it follows.
    pub school: School,
    /// Where the batter head stands still for the ring that is left; null where its mode is not known.
    pub nodal: Option<NodalLines>,
    /// How long each of the partials that are expected is heard in tonight's song.
    pub audible: Vec<Option<AudibleLength>>,
}

impl PlanView {
    /// Of a plan for `drum`, with what is heard of it under what is wanted.
    pub fn new(plan: Plan, drum: &Drum, wanted: &Wanted) -> Self {
        let devices = plan.placements.iter().map(|placement| PlacedDevice::new(placement, drum)).collect();
        let ring = plan.expected.profile.ring_hz.and_then(|hz| nearest(&plan.expected.partials, hz));
        let turned = plan.placements.iter().find(|placement| placement.has_angle());
        let besides = (!plan.placements.is_empty()).then(|| counted(&plan.placements));
        Self {
            words: words_of(&plan, drum),
            front_steps: plan.front.as_ref().map(|front| front_steps(front, drum, besides.as_ref())).unwrap_or_default(),
            school: school_of(&plan.placements),
            seconds_off: seconds_off(&plan.placements),
            nodal: ring.and_then(|ring| nodal_lines(ring, turned.map(|placement| placement.angle_deg))),
            audible: wanted.audible_as_expected(&plan.expected),
            devices,
            plan,
        }
    }
}

/// A plan that was carried out. Its assessment is against what is wanted now.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TreatmentView {
    /// Its number.
    pub id: i64,
    /// The take of the open drum that the expectation started from.
    pub open_take_id: i64,
    /// Milliseconds since 1970, UTC.
    pub done_at: i64,
    /// When it was taken off; null while it is on.
    pub off_at: Option<i64>,
    /// What the player calls it; null where it was not given a name.
    pub name: Option<String>,
    /// The plan.
    pub plan: PlanView,
}

impl TreatmentView {
    /// Of what is kept, held against what is wanted now.
    pub fn new(kept: KeptTreatment, drum: &Drum, wanted: &Wanted) -> Self {
        let mut plan = kept.plan;
        plan.assessment = assess(&plan.expected.partials, &plan.expected.profile, wanted, Some(plan.expected.attack_lost_db));
        Self {
            id: kept.id,
            open_take_id: kept.open_take_id,
            done_at: kept.done_at,
            off_at: kept.off_at,
            name: kept.name,
            plan: PlanView::new(plan, drum, wanted),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn devices_are_counted_and_rods_come_after_them() {
        let said = |specs: &[&str]| counted(&specs.iter().map(|spec| Placement::parse(spec).unwrap()).collect::<Vec<_>>());
        assert_eq!(said(&[]), "open");
        assert_eq!(said(&["gel_pad", "tape", "gel_pad"]), "2 gel pads and tape");
        assert_eq!(said(&["rods_turned:1", "centre_patch"]), "centre patch, then every rod a quarter up");
        assert_eq!(said(&["rods_turned:8"]), "every rod a quarter down");
    }
}
