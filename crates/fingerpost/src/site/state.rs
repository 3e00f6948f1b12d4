//! The folder of what the program keeps, in the site's root.
//!
//! A theme is someone else's files, and may bring such a folder with it. So what is in it is looked at
//! before it is used: the folder itself and each file must be what the program makes, never a link, a
//! pipe or a device; and only names that the program gives are ever deleted.

use std::fs::{self, OpenOptions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use super::root::{Root, kind_of, read_file, unreadable};
use super::store::sync_folder;
use super::store_error::StoreError;
use super::{STATE_FOLDER, SiteError};

/// What the names of files begin with that are being written.
const UNFINISHED: &str = ".new-";

/// What version control reads in the folder: that it is to leave the folder out.
pub(super) const IGNORE_FILE: &str = ".gitignore";

/// The folder, where it is there.
fn existing(root: &Root) -> Result<Option<PathBuf>, SiteError> {
    if root.is_nowhere() {
        return Ok(None);
    }
    folder_at(root.path().join(STATE_FOLDER))
}

/// A folder of ours, which is not a link to another one.
fn folder_at(path: PathBuf) -> Result<Option<PathBuf>, SiteError> {
    match fs::symlink_metadata(&path) {
        Ok(found) if found.is_dir() => Ok(Some(path)),
        Ok(found) => Err(foreign(&path, kind_of(found.file_type()), "a folder")),
        Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(unreadable(&path)(error)),
    }
}

fn foreign(path: &Path, found: &'static str, expected: &'static str) -> SiteError {
    SiteError::State {
        path: path.to_owned(),
        message: format!(
            "this is {found}, and fingerpost keeps {expected} under this name; move it away"
        ),
    }
}

fn unwritable(path: &Path) -> impl Fn(io::Error) -> SiteError {
    let to_error = StoreError::unwritable(path);
    move |source| to_error(source).into()
}

/// The folder, made where it is not there.
pub(super) fn folder(root: &Root) -> Result<PathBuf, SiteError> {
    let path = made(root, root.path().join(STATE_FOLDER))?;
    // Another one may have just removed the folder; the next step finds that out.
    let ignore = OpenOptions::new()
        .write(true)
        .create_new(true)
        .open(path.join(IGNORE_FILE));
    if let Ok(mut file) = ignore {
        let _ = file.write_all(b"*\n");
    }
    Ok(path)
}

/// How often a folder is made again that another process removes meanwhile, as each writer does with the
/// folder in which it leaves nothing.
const MOST_ATTEMPTS: usize = 1000;

fn made(root: &Root, path: PathBuf) -> Result<PathBuf, SiteError> {
    for _ in 0..MOST_ATTEMPTS {
        if let Some(path) = folder_at(path.clone())? {
            return Ok(path);
        }
        match root.fault().and_then(|()| fs::create_dir(&path)) {
            Ok(()) => return Ok(path),
            // Another process was faster; and may be faster with removing it, too.
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists => {}
            Err(error) => return Err(unwritable(&path)(error)),
        }
    }
    Err(unwritable(&path)(io::Error::from(io::ErrorKind::NotFound)))
}

/// A folder in it, made where it is not there.
fn folder_in(root: &Root, name: &str) -> Result<PathBuf, SiteError> {
    made(root, folder(root)?.join(name))
}

/// The place of a file of ours that is there; none where it is not.
fn file_at(root: &Root, folder: Option<&str>, name: &str) -> Result<Option<PathBuf>, SiteError> {
    let Some(mut path) = existing(root)? else {
        return Ok(None);
    };
    if let Some(folder) = folder {
        match folder_at(path.join(folder))? {
            Some(inner) => path = inner,
            None => return Ok(None),
        }
    }
    let path = path.join(name);
    match fs::symlink_metadata(&path) {
        Ok(found) if found.is_file() => Ok(Some(path)),
        Ok(found) => Err(foreign(&path, kind_of(found.file_type()), "a file")),
        Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(unreadable(&path)(error)),
    }
}

/// Whether a file is in the folder, and is one.
pub(super) fn has(root: &Root, name: &str) -> Result<bool, SiteError> {
    Ok(file_at(root, None, name)?.is_some())
}

/// What a file of the folder holds; none where there is no such file.
pub(super) fn read(root: &Root, name: &str) -> Result<Option<String>, SiteError> {
    let bytes = read_bytes(root, None, name)?;
    let text = bytes.map(|bytes| {
        String::from_utf8(bytes).map_err(|_| SiteError::State {
            path: root.path().join(STATE_FOLDER).join(name),
            message: "this is not text; fingerpost did not write it".to_owned(),
        })
    });
    text.transpose()
}

/// The bytes of a file in the folder, or in a folder of it.
pub(super) fn read_bytes(
    root: &Root,
    folder: Option<&str>,
    name: &str,
) -> Result<Option<Vec<u8>>, SiteError> {
    let Some(path) = file_at(root, folder, name)? else {
        return Ok(None);
    };
    match read_file(&path, &path) {
        // It went in between.
        Err(SiteError::Unreadable { source, .. }) if source.kind() == io::ErrorKind::NotFound => {
            Ok(None)
        }
        read => read.map(Some),
    }
}

/// Writes a file of the folder, whole or not at all.
pub(super) fn write(root: &Root, name: &str, bytes: &[u8]) -> Result<(), SiteError> {
    let folder = folder(root)?;
    // What is there already must be ours.
    file_at(root, None, name)?;
    put(root, &folder, name, bytes, true)
}

/// The same for what can be lost without harm: no question waits for the disk.
pub(super) fn write_unsynced(root: &Root, name: &str, bytes: &[u8]) -> Result<(), SiteError> {
    let folder = folder(root)?;
    file_at(root, None, name)?;
    put(root, &folder, name, bytes, false)
}

/// Writes a file of a folder in the folder, where it is not there.
pub(super) fn write_once(
    root: &Root,
    folder: &str,
    name: &str,
    bytes: &[u8],
) -> Result<(), SiteError> {
    if file_at(root, Some(folder), name)?.is_some() {
        return Ok(());
    }
    put(root, &folder_in(root, folder)?, name, bytes, true)
}

fn put(
    root: &Root,
    folder: &Path,
    name: &str,
    bytes: &[u8],
    synced: bool,
) -> Result<(), SiteError> {
    let path = folder.join(name);
    let write = || -> io::Result<()> {
        root.fault()?;
        let mut file = tempfile::Builder::new()
            .prefix(UNFINISHED)
            .tempfile_in(folder)?;
        root.fault()?;
        file.write_all(bytes)?;
        if synced {
            root.fault()?;
            file.as_file().sync_all()?;
        }
        root.fault()?;
        file.persist(&path).map_err(|error| error.error)?;
        Ok(())
    };
    write().map_err(unwritable(&path))?;
    if synced {
        sync_folder(&path);
    }
    Ok(())
}

/// Removes a file of the folder.
pub(super) fn remove(root: &Root, name: &str) -> Result<(), SiteError> {
    let Some(path) = file_at(root, None, name)? else {
        return Ok(());
    };
    match root.fault().and_then(|()| fs::remove_file(&path)) {
        Err(error) if error.kind() != io::ErrorKind::NotFound => Err(unwritable(&path)(error)),
        _ => {
            sync_folder(&path);
            Ok(())
        }
    }
}

/// Removes the files of a folder in the folder whose names the program gave and that are not needed,
/// and the folder itself where nothing is left.
pub(super) fn prune(root: &Root, folder: &str, keep: impl Fn(&str) -> bool) {
    let Ok(Some(state)) = existing(root) else {
        return;
    };
    let Ok(Some(path)) = folder_at(state.join(folder)) else {
        return;
    };
    for name in ours(&path, |name| is_digest(name) && !keep(name)) {
        // What can't be removed does no harm.
        let _ = fs::remove_file(path.join(name));
    }
    let _ = fs::remove_dir(path);
}

/// Removes what killed processes have left in the folder. The lock must be held.
pub(super) fn sweep(root: &Root) {
    let Ok(Some(folder)) = existing(root) else {
        return;
    };
    let inner = fs::read_dir(&folder).into_iter().flatten().flatten();
    let folders = inner
        .map(|entry| entry.path())
        .filter(|path| path.is_dir() && !path.is_symlink());
    for folder in folders.chain([folder.clone()]) {
        for name in ours(&folder, |name| name.starts_with(UNFINISHED)) {
            let _ = fs::remove_file(folder.join(name));
        }
    }
}

/// Removes the folder where nothing is kept in it but the file that is named.
pub(super) fn tidy(root: &Root, last: &str) {
    let Ok(Some(folder)) = existing(root) else {
        return;
    };
    let Ok(entries) = fs::read_dir(&folder) else {
        return;
    };
    let kept = entries.flatten().any(|entry| {
        let name = entry.file_name();
        name != *last && name != IGNORE_FILE
    });
    if !kept {
        // What can't be removed does no harm.
        let _ = fs::remove_file(folder.join(IGNORE_FILE));
        let _ = fs::remove_file(folder.join(last));
        let _ = fs::remove_dir(folder);
    }
}

/// The names of the plain files of a folder that pass.
fn ours(folder: &Path, passes: impl Fn(&str) -> bool) -> Vec<String> {
    let entries = fs::read_dir(folder).into_iter().flatten().flatten();
    entries
        .filter(|entry| entry.file_type().is_ok_and(|kind| kind.is_file()))
        .filter_map(|entry| entry.file_name().into_string().ok())
        .filter(|name| passes(name))
        .collect()
}

/// Whether a text is a SHA-256 as the program writes it: what comes from a file could be a path.
pub(super) fn is_digest(text: &str) -> bool {
    text.len() == 64 && text.bytes().all(|b| matches!(b, b'0'..=b'9' | b'a'..=b'f'))
}
