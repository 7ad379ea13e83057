//! Long lists come a page at a time: all in one way.

use serde::Deserialize;
use utoipa::IntoParams;

/// Rows of a page where nothing else is asked for, and at most.
const USUAL: usize = 100;
const MOST: usize = 500;

/// Where a page of a list begins, and how long it is.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Page {
    /// Number of the last row of the page before; without it the list begins.
    pub after: Option<i64>,
    /// At most 500; 100 if it is not given.
    limit: Option<usize>,
}

impl Page {
    /// How many rows it has at most.
    pub fn limit(&self) -> usize {
        self.limit.unwrap_or(USUAL).min(MOST)
    }
}
