//! The data file: whose it is, who works with it, and how it is opened. Nothing is written before it is known to be Soft Ember's.

use crate::copies::{self, Reason};
use crate::places::{beside, io, make_private, private};
use crate::schema::{DEMO_ID, OWN_ID, known_version, migrations};
use crate::{Refused, Store, StoreError, salvage};
use fs4::FileExt;
use rusqlite::{Connection, OpenFlags, TransactionBehavior};
use std::cell::RefCell;
use std::fs::{File, OpenOptions, TryLockError};
use std::io::{Read, Write};
use std::path::Path;
use std::time::Duration;

/// Largest write-ahead log that is left lying, bytes.
const LOG_BYTES: i64 = 16 << 20;
/// Up to this size a file is checked whole before it is used; larger ones are checked while they are, bytes.
const CHECKED_AT_ONCE: u64 = 48 << 20;
/// Set aside for removing when the disk is full, bytes.
const RESERVE_BYTES: u64 = 4 << 20;

/// What a file holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Contents {
    /// Nothing yet.
    Nothing,
    /// A kit of the user's own, or one from before that was marked.
    Own,
    /// The demonstration.
    Demonstration,
}

/// The lock on a data file; given back when it is dropped, or with the program.
pub(crate) struct Lock(File);

impl Lock {
    /// The lock on the file at `path`, or who has it.
    fn take(path: &Path) -> Result<Self, StoreError> {
        let name = beside(path, ".lock");
        let file = private().read(true).truncate(false).open(&name).map_err(io(&name))?;
        match file.try_lock() {
            Ok(()) => Ok(Self(file)),
            Err(TryLockError::WouldBlock) => {
                let mut address = String::new();
                // Who has it may be about to write its address; then it goes without saying.
                let _ = (&file).take(200).read_to_string(&mut address);
                Err(StoreError::InUse { address: Some(address.trim().to_string()).filter(|address| !address.is_empty()) })
            }
            Err(TryLockError::Error(error)) => Err(io(&name)(error)),
        }
    }

    /// Lets others know where this program answers.
    fn tell(&mut self, address: &str) -> std::io::Result<()> {
        use std::io::{Seek, SeekFrom};
        self.0.set_len(0)?;
        self.0.seek(SeekFrom::Start(0))?;
        self.0.write_all(address.as_bytes())
    }
}

fn number(connection: &Connection, pragma: &str) -> Result<i64, StoreError> {
    Ok(connection.pragma_query_value(None, pragma, |row| row.get(0))?)
}

/// Whose database it is, by its mark, or by its tables where it is from before there was one.
fn contents(connection: &Connection, path: &Path) -> Result<Contents, StoreError> {
    let (id, version) = (number(connection, "application_id")?, number(connection, "user_version")?);
    let tables: i64 = connection.query_row("SELECT count(*) FROM sqlite_schema", [], |row| row.get(0))?;
    let own: i64 = connection.query_row(
        "SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name IN ('drum', 'take', 'strike', 'treatment')",
        [],
        |row| row.get(0),
    )?;
    let known = known_version();
    match (id, own) {
        // The very tables of this version under another number: the number has gone bad.
        (_, 4) if version != known && same_tables(connection)? => Err(StoreError::Corrupt),
        (DEMO_ID | OWN_ID, _) | (0, 4) if version > known => Err(StoreError::Newer { path: path.into(), found: version, known }),
        (DEMO_ID, _) => Ok(Contents::Demonstration),
        (OWN_ID, _) => Ok(Contents::Own),
        // From before there was a mark, or the mark itself has gone bad.
        (_, 4) if version > 0 => Ok(Contents::Own),
        (0, _) if tables == 0 && version == 0 => Ok(Contents::Nothing),
        _ => Err(StoreError::Foreign(path.into())),
    }
}

