//! What can go wrong with the store.

/// Why the store could not do what was asked.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// No such row.
    #[error("There is no {what} {id}.")]
    NotFound { what: &'static str, id: i64 },
    /// It would break a rule of the data; the sentence says which.
    #[error("{0}")]
    Refused(String),
    #[error("The data file could not be read or written: {0}.")]
    Sqlite(#[from] rusqlite::Error),
    #[error("The data file could not be brought up to date: {0}.")]
    Migration(#[from] rusqlite_migration::Error),
    #[error("The data file holds something unreadable: {0}.")]
    Json(#[from] serde_json::Error),
}

impl StoreError {
    /// [`NotFound`](Self::NotFound) for an empty answer, anything else as it is.
    pub(crate) fn missing(what: &'static str, id: i64) -> impl Fn(rusqlite::Error) -> Self {
        move |error| match error {
            rusqlite::Error::QueryReturnedNoRows => Self::NotFound { what, id },
            other => other.into(),
        }
    }
}
