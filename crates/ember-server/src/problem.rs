//! Errors as problem+json (RFC 9457), with a sentence that a drummer understands.

use crate::spoken::Json;
use axum::extract::rejection::{PathRejection, QueryRejection};
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use ember_app::Refusal;
use ember_store::StoreError;
use ember_words::{Say, Words, text, words};
use serde::Serialize;
use utoipa::ToSchema;

/// What went wrong.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Problem {
    /// Which kind of problem it is, for programs.
    #[serde(rename = "type")]
    kind: &'static str,
    /// The HTTP status in words.
    title: &'static str,
    status: u16,
    /// What happened and what to do, for the person at the page.
    detail: Words,
}

impl Problem {
    /// A problem with a `detail` for the person at the page.
    pub fn new(status: StatusCode, detail: impl Into<Words>) -> Self {
        let title = status.canonical_reason().unwrap_or("Error");
        Self { kind: kind(status), title, status: status.as_u16(), detail: detail.into() }
    }

    /// The request makes no sense as it is.
    pub fn unprocessable(detail: impl Into<Words>) -> Self {
        Self::new(StatusCode::UNPROCESSABLE_ENTITY, detail)
    }

    /// What cannot be, for the reason that `error` gives.
    pub fn cannot_be(error: impl Say) -> Self {
        Self::unprocessable(error.words())
    }

    /// It would make sense in another state of things.
    pub fn conflict(detail: impl Into<Words>) -> Self {
        Self::new(StatusCode::CONFLICT, detail)
    }

    /// The program is at fault; the log says how.
    pub fn internal() -> Self {
        Self::new(StatusCode::INTERNAL_SERVER_ERROR, text!("Something went wrong inside Soft Ember. What was kept before is safe."))
    }
}

/// A name for each kind of problem; where the status says all, as RFC 9457 has it.
fn kind(status: StatusCode) -> &'static str {
    match status {
        StatusCode::FORBIDDEN => "urn:soft-ember:problem:read-only",
        StatusCode::NOT_FOUND => "urn:soft-ember:problem:not-there",
        StatusCode::CONFLICT => "urn:soft-ember:problem:not-now",
        StatusCode::GONE => "urn:soft-ember:problem:damaged",
        StatusCode::UNPROCESSABLE_ENTITY => "urn:soft-ember:problem:cannot-be",
        StatusCode::SERVICE_UNAVAILABLE => "urn:soft-ember:problem:in-use",
        StatusCode::INSUFFICIENT_STORAGE => "urn:soft-ember:problem:no-room",
        _ => "about:blank",
    }
}

/// The reason in a deserialization error, without the sentence before it, without line and column, and without all that would have been right.
pub(crate) fn reason(said: &str) -> String {
    let said = said.split_once("query string: ").map_or(said, |(_, reason)| reason);
    let said = said.split(" at line ").next().unwrap_or(said);
    let said = if said.contains("unknown variant") { said.split(", expected ").next().unwrap_or(said) } else { said };
    said.trim_end_matches('.').to_string()
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
            StoreError::NotFound { .. } => Self::new(StatusCode::NOT_FOUND, error.words()),
            StoreError::Refused(refused) => Self::conflict(refused.words()),
            StoreError::Damaged { .. } => Self::new(StatusCode::GONE, error.words()),
            StoreError::Full => Self::new(StatusCode::INSUFFICIENT_STORAGE, error.words()),
            StoreError::ReadOnly => Self::new(StatusCode::FORBIDDEN, error.words()),
            StoreError::InUse { .. } => Self::new(StatusCode::SERVICE_UNAVAILABLE, error.words()),
            StoreError::Corrupt => Self::new(StatusCode::INTERNAL_SERVER_ERROR, error.words()),
            other => {
                tracing::error!("{other}");
                Self::internal()
            }
        }
    }
}

impl From<Refusal> for Problem {
    fn from(refusal: Refusal) -> Self {
        let detail = refusal.words();
        match refusal {
            Refusal::Store(error) => error.into(),
            Refusal::NotMeasured => Self { kind: "urn:soft-ember:problem:not-measured", ..Self::conflict(detail) },
            Refusal::NoBody => Self { kind: "urn:soft-ember:problem:no-clear-body", ..Self::conflict(detail) },
            Refusal::NotHitYet => Self { kind: "urn:soft-ember:problem:not-hit-yet", ..Self::conflict(detail) },
            Refusal::NotNow(_) => Self::conflict(detail),
            Refusal::CannotBe(_) => Self::unprocessable(detail),
        }
    }
}

impl From<PathRejection> for Problem {
    fn from(_: PathRejection) -> Self {
        Self::new(StatusCode::NOT_FOUND, text!("There is nothing at this address."))
    }
}

impl From<QueryRejection> for Problem {
    fn from(rejection: QueryRejection) -> Self {
        Self::unprocessable(words!("Something after the question mark cannot be right ({}).", reason(&rejection.body_text())))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_serde_says_is_cut_to_its_reason() {
        assert_eq!(
            reason("invalid type: string \"fast\", expected f64 at line 1 column 20"),
            "invalid type: string \"fast\", expected f64"
        );
        assert_eq!(reason("unknown variant `bridge`, expected one of `verse`, `chorus`"), "unknown variant `bridge`");
        assert_eq!(
            reason("Failed to deserialize query string: limit: invalid digit found in string"),
            "limit: invalid digit found in string"
        );
        assert_eq!(reason("something else."), "something else");
    }
}
