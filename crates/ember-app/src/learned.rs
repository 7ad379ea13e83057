//! What the user's own tests say about the devices.

use crate::learning::{Learning, Measured, tests};
use crate::views::counted;
use ember_core::damping::{DeviceKind, DeviceStrength, Score, Tested};
use ember_core::plan::ShelfItem;
use ember_store::MeasuredTreatment;
use ember_words::Words;
use serde::Serialize;
use utoipa::ToSchema;

/// One treatment that was measured afterwards.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TestRow {
    /// Number of the treatment.
    pub treatment_id: i64,
    /// Number of the drum.
    pub drum_id: i64,
    /// Name of the drum.
    pub drum_name: String,
    /// Milliseconds since 1970, UTC.
    pub done_at: i64,
    /// The devices in few words.
    pub words: Words,
    /// The devices in it.
    pub devices: Vec<DeviceKind>,
    /// What the test said.
    pub tested: Tested,
}

/// How strong the devices are, as far as tests tell, and how good predictions were.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WhatIsLearned {
    /// One for each kind of device.
    pub strengths: Vec<DeviceStrength>,
    /// How good predictions were.
    pub score: Score,
    /// Newest first.
    pub tests: Vec<TestRow>,
}

/// What those of `measured` taught that are tests with what is on the `shelf`.
pub fn what_is_learned(measured: &Measured, shelf: &[ShelfItem], learning: &Learning) -> WhatIsLearned {
    let tests = tests(measured, shelf);
    let learned = learning.of_tests(measured, shelf);
    let row = |(test, tested): (&&MeasuredTreatment, &Option<Tested>)| {
        let placements = &test.treatment.plan.placements;
        let mut devices: Vec<DeviceKind> = placements.iter().map(|placement| placement.device).collect();
        devices.dedup();
        Some(TestRow {
            treatment_id: test.treatment.id,
            drum_id: test.drum.id,
            drum_name: test.drum.drum.name.clone(),
            done_at: test.treatment.done_at,
            words: counted(placements),
            devices,
            tested: tested.clone()?,
        })
    };
    WhatIsLearned {
        strengths: DeviceKind::ALL.map(|kind| learned.strengths.of(kind)).to_vec(),
        score: learned.score,
        tests: tests.iter().zip(&learned.tests).filter_map(row).rev().collect(),
    }
}
