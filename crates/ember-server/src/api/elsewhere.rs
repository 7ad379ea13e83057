//! Strikes that were on another drum than the one that was asked for: which they are, and keeping them where they belong.

use super::created::Created;
use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::body::Bytes;
use axum::extract::State;
use axum::extract::rejection::BytesRejection;
use ember_app::elsewhere::{Elsewhere, Labelled, elsewhere, labelled};
use ember_app::song_file::as_text;
use ember_app::sound::read_labels;
use ember_app::takes::take_view;
use ember_app::views::TakeView;
use ember_store::Store;
use ember_words::text;
use serde::Deserialize;
use utoipa::ToSchema;

/// Which strikes of a take sound like another drum: those that were left out for it, or most of them.
#[utoipa::path(get, path = "/takes/{id}/elsewhere", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<Elsewhere>), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_elsewhere(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Vec<Elsewhere>>, Problem> {
    state.store(move |store| elsewhere(store, &store.take(id)?)).await.map(Json)
}

/// Strikes to be kept on a drum.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct Moved {
    /// Numbers of strikes of one take.
    pub strikes: Vec<i64>,
    /// The take that they join; a new one where it is not given.
    pub take: Option<i64>,
    /// They sound like another drum and do not count: this is how a move is undone.
    #[serde(default)]
    pub elsewhere: bool,
}

/// Keeps strikes of another drum's take on this drum.
#[utoipa::path(post, path = "/drums/{id}/takes/strikes", tag = "takes", request_body = Moved, params(("id" = i64, Path)),
    responses((status = 201, body = TakeView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json")))]
pub async fn keep_strikes(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(moved): Body<Moved>,
) -> Result<Created<TakeView>, Problem> {
    let work = move |store: &mut Store| {
        let take = store.move_strikes(&moved.strikes, id, moved.take, moved.elsewhere)?;
        take_view(store, take)
    };
    state.store(work).await.map(Created)
}

/// Reads a label track (a line a label: start and end in seconds and a name, tab-separated) for a take from a sound file: hits under the name of
/// another drum of the kit are kept there, and hits under no label are left out.
#[utoipa::path(post, path = "/takes/{id}/labels", tag = "takes", params(("id" = i64, Path)),
    request_body(content = String, content_type = "text/plain"),
    responses((status = 200, body = Labelled), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn label_take(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    bytes: Result<Bytes, BytesRejection>,
) -> Result<Json<Labelled>, Problem> {
    let bytes = bytes.map_err(|refused| {
        Problem::new(refused.status(), text!("The label track is too large, or broke off on its way. Send it again."))
    })?;
    let labels = read_labels(&as_text(&bytes)).map_err(Problem::cannot_be)?;
    state.store(move |store| labelled(store, id, &labels)).await.map(|notes| Json(Labelled { notes }))
}
