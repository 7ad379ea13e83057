//! Errors as problem+json (RFC 9457), with a sentence that a drummer understands.

use axum::Json;
use axum::extract::rejection::{JsonRejection, PathRejection, QueryRejection};
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use ember_store::StoreError;
use serde::Serialize;
use utoipa::ToSchema;

/// What went wrong.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Problem {
    #[serde(rename = "type")]
    kind: &'static str,
    /// The HTTP status in words.
    title: &'static str,
    status: u16,
    /// What happened and what to do, for the person at the page.
    detail: String,
}

impl Problem {
    pub fn new(status: StatusCode, detail: impl Into<String>) -> Self {
        let title = status.canonical_reason().unwrap_or("Error");
        Self { kind: "about:blank", title, status: status.as_u16(), detail: detail.into() }
    }

    /// The request makes no sense as it is.
    pub fn unprocessable(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::UNPROCESSABLE_ENTITY, detail)
    }

    /// It would make sense in another state of things.
    pub fn conflict(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::CONFLICT, detail)
    }

    /// The program is at fault; the log says how.
    pub fn internal() -> Self {
        Self::new(StatusCode::INTERNAL_SERVER_ERROR, "Something went wrong inside Soft Ember. What was kept before is safe.")
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let mut response = (status, Json(self)).into_response();
        response.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/problem+json"));
        response
    }
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::NotFound { .. } => Self::new(StatusCode::NOT_FOUND, error.to_string()),
            StoreError::Refused(detail) => Self::conflict(detail),
            StoreError::Damaged { .. } => Self::new(StatusCode::GONE, error.to_string()),
            StoreError::Full => Self::new(StatusCode::INSUFFICIENT_STORAGE, error.to_string()),
            StoreError::ReadOnly => Self::new(StatusCode::FORBIDDEN, error.to_string()),
            StoreError::InUse { .. } => Self::new(StatusCode::SERVICE_UNAVAILABLE, error.to_string()),
            StoreError::Corrupt => Self::new(StatusCode::INTERNAL_SERVER_ERROR, error.to_string()),
            other => {
                tracing::error!("{other}");
                Self::internal()
            }
        }
    }
}

impl From<JsonRejection> for Problem {
    fn from(rejection: JsonRejection) -> Self {
        Self::new(rejection.status(), format!("The request cannot be read: {}.", rejection.body_text()))
    }
}

impl From<PathRejection> for Problem {
    fn from(_: PathRejection) -> Self {
        Self::new(StatusCode::NOT_FOUND, "There is nothing at this address.")
    }
}

impl From<QueryRejection> for Problem {
    fn from(rejection: QueryRejection) -> Self {
        Self::unprocessable(format!("The address cannot be read: {}.", rejection.body_text()))
    }
}
