//! Plans that were carried out: what is on a drum, and what was on it before.

use super::created::Created;
use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use ember_app::PlanSnapshot;
use ember_app::opinions;
use ember_app::plans::promised;
use ember_app::treatments::{UsedBefore, treatment_view, used_before};
use ember_app::views::TreatmentView;
use ember_core::damping::Placement;
use ember_core::plan::{Offer, Plan};
use ember_store::Store;
use serde::Deserialize;
use utoipa::ToSchema;

/// A plan that was carried out.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewTreatment {
    pub offer: Offer,
    pub placements: Vec<Placement>,
}

/// Says that a plan was carried out. What it should do is worked out here, not taken from the page.
#[utoipa::path(post, path = "/drums/{id}/treatments", tag = "plans", request_body = NewTreatment, params(("id" = i64, Path)),
    responses((status = 201, body = TreatmentView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn put_on(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(new): Body<NewTreatment>,
) -> Result<Created<TreatmentView>, Problem> {
    let read = move |store: &Store| PlanSnapshot::read(store, id);
    let promise = state.answer(read, move |snapshot, learning, patience| {
        // What cannot be laid on at all is refused before anything has to be measured.
        let plan = promised(snapshot, new.offer, new.placements, learning, patience)?;
        Ok((snapshot.now.measured_open()?.id, plan))
    });
    let (open_take_id, plan) = promise.await?;
    carried_out(&state, id, open_take_id, plan).await
}

/// Keeps that `plan`, which starts from the take `open_take_id`, is on the drum.
pub(super) async fn carried_out(state: &AppState, drum_id: i64, open_take_id: i64, plan: Plan) -> Result<Created<TreatmentView>, Problem> {
    let work = move |store: &mut Store| {
        let kept = store.put_on(drum_id, open_take_id, &plan, now_ms())?;
        treatment_view(store, kept)
    };
    Ok(Created(state.store(work).await?))
}

/// Every layout that was on the drum before: those with names first, then the newest.
#[utoipa::path(get, path = "/drums/{id}/treatments", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<UsedBefore>), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn list_used_before(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Vec<UsedBefore>>, Problem> {
    state.store(move |store| used_before(store, id)).await.map(Json)
}

/// One treatment.
#[utoipa::path(get, path = "/treatments/{id}", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = TreatmentView), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn treatment(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<TreatmentView>, Problem> {
    let work = move |store: &mut Store| {
        let kept = store.treatment(id)?;
        treatment_view(store, kept)
    };
    state.store(work).await.map(Json)
}

/// What changes about a treatment.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TreatmentChange {
    /// False takes it off, true puts it back on.
    #[serde(default)]
    pub on: Option<bool>,
    /// What it is called; empty takes the name away.
    #[serde(default)]
    pub name: Option<String>,
}

/// Takes a treatment off, puts it back on, or names it.
#[utoipa::path(patch, path = "/treatments/{id}", tag = "plans", request_body = TreatmentChange, params(("id" = i64, Path)),
    responses((status = 200, body = TreatmentView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "Something else is on the drum.", body = Problem, content_type = "application/problem+json")))]
pub async fn change_treatment(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(change): Body<TreatmentChange>,
) -> Result<Json<TreatmentView>, Problem> {
    let work = move |store: &mut Store| {
        let mut kept = store.treatment(id)?;
        if let Some(name) = &change.name {
            kept = store.name_treatment(id, name)?;
        }
        if let Some(on) = change.on {
            kept = if on { opinions::put_back(store, id)? } else { opinions::take_off(store, id, now_ms())? };
        }
        treatment_view(store, kept)
    };
    state.store(work).await.map(Json)
}