/// Whether the tables are those of this version, to the letter.
fn same_tables(connection: &Connection) -> Result<bool, StoreError> {
    let tables = |connection: &Connection| -> Result<Vec<String>, StoreError> {
        let mut statement = connection.prepare("SELECT sql FROM sqlite_schema WHERE type = 'table' ORDER BY name")?;
        Ok(statement.query_map([], |row| row.get(0))?.collect::<Result<_, _>>()?)
    };
    Ok(tables(connection)? == tables(&Store::in_memory()?.connection)?)
}

/// Whether the file can be written, its folder included: the write-ahead log lies there.
fn writable(path: &Path) -> bool {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let probe = beside(path, ".probe");
    let in_folder = match File::create(&probe) {
        Ok(_) => std::fs::remove_file(&probe).is_ok(),
        // On a full disk an empty file can still be told from a forbidden one.
        Err(error) => error.kind() == std::io::ErrorKind::StorageFull,
    };
    in_folder && folder.exists() && (!path.exists() || OpenOptions::new().append(true).open(path).is_ok())
}

impl Store {
    /// What the file at `path` holds, without changing it.
    pub fn contents(path: &Path) -> Result<Contents, StoreError> {
        match std::fs::metadata(path) {
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(Contents::Nothing),
            Err(error) => Err(io(path)(error)),
            Ok(about) if about.len() == 0 => Ok(Contents::Nothing),
            Ok(_) => contents(&Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY)?, path),
        }
    }

    /// Opens the file at `path`, making or bringing it up to date as needed, as the only program that works with it. A file that cannot be
    /// written is opened for reading only.
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        if path.exists() && !writable(path) {
            return Self::open_read_only(path);
        }
        let lock = Lock::take(path)?;
        let salvaged = salvage::if_needed(path, || sound(path))?;
        let kind = Self::contents(path)?;
        if kind != Contents::Nothing {
            Self::copy_before_update(path)?;
        }
        private().truncate(false).open(path).map_err(io(path))?;
        make_private(path);
        let connection = Connection::open(path)?;
        connection.busy_timeout(Duration::from_secs(5))?;
        if kind == Contents::Nothing {
            // Only a file without tables takes this: what is freed can then be given back a piece at a time.
            connection.pragma_update(None, "auto_vacuum", "INCREMENTAL")?;
            connection.pragma_update(None, "application_id", OWN_ID)?;
        } else if number(&connection, "application_id")? == 0 {
            connection.pragma_update(None, "application_id", OWN_ID)?;
        }
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "journal_size_limit", LOG_BYTES)?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        let mut store = Self::prepare(connection)?;
        (store.path, store.lock, store.salvaged) = (Some(path.to_path_buf()), Some(lock), salvaged);
        store.set_reserve_aside();
        Ok(store)
    }

    /// Opens the file at `path` for reading only; writing is refused with a sentence.
    pub fn open_read_only(path: &Path) -> Result<Self, StoreError> {
        if let Contents::Nothing = Self::contents_read_only(path)? {
            return Err(StoreError::NotData(path.into()));
        }
        let connection = read_only(path)?;
        let found = number(&connection, "user_version")?;
        if found < known_version() {
            return Err(Refused::OldAndReadOnly(path.into()).into());
        }
        Ok(Self { read_only: true, path: Some(path.to_path_buf()), ..Self::around(connection) })
    }

    fn contents_read_only(path: &Path) -> Result<Contents, StoreError> {
        contents(&read_only(path)?, path)
    }

    /// A store that is gone when it is closed, for tests.
    pub fn in_memory() -> Result<Self, StoreError> {
        Self::prepare(Connection::open_in_memory()?)
    }

    fn prepare(mut connection: Connection) -> Result<Self, StoreError> {
        connection.set_transaction_behavior(TransactionBehavior::Immediate);
        // Tables that are made anew must not take with them what refers to them.
        connection.pragma_update(None, "foreign_keys", false)?;
        migrations().to_latest(&mut connection)?;
        connection.pragma_update(None, "foreign_keys", true)?;
        Ok(Self::around(connection))
    }

    fn around(connection: Connection) -> Self {
        Self {
            connection,
            path: None,
            lock: None,
            read_only: false,
            salvaged: None,
            damaged: RefCell::default(),
            tests: RefCell::default(),
        }
    }

    fn copy_before_update(path: &Path) -> Result<(), StoreError> {
        let version = number(&Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY)?, "user_version")?;
        if version < known_version() {
            copies::make(path, Reason::BeforeUpdate)?;
        }
        Ok(())
    }

    /// Marks the data as the demonstration.
    pub fn mark_as_demonstration(&mut self) -> Result<(), StoreError> {
        Ok(self.connection.pragma_update(None, "application_id", DEMO_ID)?)
    }

    /// Lets a second program on the same data say where this one answers.
    pub fn answers_at(&mut self, address: &str) {
        if let Some(lock) = &mut self.lock {
            // Who comes second is told a little less then.
            let _ = lock.tell(address);
        }
    }

    /// Whether it can only be read.
    pub fn is_read_only(&self) -> bool {
        self.read_only
    }

    /// Keeps a few megabytes, so that something can be removed when the disk is full.
    pub(crate) fn set_reserve_aside(&self) {
        let Some(path) = &self.path else { return };
        let name = beside(path, ".reserve");
        if std::fs::metadata(&name).is_ok_and(|about| about.len() == RESERVE_BYTES) {
            return;
        }
        let filled = private().truncate(true).open(&name).and_then(|file| FileExt::allocate(&file, RESERVE_BYTES));
        if filled.is_err() {
            let _ = std::fs::remove_file(&name);
        }
    }

    /// Does `work`; where the disk is full, once more with the reserve given up.
    pub(crate) fn even_on_a_full_disk<T>(&mut self, mut work: impl FnMut(&mut Self) -> Result<T, StoreError>) -> Result<T, StoreError> {
        match (work(self), self.path.clone()) {
            (Err(StoreError::Full), Some(path)) => {
                let _ = std::fs::remove_file(beside(&path, ".reserve"));
                let done = work(self);
                // What was freed goes back to the disk first, then the reserve is filled again.
                self.give_back()?;
                self.set_reserve_aside();
                done
            }
            (done, _) => done,
        }
    }
}

