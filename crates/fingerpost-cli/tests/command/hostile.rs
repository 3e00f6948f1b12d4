//! Sites that someone else has prepared: links and state files that lead outside, pipes in the place of
//! files, names that climb. Every command is run in them; the folder beside the site is watched.

#![cfg(unix)]

use std::collections::BTreeMap;
use std::fs;
use std::io::Read;
use std::net::TcpListener;
use std::os::unix::fs::symlink;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

use crate::site::{copy, demo};
use assert_cmd::Command;
use tempfile::TempDir;

/// What is in every file outside; no answer may hold it.
const SECRET: &str = "rgb(1, 2, 3)";

/// How long a command may take before it is held to hang.
const PATIENCE: Duration = Duration::from_secs(30);

/// A site, and a folder beside it that is none of its business.
pub(super) struct Trap(TempDir);

impl Trap {
    pub(super) fn new() -> Trap {
        let folder = TempDir::new().unwrap();
        copy(&demo(), &folder.path().join("site"));
        let outside = folder.path().join("outside");
        fs::create_dir_all(outside.join("keep")).unwrap();
        let sheet = format!("h2 {{ color: {SECRET} }}\n");
        fs::write(outside.join("secret.css"), &sheet).unwrap();
        let page = format!("<!doctype html>\n<h2 style=\"color: {SECRET}\">x</h2>\n");
        fs::write(outside.join("page.html"), page).unwrap();
        fs::write(outside.join("keep/letter"), &sheet).unwrap();
        // A name as the program gives them.
        fs::write(outside.join("keep").join("0".repeat(64)), &sheet).unwrap();
        Trap(folder)
    }

    pub(super) fn site(&self, name: &str) -> PathBuf {
        self.0.path().join("site").join(name)
    }

    pub(super) fn outside(&self, name: &str) -> PathBuf {
        self.0.path().join("outside").join(name)
    }

    fn state(&self, name: &str, text: &str) {
        fs::create_dir_all(self.site(".fingerpost")).unwrap();
        fs::write(self.site(".fingerpost").join(name), text).unwrap();
    }

    fn link(&self, name: &str, to: &Path) {
        fs::create_dir_all(self.site(name).parent().unwrap()).unwrap();
        let _ = fs::remove_file(self.site(name));
        symlink(to, self.site(name)).unwrap();
    }

    /// Every file outside, with its content, and every link.
    fn watched(&self) -> BTreeMap<PathBuf, Vec<u8>> {
        let mut found = BTreeMap::new();
        let mut open = vec![self.outside("")];
        while let Some(folder) = open.pop() {
            for entry in fs::read_dir(folder).unwrap() {
                let path = entry.unwrap().path();
                if path.is_dir() && !path.is_symlink() {
                    found.insert(path.clone(), Vec::new());
                    open.push(path);
                } else {
                    let bytes = fs::read(&path).unwrap_or_default();
                    found.insert(path, bytes);
                }
            }
        }
        found
    }

    /// Runs a command in the site's folder; it must end, by itself and without a defect.
    #[track_caller]
    pub(super) fn run(&self, words: &[&str]) -> (i32, String) {
        let output = Command::cargo_bin("fingerpost")
            .unwrap()
            .current_dir(self.site(""))
            .args(words)
            .timeout(PATIENCE)
            .output()
            .unwrap();
        let said = [output.stdout, output.stderr].concat();
        let said = String::from_utf8_lossy(&said).into_owned();
        let status = output.status.code().unwrap_or(-1);
        assert!((0..=2).contains(&status), "{words:?}: {status}: {said}");
        assert!(
            !said.contains("a defect in fingerpost"),
            "{words:?}: {said}"
        );
        (status, said)
    }

    /// Runs all kinds of commands, and looks at the outside after each.
    #[track_caller]
    pub(super) fn spring(&self) {
        self.spring_with(&COMMANDS);
    }

