//! Axum's extractors, with their refusals as [`Problem`]s.

use crate::problem::Problem;
use axum::extract::{FromRequest, FromRequestParts};

/// The body as JSON.
#[derive(FromRequest)]
#[from_request(via(axum::Json), rejection(Problem))]
pub struct Body<T>(pub T);

/// Numbers in the address.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(Problem))]
pub struct Path<T>(pub T);

/// What follows the question mark.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(Problem))]
pub struct Query<T>(pub T);
