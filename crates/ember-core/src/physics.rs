//! Properties of the media that drums are made of and sound in, which more than one room needs.

/// Density of air at 20 degrees C and 1013 hPa, kg/m3 (ISO 2533, standard atmosphere, scaled to 20 degrees C).
pub const AIR_DENSITY: f64 = 1.204;
/// Speed of sound in air at 20 degrees C, m/s (331.3 sqrt(1 + 20 / 273.15), handbook value).
pub const SPEED_OF_SOUND: f64 = 343.2;
/// Cymbal bronze: density, kg/m3, and Poisson's ratio (handbook values for tin bronze, from memory).
pub const BRONZE_DENSITY: f64 = 8600.0;
/// Its Poisson's ratio.
pub const BRONZE_POISSON: f64 = 0.34;
/// Density of PET film, kg/m3 (handbook value, from memory).
pub const FILM_DENSITY: f64 = 1390.0;
