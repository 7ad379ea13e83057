//! What the user's own tests say about the devices.

use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use ember_app::learned::{WhatIsLearned, what_is_learned};
use ember_store::Store;

/// What was learned.
#[utoipa::path(get, path = "/learned", tag = "shelf", responses((status = 200, body = WhatIsLearned)))]
pub async fn get_learned(State(state): State<AppState>) -> Result<Json<WhatIsLearned>, Problem> {
    let read = |store: &Store| Ok((store.device_tests()?, store.shelf()?));
    state.answer(read, |(measured, shelf), learning, _| Ok(what_is_learned(measured, shelf, learning))).await.map(Json)
}