    #[track_caller]
    fn spring_with(&self, commands: &[&[&str]]) {
        let before = self.watched();
        for words in commands {
            let (_, said) = self.run(words);
            assert!(!said.contains(SECRET), "{words:?} read the outside: {said}");
            assert_eq!(
                self.watched(),
                before,
                "{words:?} changed the outside: {said}"
            );
        }
    }
}

pub(super) const HOME: &str = "pages/home.html";

const COMMANDS: [&[&str]; 16] = [
    &["tree", HOME],
    &["why", HOME, "h2.today", "color"],
    &["sheets", HOME],
    &["whynot", HOME, "h2.today", "color: navy"],
    &["draft"],
    &["extract", "changes"],
    &["save"],
    &["unsave"],
    &["edit", "set", HOME, "h2.today", "color", "navy"],
    &[
        "edit",
        "set",
        HOME,
        "h2.today",
        "top",
        "0",
        "--into",
        "overrides",
    ],
    &["draft", "off", "1"],
    &["draft", "undo"],
    &["save"],
    &["unsave"],
    &["draft", "discard", "--all"],
    &["recover", "--leave"],
];

#[test]
fn a_state_folder_that_is_a_link_is_not_used() {
    let trap = Trap::new();
    trap.link(".fingerpost", &trap.outside("keep"));
    trap.spring();
    let (status, said) = trap.run(&["edit", "set", HOME, "h2.today", "color", "navy"]);
    assert_eq!(status, 2);
    assert!(
        said.contains(".fingerpost: this is a link, and fingerpost keeps a folder"),
        "{said}"
    );
    // Asking goes on.
    let (status, said) = trap.run(&["why", HOME, "h2.today", "color"]);
    assert_eq!(status, 0);
    assert!(said.contains("Note: "), "{said}");
    assert!(said.contains("rgb(138, 90, 0)"), "{said}");
}

#[test]
fn links_in_the_state_folder_are_not_followed() {
    for name in [
        "bases",
        "lock",
        ".gitignore",
        "draft.json",
        "saves.json",
        "journal.json",
    ] {
        for to in ["keep", "nowhere"] {
            let trap = Trap::new();
            fs::create_dir(trap.site(".fingerpost")).unwrap();
            trap.link(&format!(".fingerpost/{name}"), &trap.outside(to));
            trap.spring();
        }
    }
}

#[test]
fn files_beside_a_sheet_are_left_alone() {
    let trap = Trap::new();
    for name in [
        "css/.skerry.css.fingerpost",
        "css/.overrides.css.fingerpost",
    ] {
        trap.link(name, &trap.outside("secret.css"));
    }
    fs::write(trap.site("css/.base.css.fingerpost"), "mine").unwrap();
    trap.spring();
    assert!(trap.site("css/.skerry.css.fingerpost").is_symlink());
    assert!(!trap.site("css/skerry.css").is_symlink());
    assert_eq!(
        fs::read(trap.site("css/.base.css.fingerpost")).unwrap(),
        b"mine"
    );
}

/// The draft of a change of the override sheet, and the list of its saves.
fn honest_state() -> (String, String) {
    let trap = Trap::new();
    trap.run(&["edit", "set", HOME, ".site-footer", "margin-top", "1rem"]);
    let draft = fs::read_to_string(trap.site(".fingerpost/draft.json")).unwrap();
    trap.run(&["save"]);
    let saves = fs::read_to_string(trap.site(".fingerpost/saves.json")).unwrap();
    assert!(draft.contains("\"css/overrides.css\"") && saves.contains("\"css/overrides.css\""));
    (draft, saves)
}

