//! `soft-ember microphones`: whether the microphones of a soundcheck add up.

use super::{CommandError, write_out};
use clap::Args;
use ember_app::microphones::{MicrophonesChecked, NoMicrophones, check_microphones, named};
use ember_app::session::{SessionHeard, hear_session};
use ember_app::sound::ReadProgress;
use ember_core::microphones::Polarity;
use ember_words::{Language, said_in};
use serde::Serialize;
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
    /// Measures each drum too, from a kit that is played
    #[arg(long)]
    drums: bool,
    /// Prints everything as JSON
    #[arg(long)]
    json: bool,
}

/// What is told.
#[derive(Serialize)]
struct Told {
    #[serde(flatten)]
    microphones: MicrophonesChecked,
    #[serde(skip_serializing_if = "Option::is_none")]
    session: Option<SessionHeard>,
}

impl Microphones {
    /// Checks the file and tells it in the system's language.
    pub fn run(self) -> Result<ExitCode, CommandError> {
        let name = self.file.display().to_string();
        let language = std::env::var("LANG").ok().and_then(|tag| Language::of_tag(&tag)).unwrap_or_default();
        let found = match self.found(&name) {
            Ok(found) => found,
            Err(error) => {
                eprintln!("{}", said_in(language, || format!("{name}: {error}")));
                return Ok(ExitCode::FAILURE);
            }
        };
        let text =
            said_in(language, || if self.json { serde_json::to_string_pretty(&found).map(|json| json + "\n") } else { Ok(told(&found)) });
        let text = text.map_err(CommandError::Json)?;
        write_out(&text)?;
        Ok(ExitCode::SUCCESS)
    }

    fn found(&self, name: &str) -> Result<Told, NoMicrophones> {
        let microphones = check_microphones(&self.file, name, Some(&self.names))?;
        let roles = named(&self.names)?;
        let session = self.drums.then(|| hear_session(&self.file, name, &roles, None, &ReadProgress::default())).transpose()?;
        Ok(Told { microphones, session })
    }
}

fn told(found: &Told) -> String {
    let checked = &found.microphones;
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
    for drum in found.session.iter().flat_map(|session| &session.drums) {
        line(drum.sentence.to_string());
        for tone in &drum.tone {
            line(format!("  {} {}", tone.channel, tone.name));
            tone.settings.iter().for_each(|knob| line(format!("    {}. {}", knob.says, knob.setting.why)));
        }
    }
    text
}
