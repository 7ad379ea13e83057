//! `soft-ember measure`: strikes in sound files, as JSON or for reading.

use crate::sound::{ReadProgress, measure_file};
use clap::Args;
use ember_core::decay::{HeardBy, StrikeMeasurement, TakeSummary, mark_ghosts, summarize};
use serde::Serialize;
use serde_json::Value;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

#[derive(Args)]
pub struct Measure {
    /// WAV, FLAC, AIFF, Ogg Vorbis or MP3
    #[arg(required = true, value_name = "FILE")]
    files: Vec<PathBuf>,
    /// The strikes are on a cymbal or hi-hat: they are measured by octaves
    #[arg(long)]
    cymbal: bool,
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
    Unreadable { path: String, error: String },
}

#[derive(Serialize)]
struct Measured {
    path: String,
    sample_rate_hz: u32,
    channels: usize,
    duration_s: f64,
    strikes: Vec<StrikeMeasurement>,
    summary: TakeSummary,
}

impl Measure {
    pub fn run(self) -> Result<ExitCode, String> {
        let files: Vec<Entry> =
            self.files.iter().map(|path| entry(path, if self.cymbal { HeardBy::Octaves } else { HeardBy::Partials })).collect();
        let failed = files.iter().any(|entry| matches!(entry, Entry::Unreadable { .. }));
        let report = Report { files };
        if self.json {
            let failed = |error: serde_json::Error| format!("The result cannot be written as JSON: {error}.");
            let text = serde_json::to_string_pretty(&agreed(serde_json::to_value(&report).map_err(failed)?)).map_err(failed)?;
            println!("{text}");
        } else {
            report.files.iter().for_each(print);
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
                without(strike, &["remarks", "dynamic", "ending", "method", "heard_by"]);
                without(&mut strike["broadband"], &["range_db"]);
            }
        }
        if let Some(summary) = file.get_mut("summary") {
            without(summary, &["remarks", "dynamics"]);
        }
    }
    report
}

fn entry(path: &Path, heard_by: HeardBy) -> Entry {
    let shown = path.display().to_string();
    match measure_file(path, &shown, heard_by, f64::INFINITY, usize::MAX, &ReadProgress::default(), |strike| strike.measurement) {
        Err(error) => Entry::Unreadable { path: shown, error: error.to_string() },
        Ok(heard) => {
            let mut strikes = heard.strikes;
            mark_ghosts(&mut strikes);
            // What is printed is agreed; the level is there for holding a measured band against, the buzz for tuning wires, and neither
            // is done here.
            for strike in &mut strikes {
                (strike.partial_dbfs, strike.profile.buzz_s) = (None, None);
            }
            Entry::Measured(Box::new(Measured {
                path: shown,
                sample_rate_hz: heard.facts.sample_rate,
                channels: heard.facts.channels,
                duration_s: heard.facts.duration_s,
                summary: summarize(&strikes),
                strikes,
            }))
        }
    }
}

fn print(entry: &Entry) {
    match entry {
        Entry::Unreadable { path, error } => println!("{path}\n  {error}"),
        Entry::Measured(file) => {
            println!("{}\n  {:.2} s, {} Hz, channels: {}", file.path, file.duration_s, file.sample_rate_hz, file.channels);
            for strike in &file.strikes {
                let warnings: Vec<&str> = strike.warnings.iter().map(|warning| warning.advice()).collect();
                let profile = &strike.profile;
                println!(
                    "  {:>7.2} s  body {} {}  ring {} {}  {}",
                    strike.onset_s,
                    figure(profile.body_hz, "Hz", 1),
                    figure(profile.body_t60_s, "s", 2),
                    figure(profile.ring_hz, "Hz", 1),
                    figure(profile.ring_t60_s, "s", 2),
                    warnings.join(" ")
                );
            }
            let TakeSummary { strikes_used, strikes_rejected, profile, spread, .. } = &file.summary;
            println!("  {strikes_used} strikes used, {strikes_rejected} rejected. Medians, with the scatter between strikes:");
            for ((name, value), (_, scatter)) in
                profile.figures().into_iter().zip(spread.figures()).filter(|((name, _), _)| *name != "buzz_s")
            {
                println!("  {name:>16}  {} +- {}", figure(value, "", 3), figure(scatter, "", 3));
            }
        }
    }
}

fn figure(value: Option<f64>, unit: &str, decimals: usize) -> String {
    value.map_or("-".into(), |value| format!("{value:.decimals$} {unit}").trim_end().to_string())
}
