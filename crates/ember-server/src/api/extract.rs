//! Axum's extractors, with their refusals as [`Problem`]s.

use crate::problem::Problem;
use axum::body::Bytes;
use axum::extract::{FromRequest, FromRequestParts, Request};
use axum::http::{HeaderMap, StatusCode, header};
use ember_words::{Words, text, words};
use serde::de::DeserializeOwned;
use serde_json::error::Category;

/// The body as JSON. What it names must be known: a field that is misspelt would be left out without a word.
pub struct Body<T>(pub T);

impl<S: Send + Sync, T: DeserializeOwned> FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        if !says_json(request.headers()) {
            let detail = text!("What is sent here must say that it is JSON (application/json).");
            return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, detail));
        }
        let bytes = Bytes::from_request(request, state).await.map_err(|refused| match refused.status() {
            status @ StatusCode::PAYLOAD_TOO_LARGE => Problem::new(status, text!("What was sent is too large: 16 MB at most.")),
            status => Problem::new(status, text!("What was sent could not be received to its end. Send it again.")),
        })?;
        read(&bytes).map(Self)
    }
}

fn says_json(headers: &HeaderMap) -> bool {
    let kind = headers.get(header::CONTENT_TYPE).and_then(|kind| kind.to_str().ok()).and_then(|kind| kind.parse::<mime::Mime>().ok());
    kind.is_some_and(|kind| kind.type_() == mime::APPLICATION && (kind.subtype() == mime::JSON || kind.suffix() == Some(mime::JSON)))
}

fn read<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, Problem> {
    let cannot_be = |reason: Words| Problem::unprocessable(words!("Something in it cannot be right ({reason})."));
    let mut json = serde_json::Deserializer::from_slice(bytes);
    let (mut track, mut unknown) = (serde_path_to_error::Track::new(), None);
    let tracked = serde_path_to_error::Deserializer::new(&mut json, &mut track);
    let read = serde_ignored::deserialize(tracked, |path| unknown = unknown.take().or(Some(path.to_string())));
    let error = match read.and_then(|value: T| json.end().map(|()| value)) {
        Ok(value) => match unknown {
            Some(field) => return Err(cannot_be(words!("there is no \"{field}\" here"))),
            None => return Ok(value),
        },
        Err(error) => error,
    };
    match error.classify() {
        Category::Data => {
            let reason = crate::problem::reason(&error.to_string());
            let path = track.path().to_string();
            Err(cannot_be(Words::verbatim(if path == "." { reason } else { format!("{path}: {reason}") })))
        }
        _ => Err(Problem::new(StatusCode::BAD_REQUEST, text!("What was sent is cut off, or no JSON."))),
    }
}

/// Numbers in the address.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(Problem))]
pub struct Path<T>(pub T);

/// What follows the question mark.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(Problem))]
pub struct Query<T>(pub T);

#[cfg(test)]
mod tests {
    use super::*;
    use ember_words::{Language, said_in};
    use serde::Deserialize;

    #[derive(Debug, PartialEq, Deserialize)]
    struct Song {
        bpm: f64,
        #[serde(default)]
        parts: Vec<Part>,
    }

    #[derive(Debug, PartialEq, Deserialize)]
    #[serde(rename_all = "snake_case")]
    enum Part {
        Verse,
        Chorus,
    }

    fn refused(json: &str) -> String {
        let problem = read::<Song>(json.as_bytes()).unwrap_err();
        said_in(Language::English, || serde_json::to_value(problem)).unwrap()["detail"].as_str().unwrap().to_string()
    }

    #[test]
    fn a_body_is_read_or_refused_where_it_is_wrong() {
        assert_eq!(read::<Song>(br#"{"bpm": 96, "parts": ["verse"]}"#).unwrap(), Song { bpm: 96.0, parts: vec![Part::Verse] });
        assert_eq!(refused(r#"{"bpm": 96, "tempo": 96}"#), "Something in it cannot be right (there is no \"tempo\" here).");
        assert!(refused(r#"{"bpm": "fast"}"#).contains("(bpm: invalid type: string \"fast\""));
        assert!(refused(r#"{"bpm": 96, "parts": ["bridge"]}"#).contains("(parts[0]: unknown variant `bridge`)"));
        for broken in ["", "{\"bpm\": 96", "{\"bpm\": 96} more"] {
            assert_eq!(refused(broken), "What was sent is cut off, or no JSON.", "{broken}");
        }
    }
}
