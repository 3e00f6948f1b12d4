//! The words of a command line as people write them: in another order, with something left out, in the words of other
//! programs. What is certain is understood; what is not certain gets one sentence with the line to type.

use std::fs;

use fingerpost::asking::QuestionKind;
use fingerpost::edit::Change;
use regex::Regex;

use crate::site::{Site, Words};

const HOME: &str = "pages/home.html";

/// A site in which questions are remembered.
struct Remembering(Site);

impl Remembering {
    fn run(&self, words: impl Words) -> (i32, String, String) {
        let words = words.words();
        let output = assert_cmd::Command::cargo_bin("fingerpost")
            .unwrap()
            .current_dir(self.0.path(""))
            .args(&words)
            .output()
            .unwrap();
        let answer = String::from_utf8(output.stdout).unwrap();
        let errors = String::from_utf8(output.stderr).unwrap();
        crate::advised::all_work(&self.0.path(""), &words, &format!("{errors}\n{answer}"));
        (output.status.code().unwrap(), answer, errors)
    }

    #[track_caller]
    fn good(&self, words: impl Words) -> String {
        let (status, answer, errors) = self.run(words);
        assert_eq!(status, 0, "{errors}{answer}");
        answer
    }

    #[track_caller]
    fn bad(&self, words: &[&str], sentence: &str) {
        let (status, answer, errors) = self.run(words);
        assert_eq!(status, 2, "{words:?}: {answer}");
        assert!(errors.contains(sentence), "{words:?}: {errors}");
    }
}

#[test]
fn one_question_in_many_orders() {
    let site = Site::new();
    let wanted = site.good("why pages/home.html h2.today color");
    let others: [&[&str]; 6] = [
        &["why", HOME, "h2.today", "color", "--viewport", "1280"],
        &["why", "h2.today", HOME, "color"],
        &["why", "color", "h2.today", HOME],
        &["why", HOME, "color", "h2.today"],
        &[
            "--viewport",
            "1280x800",
            "why",
            "home.html",
            "h2.today",
            "color",
        ],
        &["explain", "home.html", "h2.today", "color"],
    ];
    for words in others {
        let answer = site.good(words);
        // A word that runs another command is said first.
        let answer = answer
            .strip_prefix("explain runs fingerpost why.\n")
            .unwrap_or(&answer);
        assert_eq!(answer, wanted, "{words:?}");
    }
}

#[test]
fn the_last_element_and_the_last_page() {
    let site = Remembering(Site::new());
    site.bad(&["why", "@", "color"], "no page is named");
    // The line to type has what was written, with a page on which it is found.
    site.bad(
        &["why", ".panel .today", "color"],
        "Name one, as in: fingerpost why pages/home.html \".panel .today\" color",
    );
    let first = site.good("why pages/home.html h2.today color");
    let again = site.good("why @ color");
    assert_eq!(
        again,
        format!("Page: {HOME} (the page you used last).\n@ is h2.today.\n{first}")
    );
    site.good("trace pages/fares.html .page-title");
    let before = site.good("why @-1 color");
    assert!(before.ends_with(&first), "{before}");
    assert!(before.starts_with(&format!("Page: {HOME}")), "{before}");
    // The element asked about just now is the last one.
    let last = site.good("find @");
    assert!(last.contains("h2.panel-title.today"), "{last}");
    // A number is one of the page's own elements.
    let number = site.good("find pages/home.html @32");
    assert!(number.contains("h2.panel-title.today  @32"), "{number}");
    // So is a pseudo-element of it, or of the element asked about last.
    let number = site.good("why pages/home.html @32::before content");
    assert!(
        number.contains("content of h2.panel-title.today::before"),
        "{number}"
    );
    site.good("why pages/home.html h2.today color");
    let last = site.good("why @::before content");
    assert!(last.contains("@::before is h2.today::before."), "{last}");
    let place = site.good("why pages/home.html pages/home.html:38::after content");
    assert!(
        place.contains("content of h2.panel-title.today::after"),
        "{place}"
    );
    site.bad(
        &["why", HOME, "@-9", "color"],
        "@-9 means an element asked about earlier, and only",
    );
}

