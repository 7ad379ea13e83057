//! `soft-ember serve`: the web server on this machine.

use super::CommandError;
use crate::api::router;
use crate::connections;
use crate::housekeeping::keep_house;
use crate::state::AppState;
use clap::Args;
use directories::ProjectDirs;
use ember_store::{Contents, Store};
use std::net::Ipv4Addr;
use std::path::PathBuf;
use std::process::ExitCode;
use std::time::Duration;
use tokio::net::TcpListener;

/// Port tried first; an arbitrary choice that few programs make.
const PORT: u16 = 5480;
const PORTS_TRIED: u16 = 100;
/// What a listening session gets to keep its last strike when the server stops.
const PATIENCE: Duration = Duration::from_secs(2);
/// What threads that still compute get after that; then the program ends without them.
const LAST_PATIENCE: Duration = Duration::from_millis(500);

#[derive(Args)]
pub struct Serve {
    /// The data file [default: in this user's data folder]
    #[arg(long, value_name = "FILE")]
    data: Option<PathBuf>,
    /// Only looks at the data; nothing in the file is changed
    #[arg(long)]
    read_only: bool,
    #[command(flatten)]
    address: Address,
}

/// Where to answer.
#[derive(Args)]
pub struct Address {
    /// Port on 127.0.0.1 [default: 5480, or the next free one]
    #[arg(long)]
    port: Option<u16>,
}

impl Serve {
    pub fn run(self) -> Result<ExitCode, CommandError> {
        let path = match self.data {
            Some(path) => path,
            None => data_folder()?.join("ember.sqlite"),
        };
        let mut state = AppState::open(&path, self.read_only)?;
        state.demo = Store::contents(&path).is_ok_and(|contents| contents == Contents::Demonstration);
        eprintln!("Data: {}", path.display());
        self.address.serve(state)
    }
}

/// Where this user's data lives.
pub fn data_folder() -> Result<PathBuf, CommandError> {
    ProjectDirs::from("", "", "soft-ember").map(|folders| folders.data_dir().to_path_buf()).ok_or(CommandError::NoHome)
}

impl Address {
    /// Serves until Ctrl+C (or the system's request to end).
    pub fn serve(self, state: AppState) -> Result<ExitCode, CommandError> {
        let runtime = tokio::runtime::Runtime::new().map_err(CommandError::Start)?;
        let done = runtime.block_on(async {
            let listener = self.bind().await?;
            let address = listener.local_addr().map_err(CommandError::NoAddress)?;
            state.with_store(|store| store.answers_at(&format!("http://{address}")));
            println!("Soft Ember is at http://{address} - stop it with Ctrl+C.");
            let house = state.path.clone().filter(|_| !state.with_store(|store| store.is_read_only()));
            let house = house.map(|path| tokio::spawn(keep_house(state.clone(), path)));
            let closing = state.clone();
            let stop = async move {
                asked_to_stop().await;
                closing.ears.close();
                closing.computing.close();
                closing.sessions.close();
            };
            connections::serve(listener, router(state.clone()), stop).await;
            if let Some(house) = house {
                house.abort();
            }
            if tokio::time::timeout(PATIENCE, state.sessions.wait()).await.is_err() {
                tracing::warn!("a listening session did not end in time");
            }
            Ok(ExitCode::SUCCESS)
        });
        runtime.shutdown_timeout(LAST_PATIENCE);
        done
    }

    async fn bind(&self) -> Result<TcpListener, CommandError> {
        let bind = |port| TcpListener::bind((Ipv4Addr::LOCALHOST, port));
        if let Some(port) = self.port {
            return bind(port).await.map_err(|error| CommandError::Port { port, error });
        }
        for port in PORT..PORT + PORTS_TRIED {
            if let Ok(listener) = bind(port).await {
                return Ok(listener);
            }
        }
        Err(CommandError::NoPort { first: PORT, last: PORT + PORTS_TRIED - 1 })
    }
}

async fn asked_to_stop() {
    let interrupt = tokio::signal::ctrl_c();
    #[cfg(unix)]
    {
        use tokio::signal::unix::{SignalKind, signal};
        if let Ok(mut terminate) = signal(SignalKind::terminate()) {
            tokio::select! {
                _ = interrupt => {}
                _ = terminate.recv() => {}
            }
            return;
        }
    }
    // Without a way to be asked, it runs until it is killed.
    if interrupt.await.is_err() {
        std::future::pending::<()>().await;
    }
}
