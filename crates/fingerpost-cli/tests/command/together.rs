//! Several commands at once on one site, and what is left of those that were killed.

use crate::site::Site;
use std::fs;
use std::process::Command as Process;

const HOME: &str = "pages/home.html";

#[test]
fn many_writers_at_once_lose_nothing() {
    let site = Site::new();
    let values: Vec<String> = (1..=12).map(|n| format!("{n}px")).collect();
    let running: Vec<_> = values
        .iter()
        .map(|value| {
            Process::new(env!("CARGO_BIN_EXE_fingerpost"))
                .args(["edit", "set", HOME, ".sailing-list", "margin-top", value])
                .current_dir(site.path(""))
                .output_in_background()
        })
        .collect();
    for child in running {
        let output = child.wait_with_output().unwrap();
        assert!(
            output.status.success(),
            "{}",
            String::from_utf8_lossy(&output.stderr)
        );
    }
    let draft = site.good(&["draft"]);
    for value in &values {
        assert!(
            draft.contains(&format!("→ {value}")) || draft.contains(&format!(" {value}")),
            "{value}: {draft}"
        );
    }
    assert!(draft.contains(" 12  "), "{draft}");
}

trait InBackground {
    fn output_in_background(&mut self) -> std::process::Child;
}

impl InBackground for Process {
    fn output_in_background(&mut self) -> std::process::Child {
        use std::process::Stdio;
        self.stdout(Stdio::null())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap()
    }
}

/// Whoever asks while a save is at work gets an answer, from before it or from after.
#[test]
fn asking_during_a_save_is_answered() {
    let site = Site::new();
    let why = ["why", "pages/home.html", "h2.today", "color"];
    let set = [
        "edit",
        "set",
        "pages/home.html",
        "h2.today",
        "color",
        "navy",
    ];
    let done = std::sync::atomic::AtomicBool::new(false);
    std::thread::scope(|scope| {
        let readers: Vec<_> = (0..3)
            .map(|_| {
                scope.spawn(|| {
                    let mut asked = 0;
                    while !done.load(std::sync::atomic::Ordering::SeqCst) {
                        let (status, answer, errors) = site.run(&why);
                        assert_eq!((status, &*errors), (0, ""), "{answer}");
                        let known = ["rgb(138, 90, 0)", "rgb(0, 0, 128)"];
                        assert!(known.iter().any(|color| answer.contains(color)), "{answer}");
                        asked += 1;
                    }
                    asked
                })
            })
            .collect();
        // The readers stop also where a save fails.
        let saved = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| {
            for _ in 0..15 {
                site.good(&set);
                site.good(&["save"]);
                site.good(&["unsave"]);
                site.good(&["draft", "discard", "--all"]);
            }
        }));
        done.store(true, std::sync::atomic::Ordering::SeqCst);
        saved.unwrap();
        let asked: usize = readers
            .into_iter()
            .map(|reader| reader.join().unwrap())
            .sum();
        assert!(asked > 10, "{asked}");
    });
}

/// What killed commands leave in the folder goes with the next one; what others put there stays.
#[test]
fn what_killed_commands_left_is_removed() {
    let site = Site::new();
    site.good("edit set pages/home.html h2.today color navy");
    fs::write(site.path(".fingerpost/.new-abc123"), "half").unwrap();
    fs::write(site.path(".fingerpost/bases/.new-abc124"), "half").unwrap();
    fs::write(site.path(".fingerpost/notes.txt"), "mine").unwrap();
    fs::write(site.path(".fingerpost/bases/notes.txt"), "mine").unwrap();
    site.good("draft undo");
    site.good("draft redo");
    site.good(&["save"]);
    assert!(!site.path(".fingerpost/.new-abc123").exists());
    assert!(!site.path(".fingerpost/bases/.new-abc124").exists());
    assert_eq!(site.read(".fingerpost/notes.txt"), "mine");
    assert_eq!(site.read(".fingerpost/bases/notes.txt"), "mine");
}
