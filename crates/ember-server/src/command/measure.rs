//! `soft-ember measure`: strikes in sound files, as JSON or for reading.

use super::{CommandError, write_out};
use clap::Args;
use ember_app::sound::{HeardFile, Label, ReadProgress, label_at, labels_of, measure_file, read_labels, write_labels};
use ember_core::bench_drum::BenchDrum;
use ember_core::decay::{StrikeMeasurement, TakeSummary, mark_ghosts, settle_bodies, summarize};
use ember_core::drum::{Drum, DrumKind};
use ember_core::tone::HeardBy;
use serde::Serialize;
use serde_json::Value;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

#[derive(Args)]
pub struct Measure {
    /// WAV, FLAC, AIFF, MP3, Ogg, Opus, M4A, CAF, or the sound of MP4, MOV or WebM
    #[arg(required = true, value_name = "FILE")]
    files: Vec<PathBuf>,
    /// The strikes are on a cymbal or hi-hat: they are measured by octaves
    #[arg(long, conflicts_with = "kind")]
    cymbal: bool,
    /// What was hit: snare, tom, floor_tom, kick, second_kick, concert_tom, concert_bass, marching_bass, hand_drum, cymbal, hi_hat or other
    #[arg(long, value_parser = kind)]
    kind: Option<DrumKind>,
    /// Its diameter, in: a body that no drum of this kind and size has is named
    #[arg(long, value_name = "INCHES", requires = "kind", value_parser = inches)]
    diameter: Option<f64>,
    /// A label track (start, end in seconds and name, with tabs between) that says which hit is which: each name is told by itself
    #[arg(long, value_name = "TEXT FILE")]
    labels: Option<PathBuf>,
    /// Writes where the hits are, as a label track
    #[arg(long, value_name = "TEXT FILE")]
    write_labels: Option<PathBuf>,
    /// Prints everything as JSON
    #[arg(long)]
    json: bool,
}

#[derive(Serialize)]
struct Report {
    files: Vec<Entry>,
}

#[derive(Serialize)]
#[serde(untagged)]
enum Entry {
    Measured(Box<Measured>),
    /// When hits begin that lie under no label of the track, s.
    Unlabelled {
        path: String,
        unlabelled_s: Vec<f64>,
    },
    Unreadable {
        path: String,
        error: String,
    },
}

#[derive(Serialize)]
struct Measured {
    path: String,
    /// What a label track calls these strikes.
    #[serde(skip_serializing_if = "Option::is_none")]
    label: Option<String>,
    sample_rate_hz: u32,
    channels: usize,
    duration_s: f64,
    strikes: Vec<StrikeMeasurement>,
    summary: TakeSummary,
    #[serde(skip)]
    loudest_dbfs: f64,
}

impl Measure {
    pub fn run(self) -> Result<ExitCode, CommandError> {
        let kind = if self.cymbal { Some(DrumKind::Cymbal) } else { self.kind };
        let drum = kind.map(BenchDrum::usual);
        let heard_by = drum.as_ref().map_or(HeardBy::Partials, Drum::heard_by);
        let sized = drum.zip(self.diameter).map(|(drum, diameter_in)| Drum { diameter_in, ..drum });
        let labels = self.labels.as_ref().map(|path| labels(path)).transpose()?;
        if self.files.len() > 1 && (labels.is_some() || self.write_labels.is_some()) {
            return Err(CommandError::LabelsOfSeveral);
        }
        let files: Vec<Entry> = self.files.iter().flat_map(|path| entries(path, heard_by, labels.as_deref())).collect();
        let failed = files.iter().any(|entry| matches!(entry, Entry::Unreadable { .. }));
        // A file that cannot be read must not empty a label track.
        if let Some(path) = self.write_labels.as_ref().filter(|_| !failed) {
            let mut strikes: Vec<&StrikeMeasurement> = files.iter().flat_map(Entry::strikes).collect();
            strikes.sort_by(|a, b| a.onset_s.total_cmp(&b.onset_s));
            std::fs::write(path, write_labels(&labels_of(strikes.into_iter().map(|strike| (strike, false)))))
                .map_err(|error| CommandError::Unwritable { path: path.clone(), error })?;
        }
        let report = Report { files };
        if self.json {
            let text = serde_json::to_string_pretty(&agreed(serde_json::to_value(&report).map_err(CommandError::Json)?))
                .map_err(CommandError::Json)?;
            write_out(&format!("{text}\n"))?;
        } else {
            write_out(&report.files.iter().map(|entry| said(entry, sized.as_ref())).collect::<String>())?;
        }
        Ok(if failed { ExitCode::FAILURE } else { ExitCode::SUCCESS })
    }
}

