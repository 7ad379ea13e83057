//! The devices known, and how many of each the user owns.

use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use ember_core::damping::{DeviceInfo, DeviceKind, device_info};
use ember_core::plan::ShelfItem;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A device with how many of it are owned.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ShelfDevice {
    pub count: u32,
    #[serde(flatten)]
    pub info: DeviceInfo,
}

/// How many are owned.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct ShelfCount {
    /// 0 to 99.
    pub count: u32,
}

/// Every known device.
#[utoipa::path(get, path = "/shelf", tag = "shelf", responses((status = 200, body = Vec<ShelfDevice>)))]
pub async fn get_shelf(State(state): State<AppState>) -> Result<Json<Vec<ShelfDevice>>, Problem> {
    let items = state.store(|store| store.shelf()).await?;
    Ok(Json(items.into_iter().map(|item| ShelfDevice { count: item.count, info: *device_info(item.device) }).collect()))
}

/// Says how many of a device are owned.
#[utoipa::path(put, path = "/shelf/{device}", tag = "shelf", request_body = ShelfCount, params(("device" = DeviceKind, Path)),
    responses((status = 200, body = ShelfItem), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn set_shelf(
    State(state): State<AppState>,
    Path(device): Path<DeviceKind>,
    Body(ShelfCount { count }): Body<ShelfCount>,
) -> Result<Json<ShelfItem>, Problem> {
    let item = ShelfItem { device, count };
    if count > 99 {
        return Err(Problem::unprocessable("A shelf holds at most 99 of one device."));
    }
    state.store(move |store| store.set_shelf_item(item)).await?;
    Ok(Json(item))
}
