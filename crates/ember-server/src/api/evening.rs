//! The evening: one setup for each song and drum, in three weighings.

use super::extract::Path;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use ember_app::evening::{EveningQuestion, EveningView, evening};
use ember_core::Patience;

/// Works the set list out: for each song and drum a setup, in three weighings.
#[utoipa::path(get, path = "/set-lists/{id}/evening", tag = "set lists", params(("id" = i64, Path)),
    responses((status = 200, body = EveningView), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_evening(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<EveningView>, Problem> {
    let mut question = state.store(move |store| EveningQuestion::read(store, id)).await?;
    let computing = state.clone();
    let work = move |patience: Patience| {
        question.learn(&state.learning);
        Json(evening(&question, &state.setups, patience))
    };
    computing.compute(work).await
}