/// A connection that changes nothing, not even beside the file where no log lies there.
fn read_only(path: &Path) -> Result<Connection, StoreError> {
    let has_log = std::fs::metadata(beside(path, "-wal")).is_ok_and(|about| about.len() > 0);
    if has_log {
        return Ok(Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY)?);
    }
    let escaped: String = path.display().to_string().replace('%', "%25").replace('?', "%3f").replace('#', "%23");
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_URI;
    Ok(Connection::open_with_flags(format!("file:{escaped}?immutable=1"), flags)?)
}

/// Whether what SQLite sees of the file is sound. Large ones are checked later, unless that found a fault before.
fn sound(path: &Path) -> Result<bool, StoreError> {
    let size = std::fs::metadata(path).map_err(io(path))?.len();
    let mark = beside(path, ".damaged");
    if mark.exists() {
        let _ = std::fs::remove_file(&mark);
        return Ok(false);
    }
    if size > CHECKED_AT_ONCE {
        return match Store::contents(path) {
            Err(StoreError::Corrupt) => Ok(false),
            other => other.map(|_| true),
        };
    }
    check(path)
}

/// Checks the whole file; takes about a second for each gigabyte.
pub(crate) fn check(path: &Path) -> Result<bool, StoreError> {
    let checked = || -> Result<bool, StoreError> {
        let connection = Connection::open(path)?;
        connection.busy_timeout(Duration::from_secs(5))?;
        contents(&connection, path)?;
        Ok(connection.query_row("PRAGMA integrity_check(1)", [], |row| row.get::<_, String>(0))? == "ok")
    };
    match checked() {
        Err(StoreError::Corrupt) => Ok(false),
        other => other,
    }
}

/// Notes that the file is damaged, so that it is mended at the next start.
pub(crate) fn mark_damaged(path: &Path) -> Result<(), StoreError> {
    let mark = beside(path, ".damaged");
    private().truncate(true).open(&mark).map(|_| ()).map_err(io(&mark))
}
