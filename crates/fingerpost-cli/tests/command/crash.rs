//! Saves that are cut off: the command is killed at random moments while it saves three files. Each
//! file is wholly old or wholly new, and the next start brings all three to one side.

use std::fs;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::Duration;

use fingerpost::edit::{Change, Intent, kinds};
use fingerpost::prelude::*;
use fingerpost::site::Selection;
use tempfile::TempDir;

const FILES: [&str; 3] = ["a.css", "b.css", "page.html"];

fn files(folder: &Path) -> Vec<String> {
    FILES
        .iter()
        .map(|name| fs::read_to_string(folder.join(name)).unwrap())
        .collect()
}

fn names(folder: &Path) -> Vec<String> {
    let mut names: Vec<String> = fs::read_dir(folder)
        .unwrap()
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .filter(|name| name != ".fingerpost")
        .collect();
    names.sort();
    names
}

/// A small generator of numbers (xorshift): the moments need not be good random, only spread.
struct Numbers(u64);

impl Numbers {
    fn below(&mut self, limit: u64) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0 % limit
    }
}

/// A sample of the thousand that `cargo bench -p fingerpost-cli` cuts off.
#[test]
fn a_save_that_is_cut_off_leaves_all_files_on_one_side() {
    cut_off(120);
}

/// Cuts off so many saves.
pub fn cut_off(saves: u32) {
    let folder = TempDir::new().unwrap();
    let root = folder.path();
    let filler = "/* so that the file takes a while to write */\n".repeat(100);
    fs::write(root.join("fingerpost.toml"), "fingerpost = 2\n").unwrap();
    fs::write(root.join("a.css"), format!("h1 {{ color: red }}\n{filler}")).unwrap();
    fs::write(root.join("b.css"), format!("p {{ top: 0 }}\n{filler}")).unwrap();
    let links = "<link rel=stylesheet href=a.css><link rel=stylesheet href=b.css>";
    let html = format!("<!doctype html>{links}<h1>One</h1><p>Two</p>");
    fs::write(root.join("page.html"), html).unwrap();

    let change = |round: u32| {
        let mut site = Site::of_folder(root).unwrap();
        for (element, change) in [
            ("h1", Change::set("color", &format!("#{round:06x}"))),
            ("p", Change::set("top", &format!("{round}px"))),
            (
                "h1",
                Change::Text(kinds::Text {
                    text: format!("One {round}"),
                    from: None,
                }),
            ),
        ] {
            let page = site.page("page.html", Environment::default()).unwrap();
            let edit = site
                .make(&page, &Intent::new("page.html", element, change))
                .unwrap();
            site.session().unwrap().add(edit).unwrap();
        }
    };

    let mut numbers = Numbers(0x5eed_cafe_f00d_1234);
    let (mut old_side, mut new_side, mut mixed) = (0, 0, 0);
    // How long a whole save takes here, so that the moments spread over all of it.
    change(1);
    let begun = std::time::Instant::now();
    let whole = Command::new(env!("CARGO_BIN_EXE_fingerpost"))
        .args(["save"])
        .current_dir(root)
        .stdout(Stdio::null())
        .status()
        .unwrap();
    assert!(whole.success());
    let most = begun.elapsed().as_micros() as u64 * 5 / 4;

    for round in 2..saves + 2 {
        let before = files(root);
        change(round);
        let after: Vec<String> = {
            let site = Site::of_folder(root).unwrap();
            let changes = site.changes_of(&Selection::All).unwrap();
            assert_eq!(changes.len(), 3);
            changes
                .iter()
                .map(|c| c.after.source().to_owned())
                .collect()
        };
        let mut child = Command::new(env!("CARGO_BIN_EXE_fingerpost"))
            .arg("save")
            .current_dir(root)
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        std::thread::sleep(Duration::from_micros(numbers.below(most)));
        // It may have ended already.
        let _ = child.kill();
        child.wait().unwrap();

        let now = files(root);
        for (at, file) in FILES.iter().enumerate() {
            let whole = now[at] == before[at] || now[at] == after[at];
            assert!(whole, "{file} is torn in round {round}");
        }
        mixed += u32::from(now != before && now != after);
        let mut site = Site::of_folder(root).unwrap();
        let settled = files(root);
        let saved = settled == after;
        assert!(
            saved || settled == before,
            "round {round}: the files are not on one side"
        );
        assert_eq!(
            site.draft().is_empty(),
            saved,
            "round {round}: the draft knows it"
        );
        assert_eq!(
            names(root),
            ["a.css", "b.css", "fingerpost.toml", "page.html"]
        );
        new_side += u32::from(saved);
        old_side += u32::from(!saved);
        if !saved {
            site.session().unwrap().save_all().unwrap();
        }
    }
    println!(
        "{saves} saves cut off: {old_side} rolled back, {new_side} finished, {mixed} found between"
    );
    assert!(
        old_side > 0 && new_side > 0,
        "the moments spread over the save"
    );
}