/// What is printed is agreed: what strikes and takes came to hold since, for the page, is left out.
fn agreed(mut report: Value) -> Value {
    let without = |value: &mut Value, names: &[&str]| {
        if let Some(fields) = value.as_object_mut() {
            fields.retain(|name, _| !names.contains(&name.as_str()));
        }
    };
    for file in report["files"].as_array_mut().into_iter().flatten() {
        if let Some(strikes) = file.get_mut("strikes").and_then(Value::as_array_mut) {
            for strike in strikes {
                without(strike, &["remarks", "dynamic", "ending", "method", "heard_by", "spectrum_db", "coded"]);
                without(&mut strike["broadband"], &["range_db"]);
            }
        }
        if let Some(summary) = file.get_mut("summary") {
            without(summary, &["remarks", "dynamics", "spectrum_db"]);
        }
    }
    report
}

impl Entry {
    fn strikes(&self) -> &[StrikeMeasurement] {
        if let Self::Measured(measured) = self { &measured.strikes } else { &[] }
    }
}

fn labels(path: &Path) -> Result<Vec<Label>, CommandError> {
    let text = std::fs::read_to_string(path).map_err(|error| CommandError::Unreadable { path: path.into(), error })?;
    read_labels(&text).map_err(|error| CommandError::Labels { path: path.into(), error })
}

/// What there is in a file: all of its hits together, or with `labels` those of each name by themselves.
fn entries(path: &Path, heard_by: HeardBy, labels: Option<&[Label]>) -> Vec<Entry> {
    let shown = path.display().to_string();
    let heard = match measure_file(path, &shown, heard_by, f64::INFINITY, usize::MAX, &ReadProgress::default(), |strike| strike.measurement)
    {
        Err(error) => return vec![Entry::Unreadable { path: shown, error: error.to_string() }],
        Ok(heard) => heard,
    };
    let measured = |label: Option<&str>, strikes: Vec<StrikeMeasurement>| Entry::Measured(Box::new(taken(&shown, &heard, label, strikes)));
    let Some(labels) = labels else { return vec![measured(None, heard.strikes.clone())] };
    let mut names: Vec<&str> = Vec::new();
    for label in labels {
        if !names.contains(&label.name.as_str()) {
            names.push(&label.name);
        }
    }
    let under = |name: &str| {
        let is_under = |strike: &&StrikeMeasurement| label_at(labels, strike.onset_s).is_some_and(|label| label.name == name);
        heard.strikes.iter().filter(is_under).cloned().collect()
    };
    let mut entries: Vec<Entry> = names.iter().map(|name| measured(Some(name), under(name))).collect();
    let onsets = heard.strikes.iter().map(|strike| strike.onset_s);
    let unlabelled_s: Vec<f64> = onsets.filter(|onset_s| label_at(labels, *onset_s).is_none()).collect();
    if !unlabelled_s.is_empty() {
        entries.push(Entry::Unlabelled { path: shown.clone(), unlabelled_s });
    }
    entries
}

/// Hits that belong together.
fn taken(path: &str, heard: &HeardFile<StrikeMeasurement>, label: Option<&str>, mut strikes: Vec<StrikeMeasurement>) -> Measured {
    mark_ghosts(&mut strikes);
    settle_bodies(&mut strikes);
    // What is printed is agreed; the level is there for holding a measured band against, the buzz for tuning wires, and neither
    // is done here.
    for strike in &mut strikes {
        (strike.partial_dbfs, strike.profile.buzz_s) = (None, None);
    }
    Measured {
        path: path.to_string(),
        label: label.map(str::to_string),
        sample_rate_hz: heard.facts.sample_rate,
        channels: heard.facts.channels,
        duration_s: heard.facts.duration_s,
        summary: summarize(&strikes),
        strikes,
        loudest_dbfs: heard.loudest_dbfs,
    }
}

