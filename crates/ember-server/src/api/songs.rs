//! Songs, and lists of them in and out.

use super::created::Created;
use super::extract::{Body, Path, Query};
use super::page::Page;
use crate::computing::blocking;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::body::Bytes;
use axum::extract::State;
use axum::extract::rejection::BytesRejection;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use ember_app::song_file::MOST_SONGS;
use ember_app::song_file::{ReadSong, as_text, read_songs, songs_as_csv, songs_as_json};
use ember_core::target::Song;
use ember_store::{Entry, KeptSong, Store, StoreError};
use ember_words::{text, words};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// Which songs.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SongsAsked {
    /// Part of the title.
    #[serde(default)]
    search: String,
}

/// Some of the songs.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SongPage {
    pub songs: Vec<KeptSong>,
    /// How many there are in all that match.
    pub in_all: usize,
}

/// Songs by title.
#[utoipa::path(get, path = "/songs", tag = "songs", params(SongsAsked, Page), responses((status = 200, body = SongPage)))]
pub async fn songs(
    State(state): State<AppState>,
    Query(asked): Query<SongsAsked>,
    Query(page): Query<Page>,
) -> Result<Json<SongPage>, Problem> {
    let (songs, in_all) = state.store(move |store| store.find_songs(&asked.search, page.after, page.limit())).await?;
    Ok(Json(SongPage { songs, in_all }))
}

/// Adds a song.
#[utoipa::path(post, path = "/songs", tag = "songs", request_body = Song,
    responses((status = 201, body = KeptSong), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_song(State(state): State<AppState>, Body(song): Body<Song>) -> Result<Created<KeptSong>, Problem> {
    let song = checked(&state, song).await?;
    Ok(Created(state.store(move |store| store.add_song(&song)).await?))
}

/// One song.
#[utoipa::path(get, path = "/songs/{id}", tag = "songs", params(("id" = i64, Path)),
    responses((status = 200, body = KeptSong), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn song(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<KeptSong>, Problem> {
    state.store(move |store| store.song(id)).await.map(Json)
}

/// Changes a song.
#[utoipa::path(put, path = "/songs/{id}", tag = "songs", request_body = Song, params(("id" = i64, Path)),
    responses((status = 200, body = KeptSong), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn change_song(State(state): State<AppState>, Path(id): Path<i64>, Body(song): Body<Song>) -> Result<Json<KeptSong>, Problem> {
    let song = checked(&state, song).await?;
    state.store(move |store| store.change_song(id, &song)).await.map(Json)
}

/// Removes a song; it can be brought back, and set lists keep its place.
#[utoipa::path(delete, path = "/songs/{id}", tag = "songs", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn remove_song(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_song_gone(id, Some(now_ms()))).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings a removed song back.
#[utoipa::path(post, path = "/songs/{id}/back", tag = "songs", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn bring_back_song(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_song_gone(id, None)).await?;
    Ok(StatusCode::NO_CONTENT)
}

async fn checked(state: &AppState, mut song: Song) -> Result<Song, Problem> {
    song.title = song.title.trim().to_string();
    song.validate().map_err(Problem::cannot_be)?;
    let genre = song.music.genre.clone();
    if state.store(move |store| store.preset(&genre)).await?.is_none() {
        return Err(Problem::unprocessable(words!("There is no genre \"{}\".", song.music.genre)));
    }
    Ok(song)
}

/// Looks at a list of songs, CSV or JSON, without keeping any of it: each row with its song, what is wrong, and whether it is known.
#[utoipa::path(post, path = "/songs/import/preview", tag = "songs",
    request_body(content = Vec<u8>, content_type = "text/plain"),
    responses((status = 200, body = Vec<ReadSong>), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn preview_import(State(state): State<AppState>, bytes: Result<Bytes, BytesRejection>) -> Result<Json<Vec<ReadSong>>, Problem> {
    let bytes = bytes.map_err(|refused| match refused.status() {
        StatusCode::PAYLOAD_TOO_LARGE => Problem::new(refused.status(), text!("The list is larger than 16 MB. Take it in piece by piece.")),
        status => Problem::new(status, text!("The list broke off on its way. Send it again.")),
    })?;
    let (presets, known) = state.store(|store: &mut Store| Ok::<_, StoreError>((store.presets()?, store.songs()?))).await?;
    let rows = blocking(move || read_songs(&as_text(&bytes), &presets, &known)).await?.map_err(Problem::cannot_be)?;
    if rows.len() > MOST_SONGS {
        return Err(Problem::unprocessable(words!("The list has {} songs; {MOST_SONGS} at once are the most.", rows.len())));
    }
    Ok(Json(rows))
}

/// A song to be taken in.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct NewSong {
    /// Number of the song that it takes the place of.
    pub replaces: Option<i64>,
    pub song: Song,
}

/// Takes songs in, all of them or none. Answers with their numbers.
#[utoipa::path(post, path = "/songs/import", tag = "songs", request_body = Vec<NewSong>,
    responses((status = 200, body = Vec<i64>), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn import(State(state): State<AppState>, Body(new): Body<Vec<NewSong>>) -> Result<Json<Vec<i64>>, Problem> {
    let presets = state.store(|store| store.presets()).await?;
    for NewSong { song, .. } in &new {
        song.validate().map_err(|error| Problem::unprocessable(format!("\"{}\": {error}", song.title)))?;
        if presets.iter().all(|kept| kept.preset.code != song.music.genre) {
            return Err(Problem::unprocessable(words!("\"{}\": there is no genre \"{}\".", song.title, song.music.genre)));
        }
    }
    let songs: Vec<(Option<i64>, Song)> = new.into_iter().map(|new| (new.replaces, new.song)).collect();
    state.store(move |store| store.take_in_songs(&songs)).await.map(Json)
}

/// How songs are written out.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SongFormat {
    Csv,
    Json,
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Export {
    #[param(inline)]
    format: SongFormat,
    /// Only the songs of this set list, in its order.
    set_list: Option<i64>,
}

/// All songs, or those of a set list, as a file that can be read back.
#[utoipa::path(get, path = "/songs/export", tag = "songs", params(Export),
    responses((status = 200, body = String, content_type = "text/csv"),
    (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn export(State(state): State<AppState>, Query(Export { format, set_list }): Query<Export>) -> Result<Response, Problem> {
    let read = move |store: &mut Store| match set_list {
        None => store.songs(),
        Some(id) => {
            let songs = store.songs()?;
            let entries = store.set_list(id)?.set_list.entries;
            let of_entry = |entry: &Entry| match entry {
                Entry::Song { song_id, .. } => songs.iter().find(|song| song.id == *song_id).cloned(),
                Entry::Break { .. } => None,
            };
            Ok(entries.iter().filter_map(of_entry).collect())
        }
    };
    let songs: Vec<Song> = state.store(read).await?.into_iter().map(|kept| kept.song).collect();
    let (kind, name, text) = match format {
        SongFormat::Csv => ("text/csv; charset=utf-8", "songs.csv", songs_as_csv(&songs)),
        SongFormat::Json => ("application/json", "songs.json", songs_as_json(&songs)),
    };
    let text = text.map_err(|error| {
        tracing::error!("songs could not be written: {error}");
        Problem::internal()
    })?;
    let headers = [(header::CONTENT_TYPE, kind.to_string()), (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\""))];
    Ok((headers, text).into_response())
}
