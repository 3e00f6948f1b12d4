//! Input that is large, deep or broken: every question is answered and every edit made or refused, in a
//! time that a person would wait for even here, where nothing is optimised.

use std::fs;
use std::time::Duration;

use crate::site::Words;
use assert_cmd::Command;
use tempfile::TempDir;

/// How long a command may take before it is held to hang: a thousand times what it needs.
const PATIENCE: Duration = Duration::from_secs(120);

const HEAD: &str = "<!doctype html><link rel=stylesheet href=a.css>";

/// A page `p.html` with a sheet `a.css`.
struct Site(TempDir);

impl Site {
    fn new(body: &str, css: &str) -> Site {
        let folder = TempDir::new().unwrap();
        let write = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
        write("fingerpost.toml", "fingerpost = 2\n");
        write("p.html", &format!("{HEAD}{body}"));
        write("a.css", css);
        Site(folder)
    }

    /// Runs a command, which must end by itself and without a defect: its status and what it says.
    #[track_caller]
    fn run(&self, words: impl Words) -> (i32, String) {
        let words = words.words();
        let output = Command::cargo_bin("fingerpost")
            .unwrap()
            .current_dir(self.0.path())
            .args(&words)
            .timeout(PATIENCE)
            .output()
            .unwrap();
        let said = String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned();
        let start: String = said.chars().take(300).collect();
        let status = output.status.code();
        assert!(
            matches!(status, Some(0..=2)),
            "{words:?}: {status:?}: {start}"
        );
        assert!(
            !said.contains("a defect in fingerpost"),
            "{words:?}: {start}"
        );
        (status.unwrap(), said)
    }

    #[track_caller]
    fn answers(&self, words: &[&str], expected: &str) {
        let (status, said) = self.run(words);
        let start: String = said.chars().take(600).collect();
        assert_eq!(status, 0, "{words:?}: {start}");
        assert!(
            said.contains(expected),
            "{words:?}: {expected:?} in {start}"
        );
    }
}

/// What is asked of every broken sheet.
const QUESTIONS: [&[&str]; 9] = [
    &["why", "p.html", "h2", "color"],
    &["values", "p.html", "h2"],
    &["trace", "p.html", "h2"],
    &["whynot", "p.html", "h2", "color: navy"],
    &["sheets", "p.html"],
    &["extract", "rule", "p.html", "a.css:1"],
    &["edit", "set", "p.html", "h2", "color", "navy"],
    &["edit", "rule", "p.html", "h2", "top: 0"],
    &["save"],
];

fn nested(open: &str, inside: &str, close: &str, times: usize) -> String {
    format!("{}{inside}{}", open.repeat(times), close.repeat(times))
}

#[test]
fn sheets_that_break_off_or_nest_without_end() {
    let deep = 5_000;
    let sheets = [
        "h2{color-scheme: Canvas}".to_owned(),
        "h2{color-scheme: var(--a);--a:CanvasText}@property --a{syntax:'<color>';inherits:yes;initial-value:Canvas}".to_owned(),
        ".x{top:0}h2{color:red;--x:é".to_owned(),
        "h2{content:'é".to_owned(),
        "a{}\nh2{é".to_owned(),
        ".x{color:red".to_owned(),
        "h2{color:red}\n/*# sourceMappingURL=a.css */".to_owned(),
        "h2 > > p, h2 + + .x, > h2, ::slotted() {color:red}".to_owned(),
        "h2{--c: color(); color: color()}".to_owned(),
        format!("h2{{width: attr(x type({}", "[".repeat(deep)),
        format!("h2{{-webkit-box-align:{}", "(".repeat(deep)),
        format!("h2{{background:url({}", "(".repeat(deep)),
        format!("h2{{background:{}", "linear-gradient(".repeat(deep)),
        format!("h2{{color:{}}}", nested("color-mix(in srgb, red, ", "blue", ")", deep)),
        format!("h2{{width:{}}}", nested("calc(-1*(", "1px", "))", deep)),
        format!("h2{{width:{}}}", nested("min(1px,", "1px", ")", deep)),
        format!("h2{{--a:{};color:var(--a)}}", nested("var(--b,", "red", ")", deep)),
        format!("{}{{color:red}}", nested(":not(", "h2", ")", deep)),
        format!("{}{{color:red}}", nested(":is(.x,", "h2", ")", 30)),
        format!("h2{{{}}}", nested("&&{", "color:red", "}", 60)),
        format!("h2{{{}}}", nested("& &{", "color:red", "}", 60)),
        format!("h2{}", nested("{&", "{color:red}", "}", deep)),
        format!("@media {}{{h2{{color:red}}}}", nested("(", "width>1px", ")", deep)),
        format!("@supports {}{{h2{{color:red}}}}", nested("not (", "color:red", ")", deep)),
        nested("@media all{", "h2{color:red}", "}", deep),
        "}".repeat(deep),
        "h2{".repeat(deep),
        "/*".repeat(deep),
        "\\".repeat(deep),
        "@".repeat(deep),
    ];
    for css in sheets {
        let site = Site::new("<h2 class=x id=i>t</h2><p class=x>u</p>", &css);
        let start: String = css.chars().take(40).collect();
        println!("{start}");
        for words in QUESTIONS {
            site.run(words);
        }
    }
}

