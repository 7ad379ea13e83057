//! `soft-ember microphones`: whether the microphones of a soundcheck add up.

use super::{CommandError, write_out};
use clap::Args;
use ember_app::microphones::{MicrophonesChecked, check_microphones};
use ember_core::microphones::Polarity;
use ember_words::{Language, said_in};
use std::fmt::Write as _;
use std::path::PathBuf;
use std::process::ExitCode;

/// Holds the microphones of a file with one channel each against each other: polarity, arrival, and what their sums gain or lose
#[derive(Args)]
pub struct Microphones {
    /// A file with one channel a microphone, in which each drum is hit a few times by itself
    #[arg(value_name = "FILE")]
    file: PathBuf,
    /// What each channel is, in the file's order, with commas between: "kick in, kick out, snare top, snare bottom, tom, overhead left, overhead right";
    /// "-" for a channel that is none of them
    #[arg(long, required = true, value_delimiter = ',', value_name = "NAMES")]
    names: Vec<String>,
    /// Prints everything as JSON
    #[arg(long)]
    json: bool,
}

impl Microphones {
    /// Checks the file and tells it in the system's language.
    pub fn run(self) -> Result<ExitCode, CommandError> {
        let name = self.file.display().to_string();
        let language = std::env::var("LANG").ok().and_then(|tag| Language::of_tag(&tag)).unwrap_or_default();
        let checked = match check_microphones(&self.file, &name, Some(&self.names)) {
            Ok(checked) => checked,
            Err(error) => {
                eprintln!("{}", said_in(language, || format!("{name}: {error}")));
                return Ok(ExitCode::FAILURE);
            }
        };
        let text =
            said_in(
                language,
                || if self.json { serde_json::to_string_pretty(&checked).map(|json| json + "\n") } else { Ok(told(&checked)) },
            );
        let text = text.map_err(CommandError::Json)?;
        write_out(&text)?;
        Ok(ExitCode::SUCCESS)
    }
}

fn told(checked: &MicrophonesChecked) -> String {
    let mut text = String::new();
    let mut line = |words: String| {
        // Writing into a string cannot fail.
        let _ = writeln!(text, "{words}");
    };
    checked.notes.iter().for_each(|note| line(note.to_string()));
    for channel in checked.channels.iter().filter(|channel| !channel.notes.is_empty()) {
        channel.notes.iter().for_each(|note| line(format!("{} {}: {note}", channel.channel, channel.name)));
    }
    for found in &checked.pairs {
        line(format!("{} {} + {} {}", found.channels[0], found.names[0], found.channels[1], found.names[1]));
        line(format!("  {}", found.pair.sentence));
        if let (Some(polarity), Some(later_s), Some(farther_m)) = (found.pair.polarity, found.pair.later_s, found.pair.farther_m) {
            let sign = if polarity == Polarity::Same { '+' } else { '-' };
            line(format!("  {sign}  {:+.2} ms  {:+.0} cm", 1000.0 * later_s, 100.0 * farther_m));
            let octaves = found.pair.sums.iter().map(|sum| format!("{:.0} Hz {:+.0} dB", sum.hz, sum.as_is_db)).collect::<Vec<_>>();
            line(format!("  {}", octaves.join(", ")));
        }
    }
    checked.snare_in_overheads.iter().for_each(|snare| line(snare.sentence.to_string()));
    text
}
