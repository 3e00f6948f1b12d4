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
    /// Checks that a file is what was read, and may be written; that it is not there, where `before`
    /// is none.
    pub fn check(path: &Path, before: Option<&[u8]>) -> Result<Prepared, StoreError> {
        let unwritable = StoreError::unwritable(path);
        let real = real_path(path);
        let changed = || StoreError::Changed {
            path: path.to_owned(),
        };
        match (fs::read(&real), before) {
            (Ok(present), Some(before)) if present == before => {}
            (Ok(_), _) => return Err(changed()),
            (Err(error), None) if error.kind() == std::io::ErrorKind::NotFound => {
                let folder = real.parent().unwrap_or(Path::new("."));
                fs::create_dir_all(folder).map_err(&unwritable)?;
                return Ok(Prepared {
                    new: beside(&real),
                    real,
                });
            }
            (Err(error), _) => return Err(unwritable(error)),
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

    /// Writes the new file; nothing where there is to be none.
    pub fn write(&self, after: Option<&[u8]>) -> Result<(), std::io::Error> {
        let Some(after) = after else { return Ok(()) };
        let mut file = fs::File::create(&self.new)?;
        file.write_all(after)?;
        if let Ok(old) = fs::metadata(&self.real) {
            file.set_permissions(old.permissions())?;
        }
        file.sync_all()
    }

    /// Puts the new file in the place of the old one, or takes the old one away where there is to be
    /// none.
    pub fn commit(&self, stays: bool) -> Result<(), std::io::Error> {
        match stays {
            true => fs::rename(&self.new, &self.real)?,
            false => fs::remove_file(&self.real)?,
        }
        sync_folder(&self.real);
        Ok(())
    }
}

/// The file itself, behind any links; of one that is not there, in its folder.
pub(super) fn real_path(path: &Path) -> PathBuf {
    if let Ok(real) = path.canonicalize() {
        return real;
    }
    let folder = path.parent().and_then(|folder| folder.canonicalize().ok());
    match (folder, path.file_name()) {
        (Some(folder), Some(name)) => folder.join(name),
        _ => path.to_owned(),
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
