//! The air that the simulated drum's heads move in: a spring on their means, or a field of its own.

use super::air_box::{AirBox, End};
use super::cavity::Cavity;
use super::membrane_grid::MembraneGrid;

/// What a head radiates as long as its air is no field, N s/m3.
const RADIATION: f64 = 5.0;

/// The air in and around a drum.
pub(super) enum Surroundings {
    Spring(Cavity),
    Field(Box<AirBox>),
}

/// Mean displacement of a head, m, and its speed, m/s.
pub(super) type Mean = (f64, f64);

impl Surroundings {
    /// One step of `dt` s of both heads, which move by `mean` and `lower_mean`, in their air, under `pushes` (cell, Pa) on the batter. Returns the
    /// pressure just inside the batter, Pa.
    pub fn advance(
        &mut self,
        batter: &mut MembraneGrid,
        mut lower: Option<&mut MembraneGrid>,
        (mean, lower_mean): (Mean, Mean),
        pushes: &[(usize, f64)],
        dt: f64,
    ) -> f64 {
        match self {
            Self::Spring(cavity) => {
                let film = lower.as_deref().map_or(1.0, MembraneGrid::film);
                let (on_batter, on_lower) = cavity.pressure(mean, lower_mean, film, dt);
                batter.advance(-on_batter - RADIATION * mean.1, pushes);
                if let Some(lower) = lower {
                    lower.advance(on_lower - RADIATION * lower_mean.1, &[]);
                }
                on_batter
            }
            Self::Field(air) => {
                air.press(End::Batter, batter.cell_area(), batter.pressed());
                batter.advance(0.0, pushes);
                if let Some(lower) = &mut lower {
                    air.press(End::Lower, lower.cell_area(), lower.pressed());
                    lower.advance(0.0, &[]);
                }
                air.advance(batter, lower.as_deref());
                air.inside()
            }
        }
    }
}
