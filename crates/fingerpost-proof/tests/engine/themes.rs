//! Real themes, fetched from the npm registry when they are needed first.

use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::{Mutex, PoisonError};

/// How long the registry may take over a package, in milliseconds.
const LONGEST_FETCH: u32 = 60_000;

/// Tests run beside each other, and some want the same package.
static FETCHING: Mutex<()> = Mutex::new(());

/// Fetches a package with `npm pack` into the target folder, once, and gives its unpacked folder;
/// or says why there is none.
pub fn fetched(package: &str) -> Result<PathBuf, String> {
    let _one_at_a_time = FETCHING.lock().unwrap_or_else(PoisonError::into_inner);
    let all = Path::new(env!("CARGO_TARGET_TMPDIR")).join("themes");
    let folder = all.join(package.replace(['@', '/'], "-"));
    let unpacked = folder.join("package");
    if unpacked.is_dir() {
        return Ok(unpacked);
    }
    // Unpacked beside, and moved when whole: a run that is cut off leaves no half of a package.
    std::fs::create_dir_all(&folder).map_err(|e| e.to_string())?;
    let beside = tempfile::tempdir_in(&folder).map_err(|e| e.to_string())?;
    let run = |program: &str, arguments: &[&str]| {
        let output = Command::new(program)
            .args(arguments)
            .current_dir(beside.path())
            .output()
            .map_err(|e| format!("{program}: {e}"))?;
        if output.status.success() {
            Ok(String::from_utf8_lossy(&output.stdout).trim().to_owned())
        } else {
            Err(format!("{program} could not fetch {package}"))
        }
    };
    let limit = format!("--fetch-timeout={LONGEST_FETCH}");
    let archive = run(
        "npm",
        &["pack", "--silent", "--fetch-retries=1", &limit, package],
    )?;
    run("tar", &["-xzf", &archive])?;
    std::fs::rename(beside.path().join("package"), &unpacked).map_err(|e| e.to_string())?;
    Ok(unpacked)
}

/// Every page below a folder, by name, sorted.
#[allow(dead_code)] // The tests of edits use single pages.
pub fn pages(root: &Path) -> Vec<String> {
    let mut found = Vec::new();
    let mut open = vec![root.to_owned()];
    while let Some(folder) = open.pop() {
        for entry in std::fs::read_dir(&folder).into_iter().flatten().flatten() {
            let path = entry.path();
            if path.is_dir() {
                open.push(path);
            } else if path.extension().is_some_and(|e| e == "html") {
                let name = path.strip_prefix(root).expect("it is below the root");
                found.push(name.to_string_lossy().into_owned());
            }
        }
    }
    found.sort();
    found
}
