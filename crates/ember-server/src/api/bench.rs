//! The bench: all that is known about one drum, wanted of it and done to it.

use super::extract::Path;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use ember_app::bench::{Bench, bench};

/// Reads the bench.
#[utoipa::path(get, path = "/drums/{id}/bench", tag = "bench", params(("id" = i64, Path)),
    responses((status = 200, body = Bench), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_bench(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Bench>, Problem> {
    state.store(move |store| bench(store, id)).await.map(Json)
}
