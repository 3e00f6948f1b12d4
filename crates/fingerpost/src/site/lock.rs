//! The lock on a site's draft: one writer at a time.
//!
//! The operating system's lock on a file that is there only to be locked; it goes when the process
//! ends, however it ends. The file is removed with the folder when nothing else is kept in it.

use std::fs::{File, TryLockError};
use std::io;
use std::path::Path;
use std::time::{Duration, Instant};

use super::root::Root;
use super::store_error::StoreError;
use super::{SiteError, state};

pub(super) const LOCK_FILE: &str = "lock";

/// How long a writer waits for another one. A step of the draft takes milliseconds.
const PATIENCE: Duration = Duration::from_secs(10);

/// A lock that is held.
#[derive(Debug)]
pub(super) struct Lock {
    root: Root,
    _file: File,
}

impl Lock {
    /// Waits for the lock on the draft of the site at `root`.
    pub fn take(root: &Root) -> Result<Lock, SiteError> {
        let begun = Instant::now();
        loop {
            let path = state::folder(root)?.join(LOCK_FILE);
            let unwritable = |source| SiteError::from(StoreError::unwritable(&path)(source));
            match opened(root, &path) {
                Ok(Some(file)) => match file.try_lock() {
                    Ok(()) => {
                        // Not the lock of a file that its last holder removed.
                        if same_file(&file, &path) {
                            state::sweep(root);
                            return Ok(Lock {
                                root: root.clone(),
                                _file: file,
                            });
                        }
                    }
                    Err(TryLockError::WouldBlock) => {}
                    Err(TryLockError::Error(error)) => return Err(unwritable(error)),
                },
                // Another one has just removed the folder, or made the file.
                Ok(None) => {}
                Err(error) => return Err(error),
            }
            if begun.elapsed() > PATIENCE {
                return Err(SiteError::Locked { path });
            }
            std::thread::sleep(Duration::from_millis(5));
        }
    }
}

/// The file, opened or made; none where it came or went in between.
fn opened(root: &Root, path: &Path) -> Result<Option<File>, SiteError> {
    let mut options = File::options();
    match state::has(root, LOCK_FILE)? {
        true => options.append(true),
        false => options.append(true).create_new(true),
    };
    match root.fault().and_then(|()| options.open(path)) {
        Ok(file) => Ok(Some(file)),
        Err(error) => match error.kind() {
            io::ErrorKind::NotFound | io::ErrorKind::AlreadyExists => Ok(None),
            _ => Err(StoreError::unwritable(path)(error).into()),
        },
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
        // Still locked: no one can begin to keep something there in between.
        state::tidy(&self.root, LOCK_FILE);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The last holder of a lock removes the folder while others are making it.
    #[test]
    fn a_folder_that_comes_and_goes_is_waited_for() {
        let folder = tempfile::tempdir().unwrap();
        let root = Root::new(folder.path()).unwrap();
        std::thread::scope(|scope| {
            for _ in 0..4 {
                scope.spawn(|| {
                    for _ in 0..300 {
                        state::folder(&root).unwrap();
                        drop(Lock::take(&root).unwrap());
                    }
                });
            }
        });
    }
}
