//! The API under `/api/v1`. What the page knows of the server is generated from the OpenAPI document made here.

mod audition;
mod bass;
mod bench;
mod blows;
mod created;
mod elsewhere;
mod evening;
mod extract;
mod fronts;
mod guard;
mod heads;
mod holes;
mod kit;
mod kits;
mod learned;
mod listen;
mod looks;
mod microphones;
mod notes;
mod opinions;
mod own_wish;
mod page;
mod plans;
mod presets;
mod set_lists;
mod shelf;
mod songs;
mod storage;
mod takes;
mod tonight;
mod treatments;
mod tuning;
mod uneven;
mod upload;
mod venues;

use crate::problem::Problem;
use crate::spoken::in_its_language;
use crate::state::AppState;
use crate::web_files;
use axum::extract::DefaultBodyLimit;
use axum::http::StatusCode;
use axum::{Router, middleware, routing::get};
use ember_words::text;
use std::time::Duration;
use tower_http::compression::CompressionLayer;
use tower_http::compression::predicate::{DefaultPredicate, NotForContentType, Predicate};
use tower_http::timeout::RequestBodyTimeoutLayer;
use utoipa::OpenApi;
use utoipa::openapi::path::ParameterIn;
use utoipa::openapi::{ContentBuilder, HeaderBuilder, Ref, RefOr, ResponseBuilder};
use utoipa_axum::{router::OpenApiRouter, routes};

/// Where the API is.
pub(crate) const ROOT: &str = "/api/v1";
/// A request of which nothing more comes for this long is given up.
const STALLED_AFTER: Duration = Duration::from_secs(30);
/// Largest request that is read whole, bytes.
const MOST_BODY_BYTES: usize = 16_000_000;

#[derive(OpenApi)]
#[openapi(
    info(title = "Soft Ember", description = "Measuring drums, and planning how to muffle them. Served on this machine only."),
    components(schemas(Problem))
)]
struct Document;

/// What is kept, and how much of it.
fn data_routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(storage::get_data))
        .routes(routes!(storage::get_storage))
        .routes(routes!(storage::set_thinning, storage::forget_thinning))
        .routes(routes!(storage::would_thin))
        .routes(routes!(storage::thin))
        .routes(routes!(storage::compact))
        .routes(routes!(storage::copy_now))
}

/// The kit, its drums, heads and rods.
fn kit_routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(kit::get_kit))
        .routes(routes!(kits::get_kits, kits::add_kit))
        .routes(routes!(kits::kit, kits::change_kit, kits::remove_kit))
        .routes(routes!(kits::bring_back_kit))
        .routes(routes!(kit::get_drum_kinds))
        .routes(routes!(kit::get_repairs))
        .routes(routes!(kit::get_usual_kits, kit::add_usual_kit))
        .routes(routes!(kit::add_drum))
        .routes(routes!(kit::drum, kit::change_drum, kit::remove_drum))
        .routes(routes!(tuning::get_tuning))
        .routes(routes!(tuning::set_wish))
        .routes(routes!(tuning::set_turned))
        .routes(routes!(tuning::remove_round))
        .routes(routes!(tuning::bring_back_round))
        .routes(routes!(heads::get_head, heads::put_on_head))
        .routes(routes!(heads::take_head_back))
        .routes(routes!(uneven::get_uneven, uneven::let_down))
        .routes(routes!(uneven::change_uneven, uneven::not_let_down))
        .routes(routes!(tuning::seated))
        .routes(routes!(tuning::get_kit_pitches))
        .routes(routes!(bass::listen_to_bass))
        .routes(routes!(tuning::seating))
        .routes(routes!(tuning::listen_to_taps))
}

/// What is played, where, and what is wanted.
fn evening_routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(tonight::get_tonight, tonight::set_tonight))
        .routes(routes!(presets::presets))
        .routes(routes!(presets::set_preset, presets::reset_preset))
        .routes(routes!(presets::wish_of_file))
        .routes(routes!(presets::usual))
        .routes(routes!(microphones::microphone_places))
        .routes(routes!(microphones::add_soundcheck))
        .routes(routes!(microphones::add_simulated_soundcheck))
        .routes(routes!(microphones::soundcheck))
        .routes(routes!(microphones::soundcheck_drums))
        .routes(routes!(own_wish::get_characters))
        .routes(routes!(own_wish::set_own_wish))
        .routes(routes!(opinions::say, opinions::forget))
        .routes(routes!(opinions::choose))
        .routes(routes!(opinions::take_back))
        .routes(routes!(opinions::recall))
        .routes(routes!(venues::choices))
        .routes(routes!(venues::venues, venues::add_venue))
        .routes(routes!(venues::venue, venues::change_venue, venues::remove_venue))
        .routes(routes!(venues::bring_back_venue))
        .routes(routes!(venues::measure_room))
        .routes(routes!(venues::measure_levels))
        .routes(routes!(songs::songs, songs::add_song))
        .routes(routes!(songs::song, songs::change_song, songs::remove_song))
        .routes(routes!(songs::bring_back_song))
        .routes(routes!(songs::preview_import))
        .routes(routes!(songs::import))
        .routes(routes!(songs::export))
        .routes(routes!(set_lists::set_lists, set_lists::add_set_list))
        .routes(routes!(set_lists::set_list, set_lists::change_set_list, set_lists::remove_set_list))
        .routes(routes!(set_lists::bring_back_set_list))
        .routes(routes!(set_lists::keep_plan))
        .routes(routes!(set_lists::set_played))
        .routes(routes!(evening::get_evening))
}

