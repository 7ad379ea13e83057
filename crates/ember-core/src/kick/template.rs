//! A template in full size for a hole: what is drawn, in mm, and how it is laid out over sheets of paper. How it becomes SVG or PDF is
//! left to others.

use super::place::PlaceAsk;
use crate::drum::Drum;
use ember_words::{Text, Words, text, words};
use serde::{Deserialize, Serialize};

const MM_PER_IN: f64 = 25.4;
/// Edge of a sheet that printers leave blank, mm.
const MARGIN_MM: f64 = 12.0;
/// What two sheets next to each other both show, mm.
const OVERLAP_MM: f64 = 10.0;
/// Foot of every sheet with the lines to check the scale by, mm.
const FOOT_MM: f64 = 24.0;
/// Room round what is drawn, mm.
const ROUND_MM: f64 = 6.0;
const LETTERS_MM: f64 = 3.6;

/// A paper size.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Paper {
    /// 210 x 297 mm (ISO 216).
    #[default]
    A4,
    /// 8.5 x 11 in (ANSI A).
    Letter,
}

impl Paper {
    /// Width and height, mm.
    pub fn size_mm(self) -> (f64, f64) {
        match self {
            Self::A4 => (210.0, 297.0),
            Self::Letter => (8.5 * MM_PER_IN, 11.0 * MM_PER_IN),
        }
    }
}

/// How a line is drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Pen {
    /// Where the knife goes.
    Cut,
    /// Dashed: what lies round it.
    Guide,
    /// Thin: to measure by and to join sheets by.
    Fine,
}

/// Something drawn; mm, x to the right, y up.
#[derive(Debug, Clone, PartialEq)]
pub enum Mark {
    /// A circle.
    Circle {
        /// To the right, mm.
        x: f64,
        /// Downwards, mm.
        y: f64,
        /// Radius, mm.
        r: f64,
        /// How it is drawn.
        pen: Pen,
    },
    /// A straight line.
    Line {
        /// Where it begins.
        from: (f64, f64),
        /// Where it ends.
        to: (f64, f64),
        /// How it is drawn.
        pen: Pen,
    },
    /// Starting at (x, y), `size` high.
    Words {
        /// To the right, mm.
        x: f64,
        /// Downwards, mm.
        y: f64,
        /// How large it is, in parts of the head's radius.
        size: f64,
        /// What it is, in words.
        words: Words,
    },
}

impl Mark {
    fn moved(&self, dx: f64, dy: f64) -> Self {
        match self.clone() {
            Self::Circle { x, y, r, pen } => Self::Circle { x: x + dx, y: y + dy, r, pen },
            Self::Line { from, to, pen } => Self::Line { from: (from.0 + dx, from.1 + dy), to: (to.0 + dx, to.1 + dy), pen },
            Self::Words { x, y, size, words } => Self::Words { x: x + dx, y: y + dy, size, words },
        }
    }
}

/// One sheet of paper.
#[derive(Debug, Clone, PartialEq)]
pub struct Sheet {
    /// What is drawn inside `window` only.
    pub drawn: Vec<Mark>,
    /// Left, bottom, width, height, mm.
    pub window: [f64; 4],
    /// What stands beside it.
    pub beside: Vec<Mark>,
}

/// A template on its sheets.
#[derive(Debug, Clone, PartialEq)]
pub struct Template {
    /// Width and height of a sheet, mm.
    pub size_mm: (f64, f64),
    /// Sheets side by side.
    pub columns: usize,
    /// Sheets one below the other.
    pub rows: usize,
    /// Row by row from the top.
    pub sheets: Vec<Sheet>,
}

/// Which side of the head is looked at.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum TemplateSide {
    /// Mirrored: marked on the inside, as is usual.
    #[default]
    Inside,
    /// The outside.
    Outside,
}