/// A link inside the site is a part of the theme only where it leads to one.
#[test]
fn links_to_what_stays_hidden_are_neither_read_nor_written() {
    let secret = format!("h2 {{ color: {SECRET} }}\n");
    for hidden in [
        ".git/hooks/pre-commit",
        "css/.svn/entries",
        ".fingerpost/kept.css",
        ".env",
        "css/.drafts/old.css",
    ] {
        for link in ["css/skerry.css", "css/overrides.css", "css/linked"] {
            let trap = Trap::new();
            let to = trap.site(hidden);
            fs::create_dir_all(to.parent().unwrap()).unwrap();
            fs::write(&to, &secret).unwrap();
            let place = match link {
                "css/linked" => {
                    trap.link(link, to.parent().unwrap());
                    format!("{link}/{}", to.file_name().unwrap().to_str().unwrap())
                }
                link => {
                    trap.link(link, &to);
                    link.to_owned()
                }
            };
            // A hidden name is followed if the link has it too.
            if place.contains("/.") {
                continue;
            }
            trap.spring();
            for words in [
                &["sheets", HOME][..],
                &[
                    "edit", "set", HOME, "h2.today", "color", "red", "--into", &place,
                ],
                &[
                    "edit",
                    "rule",
                    HOME,
                    "h2.today",
                    "color: red",
                    "--into",
                    "overrides",
                ],
                &["save"],
            ] {
                let (_, said) = trap.run(words);
                assert!(!said.contains(SECRET), "{hidden} as {link}: {said}");
            }
            assert_eq!(
                fs::read_to_string(&to).unwrap(),
                secret,
                "{hidden} as {link}"
            );
        }
    }
}

/// What a terminal would obey is shown as a symbol or a number, in every answer and every error, also in a pipe.
/// A package manager links its packages into a hidden folder beside them; they are read as any other.
#[cfg(unix)]
#[test]
fn packages_that_are_links_into_a_hidden_folder_are_read() {
    let trap = Trap::new();
    let store = trap.site("node_modules/.store/kit@1/kit");
    fs::create_dir_all(&store).unwrap();
    fs::write(store.join("kit.css"), "h1 { color: navy }\n").unwrap();
    trap.link("node_modules/kit", &store);
    let page = "<!doctype html><link rel=stylesheet href=node_modules/kit/kit.css><h1>Boats</h1>\n";
    fs::write(trap.site("kit.html"), page).unwrap();
    let (status, said) = trap.run(&["why", "kit.html", "h1", "color"]);
    assert!(status == 0 && said.contains("rgb(0, 0, 128)"), "{said}");
}

#[test]
fn no_answer_has_characters_that_act_on_a_terminal() {
    const ACTING: &str = "\u{1b}]0;title\u{7}\u{1b}[2J\u{9b}2J\u{8}\u{202e}\u{2066}\u{7f}";
    let trap = Trap::new();
    let sheet = format!("css/odd{ACTING}.css");
    fs::write(
        trap.site(&sheet),
        format!(".b{ACTING} {{ content: \"{ACTING}\"; colr: red }}\n/* {ACTING} */\n"),
    )
    .unwrap();
    let page = format!(
        "<!doctype html><title>{ACTING}</title><link rel=stylesheet href=\"{sheet}\">\
         <link rel=stylesheet href=\"css/gone{ACTING}.css\"><h1 id=\"i{ACTING}\" class=\"b{ACTING}\" \
         title=\"{ACTING}\">Text {ACTING}</h1>"
    );
    fs::write(trap.site("odd.html"), page).unwrap();
    let acts = |said: &str| {
        said.chars().find(|character| {
            let is_plain = matches!(character, '\n' | '\r' | '\t');
            let turns = matches!(character, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}');
            (character.is_control() && !is_plain) || turns
        })
    };
    let lines: [&[&str]; 22] = [
        &["tree", "odd.html"],
        &["find", "odd.html", "h1"],
        &["find", "odd.html", "Text"],
        &["sheets", "odd.html"],
        &["trace", "odd.html", "h1"],
        &["why", "odd.html", "h1", "content"],
        &["values", "odd.html", "h1"],
        &["whynot", "odd.html", "h1", "color: red"],
        &["fonts", "odd.html"],
        &["suggest", "class", "odd.html"],
        &["suggest", "selector", "odd.html", "h1"],
        &["suggest", "destination", "odd.html", "h1", "color", "red"],
        &["extract", "odd.html", "h1"],
        &["why", "odd.html", &format!(".x{ACTING}"), "color"],
        &["why", &format!("gone{ACTING}.html"), "h1", "color"],
        &[&format!("no{ACTING}")],
        &["edit", "set", "odd.html", "h1", "color", "red"],
        &["edit", "text", "odd.html", "h1", &format!("New {ACTING}")],
        &["draft"],
        &["draft", "--json"],
        &["save"],
        &["unsave"],
    ];
    for words in lines {
        let (_, said) = trap.run(words);
        // A source is given as it is.
        if words[0] != "extract" {
            assert_eq!(acts(&said), None, "{words:?}: {said:?}");
        }
    }
}

