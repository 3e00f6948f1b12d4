//! The lock on a site's draft: one writer at a time.
//!
//! The operating system's lock on a file that is there only to be locked; it goes when the process
//! ends, however it ends. The file is removed with the folder when nothing else is kept in it.

use std::fs::{File, TryLockError};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use super::{SiteError, StoreError, keep};

const LOCK_FILE: &str = "lock";

/// How long a writer waits for another one. A step of the draft takes milliseconds.
const PATIENCE: Duration = Duration::from_secs(10);

/// A lock that is held.
#[derive(Debug)]
pub(super) struct Lock {
    root: PathBuf,
    _file: File,
}

impl Lock {
    /// Waits for the lock on the draft of the site at `root`.
    pub fn take(root: &Path) -> Result<Lock, SiteError> {
        let begun = Instant::now();
        loop {
            let folder = keep::state_folder(root)?;
            let path = folder.join(LOCK_FILE);
            let unwritable = |source| {
                SiteError::Store(StoreError::Unwritable {
                    path: path.clone(),
                    source,
                })
            };
            let file = match File::options().create(true).append(true).open(&path) {
                Ok(file) => file,
                // Another one has just removed the folder.
                Err(error) if error.kind() == std::io::ErrorKind::NotFound => continue,
                Err(error) => return Err(unwritable(error)),
            };
            match file.try_lock() {
                Ok(()) => {
                    // Not the lock of a file that its last holder removed.
                    if same_file(&file, &path) {
                        return Ok(Lock {
                            root: root.to_owned(),
                            _file: file,
                        });
                    }
                }
                Err(TryLockError::WouldBlock) => {
                    if begun.elapsed() > PATIENCE {
                        return Err(SiteError::Locked { path });
                    }
                    std::thread::sleep(Duration::from_millis(5));
                }
                Err(TryLockError::Error(error)) => return Err(unwritable(error)),
            }
        }
    }
}

fn same_file(file: &File, path: &Path) -> bool {
    let handle = file.try_clone().and_then(same_file::Handle::from_file);
    match (handle, same_file::Handle::from_path(path)) {
        (Ok(mine), Ok(there)) => mine == there,
        _ => false,
    }
}

impl Drop for Lock {
    fn drop(&mut self) {
        // Still locked: nobody can begin to keep something there in between.
        keep::tidy(&self.root, LOCK_FILE);
    }
}
