//! The recipes of ARCHITECTURE.md name files and tests that are there.

use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The text of every test of the workspace.
fn tests(folder: &Path, text: &mut String) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            tests(&path, text);
        } else if path.extension().is_some_and(|extension| extension == "rs") {
            text.push_str(&std::fs::read_to_string(path).unwrap());
        }
    }
}

#[test]
fn every_step_of_a_recipe_names_a_file_and_a_test_that_exist() {
    let document = std::fs::read_to_string(root().join("ARCHITECTURE.md")).unwrap();
    let (_, section) = document.split_once("## Where to add").unwrap();
    let mut all = String::new();
    for member in [
        "fingerpost",
        "fingerpost-cli",
        "fingerpost-live",
        "fingerpost-proof",
    ] {
        tests(&root().join("crates").join(member).join("tests"), &mut all);
    }
    let (mut files, mut held) = (0, 0);
    for row in section
        .lines()
        .filter(|line| line.starts_with("| ") && !line.starts_with("| step"))
    {
        let cells: Vec<&str> = row.split(" | ").collect();
        let [_, file, by] = cells[..] else {
            panic!("{row}")
        };
        for name in file.split('`').filter(|name| name.contains('/')) {
            assert!(root().join(name).exists(), "{name} is named in a recipe");
            files += 1;
        }
        for name in
            by.split('`').skip(1).step_by(2).filter(|name| {
                name.contains('_') && name.chars().all(|c| c.is_lowercase() || c == '_')
            })
        {
            assert!(
                all.contains(&format!("fn {name}()")),
                "{name} is named in a recipe"
            );
            held += 1;
        }
    }
    assert!(files > 10 && held > 5, "{files} files, {held} tests");
}
