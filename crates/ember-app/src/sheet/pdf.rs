//! A template as PDF: one page a sheet, in full size.

use super::stroke;
use ember_core::kick::{Mark, Sheet, Template};
use pdf_writer::{Content, Finish, Name, Pdf, Rect, Ref, Str};

/// Points to a millimetre: 72 to an inch.
const POINTS: f64 = 72.0 / 25.4;
/// Distance of the control points of a quarter circle in four cubic curves, as a part of its radius: 4/3 (sqrt 2 - 1).
const QUARTER: f64 = 0.552_284_749_830_793_4;

/// The file's bytes.
pub fn as_pdf(template: &Template, title: &str) -> Vec<u8> {
    let mut pdf = Pdf::new();
    let (catalog, pages, font, info) = (Ref::new(1), Ref::new(2), Ref::new(3), Ref::new(4));
    let page = |i: usize| Ref::new(5 + 2 * i as i32);
    pdf.catalog(catalog).pages(pages).viewer_preferences().pair(Name(b"PrintScaling"), Name(b"None"));
    pdf.document_info(info).title(pdf_writer::TextStr(title));
    pdf.pages(pages).kids((0..template.sheets.len()).map(page)).count(template.sheets.len() as i32);
    let at = |mm: f64| (mm * POINTS) as f32;
    let (width, height) = template.size_mm;
    for (i, sheet) in template.sheets.iter().enumerate() {
        let content = Ref::new(page(i).get() + 1);
        let mut written = pdf.page(page(i));
        written.media_box(Rect::new(0.0, 0.0, at(width), at(height))).parent(pages).contents(content);
        written.resources().fonts().pair(Name(b"F1"), font);
        written.finish();
        pdf.stream(content, &drawn(sheet));
    }
    pdf.type1_font(font).base_font(Name(b"Helvetica")).encoding_predefined(Name(b"WinAnsiEncoding"));
    pdf.finish()
}

fn drawn(sheet: &Sheet) -> Vec<u8> {
    let at = |mm: f64| (mm * POINTS) as f32;
    let mut content = Content::new();
    let [left, bottom, wide, high] = sheet.window;
    content.save_state();
    content.rect(at(left), at(bottom), at(wide), at(high)).clip_nonzero().end_path();
    sheet.drawn.iter().for_each(|mark| draw(&mut content, mark));
    content.restore_state();
    sheet.beside.iter().for_each(|mark| draw(&mut content, mark));
    content.finish().into_vec()
}

fn draw(content: &mut Content, mark: &Mark) {
    let at = |mm: f64| (mm * POINTS) as f32;
    let look = |content: &mut Content, pen| {
        let (width, dash) = stroke(pen);
        content.set_line_width(at(width)).set_dash_pattern(dash.map(at), 0.0);
    };
    match mark {
        Mark::Circle { x, y, r, pen } => {
            look(content, *pen);
            let q = QUARTER * r;
            content.move_to(at(x + r), at(*y));
            for (a, b, to) in [
                ((x + r, y + q), (x + q, y + r), (*x, y + r)),
                ((x - q, y + r), (x - r, y + q), (x - r, *y)),
                ((x - r, y - q), (x - q, y - r), (*x, y - r)),
                ((x + q, y - r), (x + r, y - q), (x + r, *y)),
            ] {
                content.cubic_to(at(a.0), at(a.1), at(b.0), at(b.1), at(to.0), at(to.1));
            }
            content.close_path().stroke();
        }
        Mark::Line { from, to, pen } => {
            look(content, *pen);
            content.move_to(at(from.0), at(from.1)).line_to(at(to.0), at(to.1)).stroke();
        }
        Mark::Words { x, y, size, words } => {
            // The built-in font knows Latin letters only; templates have no others.
            content
                .begin_text()
                .set_font(Name(b"F1"), at(*size))
                .next_line(at(*x), at(*y))
                .show(Str(words.to_string().as_bytes()))
                .end_text();
        }
    }
}
