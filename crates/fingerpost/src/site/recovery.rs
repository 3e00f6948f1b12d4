//! Ways out where the program's own files can't be read, and where a save was interrupted.

use std::path::Path;

use super::journal::{self, JOURNAL_FILE};
use super::keep::{SAVES_FILE, Saves, remove_draft};
use super::{Lock, Site, SiteError, root_of, state};

impl Site {
    /// Throws away the draft of a folder's site without reading it: the way out when a draft can't
    /// be read.
    ///
    /// # Errors
    /// Where the draft file can't be removed.
    pub(crate) fn discard_unread_draft(folder: &Path) -> Result<(), SiteError> {
        let (root, _) = root_of::of_folder(folder)?;
        let _lock = Lock::take(&root)?;
        remove_draft(&root)
    }

    /// Finishes an interrupted save, in the site of a folder. With `leave` it is given up instead:
    /// every source stays as it is on disk, and a list of saves that can't be read is removed. Says
    /// whether there was anything to do.
    ///
    /// # Errors
    /// Where the save can't be finished, or a file of the program's own can't be removed.
    pub(crate) fn recover(folder: &Path, leave: bool) -> Result<bool, SiteError> {
        let (root, _) = root_of::of_folder(folder)?;
        let mut found = state::has(&root, JOURNAL_FILE)?;
        match leave {
            false => journal::finish(&root)?,
            true => {
                journal::leave(&root)?;
                if Saves::read(&root).is_err() {
                    found = true;
                    state::remove(&root, SAVES_FILE)?;
                }
            }
        }
        Ok(found)
    }
}
