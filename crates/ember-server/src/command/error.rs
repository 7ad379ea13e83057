//! Why a command failed, in a sentence for the person who typed it.

use crate::state::CannotOpen;
use ember_app::sound::{NoLabel, SoundError};
use ember_core::damping::InvalidPlacement;
use ember_core::drum::UnknownFront;
use ember_store::StoreError;
use std::io;
use std::path::PathBuf;

/// Why a command failed.
#[derive(Debug, thiserror::Error)]
pub enum CommandError {
    /// The data.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// Opening the data.
    #[error(transparent)]
    Open(#[from] CannotOpen),
    /// Sound that should be written.
    #[error(transparent)]
    Sound(#[from] SoundError),
    /// Things that cannot lie so.
    #[error(transparent)]
    Placement(#[from] InvalidPlacement),
    /// What is told to close a drum's other end.
    #[error(transparent)]
    Front(#[from] UnknownFront),
    /// A folder could not be made.
    #[error("The folder {} cannot be made: {error}.", .path.display())]
    Folder {
        /// Where it should be.
        path: PathBuf,
        /// What the system says.
        error: io::Error,
    },
    /// A file could not be written.
    #[error("{} cannot be written: {error}.", .path.display())]
    Unwritable {
        /// Where it should be.
        path: PathBuf,
        /// What the system says.
        error: io::Error,
    },
    /// A file could not be read.
    #[error("{} cannot be read: {error}.", .path.display())]
    Unreadable {
        /// Where it is.
        path: PathBuf,
        /// What the system says.
        error: io::Error,
    },
    /// A file could not be removed.
    #[error("{} cannot be removed: {error}.", .path.display())]
    Unremovable {
        /// Where it is.
        path: PathBuf,
        /// What the system says.
        error: io::Error,
    },
    /// A label track has a line that is no label.
    #[error("{}: {error}", .path.display())]
    Labels {
        /// Where it is.
        path: PathBuf,
        /// Which line.
        error: NoLabel,
    },
    /// A label track for several files.
    #[error("A label track belongs to one sound file: name only that one.")]
    LabelsOfSeveral,
    /// The result cannot be said as JSON.
    #[error("The result cannot be written as JSON: {0}.")]
    Json(serde_json::Error),
    /// The result cannot be printed.
    #[error("The result cannot be written: {0}.")]
    Print(io::Error),
    /// The demonstration would take the place of somebody's own kit.
    #[error("{} holds a kit of your own, not the demonstration. Start it with \"serve --data\", or choose another file.", .0.display())]
    OwnKit(PathBuf),
    /// What the demonstration is made of cannot be read.
    #[error("The demonstration's files are damaged: {0}.")]
    DemoDamaged(serde_json::Error),
    /// The demonstration speaks of what it does not have.
    #[error("The demonstration names a {what} \"{name}\" that it does not have.")]
    DemoUnnamed {
        /// What it is.
        what: &'static str,
        /// Its name.
        name: String,
    },
    /// Not all of the demonstration's strikes were heard.
    #[error("Of the {struck} strikes on the demonstration’s {name}, {heard} were heard.")]
    DemoUnheard {
        /// The drum.
        name: String,
        /// Strikes played.
        struck: usize,
        /// Strikes found.
        heard: usize,
    },
    /// A drum of the demonstration is treated too early.
    #[error("The demonstration treats the {0} before it was struck.")]
    DemoNotStruck(String),
    /// A drum of the demonstration has no clear body.
    #[error("The {0} has no clear body.")]
    DemoNoBody(String),
    /// There is no usual place for the data.
    #[error("This user has no home folder; say where the data is with --data FILE.")]
    NoHome,
    /// The server has no threads.
    #[error("The server cannot start: {0}.")]
    Start(io::Error),
    /// The server does not know where it answers.
    #[error("The server has no address: {0}.")]
    NoAddress(io::Error),
    /// The port that was asked for is taken.
    #[error("Port {port} cannot be used: {error}. Choose another one, or leave --port out.")]
    Port {
        /// Which one.
        port: u16,
        /// What the system says.
        error: io::Error,
    },
    /// All usual ports are taken.
    #[error("None of the ports {first} to {last} is free. Choose one with --port.")]
    NoPort {
        /// The first that was tried.
        first: u16,
        /// The last.
        last: u16,
    },
}
