//! Devices as an address names them.

use crate::learning::as_on_shelf;
use crate::problem::Problem;
use ember_core::damping::{InvalidPlacement, Placement};
use ember_core::drum::Drum;
use ember_core::plan::ShelfItem;

/// Reads `device:amount:radius:angle`, with commas between several, as things on `shelf` are; refused in words where they do not fit `drum`.
pub fn placements_of(text: &str, shelf: &[ShelfItem], drum: &Drum) -> Result<Vec<Placement>, Problem> {
    let each = text.split(',').filter(|text| !text.trim().is_empty());
    let placements = each.map(|text| Placement::parse(text.trim())).collect::<Result<Vec<_>, _>>().map_err(refused)?;
    checked(as_on_shelf(placements, shelf), drum)
}

/// The same `placements`, if they fit `drum`.
pub fn checked(placements: Vec<Placement>, drum: &Drum) -> Result<Vec<Placement>, Problem> {
    placements.iter().try_for_each(|placement| placement.validate(drum)).map_err(refused)?;
    Ok(placements)
}

fn refused(error: InvalidPlacement) -> Problem {
    Problem::unprocessable(error.to_string())
}
