//! Plans as they are offered, each different in kind from the others.

use crate::damping::{DeviceKind, Expectation, Placement};
use crate::drum::Front;
use crate::target::{Assessment, Wanted};
use ember_words::{Text, Words, text};
use serde::{Deserialize, Serialize};

/// Why a plan is offered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Offer {
    /// The least that works.
    Least,
    /// Nearest to what is wanted, all costs counted.
    Closest,
    /// Still good if the devices turn out weaker or stronger than thought.
    Surest,
    /// Leaves the playing surface clear.
    ClearSurface,
    /// Where nothing else is offered: the next best of another kind.
    Another,
    /// What each school of muffling would do.
    OpenWay,
    /// In the controlled school's way.
    ControlledWay,
    /// In the dead school's way.
    DeadWay,
    /// Would get there, but needs what is not on the shelf.
    WouldDo,
    /// Laid out by the player.
    Own,
    /// The other end closed otherwise, to hear what that does.
    FrontTrial,
}

impl Offer {
    /// What it is called.
    pub fn title(self) -> Text {
        match self {
            Self::Least => text!("The least that works"),
            Self::Closest => text!("Closest to the wish"),
            Self::Surest => text!("The surest"),
            Self::ClearSurface => text!("Leaves the surface clear"),
            Self::Another => text!("Another way"),
            Self::OpenWay => text!("The open way"),
            Self::ControlledWay => text!("The controlled way"),
            Self::DeadWay => text!("The dead way"),
            Self::WouldDo => text!("This would do it"),
            Self::Own => text!("Your own layout"),
            Self::FrontTrial => text!("A trial that can be undone"),
        }
    }
}

/// One plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Plan {
    /// In which sense it is offered.
    pub offer: Offer,
    /// What it is called.
    pub title: Words,
    /// Why it is offered, as a sentence.
    pub why: Words,
    /// What lies where.
    pub placements: Vec<Placement>,
    /// What is to be seen to before, as a sentence; null where nothing is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub first: Option<Words>,
    /// How the drum's other end is closed meanwhile, where that changes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub front: Option<Front>,
    /// What it should do.
    pub expected: Expectation,
    /// The expected sound held against what is wanted.
    pub assessment: Assessment,
    /// The same if everything turns out worst within its doubt: steps off.
    pub worst_misfit: f64,
    /// Time to put it on, s.
    pub seconds: f64,
    /// Steps off plus what is taken away plus effort: what plans are ordered by.
    pub cost: f64,
}

/// What can be reached.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Reach {
    /// The drum is as wanted without anything.
    NothingNeeded,
    /// At least one plan gets there.
    Reached,
    /// No plan on the grid gets there; the nearest are offered.
    NotReached,
    /// Whatever is put on takes the drum further away: it wants tuning or other heads.
    NothingHelps,
    /// The shelf holds nothing that may be used here.
    NothingToUse,
}

/// A device that a plan needs and the shelf does not have.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Missing {
    /// Which device it is.
    pub device: DeviceKind,
    /// How many more.
    pub count: u32,
}

/// A plan beyond the shelf.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WouldDo {
    /// The plan.
    pub plan: Plan,
    /// What is not on the shelf.
    pub missing: Vec<Missing>,
}

/// The answer to a planning question.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlanAnswer {
    /// What is wanted of it tonight.
    pub wanted: Wanted,
    /// The drum as it is, held against what is wanted.
    pub now: Assessment,
    /// How near the shelf gets.
    pub reach: Reach,
    /// What is to be done before anything is put on, as a sentence; null where nothing is.
    pub first: Option<Words>,
    /// Two to four plans that differ in kind; empty where nothing is needed.
    pub plans: Vec<Plan>,
    /// Where the shelf does not get there: what would.
    pub would_do: Option<WouldDo>,
    /// Treatments on the grid.
    pub searched: usize,
    /// The search took too long and was ended: something better may be on the shelf.
    pub cut_short: bool,
}
