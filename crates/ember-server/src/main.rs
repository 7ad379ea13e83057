//! The `soft-ember` command.

use clap::Parser;
use ember_server::command::Command;
use std::process::ExitCode;

/// Hit each drum a few times; hear how long it rings, what the music leaves room for, and what brings it there.
#[derive(Parser)]
#[command(name = "soft-ember", version)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_env_filter(tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "warn".into()))
        .with_writer(std::io::stderr)
        .init();
    match Arguments::parse().command.run() {
        Ok(code) => code,
        Err(message) => {
            eprintln!("soft-ember: {message}");
            ExitCode::FAILURE
        }
    }
}