/// What is drawn for a hole, about its middle, and the box that it needs: left, bottom, right, top, mm.
/// With a line out to the nearest hoop where `to_hoop`.
fn drawn(drum: &Drum, ask: &PlaceAsk, side: TemplateSide, to_hoop: bool) -> (Vec<Mark>, [f64; 4]) {
    let head = drum.diameter_in * MM_PER_IN / 2.0;
    let hole = ask.port.diameter_in * MM_PER_IN / 2.0;
    let (right, up) = ask.port.middle_in(drum.diameter_in);
    let mirror = if side == TemplateSide::Inside { -1.0 } else { 1.0 };
    // The head's middle, from the hole's.
    let (mx, my) = (-mirror * right * MM_PER_IN, -up * MM_PER_IN);
    let from_middle = mx.hypot(my);
    let ring = hole + ask.ring_mm;
    let circle = |x, y, r, pen| Mark::Circle { x, y, r, pen };
    let line = |from, to, pen| Mark::Line { from, to, pen };
    let mut marks = vec![circle(0.0, 0.0, hole, Pen::Cut), circle(mx, my, head, Pen::Fine)];
    if ask.ring_mm > 0.0 {
        marks.push(circle(0.0, 0.0, ring, Pen::Guide));
    }
    // Centre cross, and an arrow to the drum's top.
    marks.extend([line((-6.0, 0.0), (6.0, 0.0), Pen::Fine), line((0.0, -6.0), (0.0, 6.0), Pen::Fine)]);
    let tip = 0.8 * hole;
    let low = 0.35 * hole;
    marks.extend([
        line((0.0, low), (0.0, tip), Pen::Fine),
        line((0.0, tip), (-3.0, tip - 5.0), Pen::Fine),
        line((0.0, tip), (3.0, tip - 5.0), Pen::Fine),
        Mark::Words { x: 4.0, y: tip - 5.0, size: LETTERS_MM, words: words!("top of the drum") },
    ]);
    let mut bounds = [-ring, -ring, ring, ring];
    // Out to the nearest hoop, so that the sheet can be laid against it.
    if to_hoop && from_middle > 1e-6 {
        let out = (head - from_middle) / from_middle;
        let (hx, hy) = (-mx * out, -my * out);
        marks.push(line((0.0, 0.0), (hx, hy), Pen::Fine));
        bounds = [bounds[0].min(hx), bounds[1].min(hy), bounds[2].max(hx), bounds[3].max(hy)];
    }
    (marks, [bounds[0] - ROUND_MM, bounds[1] - ROUND_MM, bounds[2] + ROUND_MM, bounds[3] + ROUND_MM])
}

/// What the template says, line by line.
fn words(drum: &Drum, ask: &PlaceAsk, side: TemplateSide, to_hoop: bool) -> Vec<Words> {
    let (right, up) = ask.port.middle_in(drum.diameter_in);
    let way = |value: f64, one: Text, other: Text| words!("{:.0} mm {}", value.abs() * MM_PER_IN, if value < 0.0 { other } else { one });
    let seen = match side {
        TemplateSide::Inside => text!("Seen from inside: lay it on the inside of the head."),
        TemplateSide::Outside => text!("Seen from outside: lay it on the outside of the head."),
    };
    let mut lines = vec![words!("Hole {} in ({:.1} mm), thick line. {seen}", ask.port.diameter_in, ask.port.diameter_in * MM_PER_IN)];
    lines.push(words!(
        "Its middle, seen from outside: {} and {} of the middle of the head; {:.0} mm to the hoop{}.",
        way(right, text!("right"), text!("left")),
        way(up, text!("above"), text!("below")),
        (1.0 - ask.port.radius) * drum.diameter_in * MM_PER_IN / 2.0,
        if to_hoop { text!(" (long thin line)") } else { text!("") }
    ));
    if ask.ring_mm > 0.0 {
        lines.push(words!("Dashed: outer edge of a reinforcing ring {:.0} mm wide.", ask.ring_mm));
    }
    lines
}