#[test]
fn state_files_that_name_the_outside_are_refused() {
    let (draft, saves) = honest_state();
    let absolute = Trap::new().outside("secret.css").display().to_string();
    let names = [
        "../outside/secret.css",
        "css/../../outside/secret.css",
        &absolute,
        ".git/hooks/pre-commit",
        ".fingerpost/saves.json",
        "css/linked.css",
        "linked/secret.css",
    ];
    for name in names {
        let trap = Trap::new();
        trap.link("css/linked.css", &trap.outside("secret.css"));
        trap.link("linked", &trap.outside(""));
        let named = |json: &str| json.replace("\"css/overrides.css\"", &format!("\"{name}\""));
        trap.state("draft.json", &named(&draft));
        trap.spring();
        trap.state("saves.json", &named(&saves));
        trap.spring();
        assert!(!trap.site(".git").exists());
    }
}

#[test]
fn journals_that_name_the_outside_do_nothing() {
    let (draft, saves) = honest_state();
    let digest = |text: &str| fingerpost::draft::Base::digest(text.as_bytes());
    let secret = digest(&format!("h2 {{ color: {SECRET} }}\n"));
    let other = digest("other\n");
    for (version, stage) in [
        (1, "ready"),
        (2, "ready"),
        (3, "ready"),
        (5, "ready"),
        (5, "preparing"),
        (5, "returning"),
    ] {
        for name in [
            "../outside/secret.css",
            "css/linked.css",
            "linked/secret.css",
            "css/base.css",
        ] {
            for token in ["0123456789abcdef", "../../outside/x", "x"] {
                let trap = Trap::new();
                trap.link("css/linked.css", &trap.outside("secret.css"));
                trap.link("linked", &trap.outside(""));
                for side in ["new", "old"] {
                    let beside = format!(".fingerpost-{token}-0-{side}");
                    if !beside.contains('/') {
                        fs::write(trap.outside(&beside), "other\n").unwrap();
                        trap.link(&format!("css/{beside}"), &trap.outside("secret.css"));
                    }
                }
                let journal = format!(
                    "{{\"fingerpost\": {version}, \"stage\": \"{stage}\", \"token\": \"{token}\", \
                     \"files\": [{{\"file\": \"{name}\", \"before\": \"{secret}\", \"after\": \"{other}\"}}], \
                     \"draft\": {draft}, \"saves\": {saves}}}"
                );
                trap.state("journal.json", &journal);
                // Any command goes on with an interrupted save.
                trap.spring_with(&COMMANDS[..1]);
                trap.spring_with(&COMMANDS[8..9]);
                trap.spring_with(&COMMANDS[15..]);
                assert!(trap.site("css/base.css").is_file());
            }
        }
    }
}

/// Questions are answered although a save can't be finished, and there is a way out.
#[test]
fn a_journal_that_can_not_be_read_stops_no_question() {
    for journal in ["", "{}", "[1", "{\"fingerpost\": 99}", "\u{0}"] {
        let trap = Trap::new();
        trap.state("journal.json", journal);
        let (status, said) = trap.run(&["why", HOME, "h2.today", "color"]);
        assert_eq!(status, 0, "{said}");
        assert!(said.contains("rgb(138, 90, 0)"), "{said}");
        assert!(said.contains("fingerpost recover --leave"), "{said}");
        let edit = ["edit", "set", HOME, "h2.today", "color", "navy"];
        assert_eq!(trap.run(&edit).0, 2);
        assert_eq!(trap.run(&["recover"]).0, 2);
        assert_eq!(trap.run(&["recover", "--leave"]).0, 0);
        assert_eq!(trap.run(&edit).0, 0);
        assert_eq!(trap.run(&["save"]).0, 0);
    }
}

