//! Sheets of paper in full size, as PDF and SVG. What is drawn on them the core decides.

mod pdf;
mod svg;

pub use pdf::as_pdf;
pub use svg::as_svg;

use ember_core::kick::Pen;

/// Width of a line, mm, and the lengths of its dashes and gaps, mm.
fn stroke(pen: Pen) -> (f64, Option<f64>) {
    match pen {
        Pen::Cut => (0.7, None),
        Pen::Guide => (0.35, Some(3.0)),
        Pen::Fine => (0.2, None),
    }
}
