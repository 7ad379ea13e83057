//! Where a hole in a drum's other end may go, and the template to cut it by.

use super::extract::{Path, Query};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use axum::http::header;
use axum::response::IntoResponse;
use ember_app::sheet::{as_pdf, as_svg};
use ember_core::drum::{Drum, Front, Port};
use ember_core::kick::{Paper, PlaceAsk, PlaceFound, Template, TemplateSide, check_place, template};
use serde::Deserialize;
use utoipa::IntoParams;

/// A hole, and what it is checked against.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct HoleAsked {
    diameter_in: f64,
    /// Distance of its middle from the head's, as a part of the head's radius.
    radius: f64,
    /// Degrees from the floor, anticlockwise seen from outside.
    angle_deg: f64,
    /// Width of the reinforcing ring, mm; 0 without one.
    #[serde(default)]
    ring_mm: f64,
    /// Diameter of a logo in the middle that is to stay whole, mm; 0 without one.
    #[serde(default)]
    logo_mm: f64,
    #[serde(default)]
    #[param(inline)]
    side: TemplateSide,
    #[serde(default)]
    #[param(inline)]
    paper: Paper,
}

impl HoleAsked {
    /// What is asked about `drum`'s head, which counts as whole: a template is for a head that has no hole yet.
    fn of(self, drum: &Drum) -> Result<(Drum, PlaceAsk), Problem> {
        let ask = PlaceAsk {
            port: Port { diameter_in: self.diameter_in, radius: self.radius, angle_deg: self.angle_deg },
            ring_mm: self.ring_mm,
            logo_mm: self.logo_mm,
        };
        let whole = drum.with_front(&Front::Whole);
        ask.validate(&whole).map_err(Problem::cannot_be)?;
        Ok((whole, ask))
    }
}

/// Checks where a hole is to go.
#[utoipa::path(get, path = "/drums/{id}/hole", tag = "fronts", params(("id" = i64, Path), HoleAsked),
    responses((status = 200, body = PlaceFound), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn check_hole(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(hole): Query<HoleAsked>,
) -> Result<Json<PlaceFound>, Problem> {
    let drum = state.store(move |store| store.drum_with_heads(id)).await?.drum;
    let (drum, ask) = hole.of(&drum)?;
    Ok(Json(check_place(&drum, &ask)))
}

/// The template for a hole of the drum, and what to call it.
async fn made(state: &AppState, id: i64, hole: HoleAsked) -> Result<(Template, String), Problem> {
    let drum = state.store(move |store| store.drum_with_heads(id)).await?.drum;
    let (whole, ask) = hole.of(&drum)?;
    Ok((template(&whole, &ask, hole.side, hole.paper), format!("{} in hole, {}", hole.diameter_in, drum.name)))
}

/// The template for a hole as PDF, in full size.
#[utoipa::path(get, path = "/drums/{id}/hole/template.pdf", tag = "fronts", params(("id" = i64, Path), HoleAsked),
    responses((status = 200, body = Vec<u8>, content_type = "application/pdf"),
    (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn template_pdf(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(hole): Query<HoleAsked>,
) -> Result<impl IntoResponse, Problem> {
    let (template, title) = made(&state, id, hole).await?;
    let kind = [(header::CONTENT_TYPE, "application/pdf"), (header::CONTENT_DISPOSITION, "inline; filename=\"hole-template.pdf\"")];
    Ok((kind, as_pdf(&template, &title)))
}

/// The template for a hole as SVG, in full size.
#[utoipa::path(get, path = "/drums/{id}/hole/template.svg", tag = "fronts", params(("id" = i64, Path), HoleAsked),
    responses((status = 200, body = String, content_type = "image/svg+xml"),
    (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn template_svg(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(hole): Query<HoleAsked>,
) -> Result<impl IntoResponse, Problem> {
    let (template, _) = made(&state, id, hole).await?;
    let kind = [(header::CONTENT_TYPE, "image/svg+xml"), (header::CONTENT_DISPOSITION, "inline; filename=\"hole-template.svg\"")];
    Ok((kind, as_svg(&template)))
}