#[test]
fn a_list_of_saves_that_can_not_be_read_has_a_way_out() {
    for saves in ["", "{}", "{\"fingerpost\": 2, \"saves\": []}", "nothing"] {
        let trap = Trap::new();
        trap.state("saves.json", saves);
        trap.run(&["edit", "set", HOME, "h2.today", "color", "navy"]);
        let before = fs::read(trap.site("css/skerry.css")).unwrap();
        let (status, said) = trap.run(&["save"]);
        assert_eq!(status, 2, "{said}");
        assert!(said.contains("fingerpost recover --leave"), "{said}");
        assert_eq!(fs::read(trap.site("css/skerry.css")).unwrap(), before);
        trap.run(&["recover", "--leave"]);
        assert_eq!(trap.run(&["save"]).0, 0);
    }
}

#[test]
fn the_configuration_names_nothing_outside() {
    let configurations = [
        "fingerpost = 2\noverride-sheet = \"../outside/secret.css\"\n",
        "fingerpost = 2\noverride-sheet = \"/etc/hosts\"\n",
        "fingerpost = 2\noverride-sheet = \"css/linked.css\"\n",
        "fingerpost = 2\noverride-sheet = \"css/overrides.css\"\n[[mount]]\nurl = \"/css\"\ndir = \"../outside\"\n",
        "fingerpost = 2\noverride-sheet = \"css/overrides.css\"\n[[mount]]\nurl = \"/css\"\ndir = \"linked\"\n",
        "fingerpost = 2\ntemplates = [\"../outside/**\"]\n",
    ];
    for configuration in configurations {
        let trap = Trap::new();
        trap.link("css/linked.css", &trap.outside("secret.css"));
        trap.link("linked", &trap.outside(""));
        fs::write(trap.site("fingerpost.toml"), configuration).unwrap();
        trap.spring();
    }
    let trap = Trap::new();
    fs::write(trap.site("fingerpost.toml"), configurations[0]).unwrap();
    let (status, said) = trap.run(&["sheets", HOME]);
    assert_eq!(status, 2);
    assert!(
        said.contains("fingerpost.toml:2: '../outside/secret.css' leads upwards"),
        "{said}"
    );
}

#[test]
fn sheets_and_maps_that_are_links_to_the_outside_are_not_read() {
    let trap = Trap::new();
    trap.link("css/linked.css", &trap.outside("secret.css"));
    trap.link("css/parts/panel.css", &trap.outside("secret.css"));
    trap.link("scss/fares.scss", &trap.outside("secret.css"));
    trap.link("css/fares.css.map", &trap.outside("secret.css"));
    let page = fs::read_to_string(trap.site(HOME)).unwrap();
    let linked = "<link rel=\"stylesheet\" href=\"/css/linked.css\">\n\
                  <link rel=\"stylesheet\" href=\"/../outside/secret.css\">\n\
                  <link rel=\"stylesheet\" href=\"/%2e%2e/outside/secret.css\">\n\
                  <link rel=\"stylesheet\" href=\"/css%2f..%2f..%2foutside/secret.css\">\n";
    fs::write(
        trap.site(HOME),
        page.replace("</head>", &format!("{linked}</head>")),
    )
    .unwrap();
    trap.spring();
    let before = trap.watched();
    for words in [
        [
            "set",
            HOME,
            "h2.today",
            "color",
            "navy",
            "--into",
            "css/linked.css",
        ],
        [
            "set",
            HOME,
            "h2.today",
            "color",
            "navy",
            "--into",
            "../outside/secret.css",
        ],
        [
            "new-sheet",
            HOME,
            "../outside/new.css",
            "--source",
            "a{}",
            "--after",
            "css/base.css",
        ],
        [
            "new-sheet",
            HOME,
            "linked/new.css",
            "--source",
            "a{}",
            "--after",
            "css/base.css",
        ],
    ] {
        trap.link("linked", &trap.outside(""));
        trap.run(&[&["edit"], &words[..]].concat());
        trap.run(&["save"]);
        assert_eq!(trap.watched(), before, "{words:?}");
    }
}

