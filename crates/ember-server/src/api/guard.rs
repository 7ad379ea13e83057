//! Keeps other web pages out: only a browser that was sent to this machine by name, from a page of this very server, is answered.

use crate::problem::Problem;
use axum::extract::Request;
use axum::http::{HeaderMap, HeaderName, HeaderValue, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use ember_words::text;

/// Sent with every answer. Inline styles are needed for lengths of bars, which are set as style attributes.
const HEADERS: [(HeaderName, &str); 5] = [
    (
        header::CONTENT_SECURITY_POLICY,
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; media-src 'self' blob:; object-src 'none'; \
         base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
    ),
    (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
    // No other page may show or play what is here.
    (HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
    (header::REFERRER_POLICY, "no-referrer"),
    (HeaderName::from_static("permissions-policy"), "microphone=(self), camera=(), geolocation=()"),
];

/// Refuses foreign hosts (another name that leads here) and foreign origins (another page's script).
pub async fn guard(request: Request, next: Next) -> Response {
    let mut response = match check(request.headers(), request.method(), request.uri().path()) {
        Ok(()) => next.run(request).await,
        Err(problem) => problem.into_response(),
    };
    for (name, value) in HEADERS {
        response.headers_mut().insert(name, HeaderValue::from_static(value));
    }
    response
}

fn check(headers: &HeaderMap, method: &Method, path: &str) -> Result<(), Problem> {
    let text = |name| headers.get(name).and_then(|value: &HeaderValue| value.to_str().ok());
    let refused = |detail| Problem::new(StatusCode::FORBIDDEN, detail);
    let host = text(header::HOST).unwrap_or_default();
    if !is_this_machine(host) {
        return Err(refused(text!("Soft Ember answers on this machine only. Open it at the address it printed when it started.")));
    }
    // Browsers say where a request comes from even where they name no origin: an image or a form of another page.
    let from_elsewhere = !matches!(text(HeaderName::from_static("sec-fetch-site")), None | Some("same-origin" | "none"));
    let opened =
        text(HeaderName::from_static("sec-fetch-mode")) == Some("navigate") && *method == Method::GET && !path.starts_with("/api/");
    if from_elsewhere && !opened {
        return Err(refused(text!("Another web page tried to reach Soft Ember; that is not allowed.")));
    }
    match headers.get(header::ORIGIN) {
        None => Ok(()),
        Some(_) if text(header::ORIGIN).and_then(|origin| origin.split_once("://")).is_some_and(|(_, authority)| authority == host) => {
            Ok(())
        }
        Some(_) => Err(refused(text!("Another web page tried to reach Soft Ember; that is not allowed."))),
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
        asked(Method::GET, "/api/v1/kit", pairs)
    }

    fn asked(method: Method, path: &str, pairs: &[(HeaderName, &str)]) -> bool {
        let mut headers = HeaderMap::new();
        for (name, value) in pairs {
            headers.insert(name.clone(), value.parse().unwrap());
        }
        check(&headers, &method, path).is_ok()
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
        let fetched = |site, mode| {
            [host("localhost:4747"), (HeaderName::from_static("sec-fetch-site"), site), (HeaderName::from_static("sec-fetch-mode"), mode)]
        };
        assert!(answer(&fetched("same-origin", "cors")) && answer(&fetched("none", "navigate")));
        assert!(!answer(&fetched("cross-site", "no-cors")) && !answer(&fetched("same-site", "websocket")));
        assert!(asked(Method::GET, "/", &fetched("cross-site", "navigate")), "a link to the page may be followed");
        assert!(!asked(Method::POST, "/", &fetched("cross-site", "navigate")) && !answer(&fetched("cross-site", "navigate")));
    }
}
