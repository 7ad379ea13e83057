//! What the user's own tests say about the devices.

use crate::learning::tests;
use crate::problem::Problem;
use crate::state::AppState;
use crate::views::counted;
use axum::Json;
use axum::extract::State;
use ember_core::Patience;
use ember_core::damping::{DeviceKind, DeviceStrength, Score, Tested};
use ember_store::MeasuredTreatment;
use serde::Serialize;
use utoipa::ToSchema;

/// One treatment that was measured afterwards.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TestRow {
    pub treatment_id: i64,
    pub drum_id: i64,
    pub drum_name: String,
    /// Milliseconds since 1970, UTC.
    pub done_at: i64,
    /// The devices in few words.
    pub words: String,
    pub devices: Vec<DeviceKind>,
    pub tested: Tested,
}

/// How strong the devices are, as far as tests tell, and how good predictions were.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WhatIsLearned {
    /// One for each kind of device.
    pub strengths: Vec<DeviceStrength>,
    pub score: Score,
    /// Newest first.
    pub tests: Vec<TestRow>,
}

/// What was learned.
#[utoipa::path(get, path = "/learned", tag = "shelf", responses((status = 200, body = WhatIsLearned)))]
pub async fn get_learned(State(state): State<AppState>) -> Result<Json<WhatIsLearned>, Problem> {
    let (measured, shelf) = state.store(|store| Ok((store.device_tests()?, store.shelf()?))).await?;
    let computing = state.clone();
    let work = move |_: Patience| {
        let tests = tests(&measured, &shelf);
        let learned = state.learning.of_tests(&measured, &shelf);
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
    };
    computing.compute(work).await.map(Json)
}