/// A word that is no kind of drum.
#[derive(Debug, thiserror::Error)]
#[error("{0} is no kind of drum; there are {kinds}", kinds = kind_names())]
pub(super) struct UnknownKind(String);

fn kind_names() -> String {
    let name = |kind| serde_json::to_value(kind).ok().and_then(|name| name.as_str().map(str::to_string)).unwrap_or_default();
    DrumKind::ALL.map(name).join(", ")
}

/// A text that is no diameter of a drum.
#[derive(Debug, thiserror::Error)]
#[error("{0} is no diameter of a drum, in inches")]
struct NoDiameter(String);

/// A kind of drum by the name it has in JSON; a hyphen will do in it.
pub(super) fn kind(name: &str) -> Result<DrumKind, UnknownKind> {
    serde_json::from_value(Value::from(name.replace('-', "_"))).map_err(|_| UnknownKind(name.to_string()))
}

/// Drums are from 4 to 60 in wide.
fn inches(text: &str) -> Result<f64, NoDiameter> {
    text.parse().ok().filter(|inches| (4.0..=60.0).contains(inches)).ok_or_else(|| NoDiameter(text.to_string()))
}

/// Below this nothing in a file is loud enough to be a hit, dBFS.
const FAINT_DBFS: f64 = -50.0;

fn said(entry: &Entry, drum: Option<&Drum>) -> String {
    match entry {
        Entry::Unreadable { path, error } => format!("{path}\n  {error}\n"),
        Entry::Unlabelled { path, unlabelled_s } => {
            let times: Vec<String> = unlabelled_s.iter().map(|s| format!("{s:.2}")).collect();
            format!("{path}\n  Under no label, and left out: hits at {} s.\n", times.join(", "))
        }
        Entry::Measured(file) => {
            let name = file.label.as_ref().map_or_else(String::new, |label| format!(", {label}"));
            let mut text =
                format!("{}{name}\n  {:.2} s, {} Hz, channels: {}\n", file.path, file.duration_s, file.sample_rate_hz, file.channels);
            for strike in &file.strikes {
                let warnings = strike.warnings.iter().map(|warning| warning.advice());
                let notes: Vec<String> =
                    warnings.chain(strike.remarks.iter().map(|remark| remark.advice())).map(|advice| advice.to_string()).collect();
                let profile = &strike.profile;
                text += &format!(
                    "  {:>7.2} s  body {} {}  ring {} {}  {}\n",
                    strike.onset_s,
                    figure(profile.body_hz, "Hz", 1),
                    figure(profile.body_t60_s, "s", 2),
                    figure(profile.ring_hz, "Hz", 1),
                    figure(profile.ring_t60_s, "s", 2),
                    notes.join(" ")
                );
            }
            if file.strikes.is_empty() {
                let why = if file.label.is_some() {
                    "none begins under this label".into()
                } else if file.loudest_dbfs < FAINT_DBFS {
                    format!("it is too quiet: its loudest point is {:.0} dB under full scale", -file.loudest_dbfs)
                } else {
                    "nothing in it rises all at once as a hit does".into()
                };
                text += &format!("  No hit was found: {why}.\n");
                return text;
            }
            let TakeSummary { strikes_used, strikes_rejected, profile, spread, .. } = &file.summary;
            text += &format!("  {strikes_used} strikes used, {strikes_rejected} rejected. Medians, with the scatter between strikes:\n");
            for ((name, value), (_, scatter)) in
                profile.figures().into_iter().zip(spread.figures()).filter(|((name, _), _)| *name != "buzz_s")
            {
                text += &format!("  {name:>16}  {} +- {}\n", figure(value, "", 3), figure(scatter, "", 3));
            }
            if let Some(far_off) = drum.zip(profile.body_hz).and_then(|(drum, hz)| drum.far_from_usual(hz)) {
                text += &format!("  {far_off}\n");
            }
            text
        }
    }
}

fn figure(value: Option<f64>, unit: &str, decimals: usize) -> String {
    value.map_or("-".into(), |value| format!("{value:.decimals$} {unit}").trim_end().to_string())
}