#[test]
fn pages_that_are_links_to_the_outside_are_no_pages_of_the_site() {
    let trap = Trap::new();
    trap.link("pages/linked.html", &trap.outside("page.html"));
    trap.link("linked", &trap.outside(""));
    let before = trap.watched();
    let absolute = trap.outside("page.html").display().to_string();
    for page in ["pages/linked.html", "linked/page.html"] {
        for words in [
            &["why", page, "h2", "color"][..],
            &["edit", "set", page, "h2", "color", "navy"],
            &["save"],
        ] {
            let (_, said) = trap.run(words);
            assert!(!said.contains(SECRET), "{words:?}: {said}");
            assert_eq!(trap.watched(), before, "{words:?}");
        }
    }
    let (status, said) = trap.run(&["why", "pages/linked.html", "h2", "color"]);
    assert_eq!(status, 2);
    assert!(said.contains("outside of the site"), "{said}");
    // Pages that a script names.
    for page in [
        "../outside/page.html",
        "pages/linked.html",
        "linked/page.html",
        &absolute,
    ] {
        let script = format!(
            "[{{\"page\": \"{page}\", \"element\": \"h2\", \"change\": {{\"set\": \
             {{\"property\": \"color\", \"value\": \"navy\"}}}}}}]"
        );
        fs::write(trap.site("script.json"), script).unwrap();
        let (status, said) = trap.run(&["edit", "--script", "script.json"]);
        assert_eq!(status, 2, "{said}");
        assert!(!said.contains(SECRET), "{said}");
        trap.run(&["save"]);
        assert_eq!(trap.watched(), before, "{page}");
    }
}

/// A draft says that a page is a URL: nothing is fetched for that.
#[test]
fn a_draft_does_not_reach_the_network() {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let url = format!("http://{}/x.html", listener.local_addr().unwrap());
    let asked = Arc::new(AtomicUsize::new(0));
    let counter = asked.clone();
    std::thread::spawn(move || {
        for stream in listener.incoming().flatten() {
            counter.fetch_add(1, Ordering::SeqCst);
            let mut stream = stream;
            let _ = stream.read(&mut [0; 64]);
        }
    });
    let (draft, _) = honest_state();
    let trap = Trap::new();
    trap.state(
        "draft.json",
        &draft.replace("\"css/overrides.css\"", &format!("\"{url}\"")),
    );
    trap.spring();
    assert_eq!(asked.load(Ordering::SeqCst), 0);
}

#[test]
fn a_patch_file_is_a_new_file() {
    let trap = Trap::new();
    trap.run(&["edit", "set", HOME, "h2.today", "color", "navy"]);
    let sheet = fs::read(trap.site("css/skerry.css")).unwrap();
    for path in ["css/skerry.css", ".fingerpost/draft.json", "pages"] {
        let (status, said) = trap.run(&["save", "--patch", path]);
        assert_eq!(status, 2, "{said}");
        assert!(
            said.contains("there is a file of this name already"),
            "{said}"
        );
    }
    trap.link("dangling.patch", &trap.outside("made.patch"));
    assert_eq!(trap.run(&["save", "--patch", "dangling.patch"]).0, 2);
    assert!(!trap.outside("made.patch").exists());
    assert_eq!(fs::read(trap.site("css/skerry.css")).unwrap(), sheet);
    assert_eq!(trap.run(&["save", "--patch", "new.patch"]).0, 0);
    assert!(
        fs::read_to_string(trap.site("new.patch"))
            .unwrap()
            .starts_with("diff --git")
    );
}
