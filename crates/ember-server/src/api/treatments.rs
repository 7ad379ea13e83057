//! Plans that were carried out: what is on a drum, and what was on it before.

use super::extract::{Body, Path};
use super::plans::worked_out;
use super::wanted_of;
use crate::problem::Problem;
use crate::state::{AppState, now_ms};
use crate::views::TreatmentView;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use ember_core::damping::Placement;
use ember_core::plan::{Offer, evaluate, validate_layout};
use ember_core::target::{Assessment, assess};
use ember_store::{KeptTreatment, Store};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Treatments among which they are looked for: those with names, and the newest.
const MOST_LOOKED_AT: usize = 120;
/// Layouts from before that are listed.
const MOST_BEFORE: usize = 40;

/// A plan that was carried out.
#[derive(Debug, Clone, Deserialize, ToSchema)]
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
) -> Result<(StatusCode, Json<TreatmentView>), Problem> {
    let (found, open_take_id, asked) =
        worked_out(&state, id, new.placements, move |question, placements| evaluate(question, new.offer, placements)).await?;
    let kept = state.store(move |store| store.put_on(id, open_take_id, &found, now_ms())).await?;
    Ok((StatusCode::CREATED, Json(TreatmentView::new(kept, &asked.drum.drum, &asked.wanted))))
}

/// What was on the drum before, once.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct UsedBefore {
    /// How often this very layout was on the drum.
    pub times: usize,
    pub treatment: TreatmentView,
    /// How the drum sounded with it, held against what is wanted now; as expected where it was not measured.
    pub assessment: Assessment,
    pub measured: bool,
}

/// Every layout that was on the drum before: those with names first, then the newest.
#[utoipa::path(get, path = "/drums/{id}/treatments", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<UsedBefore>), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn used_before(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Vec<UsedBefore>>, Problem> {
    let work = move |store: &mut Store| {
        let drum = store.drum(id)?;
        let wanted = wanted_of(store, &store.scene()?, &drum)?;
        let all = store.treatments(id, MOST_LOOKED_AT)?;
        let fits = |kept: &KeptTreatment| validate_layout(&drum.drum, &kept.plan.placements).is_ok();
        let mut before: Vec<UsedBefore> = Vec::new();
        for kept in all.into_iter().filter(|kept| fits(kept)) {
            if let Some(same) = before.iter_mut().find(|same| same.treatment.plan.plan.placements == kept.plan.placements) {
                // The newest one stands for all, but a name stays.
                same.treatment.name = same.treatment.name.take().or(kept.name);
                continue;
            }
            let found = store.newest_take(id, Some(kept.id))?;
            let treatment = TreatmentView::new(kept, &drum.drum, &wanted);
            let attack = Some(treatment.plan.plan.expected.attack_lost_db);
            let heard = found.as_ref().map(|take| assess(&take.partials, &take.summary.profile, &wanted, attack));
            before.push(UsedBefore {
                times: 1,
                measured: heard.is_some(),
                assessment: heard.unwrap_or_else(|| treatment.plan.plan.assessment.clone()),
                treatment,
            });
        }
        before.sort_by_key(|used| used.treatment.name.is_none());
        before.truncate(MOST_BEFORE);
        for used in &mut before {
            used.times = store.times_used(id, used.treatment.id)?;
        }
        Ok(before)
    };
    state.store(work).await.map(Json)
}

/// What changes about a treatment.
#[derive(Debug, Clone, Deserialize, ToSchema)]
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
            kept = if on { store.put_back(id)? } else { store.take_off(id, now_ms())? };
        }
        let drum = store.drum(kept.drum_id)?;
        let wanted = wanted_of(store, &store.scene()?, &drum)?;
        Ok(TreatmentView::new(kept, &drum.drum, &wanted))
    };
    state.store(work).await.map(Json)
}
