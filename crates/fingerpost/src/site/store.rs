//! Writing files so that each is wholly the old one or wholly the new one.

use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;
use thiserror::Error;

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

impl StoreError {
    pub(super) fn unwritable(path: &Path) -> impl Fn(std::io::Error) -> StoreError {
        let path = path.to_owned();
        move |source| StoreError::Unwritable {
            path: path.clone(),
            source,
        }
    }
}

/// A new file beside another one, flushed and with its permissions, ready to take its place in one
/// step. A symbolic link stays one; the file that it points to is replaced.
#[derive(Debug)]
pub(super) struct Prepared {
    /// The file itself, behind any links.
    pub real: PathBuf,
    /// The new one.
    pub new: PathBuf,
}

/// Where the new file of a file is prepared.
pub(super) fn beside(real: &Path) -> PathBuf {
    let name = real.file_name().unwrap_or_default().to_string_lossy();
    real.with_file_name(format!(".{name}.fingerpost"))
}

impl Prepared {
    /// Checks that a file is what was read, and may be written.
    pub fn check(path: &Path, before: &[u8]) -> Result<Prepared, StoreError> {
        let unwritable = StoreError::unwritable(path);
        let real = path.canonicalize().map_err(&unwritable)?;
        let present = fs::read(&real).map_err(&unwritable)?;
        if present != before {
            return Err(StoreError::Changed {
                path: path.to_owned(),
            });
        }
        let permissions = fs::metadata(&real).map_err(&unwritable)?.permissions();
        if permissions.readonly() {
            return Err(unwritable(std::io::Error::new(
                std::io::ErrorKind::PermissionDenied,
                "the file is read-only",
            )));
        }
        Ok(Prepared {
            new: beside(&real),
            real,
        })
    }

    /// Writes the new file.
    pub fn write(&self, after: &[u8]) -> Result<(), std::io::Error> {
        let permissions = fs::metadata(&self.real)?.permissions();
        let mut file = fs::File::create(&self.new)?;
        file.write_all(after)?;
        file.set_permissions(permissions)?;
        file.sync_all()
    }

    /// Puts the new file in the place of the old one.
    pub fn commit(&self) -> Result<(), std::io::Error> {
        fs::rename(&self.new, &self.real)?;
        sync_folder(&self.real);
        Ok(())
    }
}

/// Writes a file whole, in the place of one that may be there.
pub(super) fn write_beside(
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
    sync_folder(path);
    Ok(())
}

/// So that a new name is on disk too. Not every system can sync a folder; the file is whole either
/// way.
fn sync_folder(path: &Path) {
    if let Some(folder) = path.parent()
        && let Ok(folder) = fs::File::open(folder)
    {
        let _ = folder.sync_all();
    }
}
