//! In which language a request is answered: what the page asks for in its cookie, or else what the browser speaks.

use axum::extract::Request;
use axum::http::{HeaderMap, HeaderValue, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use ember_words::{Language, said_in};
use serde::Serialize;

/// The cookie in which the page keeps what its user chose. A cookie goes along with sheets and sockets too.
const COOKIE: &str = "language";

tokio::task_local! {
    static LANGUAGE: Language;
}

/// The language of the request that is being answered.
pub fn language() -> Language {
    LANGUAGE.try_with(|language| *language).unwrap_or_default()
}

/// Does `task` in `language`.
pub async fn spoken<F: Future>(language: Language, task: F) -> F::Output {
    LANGUAGE.scope(language, task).await
}

/// Answers every request in its language, and says which one that is.
pub async fn in_its_language(request: Request, next: Next) -> Response {
    let language = asked_for(request.headers());
    let mut response = spoken(language, next.run(request)).await;
    response.headers_mut().insert(header::CONTENT_LANGUAGE, HeaderValue::from_static(language.code()));
    response.headers_mut().append(header::VARY, HeaderValue::from_static("accept-language, cookie"));
    response
}

fn asked_for(headers: &HeaderMap) -> Language {
    let all = |name| headers.get_all(name).into_iter().filter_map(|value| value.to_str().ok());
    let chosen = all(header::COOKIE)
        .flat_map(|cookies| cookies.split(';'))
        .filter_map(|cookie| cookie.trim().split_once('='))
        .find(|(name, _)| *name == COOKIE)
        .and_then(|(_, tag)| Language::of_tag(tag));
    chosen.or_else(|| all(header::ACCEPT_LANGUAGE).find_map(Language::of_list)).unwrap_or_default()
}

/// An answer as JSON, its sentences in the request's language.
pub struct Json<T>(pub T);

impl<T: Serialize> IntoResponse for Json<T> {
    fn into_response(self) -> Response {
        said_in(language(), || axum::Json(self.0).into_response())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_users_choice_comes_before_the_browsers() {
        let asked = |pairs: &[(header::HeaderName, &'static str)]| {
            let headers = pairs.iter().map(|(name, value)| (name.clone(), HeaderValue::from_static(value)));
            asked_for(&headers.collect::<HeaderMap>())
        };
        assert_eq!(asked(&[]), Language::English);
        assert_eq!(asked(&[(header::ACCEPT_LANGUAGE, "de-CH,de;q=0.9,en;q=0.5")]), Language::German);
        assert_eq!(asked(&[(header::ACCEPT_LANGUAGE, "de"), (header::COOKIE, "theme=dark; language=en")]), Language::English);
        assert_eq!(asked(&[(header::ACCEPT_LANGUAGE, "ja"), (header::COOKIE, "language=klingon")]), Language::English);
    }

    #[tokio::test]
    async fn an_answer_is_told_in_the_language_of_its_request() {
        let body = spoken(Language::German, async { Json(ember_words::words!("{:.1} s", 0.5)).into_response() }).await;
        let bytes = axum::body::to_bytes(body.into_body(), 100).await.unwrap();
        assert_eq!(bytes, "\"0,5 s\"");
    }
}
