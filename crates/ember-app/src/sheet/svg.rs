//! A template as SVG: its sheets one under the other, in mm.

use super::stroke;
use ember_core::kick::{Mark, Template};
use std::fmt::Write;

/// One SVG with every sheet under the other, in full size.
pub fn as_svg(template: &Template) -> String {
    let (width, height) = template.size_mm;
    let all = height * template.sheets.len() as f64;
    let mut svg = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}mm\" height=\"{all}mm\" viewBox=\"0 0 {width} {all}\" \
         font-family=\"sans-serif\" fill=\"none\" stroke=\"black\">\n"
    );
    for (i, sheet) in template.sheets.iter().enumerate() {
        let [left, bottom, wide, high] = sheet.window;
        // SVG counts downwards.
        let top = |y: f64| height - y;
        let shift = height * i as f64;
        let _ = writeln!(
            svg,
            "<g transform=\"translate(0 {shift:.3})\"><clipPath id=\"window{i}\"><rect x=\"{left:.3}\" y=\"{:.3}\" width=\"{wide:.3}\" \
             height=\"{high:.3}\"/></clipPath>",
            top(bottom + high)
        );
        let _ = writeln!(svg, "<g clip-path=\"url(#window{i})\">");
        sheet.drawn.iter().for_each(|mark| draw(&mut svg, mark, top));
        svg.push_str("</g>\n");
        sheet.beside.iter().for_each(|mark| draw(&mut svg, mark, top));
        svg.push_str("</g>\n");
    }
    svg + "</svg>\n"
}

fn draw(svg: &mut String, mark: &Mark, top: impl Fn(f64) -> f64) {
    let look = |pen| {
        let (width, dash) = stroke(pen);
        format!("stroke-width=\"{width}\"{}", dash.map_or(String::new(), |dash| format!(" stroke-dasharray=\"{dash}\"")))
    };
    // Writing into a string cannot fail.
    let _ = match mark {
        Mark::Circle { x, y, r, pen } => writeln!(svg, "<circle cx=\"{x:.3}\" cy=\"{:.3}\" r=\"{r:.3}\" {}/>", top(*y), look(*pen)),
        Mark::Line { from, to, pen } => {
            writeln!(svg, "<path d=\"M{:.3} {:.3}L{:.3} {:.3}\" {}/>", from.0, top(from.1), to.0, top(to.1), look(*pen))
        }
        Mark::Words { x, y, size, words } => {
            let words = words.to_string().replace('&', "&amp;").replace('<', "&lt;");
            writeln!(svg, "<text x=\"{x:.3}\" y=\"{:.3}\" font-size=\"{size}\" fill=\"black\" stroke=\"none\">{words}</text>", top(*y))
        }
    };
}

#[cfg(test)]
mod tests {
    use super::*;
    use ember_core::kick::{Pen, Sheet};
    use ember_words::Words;

    /// Paper counts upwards, SVG downwards; sheets lie one under the other, and what is written cannot end the text it is in.
    #[test]
    fn marks_stand_where_they_belong_and_words_stay_words() {
        let sheet = |words: &str| Sheet {
            drawn: vec![Mark::Circle { x: 50.0, y: 200.0, r: 20.0, pen: Pen::Guide }],
            window: [12.0, 36.0, 186.0, 240.0],
            beside: vec![Mark::Words { x: 12.0, y: 30.0, size: 3.6, words: Words::verbatim(words) }],
        };
        let template = Template { size_mm: (210.0, 297.0), columns: 1, rows: 2, sheets: vec![sheet("a < b & c"), sheet("</text>")] };
        let svg = as_svg(&template);
        assert!(svg.contains("height=\"594mm\"") && svg.contains("translate(0 297.000)"), "{svg}");
        assert!(svg.contains("cx=\"50.000\" cy=\"97.000\"") && svg.contains("stroke-dasharray=\"3\""), "{svg}");
        assert!(svg.contains("a &lt; b &amp; c") && svg.matches("</text>").count() == 2, "{svg}");
    }
}
