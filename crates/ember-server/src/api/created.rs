//! What was made, with where it is found from now on.

use super::ROOT;
use super::opinions::{KeptChoice, KeptOpinion};
use super::shelf::ShelfDevice;
use super::upload::FileTake;
use crate::spoken::Json;
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use ember_app::views::{TakeView, TreatmentView};
use ember_store::{DataCopy, KeptDrum, KeptKit, KeptSetList, KeptSong, KeptVenue};
use serde::Serialize;

/// Answers 201 with the address of what was made (RFC 9110, 10.2.2), or 200 where nothing had to be.
pub struct Created<T>(pub T);

/// What has an address.
pub trait Addressed {
    /// Its path under the API's root; none where it does not exist.
    fn path(&self) -> Option<String>;
}

impl<T: Addressed + Serialize> IntoResponse for Created<T> {
    fn into_response(self) -> Response {
        let location = self.0.path().and_then(|path| HeaderValue::try_from(format!("{ROOT}{path}")).ok());
        match location {
            Some(location) => (StatusCode::CREATED, [(header::LOCATION, location)], Json(self.0)).into_response(),
            None => Json(self.0).into_response(),
        }
    }
}

macro_rules! addressed {
    ($($made:ty, |$it:ident| $path:expr;)+) => {
        $(impl Addressed for $made {
            fn path(&self) -> Option<String> {
                let $it = self;
                $path
            }
        })+
    };
}

addressed! {
    KeptDrum, |it| Some(format!("/drums/{}", it.id));
    Vec<KeptDrum>, |_it| Some("/kit".into());
    KeptKit, |it| Some(format!("/kits/{}", it.id));
    KeptSetList, |it| Some(format!("/set-lists/{}", it.id));
    KeptSong, |it| Some(format!("/songs/{}", it.id));
    KeptVenue, |it| Some(format!("/venues/{}", it.id));
    TakeView, |it| Some(format!("/takes/{}", it.take.id));
    FileTake, |it| it.take.path();
    TreatmentView, |it| Some(format!("/treatments/{}", it.id));
    ShelfDevice, |it| Some(format!("/shelf/own/{}", it.info.kind.code()));
    KeptOpinion, |it| Some(format!("/opinions/{}", it.id));
    KeptChoice, |it| it.id.map(|id| format!("/opinions/{id}"));
    Vec<DataCopy>, |_it| Some("/storage".into());
}
