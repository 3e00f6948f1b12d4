//! The site's root folder: the one place where names become files.
//!
//! A [`SitePath`] stays inside the root by its letters; here the links on the way are followed, and what
//! they lead to must be inside too. What is not a file is said to be that before it is opened, for opening
//! a pipe may wait for ever and reading a device may never end.

use std::fs::{self, File, FileType};
use std::io::{self, Read};
use std::path::{Path, PathBuf};

use crate::text::{LARGEST_FILE, SitePath, SitePathError};

use super::SiteError;

/// The root folder, with all links followed.
#[derive(Clone, Debug)]
pub(super) struct Root {
    path: PathBuf,
    /// Which calls of the system fail; none outside of the tests of that.
    #[cfg(test)]
    faults: super::faults::Faults,
}

impl Root {
    /// A folder as a site's root.
    pub fn new(folder: &Path) -> Result<Root, SiteError> {
        let path = folder.canonicalize().map_err(unreadable(folder))?;
        Ok(Root {
            path,
            #[cfg(test)]
            faults: super::faults::Faults::of_thread(),
        })
    }

    /// The root of a site in memory: no folder. Nothing is in it, and nothing leads from it to the disk.
    pub fn nowhere() -> Root {
        Root {
            path: PathBuf::new(),
            #[cfg(test)]
            faults: super::faults::Faults::of_thread(),
        }
    }

    pub fn is_nowhere(&self) -> bool {
        self.path.as_os_str().is_empty()
    }

    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Stands before every call that changes the disk: in tests, some of them fail.
    #[inline]
    pub fn fault(&self) -> io::Result<()> {
        #[cfg(test)]
        self.faults.next()?;
        Ok(())
    }

    /// Where a file would be, if no link stood on the way: for messages.
    pub fn shown(&self, name: &SitePath) -> PathBuf {
        self.path.join(name)
    }

    /// The file after a name, all links followed. It need not be there, but its place must be inside
    /// the root.
    pub fn real(&self, name: &SitePath) -> Result<PathBuf, SiteError> {
        let path = self.shown(name);
        if self.is_nowhere() {
            return Err(unreadable(&path)(io::ErrorKind::NotFound.into()));
        }
        let outside = |to: PathBuf| SiteError::Outside {
            path: path.clone(),
            to,
        };
        match path.canonicalize() {
            Ok(real) if real.starts_with(&self.path) => return self.shows(name, real),
            Ok(real) => return Err(outside(real)),
            Err(error) if error.kind() == io::ErrorKind::NotFound => {}
            Err(source) => return Err(unreadable(&path)(source)),
        }
        // A link to nowhere leads where its text says, and that can be anywhere.
        let mut there = path.as_path();
        while fs::symlink_metadata(there).is_err() {
            let Some(above) = there.parent() else { break };
            there = above;
        }
        let real = match there.canonicalize() {
            Ok(real) => real,
            Err(source) => {
                return match fs::read_link(there) {
                    Ok(to) => Err(outside(to)),
                    Err(_) => Err(unreadable(&path)(source)),
                };
            }
        };
        let rest = path.strip_prefix(there).unwrap_or(Path::new(""));
        match real.starts_with(&self.path) {
            true => self.shows(name, real.join(rest)),
            false => Err(outside(real)),
        }
    }

    /// A file behind links, unless they lead to what stays hidden: to version control, to the program's own state, or from a
    /// name without hidden parts to one that has them. Package managers keep packages in hidden folders of `node_modules`.
    fn shows(&self, name: &SitePath, real: PathBuf) -> Result<PathBuf, SiteError> {
        let Ok(inside) = real.strip_prefix(&self.path) else {
            return Ok(real);
        };
        let has_hidden = |path: &Path| {
            let parts = path
                .components()
                .map(|part| part.as_os_str().to_string_lossy());
            let mut own = parts.take_while(|part| part != "node_modules");
            own.any(|part| part.starts_with('.'))
        };
        let never = inside.to_str().is_some_and(|inside| {
            matches!(SitePath::new(inside), Err(SitePathError::NotTheThemes(..)))
        });
        match never || (has_hidden(inside) && !has_hidden(name.as_ref())) {
            true => Err(SiteError::Hidden {
                path: self.shown(name),
                to: inside.to_owned(),
            }),
            false => Ok(real),
        }
    }

    /// Whether there is something under a name.
    pub fn has(&self, name: &SitePath) -> bool {
        self.real(name).is_ok_and(|real| real.exists())
    }

    /// The bytes of a file.
    pub fn read(&self, name: &SitePath) -> Result<Vec<u8>, SiteError> {
        let real = self.real(name)?;
        read_file(&real, &self.shown(name))
    }
}

/// The bytes of a file, which is called by another path in messages.
pub(super) fn read_file(real: &Path, shown: &Path) -> Result<Vec<u8>, SiteError> {
    let metadata = fs::metadata(real).map_err(unreadable(shown))?;
    let not_a_file = |kind: &'static str| SiteError::NotAFile {
        path: shown.to_owned(),
        kind,
    };
    if !metadata.is_file() {
        return Err(not_a_file(kind_of(metadata.file_type())));
    }
    if metadata.len() > LARGEST_FILE as u64 {
        return Err(SiteError::TooLarge {
            path: shown.to_owned(),
            bytes: metadata.len(),
        });
    }
    // Some files say that they are empty, and never end.
    let mut bytes = Vec::with_capacity(metadata.len() as usize);
    let file = File::open(real).map_err(unreadable(shown))?;
    let read = file.take(LARGEST_FILE as u64 + 1).read_to_end(&mut bytes);
    read.map_err(unreadable(shown))?;
    match bytes.len() > LARGEST_FILE {
        true => Err(SiteError::TooLarge {
            path: shown.to_owned(),
            bytes: bytes.len() as u64,
        }),
        false => Ok(bytes),
    }
}

/// What something is that is not a file, with its article.
pub(super) fn kind_of(kind: FileType) -> &'static str {
    #[cfg(unix)]
    {
        use std::os::unix::fs::FileTypeExt;
        if kind.is_fifo() {
            return "a pipe";
        }
        if kind.is_socket() {
            return "a socket";
        }
        if kind.is_block_device() || kind.is_char_device() {
            return "a device";
        }
    }
    match () {
        () if kind.is_dir() => "a folder",
        () if kind.is_symlink() => "a link",
        () => "not a file",
    }
}

pub(super) fn unreadable(path: &Path) -> impl Fn(io::Error) -> SiteError {
    let path = path.to_owned();
    move |source| SiteError::Unreadable {
        path: path.clone(),
        source,
    }
}
