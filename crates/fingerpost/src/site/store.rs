//! Writing files so that each is wholly the old one or wholly the new one.

use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;
use thiserror::Error;

use super::DRAFT_FILE;
use crate::edit::Draft;

/// Why a file was not written.
#[derive(Debug, Error)]
pub enum StoreError {
    /// The file is not what was read.
    #[error("{}: changed on disk since it was read; nothing was written. Ask again, then save", .path.display())]
    Changed {
        /// The file.
        path: PathBuf,
    },
    /// The file can't be read or written.
    #[error("{}: can't be written: {source}; nothing of it was changed", .path.display())]
    Unwritable {
        /// The file.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
}

/// Replaces a file whose bytes are `before` by `after`: a new file beside it, flushed, with the old
/// one's permissions, takes its place in one step. A symbolic link stays one; the file it points to
/// is replaced.
pub(super) fn replace(path: &Path, before: &[u8], after: &[u8]) -> Result<(), StoreError> {
    let unwritable = |source| StoreError::Unwritable {
        path: path.to_owned(),
        source,
    };
    let real = path.canonicalize().map_err(unwritable)?;
    let present = fs::read(&real).map_err(unwritable)?;
    if present != before {
        return Err(StoreError::Changed {
            path: path.to_owned(),
        });
    }
    let permissions = fs::metadata(&real).map_err(unwritable)?.permissions();
    if permissions.readonly() {
        return Err(unwritable(std::io::Error::new(
            std::io::ErrorKind::PermissionDenied,
            "the file is read-only",
        )));
    }
    write_beside(&real, after, Some(permissions)).map_err(unwritable)
}

fn write_beside(
    path: &Path,
    bytes: &[u8],
    permissions: Option<fs::Permissions>,
) -> Result<(), std::io::Error> {
    let folder = path.parent().unwrap_or(Path::new("."));
    let mut file = NamedTempFile::new_in(folder)?;
    file.write_all(bytes)?;
    if let Some(permissions) = permissions {
        file.as_file().set_permissions(permissions)?;
    }
    file.as_file().sync_all()?;
    file.persist(path).map_err(|e| e.error)?;
    // So that the new name is on disk too. Not every system can sync a folder; the file is whole
    // either way.
    if let Ok(folder) = fs::File::open(folder) {
        let _ = folder.sync_all();
    }
    Ok(())
}

/// Writes the draft file.
pub(super) fn write_draft(root: &Path, draft: &Draft) -> Result<(), StoreError> {
    let path = root.join(DRAFT_FILE);
    let written = (|| {
        if let Some(folder) = path.parent() {
            fs::create_dir_all(folder)?;
        }
        write_beside(&path, draft.to_json().as_bytes(), None)
    })();
    written.map_err(|source| StoreError::Unwritable { path, source })
}

/// Removes the draft file, and its folder when nothing else is in it.
pub(super) fn remove_draft(root: &Path) -> Result<(), StoreError> {
    let path = root.join(DRAFT_FILE);
    match fs::remove_file(&path) {
        Ok(()) => {}
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => {}
        Err(source) => return Err(StoreError::Unwritable { path, source }),
    }
    if let Some(folder) = path.parent() {
        // Other things may be kept there; then it stays.
        let _ = fs::remove_dir(folder);
    }
    Ok(())
}
