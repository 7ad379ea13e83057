//! The API under `/api/v1`. What the page knows of the server is generated from the OpenAPI document made here.

mod bench;
mod extract;
mod guard;
mod kit;
mod listen;
mod plans;
mod shelf;
mod takes;
mod tonight;
mod upload;

use crate::problem::Problem;
use crate::state::AppState;
use crate::web_files;
use axum::http::StatusCode;
use axum::{Router, middleware, routing::get};
use ember_core::drum::DrumKind;
use ember_core::target::Wanted;
use ember_store::{KeptTonight, StoreError};
use tower_http::compression::CompressionLayer;
use tower_http::compression::predicate::{DefaultPredicate, NotForContentType, Predicate};
use utoipa::OpenApi;
use utoipa_axum::{router::OpenApiRouter, routes};

#[derive(OpenApi)]
#[openapi(
    info(title = "Soft Ember", description = "Measuring drums, and planning how to muffle them. Served on this machine only."),
    components(schemas(Problem))
)]
struct Document;

fn described() -> (Router<AppState>, utoipa::openapi::OpenApi) {
    let v1 = OpenApiRouter::new()
        .routes(routes!(kit::get_kit))
        .routes(routes!(kit::add_drum))
        .routes(routes!(kit::change_drum, kit::remove_drum))
        .routes(routes!(tonight::get_tonight, tonight::set_tonight))
        .routes(routes!(tonight::genres))
        .routes(routes!(shelf::get_shelf))
        .routes(routes!(shelf::set_shelf))
        .routes(routes!(bench::get_bench))
        .routes(routes!(takes::get_take, takes::remove_take))
        .routes(routes!(takes::change_strike))
        .routes(routes!(takes::strike_sound))
        .routes(routes!(upload::add_file))
        .routes(routes!(listen::listen))
        .routes(routes!(plans::get_plans))
        .routes(routes!(plans::put_on))
        .routes(routes!(plans::change_treatment));
    OpenApiRouter::with_openapi(Document::openapi()).nest("/api/v1", v1).split_for_parts()
}

/// The OpenAPI document as JSON.
pub fn openapi() -> String {
    let (_, document) = described();
    // Serialising plain data cannot fail.
    document.to_pretty_json().unwrap_or_default() + "\n"
}

/// Everything the server answers: the API, its description and the page.
pub fn router(state: AppState) -> Router {
    let nothing = || async { Problem::new(StatusCode::NOT_FOUND, "There is nothing at this address.") };
    // Sound is packed already, and zipping would take its ranges away.
    let zipped = DefaultPredicate::new().and(NotForContentType::const_new("audio/"));
    let (api, _) = described();
    api.route("/api/v1/openapi.json", get(|| async { ([(axum::http::header::CONTENT_TYPE, "application/json")], openapi()) }))
        .route("/api/{*rest}", axum::routing::any(nothing))
        .fallback(web_files::serve)
        .method_not_allowed_fallback(|| async { Problem::new(StatusCode::METHOD_NOT_ALLOWED, "This cannot be done at this address.") })
        .layer(CompressionLayer::new().compress_when(zipped))
        .layer(middleware::from_fn(guard::guard))
        .with_state(state)
}

/// What `tonight` leaves room for on a drum of `kind`.
fn wanted_for(tonight: &KeptTonight, kind: DrumKind) -> Result<Wanted, StoreError> {
    Wanted::new(&tonight.tonight, kind).map_err(StoreError::Refused)
}
