//! The devices known, and how many of each the user owns; things of the user's own among them.

use super::created::Created;
use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::beginning::{ShelfSetInfo, shelf_sets};
use ember_core::damping::{DeviceInfo, DeviceKind, Made, Placement, ShelfSet, device_info};
use ember_core::plan::{Limits, ShelfItem};
use ember_store::{Store, StoreError};
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A device with how many of it are owned.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ShelfDevice {
    pub count: u32,
    /// What a thing of the user's own is; null for what the catalogue knows.
    pub made: Option<Made>,
    /// Attack that each of its amounts gives up as it is, dB.
    pub attack_db: Vec<f64>,
    /// Something done to the head itself: its count is 1 where that may be done, 0 where not.
    pub tuning: bool,
    /// Why it may not be used tonight, as a sentence; null where it may.
    pub ruled_out: Option<Text>,
    #[serde(flatten)]
    pub info: DeviceInfo,
}

impl ShelfDevice {
    /// As it may be used within `limits`.
    fn within(item: ShelfItem, limits: &Limits) -> Self {
        let info = *device_info(item.device);
        let placed = |amount| Placement { device: item.device, amount, radius: 0.0, angle_deg: 0.0, made: item.made, other_head: false };
        let attack_db = (0..info.amounts.len()).map(|amount| placed(amount).attack_db()).collect();
        Self {
            count: item.count,
            made: item.made,
            attack_db,
            tuning: item.device.is_tuning(),
            ruled_out: limits.rule_out(item.device),
            info,
        }
    }
}

/// All that is known of the shelf, as it may be used tonight.
fn shelf_of(store: &Store) -> Result<Vec<ShelfDevice>, StoreError> {
    let limits = store.scene()?.limits;
    Ok(store.shelf()?.into_iter().map(|item| ShelfDevice::within(item, &limits)).collect())
}

/// How many are owned.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct ShelfCount {
    /// 0 to 99.
    pub count: u32,
}

/// A thing of the user's own, as it is entered.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct OwnThing {
    /// At most 40 letters.
    pub name: String,
    /// m.
    pub length_m: f64,
    /// m.
    pub width_m: f64,
    /// kg.
    pub mass_kg: f64,
    /// 0 to 99.
    pub count: u32,
}

impl OwnThing {
    fn made(&self) -> Result<Made, Problem> {
        let name = self.name.trim().parse().map_err(|_| Problem::unprocessable(text!("The name is too long: 40 letters at most.")))?;
        let made = Made { name, length_m: self.length_m, width_m: self.width_m, mass_kg: self.mass_kg };
        made.validate().map_err(|error| Problem::unprocessable(error.to_string()))?;
        Ok(made)
    }
}

/// Every known device, and what the user made.
#[utoipa::path(get, path = "/shelf", tag = "shelf", responses((status = 200, body = Vec<ShelfDevice>)))]
pub async fn get_shelf(State(state): State<AppState>) -> Result<Json<Vec<ShelfDevice>>, Problem> {
    state.store(|store| shelf_of(store)).await.map(Json)
}

/// Says how many of a device are owned.
#[utoipa::path(put, path = "/shelf/{device}", tag = "shelf", request_body = ShelfCount, params(("device" = DeviceKind, Path)),
    responses((status = 200, body = ShelfItem), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn set_shelf(
    State(state): State<AppState>,
    Path(device): Path<DeviceKind>,
    Body(ShelfCount { count }): Body<ShelfCount>,
) -> Result<Json<ShelfItem>, Problem> {
    let item = ShelfItem::new(device, count);
    if count > 99 {
        return Err(Problem::unprocessable(text!("A shelf holds at most 99 of one device.")));
    }
    state.store(move |store| store.set_shelf_item(item)).await?;
    Ok(Json(item))
}

/// Sets of things that are usually to hand together.
#[utoipa::path(get, path = "/shelf/sets", tag = "shelf", responses((status = 200, body = Vec<ShelfSetInfo>)))]
pub async fn get_shelf_sets() -> Json<Vec<ShelfSetInfo>> {
    Json(shelf_sets())
}

/// A set that is to be put on the shelf.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct ShelfSetAsked {
    pub set: ShelfSet,
}

/// Puts a set on the shelf: of each of its things at least so many are owned then. Answers the whole shelf.
#[utoipa::path(post, path = "/shelf/sets", tag = "shelf", request_body = ShelfSetAsked,
    responses((status = 200, body = Vec<ShelfDevice>), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_shelf_set(
    State(state): State<AppState>,
    Body(ShelfSetAsked { set }): Body<ShelfSetAsked>,
) -> Result<Json<Vec<ShelfDevice>>, Problem> {
    state
        .store(move |store| {
            store.stock(&set.things())?;
            shelf_of(store)
        })
        .await
        .map(Json)
}

/// Puts a thing of the user's own on the shelf.
#[utoipa::path(post, path = "/shelf/own", tag = "shelf", request_body = OwnThing,
    responses((status = 201, body = ShelfDevice), (status = 409, description = "All places are taken.", body = Problem,
    content_type = "application/problem+json"), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_own(State(state): State<AppState>, Body(thing): Body<OwnThing>) -> Result<Created<ShelfDevice>, Problem> {
    let made = thing.made()?;
    let add = move |store: &mut Store| {
        let item = store.add_own(made, thing.count)?;
        Ok::<_, StoreError>(ShelfDevice::within(item, &store.scene()?.limits))
    };
    Ok(Created(state.store(add).await?))
}

/// Says anew what a thing of the user's own is, or brings it back. What was learned about another size or weight no longer counts.
#[utoipa::path(put, path = "/shelf/own/{device}", tag = "shelf", request_body = OwnThing, params(("device" = DeviceKind, Path)),
    responses((status = 200, body = ShelfDevice), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn change_own(
    State(state): State<AppState>,
    Path(device): Path<DeviceKind>,
    Body(thing): Body<OwnThing>,
) -> Result<Json<ShelfDevice>, Problem> {
    if !device.is_own() {
        return Err(Problem::unprocessable(text!("Only things of your own can be changed: the catalogue's are what they are.")));
    }
    let item = ShelfItem { device, count: thing.count, made: Some(thing.made()?) };
    let change = move |store: &mut Store| {
        store.set_shelf_item(item)?;
        Ok::<_, StoreError>(ShelfDevice::within(item, &store.scene()?.limits))
    };
    state.store(change).await.map(Json)
}

/// Takes a thing of the user's own off the shelf.
#[utoipa::path(delete, path = "/shelf/own/{device}", tag = "shelf", params(("device" = DeviceKind, Path)), responses((status = 204)))]
pub async fn remove_own(State(state): State<AppState>, Path(device): Path<DeviceKind>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.remove_own(device)).await?;
    Ok(StatusCode::NO_CONTENT)
}
