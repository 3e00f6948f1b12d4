//! The examples run, and say what they should.

use std::process::Command;

#[test]
fn an_editor_asks_and_edits_over_http() {
    // Cargo builds examples beside the tests.
    let tests = std::env::current_exe().unwrap();
    let example = tests
        .parent()
        .unwrap()
        .parent()
        .unwrap()
        .join("examples/ask_and_edit");
    let done = Command::new(example).output().unwrap();
    let said = String::from_utf8(done.stdout).unwrap();
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    let lines: Vec<&str> = said.lines().collect();
    assert_eq!(lines[0], "\".today\" wins: \"var(--brass)\" at line 256");
    assert!(lines[1].contains("var(--brass) → var(--rust)"), "{said}");
    assert!(lines[3].starts_with("\"undone: "), "{said}");
}
