//! Label tracks as audio editors read and write them: a line a label, its start and end in seconds and its name, with tabs between.

use ember_core::decay::StrikeMeasurement;
use ember_words::Said;

/// A hit that begins so shortly before a label, or behind it, still belongs to it, s: labels are drawn by hand.
const BESIDE_S: f64 = 0.05;
/// How long a hit is marked whose fall by 40 dB is not known, s.
const USUAL_S: f64 = 0.1;

/// One line of a label track.
#[derive(Debug, Clone, PartialEq)]
pub struct Label {
    /// Where it begins, s.
    pub start_s: f64,
    /// Where it ends, s.
    pub end_s: f64,
    /// What is written on it.
    pub name: String,
}

/// A line of a label track that is no label.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
#[said("Line {line} is no label. A label is its start and end in seconds and its name, with tabs between.")]
pub struct NoLabel {
    /// Its number, from 1 on.
    pub line: usize,
}

/// Reads a label track. Lines that begin with a backslash say more about the label before them and are passed over.
///
/// # Errors
/// The first line that is no label.
pub fn read_labels(text: &str) -> Result<Vec<Label>, NoLabel> {
    let lines = text.trim_start_matches('\u{feff}').lines().zip(1..);
    lines.filter(|(line, _)| !line.trim().is_empty() && !line.starts_with('\\')).map(|(line, number)| label(line, number)).collect()
}

fn label(line: &str, number: usize) -> Result<Label, NoLabel> {
    let mut columns = line.splitn(3, '\t');
    let mut seconds = || columns.next()?.trim().parse().ok().filter(|s: &f64| s.is_finite() && *s >= 0.0);
    match (seconds(), seconds()) {
        (Some(start_s), Some(end_s)) if start_s <= end_s => {
            Ok(Label { start_s, end_s, name: columns.next().unwrap_or_default().trim().to_string() })
        }
        _ => Err(NoLabel { line: number }),
    }
}

/// Writes a label track.
pub fn write_labels(labels: &[Label]) -> String {
    let clean = |name: &str| name.replace(['\t', '\n', '\r'], " ");
    labels.iter().map(|label| format!("{:.6}\t{:.6}\t{}\n", label.start_s, label.end_s, clean(&label.name))).collect()
}

/// The label that a hit at `onset_s` lies under: the one that begins nearest to it.
pub fn label_at(labels: &[Label], onset_s: f64) -> Option<&Label> {
    let under = labels.iter().filter(|label| (label.start_s - BESIDE_S..=label.end_s + BESIDE_S).contains(&onset_s));
    under.min_by(|a, b| (a.start_s - onset_s).abs().total_cmp(&(b.start_s - onset_s).abs()))
}

/// A label for each strike, until it has fallen 40 dB, with why it does not count where it does not: by its measurement, or because the user
/// dropped it.
pub fn labels_of<'a>(strikes: impl IntoIterator<Item = (&'a StrikeMeasurement, bool)>) -> Vec<Label> {
    let why = |strike: &StrikeMeasurement, dropped: bool| match strike.warnings.first() {
        _ if dropped => ", dropped".to_string(),
        Some(warning) => format!(", left out: {}", warning.advice()),
        None => String::new(),
    };
    let named = |((strike, dropped), number): ((&StrikeMeasurement, bool), usize)| Label {
        start_s: strike.onset_s,
        end_s: strike.onset_s + strike.profile.fall_40_s.unwrap_or(USUAL_S),
        name: format!("hit {number}{}", why(strike, dropped)),
    };
    strikes.into_iter().zip(1..).map(named).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_written_is_read_again(labels in prop::collection::vec((0u32..7_200_000, 0u32..9_000, "[a-z][a-z 0-9]{0,12}[a-z]"), 0..20)) {
            let seconds = |ms: u32| f64::from(ms) / 1000.0;
            let labels: Vec<Label> = labels.into_iter()
                .map(|(start, long, name)| Label { start_s: seconds(start), end_s: seconds(start + long), name }).collect();
            prop_assert_eq!(read_labels(&write_labels(&labels)).unwrap(), labels);
        }
    }

    #[test]
    fn labels_are_read_as_editors_write_them() {
        let text = "\u{feff}0.500000\t1.250000\tsnare\r\n\\\t100.0\t200.0\n\n2.0\t2.0\track tom\n3\t4\n";
        let labels = read_labels(text).unwrap();
        let names: Vec<&str> = labels.iter().map(|label| label.name.as_str()).collect();
        assert_eq!(names, ["snare", "rack tom", ""]);
        assert_eq!(label_at(&labels, 0.48).map(|label| label.start_s), Some(0.5));
        assert_eq!(label_at(&labels, 2.04).map(|label| label.start_s), Some(2.0), "a point in time is a label too");
        assert_eq!(label_at(&labels, 1.6), None);
        for (text, line) in [("0.5\tone\tsnare", 1), ("0\t1\ta\n2\t1\tb", 2), ("0 1 a", 1), ("nan\t1\ta", 1)] {
            assert!(read_labels(text).unwrap_err().to_string().starts_with(&format!("Line {line} is no label.")), "{text}");
        }
    }
}