#[test]
fn what_is_remembered_can_be_lost_without_harm() {
    let site = Remembering(Site::new());
    site.good("why pages/home.html h2.today color");
    let file = site.0.path(".fingerpost/asked.json");
    for text in [
        "",
        "{",
        "{\"fingerpost\": 9}",
        "{\"fingerpost\": 1, \"asked\": 3}",
    ] {
        fs::write(&file, text).unwrap();
        site.bad(&["why", "@", "color"], "no page is named");
    }
    site.good("why pages/home.html h2.today color");
    site.good("why @ color");
}

#[test]
fn a_site_without_a_configuration_remembers_too() {
    let bare = Remembering(Site::new());
    fs::remove_file(bare.0.path("fingerpost.toml")).unwrap();
    bare.good(&["why", HOME, "h2.today", "color"]);
    let answer = bare.good("why @ letter-spacing");
    assert!(answer.contains("h2.panel-title.today"), "{answer}");
    // A question does not make a folder the root of what is below it.
    fs::create_dir_all(bare.0.path("other/css")).unwrap();
    fs::write(bare.0.path("other/css/x.css"), "p { color: red }").unwrap();
    fs::write(
        bare.0.path("other/index.html"),
        "<link rel=stylesheet href=/css/x.css><p>Boats",
    )
    .unwrap();
    let answer = bare.good("why other/index.html p color");
    assert!(answer.contains("rgb(255, 0, 0)"), "{answer}");
}

#[test]
fn the_only_page_need_not_be_named() {
    let site = Site::new();
    for page in fs::read_dir(site.path("pages")).unwrap() {
        let page = page.unwrap().path();
        if !page.ends_with("home.html") {
            fs::remove_file(page).unwrap();
        }
    }
    let pages = site.good("why h2.today color");
    assert!(
        pages.starts_with("Page: pages/home.html (the site's only page).\n"),
        "{pages}"
    );
}

