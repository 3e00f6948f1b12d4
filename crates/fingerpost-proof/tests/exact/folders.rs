//! Copies of sites.

use std::path::Path;

/// Copies a folder with all in it.
pub fn copy_folder(from: &Path, to: &Path) {
    std::fs::create_dir_all(to).unwrap();
    for entry in std::fs::read_dir(from).unwrap() {
        let entry = entry.unwrap();
        let to = to.join(entry.file_name());
        match entry.file_type().unwrap().is_dir() {
            true => copy_folder(&entry.path(), &to),
            false => std::fs::copy(entry.path(), to).map(|_| ()).unwrap(),
        }
    }
}
