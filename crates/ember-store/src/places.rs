//! Files beside the data file: their names, who may read them, and what goes wrong with them in words.

use crate::StoreError;
use std::fs::OpenOptions;
use std::path::{Path, PathBuf};

/// `path` with `ending` behind its name.
pub(crate) fn beside(path: &Path, ending: &str) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(ending);
    name.into()
}

pub(crate) fn io(path: &Path) -> impl Fn(std::io::Error) -> StoreError {
    move |error| match error.kind() {
        std::io::ErrorKind::StorageFull => StoreError::Full,
        _ => StoreError::File { path: path.to_path_buf(), error },
    }
}

/// Opens or makes files that only this user may read.
pub(crate) fn private() -> OpenOptions {
    let mut options = OpenOptions::new();
    options.write(true).create(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::OpenOptionsExt;
        options.mode(0o600);
    }
    options
}

pub(crate) fn make_private(path: &Path) {
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        // A file system without permissions keeps nobody out, and that is no reason not to work.
        let _ = std::fs::set_permissions(path, std::fs::Permissions::from_mode(0o600));
    }
    #[cfg(not(unix))]
    let _ = path;
}