#[test]
fn values_nested_deeper_than_anybody_writes_are_read_or_said() {
    let mixed = |times| nested("color-mix(in srgb, red, ", "blue", ")", times);
    for times in [1, 16, 20, 40, 60] {
        let site = Site::new("<h2>t</h2>", &format!("h2{{color:{}}}", mixed(times)));
        site.answers(&["why", "p.html", "h2", "color"], "color(srgb ");
        let round = nested("round(", "1px", ", 1px)", times);
        let site = Site::new("<h2>t</h2>", &format!("h2{{width:{round}}}"));
        site.answers(&["why", "p.html", "h2", "width"], "  1px  specified as");
    }
    let site = Site::new("<h2>t</h2>", &format!("h2{{color:{}}}", mixed(65)));
    site.answers(&["trace", "p.html", "h2"], "at most 64 levels of nesting");
}

#[test]
fn nested_rules_that_repeat_their_parent_match() {
    let css = format!("h2{{{}}}", nested("&&{", "color:red", "}", 40));
    let site = Site::new("<h2>t</h2>", &css);
    site.answers(&["why", "p.html", "h2", "color"], "rgb(255, 0, 0)");
    let css = format!("div{{{}}}", nested("& &{", "color:red", "}", 8));
    let body = nested("<div>", "<p>t</p>", "</div>", 300);
    let site = Site::new(&body, &css);
    site.answers(&["why", "p.html", "p", "color"], "rgb(255, 0, 0)");
}

#[test]
fn sheets_that_import_each_other_many_times() {
    let site = Site::new("<h2>t</h2>", "@import \"s0.css\";");
    for at in 0..15 {
        let next = format!("@import \"s{}.css\";\n", at + 1);
        let css = match at {
            14 => "h2{color:red}".to_owned(),
            _ => next.repeat(4),
        };
        fs::write(site.0.path().join(format!("s{at}.css")), css).unwrap();
    }
    site.answers(&["why", "p.html", "h2", "color"], "rgb(255, 0, 0)");
    site.answers(&["sheets", "p.html"], "the page has more than 4000 sheets");
}

#[test]
fn large_pages() {
    let attributes: String = (0..20_000).map(|at| format!(" a{at}=1")).collect();
    let site = Site::new(&format!("<h2{attributes}>t</h2>"), "h2{color:red}");
    site.answers(&["why", "p.html", "h2", "color"], "rgb(255, 0, 0)");

    let css = "li:nth-child(2n+1){color:red} li:nth-last-of-type(3){color:blue} ul:has(h2){top:0} \
               li:nth-child(2 of .x){top:1px} li:nth-last-child(odd of li, p){left:0}";
    let list = format!("<ul>{}</ul><h2>t</h2>", "<li class=a>x\n".repeat(20_000));
    let site = Site::new(&list, css);
    site.answers(&["sheets", "p.html"], "a.css");
    site.answers(&["suggest", "selector", "p.html", "h2"], "(0,0,1)");
    site.answers(&["why", "p.html", "@20000", "color"], "color of li.a");

    let words: String = (0..6_000)
        .map(|at| format!("<p>some words {at} and more</p>\n"))
        .collect();
    let site = Site::new(&words, "");
    site.answers(
        &["find", "p.html", "\"words 3000 and\""],
        "words 3000 and more",
    );
    assert_eq!(site.run("find p.html '\"nowhere to be seen\"'").0, 1);

    let site = Site::new(&"<p>x</p>\n".repeat(400), "p{color:red}");
    site.answers(
        &["edit", "tag", "p.html", "p", "div", "--each"],
        "400 elements",
    );

    let site = Site::new(
        &format!("<h2>t</h2>{}", "<table><tr><td>".repeat(3_000)),
        "h2{color:red}",
    );
    site.answers(&["why", "p.html", "h2", "color"], "rgb(255, 0, 0)");
    let site = Site::new(
        &format!("<h2>t</h2>{}", "<div>".repeat(20_000)),
        "div div{color:red}",
    );
    site.answers(&["tree", "p.html"], "h2");
}

#[test]
fn long_values_and_many_rules() {
    let chain: String = (0..3_000)
        .map(|at| format!("--a{at}:var(--a{}) x;", at + 1))
        .collect();
    let site = Site::new(
        "<h2>t</h2>",
        &format!("h2{{{chain}--a3000:1;color:var(--a0)}}"),
    );
    site.answers(&["values", "p.html", "h2"], "h2");

    let layers = vec!["url(a.png) no-repeat"; 6_000].join(",");
    let site = Site::new("<h2>t</h2>", &format!("h2{{background:{layers}}}"));
    site.answers(
        &[
            "edit",
            "set",
            "p.html",
            "h2",
            "background-color",
            "red",
            "--into",
            "winning",
        ],
        "in the draft",
    );

    let site = Site::new("<h2>t</h2>", &"h2{color:red}\n".repeat(5_000));
    site.answers(
        &["edit", "set", "p.html", "h2", "color", "navy"],
        "red → navy",
    );
}
