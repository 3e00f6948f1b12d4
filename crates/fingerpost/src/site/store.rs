//! Writing files so that each is wholly the old one or wholly the new one.

use std::fs::{self, File, Metadata, OpenOptions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use super::root::Root;
use super::store_error::StoreError;
use crate::draft::Base;

/// A new file beside another one, flushed and with its permissions and owner, ready to take its place in
/// one step. A symbolic link stays one; the file that it leads to is replaced.
#[derive(Debug)]
pub(super) struct Prepared {
    /// The file itself, behind any links.
    pub real: PathBuf,
    /// The new one, of a name that no one else has.
    pub new: PathBuf,
}

impl Prepared {
    /// Checks that a file is what was read, and may be written; that it is not there, where `before`
    /// is none.
    pub fn check(&self, shown: &Path, before: Option<&[u8]>) -> Result<(), StoreError> {
        let unwritable = StoreError::unwritable(shown);
        let changed = || StoreError::Changed {
            path: shown.to_owned(),
        };
        match (fs::read(&self.real), before) {
            (Ok(present), Some(before)) if present == before => {}
            (Ok(_), _) => return Err(changed()),
            (Err(error), None) if error.kind() == io::ErrorKind::NotFound => return Ok(()),
            (Err(error), _) => return Err(unwritable(error)),
        }
        let permissions = fs::metadata(&self.real).map_err(&unwritable)?.permissions();
        match permissions.readonly() {
            true => Err(unwritable(io::Error::new(
                io::ErrorKind::PermissionDenied,
                "the file is read-only",
            ))),
            false => Ok(()),
        }
    }

    /// Writes the new file, in a folder that is made where it is not there; nothing where there is to be
    /// none. Gives what the new file could not keep of the old one, in sentences that go on from its
    /// name.
    pub fn write(&self, root: &Root, after: Option<&[u8]>) -> Result<Vec<String>, io::Error> {
        let Some(after) = after else {
            return Ok(Vec::new());
        };
        if let Some(folder) = self.new.parent() {
            root.fault()?;
            fs::create_dir_all(folder)?;
        }
        // Never over something that is there, and never through a link.
        root.fault()?;
        let mut file = OpenOptions::new()
            .write(true)
            .create_new(true)
            .open(&self.new)?;
        root.fault()?;
        file.write_all(after)?;
        let mut lost = Vec::new();
        if let Ok(old) = fs::metadata(&self.real) {
            lost = keep_owner(&file, &old);
            root.fault()?;
            file.set_permissions(old.permissions())?;
        }
        root.fault()?;
        file.sync_all()?;
        sync_folder(&self.new);
        Ok(lost)
    }

    /// Whether the new file holds what it should.
    pub fn holds(&self, digest: &str) -> bool {
        let plain = fs::symlink_metadata(&self.new).is_ok_and(|found| found.is_file());
        plain && fs::read(&self.new).is_ok_and(|bytes| Base::digest(&bytes) == digest)
    }

    /// Whether there is nothing under the new file's name.
    pub fn is_empty(&self) -> bool {
        fs::symlink_metadata(&self.new).map_or(true, |found| found.len() == 0)
    }

    /// Puts the new file in the place of the old one, or takes the old one away where there is to be none. Gives whether it
    /// did: where the old one is not what `before` says, everything stays as it is.
    ///
    /// The old one has the new one's name then, until [`Prepared::discard`], so that what another program saved in the last
    /// moment is not gone.
    pub fn commit(
        &self,
        root: &Root,
        before: Option<&str>,
        stays: bool,
    ) -> Result<bool, io::Error> {
        if !is_as(&self.real, before)? {
            return Ok(false);
        }
        root.fault()?;
        let swapped = match (stays, before.is_some()) {
            (true, true) => swap(&self.new, &self.real)?,
            (true, false) => match put(&self.new, &self.real) {
                Err(error) if error.kind() == io::ErrorKind::AlreadyExists => return Ok(false),
                done => {
                    done?;
                    false
                }
            },
            (false, _) => {
                fs::rename(&self.real, &self.new)?;
                true
            }
        };
        if swapped {
            let found = root.fault().and_then(|()| is_as(&self.new, before));
            if !matches!(found, Ok(true)) {
                self.give_back(stays)?;
                return found;
            }
        }
        sync_folder(&self.real);
        Ok(true)
    }

    /// Whether the file that was replaced is still what it was. A program that had it open may have written to it since.
    pub fn is_unchanged(&self, before: Option<&str>) -> Result<bool, io::Error> {
        match self.new.exists() {
            true => is_as(&self.new, before),
            false => Ok(true),
        }
    }

    /// Undoes a commit: the old file, as it is now, has its place again.
    pub fn give_back(&self, stays: bool) -> Result<(), io::Error> {
        match stays {
            true => swap(&self.new, &self.real).map(drop),
            false => put(&self.new, &self.real),
        }
    }

    /// Removes the new file, where it is there.
    pub fn discard(&self, root: &Root) -> Result<(), io::Error> {
        root.fault()?;
        match fs::remove_file(&self.new) {
            Err(error) if error.kind() != io::ErrorKind::NotFound => Err(error),
            _ => {
                sync_folder(&self.new);
                Ok(())
            }
        }
    }
}

/// Whether a file has a digest; whether it is not there, where that is none.
fn is_as(path: &Path, digest: Option<&str>) -> Result<bool, io::Error> {
    match fs::read(path) {
        Ok(bytes) => Ok(digest.is_some_and(|digest| Base::digest(&bytes) == digest)),
        Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(digest.is_none()),
        Err(error) => Err(error),
    }
}

/// Puts each of two files in the place of the other, in one step. Gives whether it did; where the disk can't, the first takes
/// the place of the second, which is gone.
fn swap(new: &Path, real: &Path) -> Result<bool, io::Error> {
    #[cfg(any(target_os = "linux", target_os = "macos"))]
    {
        use rustix::fs::{CWD, RenameFlags, renameat_with};
        use rustix::io::Errno;

        match renameat_with(CWD, new, CWD, real, RenameFlags::EXCHANGE) {
            Ok(()) => return Ok(true),
            Err(Errno::NOSYS | Errno::INVAL | Errno::NOTSUP) => {}
            Err(error) => return Err(error.into()),
        }
    }
    fs::rename(new, real)?;
    Ok(false)
}

/// Gives a file a name that nothing has.
fn put(new: &Path, real: &Path) -> Result<(), io::Error> {
    match fs::hard_link(new, real) {
        Ok(()) => fs::remove_file(new),
        Err(error) if error.kind() == io::ErrorKind::AlreadyExists => Err(error),
        // Not every disk has links.
        Err(_) => fs::rename(new, real),
    }
}

/// Gives a new file the owner of the old one.
#[cfg(unix)]
fn keep_owner(new: &File, old: &Metadata) -> Vec<String> {
    use std::os::unix::fs::{MetadataExt, fchown};

    let mut lost = Vec::new();
    let differs = new
        .metadata()
        .is_ok_and(|new| (new.uid(), new.gid()) != (old.uid(), old.gid()));
    if differs && fchown(new, Some(old.uid()), Some(old.gid())).is_err() {
        // The group alone may be changed by its members.
        let _ = fchown(new, None, Some(old.gid()));
        lost.push("belongs to you now: only its owner could keep it".to_owned());
    }
    if old.nlink() > 1 {
        let others = old.nlink() - 1;
        let names = if others == 1 { "name" } else { "names" };
        lost.push(format!(
            "had {others} other {names} (hard links), under which the old text stays"
        ));
    }
    lost
}

#[cfg(not(unix))]
fn keep_owner(_: &File, _: &Metadata) -> Vec<String> {
    Vec::new()
}

/// So that a new name is on disk too. Not every system can sync a folder; the file is whole either
/// way.
pub(super) fn sync_folder(path: &Path) {
    if let Some(folder) = path.parent()
        && let Ok(folder) = File::open(folder)
    {
        let _ = folder.sync_all();
    }
}