#[test]
fn texts() {
    let site = Site::new();
    let wanted = site.good("find pages/home.html '\"Sailings today\"'");
    assert!(wanted.contains("h2.panel-title.today"), "{wanted}");
    assert_eq!(
        site.good("find pages/home.html \"'Sailings today'\""),
        wanted
    );
    assert_eq!(
        site.good("find pages/home.html --text 'Sailings today'"),
        wanted
    );
    for words in [
        &["find", HOME, "Sailings today"][..],
        &["find", HOME, "Sailings", "today"],
    ] {
        let answer = site.good(words);
        let note = "No element matches Sailings today as a selector; looked for the text \"Sailings today\".\n";
        assert_eq!(answer, format!("{note}{wanted}"));
    }
    // What matches is a selector, though the page has the word as well.
    assert!(
        !site
            .good(&["find", HOME, "main"])
            .contains("looked for the text")
    );
    // An edit takes a text for an element too, and keeps it as one.
    site.good("edit set pages/home.html 'Sailings today' color teal");
    let draft = site.read(".fingerpost/draft.json");
    assert!(
        draft.contains(r#""element": "\"Sailings today\"""#),
        "{draft}"
    );
    assert_eq!(
        site.good("find pages/home.html 38").lines().next(),
        wanted.lines().next()
    );
}

#[test]
fn a_declaration_in_one_word() {
    let wanted = Site::new().good(&["edit", "set", HOME, "h2.today", "color", "navy"]);
    let others: [&[&str]; 7] = [
        &["edit", HOME, "h2.today", "color", "navy"],
        &["set", HOME, "color", "navy", "h2.today"],
        &["edit", "set", HOME, "h2.today", "color: navy"],
        &["set", HOME, "h2.today", "color:", "navy"],
        &["set", HOME, "h2.today", "color:navy;"],
        &["set", "color", HOME, "h2.today", "navy"],
        &["edit", "color", "h2.today", "navy", HOME],
    ];
    for words in others {
        assert_eq!(Site::new().good(words), wanted, "{words:?}");
    }
    // A value may look like an option, and so may the name of a custom property, also one that is near an option.
    let site = Site::new();
    for name in ["--gap", "--brass", "--deep"] {
        let answer = site.good(&["why", HOME, "html", name]);
        assert!(answer.starts_with(&format!("{name} of html")), "{answer}");
    }
    site.good("edit custom-property pages/home.html --brass '#c0902f'");
    site.good("edit step pages/home.html .sailings padding -4");
    site.good("edit class pages/home.html h2.today -today +wide --each");
}

#[test]
fn words_that_belong_together() {
    let site = Site::new();
    let quoted = site.good("why pages/home.html '.panel .today' color");
    let bare = site.good("why pages/home.html .panel .today color");
    assert_eq!(
        bare,
        format!("Read .panel .today as one selector.\n{quoted}")
    );
    assert_eq!(
        site.good("whynot pages/home.html h2.today color navy"),
        site.good("whynot pages/home.html h2.today 'color: navy'")
    );
    assert_eq!(site.good("open --help"), site.good("desk --help"));
}

#[test]
fn what_is_not_certain_gets_one_sentence() {
    let site = Site::new();
    let cases: [(&[&str], &str); 20] = [
        (
            &["why", HOME, "h2.today", "color: navy"],
            "\"color: navy\" is a declaration. To see why color has its value: fingerpost why h2.today color\nTo see why that \
             declaration does not win: fingerpost whynot h2.today \"color: navy\"",
        ),
        (
            &["color", "h2.today"],
            "color is a property. To see why it has its value: fingerpost why ELEMENT color",
        ),
        (
            &["why", HOME, "h2.today", "color", "--hover"],
            "--hover is not an option. To assume a state: --state hover",
        ),
        (
            &["draft", "undo", "99"],
            "undo takes one step at a time, the last one first. For change 99 alone: fingerpost draft discard 99",
        ),
        (
            &["why", "css/skerry.css", ".note", "color"],
            "css/skerry.css: this is a stylesheet; expected a page, such as pages/",
        ),
        (
            &["set", HOME, "h2.today", "width", "300"],
            "'300' does not fit width; expected <anchor-size()>, <box-size>, auto. Do you mean 300px?",
        ),
        (
            &["set", HOME, "h2.today", "color", "nvy"],
            "expected <color>. Do you mean navy?",
        ),
        (
            &["why", HOME, "color"],
            "no element is named, only the property color. For the element you used last: fingerpost why @ color",
        ),
        (
            &["why"],
            "ELEMENT and PROPERTY are missing\nExpected: fingerpost why [PAGE] ELEMENT PROPERTY",
        ),
        (&["trace", HOME], "ELEMENT is missing"),
        (
            &["why", HOME, "h2.today", "color", "now"],
            "one word too many: 'now'. A selector, a text or a value with spaces is written in quotation marks",
        ),
        (
            &["trcae", HOME, "h2"],
            "'trcae' is not a command. Do you mean trace?",
        ),
        (
            &["trace", HOME, "h2", "--jsno"],
            "--jsno is not an option here. Do you mean --json?",
        ),
        (
            &["rm", "h2"],
            "to remove a declaration: fingerpost edit remove-declaration",
        ),
        (&["delete", "h2"], "fingerpost edit remove-element ELEMENT"),
        (&["move", "h2"], "fingerpost edit move-element"),
        (
            &["commit"],
            "to write the draft into the source files: fingerpost save",
        ),
        (&["save", "one"], "NUMBERS 'one': expected a number"),
        (&["draft", "off"], "NUMBER is missing"),
        (
            &["edit", "set", HOME, "h2.today", "color"],
            "VALUE is missing",
        ),
    ];
    for (words, sentence) in cases {
        let (status, answer, errors) = site.run(words);
        assert_eq!((status, answer.as_str()), (2, ""), "{words:?}");
        assert!(errors.starts_with("fingerpost: "), "{words:?}: {errors}");
        assert!(errors.contains(sentence), "{words:?}: {errors}");
    }
    let (status, _, errors) = site.run("trace pages/home.html .button:hover");
    assert_eq!(status, 1);
    assert!(
        errors.contains("fingerpost trace pages/home.html @28 --state :hover"),
        "{errors}"
    );
}

#[test]
fn words_that_people_try_lead_to_ours() {
    let site = Site::new();
    let same: [(&[&str], &[&str]); 6] = [
        (&["show", HOME, "h2.today"], &["trace", HOME, "h2.today"]),
        (&["inspect", HOME, "h2.today"], &["trace", HOME, "h2.today"]),
        (
            &["computed", HOME, "h2.today"],
            &["values", HOME, "h2.today"],
        ),
        (&["search", HOME, "h2"], &["find", HOME, "h2"]),
        (&["help", "why"], &["why", "--help"]),
        (&["-h"], &[]),
    ];
    for (tried, ours) in same {
        let answer = site.good(tried);
        let said = format!(
            "{} runs fingerpost {}.\n",
            tried[0],
            ours.first().unwrap_or(&"")
        );
        let answer = answer.strip_prefix(&said).unwrap_or(&answer);
        assert_eq!(answer, site.good(ours), "{tried:?}");
    }
    site.good("attr pages/home.html .hero data-season winter");
    assert_eq!(site.good(&["status"]), site.good(&["draft"]));
    assert_eq!(site.good(&["diff"]), site.good(&["draft"]));
    assert!(site.good(&["undo"]).contains("Undone: change 1 ("));
    assert!(site.good(&["redo"]).contains("Redone: change 1 ("));
}

#[test]
fn errors_are_json_where_answers_are() {
    let site = Site::new();
    for words in [
        &["why", HOME, "h2.tody", "color", "--json"][..],
        &["why", HOME, "--json"],
        &["rm", "--json"],
        &["trace", HOME, "h2.today", "--viewport", "wide", "--json"],
        &["draft", "off", "7", "--json"],
    ] {
        let (status, answer, _) = site.run(words);
        let error: serde_json::Value = serde_json::from_str(&answer).expect(&answer);
        assert_eq!(error["fingerpost"], 2, "{words:?}");
        assert_eq!(error["command"], "error", "{words:?}");
        assert_eq!(error["error"]["status"], status, "{words:?}");
        assert!(error["error"]["message"].is_string(), "{words:?}");
    }
}

/// A text that looks like a page is the text, and never the page that is changed.
#[test]
fn a_path_in_a_text_is_not_the_page() {
    let site = Remembering(Site::new());
    site.good("why pages/home.html h2.today color");
    let quiet = "a.button-quiet";
    let answer = site.good(&["attribute", quiet, "href", "/pages/fares.html"]);
    assert!(answer.starts_with(&format!("Page: {HOME}")), "{answer}");
    assert!(
        answer.contains("set href of a.button.button-quiet on pages/home.html"),
        "{answer}"
    );
    let answer = site.good("text h2.today pages/fares.html");
    assert!(
        answer.contains("text of h2.panel-title.today on pages/home.html"),
        "{answer}"
    );
}

/// Every command is in the overview, and every line of it works on the demo.
#[test]
fn the_overview_has_every_command_with_a_line_that_works() {
    let site = Site::new();
    let short = site.good(&[]);
    let long = site.good(&["--help"]);
    for step in ["Find", "Why", "Try", "Save"] {
        assert!(short.contains(&format!("\n{step}\n")), "{short}");
    }
    assert!(short.contains("fingerpost demo"), "{short}");
    let lines = long
        .lines()
        .filter_map(|line| line.trim().strip_prefix("fingerpost "));
    let mut tried = 0;
    for line in lines {
        let words: Vec<String> = line
            .split('"')
            .enumerate()
            .flat_map(|(at, part)| match at % 2 {
                0 => part.split_whitespace().map(str::to_owned).collect(),
                _ => vec![part.to_owned()],
            })
            .collect();
        let words: Vec<&str> = words.iter().map(String::as_str).collect();
        // The desk goes on until it is stopped: `--test desk` opens it.
        if matches!(words[0], "demo" | "desk") {
            continue;
        }
        let (status, _, errors) = site.run(&words);
        // The file that `init` writes is there, and nothing is left to mend.
        let known = match words[0] {
            "init" => 2,
            "recover" => 1,
            _ => 0,
        };
        assert_eq!(status, known, "{line}: {errors}");
        tried += 1;
    }
    assert!(tried >= 17, "{tried}: {long}");
    let save = site.good("save --help");
    assert!(!save.contains("--viewport"), "{save}");
    assert!(site.good("why --help").contains("--viewport"));
    assert!(!site.good("why -h").contains("--resolution"));
}

#[test]
fn init_writes_what_it_finds_and_overwrites_nothing() {
    let site = Site::new();
    let (status, _, errors) = site.run(&["init"]);
    assert_eq!(status, 2);
    assert!(errors.contains("it was not changed"), "{errors}");
    let before = site.read("fingerpost.toml");
    fs::remove_file(site.path("fingerpost.toml")).unwrap();
    let answer = site.good(&["init"]);
    let written = site.read("fingerpost.toml");
    assert!(answer.ends_with(&written), "{answer}");
    assert!(
        written.contains("\noverride-sheet = \"css/overrides.css\"\n"),
        "{written}"
    );
    assert!(before.contains("override-sheet = \"css/overrides.css\""));
    // The file is one that is read without complaint.
    site.good("edit set pages/home.html h2.today color navy --into overrides");

    // A site whose links are those of a server.
    let other = Site::new();
    fs::remove_file(other.path("fingerpost.toml")).unwrap();
    fs::rename(other.path("css"), other.path("theme")).unwrap();
    for page in fs::read_dir(other.path("pages")).unwrap() {
        let page = page.unwrap().path();
        let text = fs::read_to_string(&page).unwrap();
        fs::write(
            &page,
            text.replace("../css/", "/assets/")
                .replace("/css/", "/assets/"),
        )
        .unwrap();
    }
    let answer = other.good("init --json");
    let guess: serde_json::Value = serde_json::from_str(&answer).unwrap();
    assert_eq!(guess["mounts"][0]["url"], "/assets/", "{answer}");
    assert_eq!(guess["mounts"][0]["dir"], "theme", "{answer}");
    let answer = other.good("why pages/home.html h2.today color");
    assert!(answer.contains("theme/skerry.css"), "{answer}");
}

#[test]
fn completions_and_the_manual_page() {
    let site = Site::new();
    for shell in ["bash", "zsh", "fish"] {
        assert!(site.good(&["completions", shell]).contains("fingerpost"));
    }
    assert!(site.good(&["man"]).starts_with(".ie"));
}

#[test]
fn every_command_has_a_manual_page_with_all_of_its_options() {
    let site = Site::new();
    site.good("man --folder man");
    let read = |name: &str| {
        let text = fs::read_to_string(site.path("man").join(name));
        // In roff a hyphen that is not to be broken is escaped.
        text.map(|text| text.replace("\\-", "-"))
    };
    let option = Regex::new(r"--[a-z][a-z-]*").unwrap();
    let named = Regex::new(r"(fingerpost(?:-[a-z]+)+)\(1\)").unwrap();
    let pages = fs::read_dir(site.path("man")).unwrap();
    let mut count = 0;
    for page in pages.map(|page| page.unwrap().file_name().into_string().unwrap()) {
        let text = read(&page).unwrap();
        for found in named.captures_iter(&text) {
            assert!(
                read(&format!("{}.1", &found[1])).is_ok(),
                "{page} names {}",
                &found[1]
            );
        }
        // And each option says what it does.
        let lines: Vec<&str> = text.lines().collect();
        for pair in lines.windows(2).filter(|pair| pair[0].starts_with("\\fB-")) {
            assert!(!pair[1].is_empty(), "{page}: {} is not explained", pair[0]);
        }
        let command = page.trim_end_matches(".1").to_owned();
        count += 1;
        // The help of the program has examples of its commands.
        if command == "fingerpost" {
            continue;
        }
        let words = ["edit", "draft", "suggest", "extract"];
        let mut line: Vec<&str> = command.split('-').skip(1).collect();
        // `edit remove-declaration` has a hyphen in its name.
        let joined = line.get(1..).map(|rest| rest.join("-")).unwrap_or_default();
        if line.len() > 2 && words.contains(&line[0]) {
            line = vec![line[0], &joined];
        }
        line.push("--help");
        for found in option.find_iter(&site.good(&line)) {
            assert!(
                text.contains(found.as_str()),
                "{page} lacks {}",
                found.as_str()
            );
        }
    }
    assert!(count > 60, "{count}");
    assert!(site.good("man why").contains("fingerpost\\-why"));
}

/// Help says what each question answers and each change does, alone and in the list of all.
#[test]
fn every_help_begins_with_what_its_command_does() {
    let site = Site::new();
    let overview = site
        .good(&["help"])
        .split_whitespace()
        .collect::<Vec<_>>()
        .join(" ");
    for kind in QuestionKind::all() {
        for flag in ["-h", "--help"] {
            let words: Vec<&str> = kind.name.split(' ').chain([flag]).collect();
            let help = site.good(&words);
            assert!(help.starts_with(kind.does), "{}: {help}", kind.name);
        }
        assert!(
            kind.group().is_some() || overview.contains(kind.does),
            "{}",
            kind.name
        );
    }
    for group in QuestionKind::groups() {
        assert!(overview.contains(group.does), "{}", group.name);
    }
    for kind in Change::kinds() {
        let help = site.good(&["edit", kind.name, "-h"]);
        assert!(help.starts_with(kind.does), "{}: {help}", kind.name);
    }
}
