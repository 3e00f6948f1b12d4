//! Why a file was not written.

use std::io;
use std::path::{Path, PathBuf};

use thiserror::Error;

use crate::text::plain_io;

/// Why a file was not written.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum StoreError {
    /// The file is not what was read.
    #[error("{}: changed on disk since it was read; nothing was written. Ask again, then save", .path.display())]
    Changed {
        /// The file.
        path: PathBuf,
    },
    /// Another program saved the file during the save.
    #[error("{}: another program saved it during the save; nothing was written. Ask again, then save", .path.display())]
    ChangedMeanwhile {
        /// The file.
        path: PathBuf,
    },
    /// The file can't be read or written.
    #[error("{}: can't be written: {}; it was not changed", .path.display(), plain_io(.source))]
    Unwritable {
        /// The file.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
}

impl StoreError {
    pub(super) fn unwritable(path: &Path) -> impl Fn(io::Error) -> StoreError {
        let path = path.to_owned();
        move |source| StoreError::Unwritable {
            path: path.clone(),
            source,
        }
    }
}
