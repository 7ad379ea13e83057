//! Keeps other web pages out: only a browser that was sent to this machine by name, from a page of this very server, is answered.

use crate::problem::Problem;
use axum::extract::Request;
use axum::http::{HeaderMap, HeaderName, HeaderValue, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

/// Sent with every answer. Inline styles are needed for lengths of bars, which are set as style attributes.
const HEADERS: [(HeaderName, &str); 4] = [
    (
        header::CONTENT_SECURITY_POLICY,
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; media-src 'self' blob:; object-src 'none'; \
         base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
    ),
    (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
    (header::REFERRER_POLICY, "no-referrer"),
    (HeaderName::from_static("permissions-policy"), "microphone=(self), camera=(), geolocation=()"),
];

/// Refuses foreign hosts (another name that leads here) and foreign origins (another page's script).
pub async fn guard(request: Request, next: Next) -> Response {
    let mut response = match check(request.headers()) {
        Ok(()) => next.run(request).await,
        Err(problem) => problem.into_response(),
    };
    for (name, value) in HEADERS {
        response.headers_mut().insert(name, HeaderValue::from_static(value));
    }
    response
}

fn check(headers: &HeaderMap) -> Result<(), Problem> {
    let text = |name| headers.get(name).and_then(|value: &HeaderValue| value.to_str().ok());
    let refused = |detail| Problem::new(StatusCode::FORBIDDEN, detail);
    let host = text(header::HOST).unwrap_or_default();
    if !is_this_machine(host) {
        return Err(refused("Soft Ember answers on this machine only. Open it at the address it printed when it started."));
    }
    match headers.get(header::ORIGIN) {
        None => Ok(()),
        Some(_) if text(header::ORIGIN).and_then(|origin| origin.split_once("://")).is_some_and(|(_, authority)| authority == host) => {
            Ok(())
        }
        Some(_) => Err(refused("Another web page tried to reach Soft Ember; that is not allowed.")),
    }
}

fn is_this_machine(host: &str) -> bool {
    let name = match host.rsplit_once(':') {
        Some((name, port)) if port.bytes().all(|b| b.is_ascii_digit()) => name,
        _ => host,
    };
    ["127.0.0.1", "localhost", "[::1]"].contains(&name)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn answer(pairs: &[(HeaderName, &str)]) -> bool {
        let mut headers = HeaderMap::new();
        for (name, value) in pairs {
            headers.insert(name.clone(), value.parse().unwrap());
        }
        check(&headers).is_ok()
    }

    #[test]
    fn only_this_machine_and_this_page_are_let_in() {
        let host = |value| (header::HOST, value);
        let origin = |value| (header::ORIGIN, value);
        assert!(answer(&[host("127.0.0.1:4747")]));
        assert!(answer(&[host("localhost:4747"), origin("http://localhost:4747")]));
        assert!(answer(&[host("[::1]:4747")]));
        assert!(!answer(&[]));
        assert!(!answer(&[host("drums.example:4747")]));
        assert!(!answer(&[host("127.0.0.1.example")]));
        assert!(!answer(&[host("localhost:4747"), origin("http://localhost:9999")]));
        assert!(!answer(&[host("localhost:4747"), origin("https://elsewhere.example")]));
        assert!(!answer(&[host("localhost:4747"), origin("null")]));
    }
}
