//! The `soft-ember` command.

mod demo;
mod error;
mod measure;
mod microphones;
mod serve;
mod simulate;

pub use demo::make_demo;
pub use error::CommandError;

use clap::Subcommand;
use std::io::Write;
use std::process::ExitCode;

/// What `soft-ember` is asked to do.
#[derive(Subcommand)]
pub enum Command {
    /// Starts with a demonstration kit, made on the first start.
    Demo(demo::Demo),
    /// Starts with your own kit.
    Serve(serve::Serve),
    /// Measures the strikes in sound files.
    Measure(measure::Measure),
    /// Checks the microphones of a soundcheck against each other.
    Microphones(microphones::Microphones),
    /// Plays the simulated drum into a WAV file.
    Simulate(simulate::Simulate),
    /// Prints the OpenAPI document.
    Openapi,
}

impl Command {
    /// Does it.
    pub fn run(self) -> Result<ExitCode, CommandError> {
        match self {
            Self::Demo(demo) => demo.run(),
            Self::Serve(serve) => serve.run(),
            Self::Measure(measure) => measure.run(),
            Self::Microphones(microphones) => microphones.run(),
            Self::Simulate(simulate) => simulate.run(),
            Self::Openapi => {
                print!("{}", crate::api::openapi());
                Ok(ExitCode::SUCCESS)
            }
        }
    }
}

/// Prints `text`. Who reads may have had enough of it: that is no error.
fn write_out(text: &str) -> Result<(), CommandError> {
    let mut out = std::io::stdout().lock();
    match out.write_all(text.as_bytes()).and_then(|()| out.flush()) {
        Err(error) if error.kind() != std::io::ErrorKind::BrokenPipe => Err(CommandError::Print(error)),
        _ => Ok(()),
    }
}