/// Lines to check a print by, from (x, y).
fn check_lines(x: f64, y: f64) -> Vec<Mark> {
    let mut marks = Vec::new();
    for (dy, length, words) in [(0.0, 100.0, text!("100 mm")), (8.0, 4.0 * MM_PER_IN, text!("4 in"))] {
        let y = y + dy;
        let tick = |x: f64| Mark::Line { from: (x, y - 1.8), to: (x, y + 1.8), pen: Pen::Fine };
        marks.extend([
            Mark::Line { from: (x, y), to: (x + length, y), pen: Pen::Fine },
            tick(x),
            tick(x + length),
            Mark::Words { x: x + length + 3.0, y: y - 1.3, size: LETTERS_MM, words: words.into() },
        ]);
    }
    marks
}

/// The template for the hole of `ask` in the other head of `drum`.
pub fn template(drum: &Drum, ask: &PlaceAsk, side: TemplateSide, paper: Paper) -> Template {
    let (width, height) = paper.size_mm();
    let lines = if ask.ring_mm > 0.0 { 3.0 } else { 2.0 };
    let room = (width - 2.0 * MARGIN_MM, height - 2.0 * MARGIN_MM - FOOT_MM - 2.2 * LETTERS_MM * lines);
    let count = |needed: f64, room: f64| if needed <= room { 1 } else { ((needed - OVERLAP_MM) / (room - OVERLAP_MM)).ceil() as usize };
    let tiles = |bounds: &[f64; 4]| (count(bounds[2] - bounds[0], room.0), count(bounds[3] - bounds[1], room.1));
    let ((marks, bounds), (alone, small)) = (drawn(drum, ask, side, true), drawn(drum, ask, side, false));
    // The line to the hoop is left out where it would take more paper.
    let to_hoop = tiles(&bounds) == tiles(&small);
    let (marks, bounds) = if to_hoop { (marks, bounds) } else { (alone, small) };
    let said = words(drum, ask, side, to_hoop);
    let (columns, rows) = tiles(&bounds);
    let needed = (bounds[2] - bounds[0], bounds[3] - bounds[1]);
    let mut sheets = Vec::with_capacity(columns * rows);
    for row in 0..rows {
        for column in 0..columns {
            // A single sheet has it in the middle.
            let spare = |needed: f64, room: f64, count: usize| if count == 1 { (room - needed) / 2.0 } else { 0.0 };
            let left = bounds[0] + column as f64 * (room.0 - OVERLAP_MM) - spare(needed.0, room.0, columns);
            let top = bounds[3] - row as f64 * (room.1 - OVERLAP_MM) + spare(needed.1, room.1, rows);
            let window = [MARGIN_MM, MARGIN_MM + FOOT_MM, room.0, room.1];
            let (dx, dy) = (MARGIN_MM - left, MARGIN_MM + FOOT_MM + room.1 - top);
            let drawn = marks.iter().map(|mark| mark.moved(dx, dy)).collect();
            let mut beside = check_lines(MARGIN_MM, MARGIN_MM + 3.0);
            let name = format!("{}{}", (b'A' + (row % 26) as u8) as char, column + 1);
            let sheet = match columns * rows {
                1 => words!("Print at 100 %: measure both lines before cutting."),
                all => words!(
                    "Sheet {name} of {all} ({columns} across, {rows} down). Overlap the sheets by {OVERLAP_MM:.0} mm at the thin lines."
                ),
            };
            beside.push(Mark::Words { x: MARGIN_MM, y: MARGIN_MM + 16.5, size: LETTERS_MM, words: sheet });
            for (i, line) in said.iter().enumerate() {
                let y = height - MARGIN_MM - LETTERS_MM - 1.9 * LETTERS_MM * i as f64;
                beside.push(Mark::Words { x: MARGIN_MM, y, size: LETTERS_MM, words: line.clone() });
            }
            let (x0, y0, x1, y1) = (window[0], window[1], window[0] + window[2], window[1] + window[3]);
            let seam = |from, to| Mark::Line { from, to, pen: Pen::Fine };
            if column > 0 {
                beside.push(seam((x0 + OVERLAP_MM, y0), (x0 + OVERLAP_MM, y1)));
            }
            if column + 1 < columns {
                beside.push(seam((x1, y0), (x1, y1)));
            }
            if row > 0 {
                beside.push(seam((x0, y1 - OVERLAP_MM), (x1, y1 - OVERLAP_MM)));
            }
            if row + 1 < rows {
                beside.push(seam((x0, y0), (x1, y0)));
            }
            sheets.push(Sheet { drawn, window, beside });
        }
    }
    Template { size_mm: (width, height), columns, rows, sheets }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::{DrumKind, Port, usual_place};
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]
        /// Whatever is cut, every bit of the line is on some sheet, in full size, and every sheet carries its check lines.
        #[test]
        fn the_whole_line_is_on_paper_in_full_size(hole in 2.0f64..12.0, head in 16.0f64..26.0, ring_mm in 0.0f64..30.0, letter: bool, outside: bool) {
            prop_assume!(hole < 0.56 * head);
            let drum = Drum { diameter_in: head, ..BenchDrum::usual(DrumKind::Kick) };
            let ask = PlaceAsk { port: usual_place(hole, head), ring_mm, logo_mm: 0.0 };
            let side = if outside { TemplateSide::Outside } else { TemplateSide::Inside };
            let made = template(&drum, &ask, side, if letter { Paper::Letter } else { Paper::A4 });
            prop_assert_eq!(made.sheets.len(), made.columns * made.rows);
            let cut = |sheet: &Sheet| sheet.drawn.iter().find_map(|mark| match mark {
                Mark::Circle { x, y, r, pen: Pen::Cut } => Some((*x, *y, *r)),
                _ => None,
            }).unwrap();
            for step in 0..72 {
                let angle = f64::from(step).to_radians() * 5.0;
                let on_paper = made.sheets.iter().any(|sheet| {
                    let ((x, y, r), [left, bottom, width, height]) = (cut(sheet), sheet.window);
                    let (px, py) = (x + r * angle.cos(), y + r * angle.sin());
                    (left..=left + width).contains(&px) && (bottom..=bottom + height).contains(&py)
                });
                prop_assert!(on_paper, "{hole} in {head} at {step}");
            }
            for sheet in &made.sheets {
                prop_assert!((cut(sheet).2 - hole * MM_PER_IN / 2.0).abs() < 1e-9);
                let lengths: Vec<f64> = sheet.beside.iter().filter_map(|mark| match mark {
                    Mark::Line { from, to, .. } => Some((from.0 - to.0).hypot(from.1 - to.1)),
                    _ => None,
                }).collect();
                for wanted in [100.0, 101.6] {
                    prop_assert!(lengths.iter().any(|length| (length - wanted).abs() < 1e-9));
                }
            }
        }
    }

    #[test]
    fn the_inside_is_the_outside_mirrored_and_small_holes_take_one_sheet() {
        let drum = BenchDrum::usual(DrumKind::Kick);
        let ask = PlaceAsk { port: Port { diameter_in: 4.0, radius: 0.5, angle_deg: 60.0 }, ring_mm: 15.0, logo_mm: 0.0 };
        let middle = |side| {
            let (marks, _) = drawn(&drum, &ask, side, true);
            marks.iter().find_map(|mark| if let Mark::Circle { x, y, pen: Pen::Fine, .. } = mark { Some((*x, *y)) } else { None }).unwrap()
        };
        let (inside, outside) = (middle(TemplateSide::Inside), middle(TemplateSide::Outside));
        assert!((inside.0 + outside.0).abs() < 1e-9 && (inside.1 - outside.1).abs() < 1e-9 && outside.0 < 0.0);
        let small = template(&drum, &PlaceAsk { port: usual_place(4.0, 22.0), ..ask }, TemplateSide::Inside, Paper::A4);
        assert_eq!(small.sheets.len(), 1);
        assert!(template(&drum, &PlaceAsk { port: usual_place(10.0, 22.0), ..ask }, TemplateSide::Inside, Paper::A4).sheets.len() > 1);
    }
}
