//! What the examples share.

use std::path::Path;

/// Copies a folder with all that is in it.
pub fn copy(from: &Path, to: &Path) -> std::io::Result<()> {
    std::fs::create_dir_all(to)?;
    for entry in std::fs::read_dir(from)? {
        let entry = entry?;
        let target = to.join(entry.file_name());
        match entry.path().is_dir() {
            true => copy(&entry.path(), &target)?,
            false => std::fs::copy(entry.path(), target).map(|_| ())?,
        }
    }
    Ok(())
}