/// What was heard.
fn take_routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(bench::get_bench))
        .routes(routes!(takes::list_takes))
        .routes(routes!(takes::get_take, takes::change_take, takes::remove_take))
        .routes(routes!(takes::change_strike))
        .routes(routes!(takes::strike_sound))
        .routes(routes!(looks::look))
        .routes(routes!(looks::level_csv))
        .routes(routes!(looks::strikes_csv))
        .routes(routes!(looks::partials_csv))
        .routes(routes!(looks::labels))
        .routes(routes!(looks::measure_again))
        .routes(routes!(elsewhere::get_elsewhere))
        .routes(routes!(elsewhere::keep_strikes))
        .routes(routes!(elsewhere::label_take))
        .routes(routes!(upload::add_file))
        .routes(routes!(upload::reading))
        .routes(routes!(listen::listen))
        .routes(routes!(notes::listen_to_notes))
}

/// What could be done, and what was.
fn plan_routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(shelf::get_shelf))
        .routes(routes!(shelf::get_shelf_sets, shelf::add_shelf_set))
        .routes(routes!(shelf::set_shelf))
        .routes(routes!(shelf::add_own))
        .routes(routes!(shelf::change_own, shelf::remove_own))
        .routes(routes!(learned::get_learned))
        .routes(routes!(audition::what_is_heard))
        .routes(routes!(audition::audition_sound))
        .routes(routes!(fronts::change_front))
        .routes(routes!(fronts::front_outlook))
        .routes(routes!(blows::blow_outlook))
        .routes(routes!(blows::get_note_ends))
        .routes(routes!(fronts::try_front))
        .routes(routes!(fronts::decline_trial))
        .routes(routes!(holes::check_hole))
        .routes(routes!(holes::template_pdf))
        .routes(routes!(holes::template_svg))
        .routes(routes!(plans::get_plans))
        .routes(routes!(plans::get_passed_over))
        .routes(routes!(plans::get_next_step))
        .routes(routes!(plans::get_lesson))
        .routes(routes!(plans::lay_out))
        .routes(routes!(treatments::put_on, treatments::list_used_before))
        .routes(routes!(treatments::treatment, treatments::change_treatment))
}

fn described() -> (Router<AppState>, utoipa::openapi::OpenApi) {
    let v1 = data_routes().merge(kit_routes()).merge(evening_routes()).merge(take_routes()).merge(plan_routes());
    let (router, mut document) = OpenApiRouter::with_openapi(Document::openapi()).nest(ROOT, v1).split_for_parts();
    declare_refusals(&mut document);
    (router, document)
}

/// Declares, of every operation, how a request is refused that cannot be read: that is the extractors' matter and no handler's.
fn declare_refusals(document: &mut utoipa::openapi::OpenApi) {
    let refusal = |words: &str| {
        let content = ContentBuilder::new().schema(Some(Ref::from_schema_name("Problem"))).build();
        RefOr::T(ResponseBuilder::new().description(words).content("application/problem+json", content).build())
    };
    for item in document.paths.paths.values_mut() {
        let operations = [&mut item.get, &mut item.put, &mut item.post, &mut item.delete, &mut item.patch];
        for operation in operations.into_iter().flatten() {
            if let Some(RefOr::T(made)) = operation.responses.responses.get_mut("201") {
                let location = HeaderBuilder::new().description(Some("Where it is found from now on.")).build();
                made.headers.insert("location".into(), RefOr::T(location));
            }
            let parameters = operation.parameters.iter().flatten();
            let parameter_in =
                |place: ParameterIn| parameters.clone().any(|it| matches!(it, RefOr::T(parameter) if parameter.parameter_in == place));
            let in_query = parameter_in(ParameterIn::Query);
            let has_json = matches!(&operation.request_body, Some(RefOr::T(body)) if body.content.contains_key("application/json"));
            let mut may_answer = vec![("403", "Asked by another web page, or the data can only be read.")];
            if parameter_in(ParameterIn::Path) {
                may_answer.push(("404", "There is nothing at this address."));
            }
            if has_json {
                may_answer.extend([
                    ("400", "The body is no JSON."),
                    ("413", "The body is too large."),
                    ("415", "The body is said to be something else than JSON."),
                ]);
            }
            if has_json || in_query {
                may_answer.push(("422", "It can be read, and makes no sense."));
            }
            for (status, words) in may_answer {
                operation.responses.responses.entry(status.to_string()).or_insert_with(|| refusal(words));
            }
        }
    }
}

/// The OpenAPI document as JSON.
pub fn openapi() -> String {
    let (_, document) = described();
    // Serialising plain data cannot fail.
    document.to_pretty_json().unwrap_or_default() + "\n"
}

/// Everything the server answers: the API, its description and the page.
pub fn router(state: AppState) -> Router {
    let nothing = || async { Problem::new(StatusCode::NOT_FOUND, text!("There is nothing at this address.")) };
    // Sound is packed already, and zipping would take its ranges away.
    let zipped = DefaultPredicate::new().and(NotForContentType::const_new("audio/"));
    let (api, _) = described();
    api.route(&format!("{ROOT}/openapi.json"), get(|| async { ([(axum::http::header::CONTENT_TYPE, "application/json")], openapi()) }))
        .route("/api/{*rest}", axum::routing::any(nothing))
        .fallback(web_files::serve)
        .method_not_allowed_fallback(|| async {
            Problem::new(StatusCode::METHOD_NOT_ALLOWED, text!("This cannot be done at this address."))
        })
        .layer(CompressionLayer::new().compress_when(zipped))
        // Lists of thousands of songs; sound files are bounded where they are read.
        .layer(DefaultBodyLimit::max(MOST_BODY_BYTES))
        .layer(RequestBodyTimeoutLayer::new(STALLED_AFTER))
        .layer(middleware::from_fn(guard::guard))
        .layer(middleware::from_fn(in_its_language))
        .with_state(state)
}
