//! A copy of the demo, to be changed.

use std::path::Path;

use tempfile::TempDir;

pub fn demo() -> std::io::Result<TempDir> {
    let folder = tempfile::tempdir()?;
    copy(
        &Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line"),
        folder.path(),
    )?;
    Ok(folder)
}

fn copy(from: &Path, to: &Path) -> std::io::Result<()> {
    std::fs::create_dir_all(to)?;
    for entry in std::fs::read_dir(from)? {
        let entry = entry?;
        let to = to.join(entry.file_name());
        if entry.path().is_dir() {
            copy(&entry.path(), &to)?;
        } else {
            std::fs::copy(entry.path(), to)?;
        }
    }
    Ok(())
}
