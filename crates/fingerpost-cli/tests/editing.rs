//! Every kind of edit through the real command, on the demo theme: what it announces, which lines it
//! changes and what it says of them; then saved, and taken back to the very bytes from before.

mod site;

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use site::Site;

/// The bytes of every file of a site, by name.
fn files(site: &Site) -> BTreeMap<String, Vec<u8>> {
    fn collect(root: &Path, folder: &Path, found: &mut BTreeMap<String, Vec<u8>>) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            let name = path.strip_prefix(root).unwrap().display().to_string();
            if path.is_dir() && name != ".fingerpost" {
                collect(root, &path, found);
            } else if path.is_file() {
                found.insert(name, fs::read(&path).unwrap());
            }
        }
    }
    let root = site.path("");
    let mut found = BTreeMap::new();
    collect(&root, &root, &mut found);
    found
}

/// An answer to an edit, taken apart.
struct Answer {
    summary: String,
    /// The name of each file that changes, and the lines that go and come.
    changes: Vec<String>,
    /// What is said below the differences.
    notes: Vec<String>,
}

impl Answer {
    fn of(answer: &str) -> Answer {
        let mut lines = answer.lines();
        let summary = lines.find_map(|l| l.strip_prefix("Tried, not saved: "));
        let mut found = Answer {
            summary: summary
                .expect("an edit begins with what was tried")
                .to_owned(),
            changes: Vec::new(),
            notes: Vec::new(),
        };
        // A hunk's head says how many lines of the old and the new text follow.
        let mut left = (0, 0);
        for line in lines.take_while(|l| !l.starts_with("To keep it")) {
            if let Some(head) = line.strip_prefix("@@ ") {
                let mut sides = head.split(' ').map(|side| match side.split_once(',') {
                    Some((_, count)) => count.parse().unwrap(),
                    None => 1,
                });
                left = (sides.next().unwrap(), sides.next().unwrap());
            } else if left != (0, 0) {
                match line.chars().next() {
                    Some('-') => left.0 -= 1,
                    Some('+') => left.1 -= 1,
                    _ => left = (left.0 - 1, left.1 - 1),
                }
                if line.starts_with(['-', '+']) {
                    found.changes.push(line.to_owned());
                }
            } else if let Some(file) = line.strip_prefix("+++ b/") {
                found.changes.push(file.to_owned());
            } else if !line.is_empty() && !line.starts_with("--- a/") {
                found.notes.push(line.to_owned());
            }
        }
        found
    }
}

/// Tries an edit, reads what it says, saves it and takes it back.
#[track_caller]
fn tried(words: &[&str], summary: &str, changes: &[&str], notes: &[&str]) {
    let site = Site::new();
    let before = files(&site);
    let said = site.good(&[&["edit"], words].concat());
    let answer = Answer::of(&said);
    assert_eq!(answer.summary, summary);
    assert_eq!(answer.changes, changes, "{said}");
    assert_eq!(answer.notes, notes, "{said}");
    assert_eq!(files(&site), before, "trying writes no source");

    site.good(&["save"]);
    let after = files(&site);
    let named = changes.iter().filter(|c| !c.starts_with(['-', '+']));
    let mut named: Vec<&str> = named.copied().collect();
    named.sort_unstable();
    let differing = after
        .iter()
        .filter(|(file, bytes)| before.get(*file) != Some(bytes));
    let differing: Vec<&str> = differing.map(|(file, _)| file.as_str()).collect();
    assert_eq!(
        differing, named,
        "the files that were named change, and no others"
    );

    site.good(&["unsave"]);
    assert_eq!(files(&site), before, "taken back to the byte");
}

#[test]
fn a_value_is_set_where_it_is_decided() {
    let words = ["set", "pages/home.html", "h2.today", "color", "var(--rust)"];
    tried(
        &words,
        "set color of h2.panel-title.today on pages/home.html: var(--brass) → var(--rust)",
        &[
            "css/skerry.css",
            "-  color: var(--brass);",
            "+  color: var(--rust);",
        ],
        &["color of h2.panel-title.today is now rgb(200, 85, 61)  css/skerry.css:256"],
    );
}

#[test]
fn a_value_that_nothing_sets_is_added_to_the_rule_that_is_about_the_element() {
    let words = [
        "set",
        "pages/home.html",
        "h2.today",
        "letter-spacing",
        "2px",
    ];
    tried(
        &words,
        "add letter-spacing: 2px to .today",
        &["css/skerry.css", "+  letter-spacing: 2px;"],
        &[
            "Note: no declaration set letter-spacing: it has its initial value",
            "letter-spacing of h2.panel-title.today is now 2px  css/skerry.css:257",
        ],
    );
}

#[test]
fn a_value_is_set_in_the_override_sheet() {
    let words = [
        "set",
        "pages/home.html",
        "h2.today",
        "letter-spacing",
        "2px",
        "--into",
        "custom",
    ];
    tried(
        &words,
        ".today { letter-spacing: 2px } in the override sheet",
        &["css/custom.css", "+", "+.today { letter-spacing: 2px; }"],
        &[
            "Note: css/custom.css is not the last sheet: the embedded sheet of pages/home.html comes after it",
            "letter-spacing of h2.panel-title.today is now 2px  css/custom.css:27",
            "Rules that match now:",
            "  .today  (0,1,0)  css/custom.css:27",
        ],
    );
}

#[test]
fn a_side_of_a_shorthand_is_set_in_it() {
    let words = [
        "set",
        "pages/home.html",
        ".sailings",
        "padding-left",
        "40px",
    ];
    tried(
        &words,
        "set padding-left of section.panel.sailings on pages/home.html: 24px → 40px",
        &[
            "css/custom.css",
            "-.panel { padding: 24px; }",
            "+.panel { padding: 24px 24px 24px 40px; }",
        ],
        &["padding-left of section.panel.sailings is now 40px  css/custom.css:4"],
    );
}

#[test]
fn a_side_of_a_shorthand_is_stepped_in_it() {
    let words = ["step", "pages/home.html", ".sailings", "padding-left", "+4"];
    tried(
        &words,
        "step padding-left of section.panel.sailings on pages/home.html by +4, from 24px",
        &[
            "css/custom.css",
            "-.panel { padding: 24px; }",
            "+.panel { padding: 24px 24px 24px 28px; }",
        ],
        &["padding-left of section.panel.sailings is now 28px  css/custom.css:4"],
    );
}

#[test]
fn a_declaration_is_added() {
    let words = [
        "add",
        "pages/home.html",
        "h2.today",
        "letter-spacing",
        ".02em",
    ];
    tried(
        &words,
        "add letter-spacing: .02em to .today",
        &["css/skerry.css", "+  letter-spacing: .02em;"],
        &["letter-spacing of h2.panel-title.today is now 0.4px  css/skerry.css:257"],
    );
}

#[test]
fn a_misspelt_declaration_is_removed() {
    let words = ["remove", "pages/home.html", ".masthead", "backgorund-color"];
    tried(
        &words,
        "remove backgorund-color: #12324a of header.masthead on pages/home.html",
        &[
            "css/custom.css",
            "-.masthead { backgorund-color: #12324a; }",
            "+.masthead { }",
        ],
        &[],
    );
}

#[test]
fn a_misspelt_declaration_is_renamed() {
    let words = [
        "rename",
        "pages/home.html",
        ".masthead",
        "backgorund-color",
        "background-color",
    ];
    tried(
        &words,
        "rename backgorund-color of header.masthead on pages/home.html to background-color",
        &[
            "css/custom.css",
            "-.masthead { backgorund-color: #12324a; }",
            "+.masthead { background-color: #12324a; }",
        ],
        &["background-color of header.masthead is now rgb(18, 50, 74)  css/custom.css:14"],
    );
}

#[test]
fn an_invalid_value_is_mended_by_its_place() {
    let words = [
        "set",
        "pages/timetable.html",
        "-",
        "color",
        "#123456",
        "--in",
        "css/custom.css:17",
    ];
    tried(
        &words,
        "set color on pages/timetable.html: #12345 → #123456, in the rule at css/custom.css:17",
        &[
            "css/custom.css",
            "-.timetable thead th { color: #12345; }",
            "+.timetable thead th { color: #123456; }",
        ],
        &[],
    );
}

#[test]
fn a_declaration_is_switched_off() {
    let words = ["off", "pages/home.html", "h2.today", "color"];
    tried(
        &words,
        "switch off color: var(--brass) of h2.panel-title.today on pages/home.html",
        &[
            "css/skerry.css",
            "-  color: var(--brass);",
            "+  /* color: var(--brass); */",
        ],
        &["color of h2.panel-title.today is now rgb(11, 61, 92)  css/skerry.css:242"],
    );
}

#[test]
fn a_declaration_is_marked_important() {
    let words = ["important", "pages/home.html", "h2.today", "color"];
    tried(
        &words,
        "mark color of h2.panel-title.today on pages/home.html !important",
        &[
            "css/skerry.css",
            "-  color: var(--brass);",
            "+  color: var(--brass) !important;",
        ],
        &["color of h2.panel-title.today is now rgb(138, 90, 0)  css/skerry.css:256"],
    );
}

#[test]
fn a_mark_is_taken_off() {
    let words = [
        "important",
        "pages/home.html",
        ".button-quiet",
        "background-color",
        "--off",
        "--in",
        "css/base.css:22",
    ];
    tried(
        &words,
        "take !important off background-color of a.button.button-quiet on pages/home.html, in the rule at css/base.css:22",
        &[
            "css/base.css",
            "-.button { background-color: #0b3d5c !important; }",
            "+.button { background-color: #0b3d5c; }",
        ],
        &["background-color of a.button.button-quiet is now rgb(200, 85, 61)  css/custom.css:11"],
    );
}

#[test]
fn a_colour_is_written_in_another_notation() {
    let words = [
        "notation",
        "pages/home.html",
        ".note",
        "color",
        "hsl",
        "--alpha",
        ".5",
    ];
    tried(
        &words,
        "write color of p.note on pages/home.html as hsl, from #8fa3ad",
        &[
            "css/skerry.css",
            "-  color: #8fa3ad;",
            "+  color: hsl(200 15.5% 62% / 0.5);",
        ],
        &["color of p.note is now rgba(143, 163, 173, 0.5)  css/skerry.css:268"],
    );
}

#[test]
fn a_rule_is_written_for_an_element() {
    let words = [
        "rule",
        "pages/home.html",
        "h2.today",
        "color: navy; text-align: right",
    ];
    tried(
        &words,
        "a new rule .today { color: navy; text-align: right }",
        &[
            "css/skerry.css",
            "+.today {",
            "+  color: navy;",
            "+  text-align: right;",
            "+}",
            "+",
        ],
        &[
            "color of h2.panel-title.today is now rgb(0, 0, 128)  css/skerry.css:260",
            "text-align of h2.panel-title.today is now right  css/skerry.css:261",
        ],
    );
}

#[test]
fn a_selector_is_added_to_a_rule() {
    let words = [
        "selector",
        "pages/home.html",
        "css/skerry.css:255",
        "--add",
        ".tomorrow",
    ];
    tried(
        &words,
        "select .tomorrow as well as .today",
        &["css/skerry.css", "-.today {", "+.today,", "+.tomorrow {"],
        &["The rule reaches 1 element of this page; before, 1 element."],
    );
}

#[test]
fn a_selector_is_dropped_from_a_rule() {
    let words = [
        "selector",
        "pages/home.html",
        "css/skerry.css:106",
        "--drop",
        "a:focus-visible",
    ];
    tried(
        &words,
        "stop selecting a:focus-visible, of a:focus-visible, .button:focus-visible",
        &["css/skerry.css", "-a:focus-visible,"],
        &["The rule reaches 0 elements of this page; before, 0 elements."],
    );
}

#[test]
fn a_rule_is_moved() {
    let words = [
        "move-rule",
        "pages/home.html",
        "css/skerry.css:255",
        "--after",
        "css/skerry.css:241",
    ];
    tried(
        &words,
        "move the rule .today after the one at css/skerry.css:241",
        &[
            "css/skerry.css",
            "+.today {",
            "+  color: var(--brass);",
            "+}",
            "+",
            "-}",
            "-",
            "-.today {",
            "-  color: var(--brass);",
        ],
        &[],
    );
}

#[test]
fn a_selector_is_given_a_rule_of_its_own() {
    let words = [
        "split",
        "pages/home.html",
        "css/skerry.css:106",
        "a:focus-visible",
    ];
    tried(
        &words,
        "give a:focus-visible a rule of its own, out of a:focus-visible, .button:focus-visible",
        &[
            "css/skerry.css",
            "-a:focus-visible,",
            "+a:focus-visible {",
            "+  outline: 3px solid var(--late);",
            "+  outline-offset: 2px;",
            "+}",
            "+",
        ],
        &[],
    );
}

#[test]
fn a_rule_is_removed() {
    let words = ["remove-rule", "pages/home.html", "css/skerry.css:190"];
    tried(
        &words,
        "remove the rule .hero-title at css/skerry.css:190",
        &[
            "css/skerry.css",
            "-.hero-title {",
            "-  margin: 0 0 .25em;",
            "-  font-size: 2.5rem;",
            "-  color: var(--paper);",
            "-}",
            "-",
        ],
        &[],
    );
}

#[test]
fn a_condition_is_changed() {
    let words = [
        "condition",
        "pages/home.html",
        "css/skerry.css:533",
        "(max-width: 32rem)",
    ];
    tried(
        &words,
        "@media (max-width: 40rem) → (max-width: 32rem), at css/skerry.css:533",
        &[
            "css/skerry.css",
            "-@media (max-width: 40rem) {",
            "+@media (max-width: 32rem) {",
        ],
        &[],
    );
}

#[test]
fn a_rule_is_enclosed() {
    let words = [
        "enclose",
        "pages/home.html",
        "css/skerry.css:134",
        "@media (width >= 40em)",
    ];
    tried(
        &words,
        "put the rule .brand img into @media (width >= 40em)",
        &[
            "css/skerry.css",
            "-.brand img {",
            "-  background: var(--foam);",
            "-  border-radius: var(--radius);",
            "+@media (width >= 40em) {",
            "+  .brand img {",
            "+    background: var(--foam);",
            "+    border-radius: var(--radius);",
            "+  }",
        ],
        &[],
    );
}

#[test]
fn a_rule_is_enclosed_in_a_layer() {
    let words = [
        "enclose",
        "pages/home.html",
        "css/custom.css:25",
        "@layer late",
    ];
    tried(
        &words,
        "put the rule .site-footer into @layer late",
        &[
            "css/custom.css",
            "-.site-footer { margin-top: 3rem; }",
            "+@layer late {",
            "+  .site-footer { margin-top: 3rem; }",
            "+}",
        ],
        &[],
    );
}

#[test]
fn an_at_rule_is_added() {
    let words = [
        "at-rule",
        "pages/home.html",
        "@keyframes fade { to { opacity: 0 } }",
        "--into",
        "custom",
    ];
    tried(
        &words,
        "a new @keyframes fade",
        &[
            "css/custom.css",
            "+",
            "+@keyframes fade { to { opacity: 0 } }",
        ],
        &[
            "Note: css/custom.css is not the last sheet: the embedded sheet of pages/home.html comes after it",
        ],
    );
}

#[test]
fn a_sheet_is_made_and_linked_on_every_page() {
    let words = [
        "new-sheet",
        "pages/home.html",
        "css/winter.css",
        "--every-page",
    ];
    tried(
        &words,
        "link css/winter.css on pages/home.html as the last sheet, and on 4 other pages",
        &[
            "css/winter.css",
            "+/* css/winter.css */",
            "pages/home.html",
            "+  <link rel=\"stylesheet\" href=\"/css/winter.css\">",
            "pages/fares.html",
            "+  <link rel=\"stylesheet\" href=\"/css/winter.css\">",
            "pages/harbour-map.html",
            "+  <link rel=\"stylesheet\" href=\"/css/winter.css\">",
            "pages/notices.html",
            "+  <link rel=\"stylesheet\" href=\"/css/winter.css\">",
            "pages/timetable.html",
            "+  <link rel=\"stylesheet\" href=\"/css/winter.css\">",
        ],
        &[],
    );
}

#[test]
fn a_sheet_is_made_and_linked_behind_another() {
    let words = [
        "new-sheet",
        "pages/home.html",
        "css/winter.css",
        "--source",
        "h1 { color: navy }",
        "--after",
        "css/base.css",
    ];
    tried(
        &words,
        "link css/winter.css on pages/home.html behind css/base.css",
        &[
            "css/winter.css",
            "+h1 { color: navy }",
            "pages/home.html",
            "+  <link rel=\"stylesheet\" href=\"/css/winter.css\">",
        ],
        &[],
    );
}

#[test]
fn a_class_is_renamed_everywhere() {
    let words = [
        "respell",
        "pages/home.html",
        "class",
        "panel-title",
        "panel-heading",
    ];
    tried(
        &words,
        "rename .panel-title to .panel-heading everywhere: 4 places in the markup of 2 files, 3 places in the styles of 2 files",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <h2 class=\"panel-heading today\">Sailings today</h2>",
            "-      <h2 class=\"panel-title\">What passengers say</h2>",
            "+      <h2 class=\"panel-heading\">What passengers say</h2>",
            "-      <h2 class=\"panel-title\" style=\"color: #7a1f0f\">Find the pier</h2>",
            "+      <h2 class=\"panel-heading\" style=\"color: #7a1f0f\">Find the pier</h2>",
            "pages/fares.html",
            "-      <h2 class=\"panel-title\">Book a crossing</h2>",
            "+      <h2 class=\"panel-heading\">Book a crossing</h2>",
            "css/parts/panel.css",
            "-.panel-title {",
            "+.panel-heading {",
            "css/skerry.css",
            "-.panel-title {",
            "+.panel-heading {",
            "-.panel-title::before {",
            "+.panel-heading::before {",
        ],
        &["Note: scripts that use the old name are not changed"],
    );
}

#[test]
fn an_id_is_renamed_everywhere() {
    let words = ["respell", "pages/home.html", "id", "welcome", "greeting"];
    tried(
        &words,
        "rename #welcome to #greeting everywhere: 2 places in the markup of 1 file",
        &[
            "pages/home.html",
            "-    <section class=\"hero\" aria-labelledby=\"welcome\">",
            "-      <h1 class=\"hero-title\" id=\"welcome\">Six islands, one boat</h1>",
            "+    <section class=\"hero\" aria-labelledby=\"greeting\">",
            "+      <h1 class=\"hero-title\" id=\"greeting\">Six islands, one boat</h1>",
        ],
        &["Note: scripts that use the old name are not changed"],
    );
}

#[test]
fn a_custom_property_is_renamed_everywhere() {
    let words = [
        "respell",
        "pages/home.html",
        "property",
        "--",
        "--brass",
        "--gold",
    ];
    tried(
        &words,
        "rename --brass to --gold everywhere: 2 places in the styles of 1 file",
        &[
            "css/skerry.css",
            "-  --brass: #8a5a00;",
            "+  --gold: #8a5a00;",
            "-  color: var(--brass);",
            "+  color: var(--gold);",
        ],
        &[],
    );
}

#[test]
fn a_custom_property_is_changed_where_it_is_defined() {
    let words = ["variable", "pages/home.html", "--brass", "#c0902f"];
    tried(
        &words,
        "set --brass of html on pages/home.html: #8a5a00 → #c0902f",
        &[
            "css/skerry.css",
            "-  --brass: #8a5a00;",
            "+  --brass: #c0902f;",
        ],
        &["--brass of html is now #c0902f  css/skerry.css:19"],
    );
}

#[test]
fn a_custom_property_is_defined_on_the_root() {
    let words = ["variable", "pages/home.html", "--accent", "#c0902f"];
    tried(
        &words,
        "define --accent: #c0902f in :root",
        &["css/skerry.css", "+  --accent: #c0902f;"],
        &["--accent of html is now #c0902f  css/skerry.css:41"],
    );
}

#[test]
fn an_attribute_is_set() {
    let words = [
        "attribute",
        "pages/home.html",
        ".hero",
        "data-season",
        "winter",
    ];
    tried(
        &words,
        "set data-season of section.hero on pages/home.html to 'winter'",
        &[
            "pages/home.html",
            "-    <section class=\"hero\" aria-labelledby=\"welcome\">",
            "+    <section class=\"hero\" aria-labelledby=\"welcome\" data-season=\"winter\">",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn an_attribute_is_taken_off() {
    let words = [
        "attribute",
        "pages/home.html",
        ".hero",
        "aria-labelledby",
        "--off",
    ];
    tried(
        &words,
        "take aria-labelledby off section.hero on pages/home.html",
        &[
            "pages/home.html",
            "-    <section class=\"hero\" aria-labelledby=\"welcome\">",
            "+    <section class=\"hero\">",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn classes_are_changed() {
    let words = ["class", "pages/home.html", "h2.today", "+wide", "-today"];
    tried(
        &words,
        "class +wide -today of h2.panel-title.today on pages/home.html",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <h2 class=\"panel-title wide\">Sailings today</h2>",
        ],
        &[
            "Rules that no longer match:",
            "  .today  (0,1,0)  css/skerry.css:255",
        ],
    );
}

#[test]
fn a_class_is_added_on_every_page_that_has_the_element() {
    let words = [
        "class",
        "pages/fares.html",
        ".site-footer",
        "+wide",
        "--every-page",
    ];
    tried(
        &words,
        "class +wide of footer.site-footer on pages/fares.html, and on 3 other pages",
        &[
            "pages/fares.html",
            "-  <footer class=\"site-footer\">",
            "+  <footer class=\"site-footer wide\">",
            "pages/home.html",
            "-  <footer class=\"site-footer\">",
            "+  <footer class=\"site-footer wide\">",
            "pages/notices.html",
            "-  <footer class=\"site-footer\">",
            "+  <footer class=\"site-footer wide\">",
            "pages/timetable.html",
            "-  <footer class=\"site-footer\">",
            "+  <footer class=\"site-footer wide\">",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn a_text_is_changed_on_other_pages_that_are_named() {
    let words = [
        "text",
        "pages/home.html",
        ".site-footer p:first-child",
        "Until tomorrow.",
        "--on",
        "pages/fares.html",
    ];
    tried(
        &words,
        "text of p on pages/home.html: Skerry Line sails between six islands, every day that the sea allows. → Until tomorrow., and on 1 other page",
        &[
            "pages/home.html",
            "-    <p>Skerry Line sails between six islands, every day that the sea allows.</p>",
            "+    <p>Until tomorrow.</p>",
            "pages/fares.html",
            "-    <p>Skerry Line sails between six islands, every day that the sea allows.</p>",
            "+    <p>Until tomorrow.</p>",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn a_text_is_changed_on_the_only_page_that_has_it() {
    let words = [
        "text",
        "pages/home.html",
        "h2.today",
        "Sailing today",
        "--every-page",
    ];
    tried(
        &words,
        "text of h2.panel-title.today on pages/home.html: Sailings today → Sailing today",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <h2 class=\"panel-title today\">Sailing today</h2>",
        ],
        &[
            "Note: no other page of the site has it",
            "The same rules match as before.",
        ],
    );
}

#[test]
fn one_of_several_texts_is_changed() {
    let words = [
        "text",
        "pages/home.html",
        "figcaption",
        ", launched on Long Skerry.",
        "--from",
        ", built in the yard on Long Skerry.",
    ];
    tried(
        &words,
        "text of figcaption on pages/home.html: , built in the yard on Long Skerry. → , launched on Long Skerry.",
        &[
            "pages/home.html",
            "-        <figcaption>The <em>Kittiwake</em>, built in the yard on Long Skerry.</figcaption>",
            "+        <figcaption>The <em>Kittiwake</em>, launched on Long Skerry.</figcaption>",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn an_element_is_given_another_name() {
    let words = ["tag", "pages/home.html", "h2.today", "p"];
    tried(
        &words,
        "make h2.panel-title.today on pages/home.html a p",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <p class=\"panel-title today\">Sailings today</p>",
        ],
        &[
            "Rules that match now:",
            "  p  (0,0,1)  css/base.css:13",
            "Rules that no longer match:",
            "  h2  (0,0,1)  css/base.css:11",
            "  h2  (0,0,1)  css/base.css:12",
            "  h2  (0,0,1)  css/skerry.css:102",
        ],
    );
}

#[test]
fn what_an_element_holds_is_rewritten() {
    let words = [
        "markup",
        "pages/home.html",
        "h2.today",
        "Sailing <em>today</em>",
        "--inner",
    ];
    tried(
        &words,
        "rewrite what h2.panel-title.today on pages/home.html holds",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <h2 class=\"panel-title today\">Sailing <em>today</em></h2>",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn markup_is_inserted() {
    let words = [
        "insert",
        "pages/home.html",
        "h2.today",
        "<p>Bring a coat.</p>",
        "--side",
        "after",
    ];
    tried(
        &words,
        "insert markup after h2.panel-title.today on pages/home.html",
        &["pages/home.html", "+        <p>Bring a coat.</p>"],
        &["The same rules match as before."],
    );
}

#[test]
fn an_element_is_duplicated() {
    let words = ["duplicate", "pages/home.html", "blockquote"];
    tried(
        &words,
        "duplicate blockquote on pages/home.html",
        &[
            "pages/home.html",
            "+      <blockquote>",
            "+        <p>The crossing was rough, the soup was not.</p>",
            "+      </blockquote>",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn an_element_is_moved() {
    let words = [
        "move",
        "pages/home.html",
        "h2.today",
        ".hero",
        "--side",
        "last",
    ];
    tried(
        &words,
        "move h2.panel-title.today on pages/home.html to the end of .hero",
        &[
            "pages/home.html",
            "+      <h2 class=\"panel-title today\">Sailings today</h2>",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn an_element_is_removed() {
    let words = ["remove-element", "pages/home.html", "blockquote"];
    tried(
        &words,
        "remove blockquote from pages/home.html",
        &[
            "pages/home.html",
            "-      <blockquote>",
            "-        <p>The crossing was rough, the soup was not.</p>",
            "-      </blockquote>",
        ],
        &[],
    );
}

#[test]
fn an_element_is_wrapped() {
    let words = [
        "wrap",
        "pages/home.html",
        "h2.today",
        "<div class=\"wide\">",
    ];
    tried(
        &words,
        "wrap h2.panel-title.today on pages/home.html in <div class=\"wide\">",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <div class=\"wide\">",
            "+          <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        </div>",
        ],
        &["The same rules match as before."],
    );
}

#[test]
fn an_element_is_unwrapped() {
    let words = ["unwrap", "pages/home.html", "blockquote"];
    tried(
        &words,
        "unwrap blockquote on pages/home.html",
        &[
            "pages/home.html",
            "-      <blockquote>",
            "-        <p>The crossing was rough, the soup was not.</p>",
            "-      </blockquote>",
            "+      <p>The crossing was rough, the soup was not.</p>",
        ],
        &["The same rules match as before."],
    );
}

/// Edits that are refused: each with its status and the first line of its error. Nothing is kept.
#[track_caller]
fn refused(cases: &[(&[&str], i32, &str)]) {
    let site = Site::new();
    let before = files(&site);
    for (words, status, error) in cases {
        let (found, answer, errors) = site.run(&[&["edit"], *words].concat());
        assert_eq!(found, *status, "{words:?}: {answer}{errors}");
        assert_eq!(answer, "", "{words:?}");
        let first = errors.lines().next().unwrap_or_default();
        let first = first.strip_prefix("fingerpost: ").unwrap_or(first);
        let first = first.strip_prefix("error: ").unwrap_or(first);
        assert_eq!(first, *error, "{words:?}");
        assert_eq!(files(&site), before, "{words:?}");
        assert!(
            !site.path(".fingerpost").exists(),
            "{words:?}: something is kept"
        );
    }
}

#[test]
fn values_and_names_that_are_not_valid() {
    refused(&[
        (
            &["set", "pages/home.html", "h2.today", "color", "nvy"],
            2,
            "color: nvy is not valid: 'nvy' does not fit color; expected <color>",
        ),
        (
            &["set", "pages/home.html", "h2.today", "colour", "navy"],
            2,
            "no property is called 'colour'. Do you mean 'color'?",
        ),
        (
            &["rename", "pages/home.html", "h2.today", "color", "colour"],
            2,
            "no property is called 'colour'. Do you mean 'color'?",
        ),
        (
            &["step", "pages/home.html", "h2.today", "font-size", "fast"],
            2,
            "'fast' is not a step; expected a number such as +1 or -0.1",
        ),
        (
            &["step", "pages/home.html", "h2.today", "color", "+1"],
            2,
            "color is 'var(--brass)', which is not a single number; set it instead",
        ),
        (
            &[
                "notation",
                "pages/home.html",
                ".note",
                "color",
                "hsl",
                "--alpha",
                "7",
            ],
            2,
            "'7' is not an alpha, such as .5 or 50%",
        ),
        (
            &["rule", "pages/home.html", "h2.today", "color navy"],
            2,
            "'color navy': neither a declaration nor a rule; expected name: value;",
        ),
        (
            &[
                "rule",
                "pages/home.html",
                "h2.today",
                "color: navy",
                "--selector",
                "..x",
            ],
            2,
            "'..x' is not a valid selector: expected a class name after .",
        ),
        (
            &["variable", "pages/home.html", "brass", "red"],
            2,
            "'brass' is not the name of a custom property, such as --brand",
        ),
        (
            &["attribute", "pages/home.html", ".hero", "da ta", "x"],
            2,
            "'da ta' is not the name of an attribute",
        ),
        (
            &["tag", "pages/home.html", "h2.today", "h 2"],
            2,
            "'h 2' is not the name of an element",
        ),
        (
            &["respell", "pages/home.html", "class", "panel", "a b"],
            2,
            "'a b' is not a class",
        ),
    ]);
}

#[test]
fn elements_that_are_not_there_or_not_one() {
    refused(&[
        (
            &["set", "pages/home.html", "h2.nowhere", "color", "navy"],
            1,
            "no element of pages/home.html matches 'h2.nowhere'. Nearest: without '.nowhere' it matches 3 elements, first h2.panel-title.today at pages/home.html:38.",
        ),
        (
            &["set", "pages/home.html", "-", "color", "navy"],
            2,
            "this change needs an element; name one",
        ),
        (
            &["set", "pages/none.html", "h2", "color", "navy"],
            2,
            "pages/none.html: there is no such file; expected a page of the site",
        ),
        (
            &["unwrap", "pages/home.html", "img"],
            2,
            "'img' matches 2 elements of pages/home.html; say which:",
        ),
        (
            &["off", "pages/home.html", "css/custom.css:14", "color"],
            2,
            "css/custom.css is not the page that was asked about, pages/home.html. Expected an element of that page; an edit names a rule with `--in`, and takes - for the element then",
        ),
        (
            &[
                "insert",
                "pages/home.html",
                "img",
                "<p>x",
                "--side",
                "first",
            ],
            2,
            "'img' matches 2 elements of pages/home.html; say which:",
        ),
    ]);
}

#[test]
fn rules_that_are_not_there_or_not_about_the_element() {
    refused(&[
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--in",
                "css/skerry.css:9999",
            ],
            2,
            "css/skerry.css:9999: there is no rule there",
        ),
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--in",
                "css/skerry.css:203",
            ],
            2,
            "css/skerry.css:203: the rule there, .button, does not match h2.panel-title.today",
        ),
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--in",
                "css/none.css:3",
            ],
            2,
            "css/none.css:3: css/none.css is not a sheet of this page",
        ),
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--into",
                "css/none.css",
            ],
            2,
            "css/none.css: there is no such sheet in the site; make it with `fingerpost edit new-sheet`",
        ),
        (
            &[
                "selector",
                "pages/home.html",
                "css/skerry.css:255",
                "--drop",
                ".today",
            ],
            2,
            "css/skerry.css:255: .today is the rule's only selector; remove the rule instead",
        ),
        (
            &[
                "selector",
                "pages/home.html",
                "css/skerry.css:255",
                "--drop",
                ".other",
            ],
            1,
            "nothing would change: .other is none of the rule's selectors: .today",
        ),
        (
            &[
                "move-rule",
                "pages/home.html",
                "css/skerry.css:255",
                "--after",
                "css/skerry.css:255",
            ],
            2,
            "css/skerry.css:255: a rule can't be moved beside itself, or out of or into one that it stands in",
        ),
        (
            &["split", "pages/home.html", "css/skerry.css:255", ".today"],
            1,
            "nothing would change: .today is the rule's only selector already",
        ),
        (
            &["split", "pages/home.html", "css/skerry.css:106", ".other"],
            1,
            "nothing would change: .other is none of the rule's selectors: a:focus-visible, .button:focus-visible",
        ),
        (
            &["remove-rule", "pages/home.html", "css/skerry.css:1"],
            2,
            "css/skerry.css:1: there is no rule there",
        ),
        (
            &[
                "condition",
                "pages/home.html",
                "css/skerry.css:255",
                "print",
            ],
            2,
            "css/skerry.css:255: there is no at-rule there",
        ),
    ]);
}

#[test]
fn what_would_swallow_what_stands_behind_it() {
    refused(&[
        (
            &[
                "condition",
                "pages/home.html",
                "css/skerry.css:533",
                "(max-width: 40rem) {",
            ],
            2,
            "'(max-width: 40rem) {': a bracket is never closed",
        ),
        (
            &[
                "enclose",
                "pages/home.html",
                "css/skerry.css:255",
                "@media (",
            ],
            2,
            "'@media (': a bracket is never closed",
        ),
        (
            &[
                "at-rule",
                "pages/home.html",
                "@keyframes fade { to { opacity: 0 }",
            ],
            2,
            "'@keyframes fade { to { opacity: 0 }': a bracket is never closed",
        ),
        (
            &["at-rule", "pages/home.html", "fade"],
            2,
            "'fade': the sheet ends inside a rule; expected { after the selector",
        ),
        (
            &[
                "enclose",
                "pages/home.html",
                "css/skerry.css:255",
                "@import",
            ],
            2,
            "'@import': expected @media, @supports, @container, @layer, @scope or @starting-style with what belongs to it",
        ),
        (
            &["markup", "pages/home.html", "h2.today", "<!-- x", "--inner"],
            2,
            "this markup can't be put in: a comment, a tag, or an element such as <script> or <textarea> is never closed, and would take along what stands behind it: <!-- x",
        ),
        (
            &["set", "pages/home.html", "h2.today", "color", "red /* x"],
            2,
            "'red /* x' is not one value: a comment is never closed; give the value alone",
        ),
        (
            &["set", "pages/home.html", "h2.today", "background", "url(x"],
            2,
            "'url(x' is not one value: url(x is never closed; give the value alone",
        ),
        (
            &["set", "pages/home.html", "h2.today", "content", "\"x"],
            2,
            "'\"x' is not one value: the string \"x is never closed; give the value alone",
        ),
        (
            &[
                "set",
                "pages/home.html",
                ".hero-title",
                "color",
                "red</style>",
                "--into",
                "embedded",
            ],
            2,
            "color: red</style> is not valid: '<' does not fit color; expected nothing more",
        ),
        (
            &[
                "rule",
                "pages/home.html",
                "h2.today",
                "color: red } p { color: blue",
            ],
            2,
            "'color: red } p { color: blue': '}' closes nothing",
        ),
        (
            &[
                "selector",
                "pages/home.html",
                "css/skerry.css:255",
                "--add",
                ".x /* y",
            ],
            2,
            "'.x /* y' is not a valid selector: a comment is never closed",
        ),
        (
            &[
                "insert",
                "pages/home.html",
                "h2.today",
                "<textarea>",
                "--side",
                "after",
            ],
            2,
            "this markup can't be put in: a comment, a tag, or an element such as <script> or <textarea> is never closed, and would take along what stands behind it: <textarea>",
        ),
        (
            &["text", "pages/home.html", "style", "x </style> y"],
            2,
            "pages/home.html:10: the text would end the element early",
        ),
    ]);
}

#[test]
fn changes_that_would_change_nothing() {
    refused(&[
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "var(--brass)",
            ],
            1,
            "color is already var(--brass), at css/skerry.css:256",
        ),
        (
            &["on", "pages/home.html", "h2.today", "color"],
            1,
            "nothing would change: no rule that matches h2.panel-title.today holds a comment that is a declaration of color",
        ),
        (
            &["notation", "pages/home.html", ".note", "padding", "hsl"],
            1,
            "nothing would change: '.5em .75em' holds no colour of its own",
        ),
        (
            &["step", "pages/home.html", ".sailings", "margin-top", "+1"],
            1,
            "nothing sets margin-top on section.panel.sailings: it has its initial value. There is no declaration to change",
        ),
        (
            &["new-sheet", "pages/home.html", "css/base.css"],
            1,
            "nothing would change: css/base.css is there and linked already",
        ),
        (
            &[
                "respell",
                "pages/home.html",
                "class",
                "nothing",
                "something",
            ],
            1,
            "nothing would change: nothing in the site is called .nothing",
        ),
        (
            &["attribute", "pages/home.html", ".hero", "nothing", "--off"],
            1,
            "nothing would change: it has no attribute nothing",
        ),
        (
            &["class", "pages/home.html", "h2.today", "+today"],
            1,
            "nothing would change: class is 'panel-title today' already",
        ),
        (
            &["class", "pages/home.html", "h2.today", "-nothing"],
            1,
            "nothing would change: class is 'panel-title today' already",
        ),
        (
            &[
                "text",
                "pages/home.html",
                "figcaption",
                "x",
                "--from",
                "nothing",
            ],
            1,
            "nothing would change: the element does not hold the text 'nothing'",
        ),
        (
            &["text", "pages/home.html", ".hero", "words"],
            2,
            "pages/home.html:29: the element holds other elements; say which of its texts is to change (--from)",
        ),
    ]);
}

#[test]
fn parts_of_a_shorthand_name_the_whole() {
    refused(&[
        (
            &["off", "pages/home.html", ".sailings", "padding-left"],
            2,
            "css/custom.css:4: padding-left is set by padding: 24px, which sets more than that; name padding to change all of it, or set padding-left to another value",
        ),
        (
            &["important", "pages/home.html", ".sailings", "padding-top"],
            2,
            "css/custom.css:4: padding-top is set by padding: 24px, which sets more than that; name padding to change all of it, or set padding-top to another value",
        ),
        (
            &["remove", "pages/home.html", ".brand", "font-size"],
            2,
            "css/skerry.css:129: font-size is set by font: 700 1.25rem/1.2 var(--font-plain), which sets more than that; name font to change all of it, or set font-size to another value",
        ),
    ]);
}

#[test]
fn elements_that_can_not_stand_there() {
    refused(&[
        (
            &[
                "move",
                "pages/home.html",
                "main",
                "h2.today",
                "--side",
                "last",
            ],
            2,
            "pages/home.html:38: an element can't be moved beside or into itself",
        ),
        (
            &[
                "move",
                "pages/home.html",
                "h2.today",
                "h2.today",
                "--side",
                "after",
            ],
            2,
            "pages/home.html:38: an element can't be moved beside or into itself",
        ),
        (
            &["wrap", "pages/home.html", "h2.today", "<br>"],
            2,
            "pages/home.html:38: a br can't hold anything",
        ),
        (
            &[
                "insert",
                "pages/home.html",
                ".brand img",
                "<p>x</p>",
                "--side",
                "first",
            ],
            2,
            "<img>: the element can't hold anything",
        ),
        (
            &["wrap", "pages/home.html", "h2.today", "<p"],
            2,
            "'<p' is not the name of an element; expected one, or a start tag such as <div class=\"wide\">",
        ),
    ]);
}

#[test]
fn options_that_contradict_each_other() {
    refused(&[
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--here",
                "--into",
                "custom",
            ],
            2,
            "the argument '--here' cannot be used with '--into <WHERE>'",
        ),
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--in",
                "css/custom.css:4",
                "--into",
                "custom",
            ],
            2,
            "the argument '--in <FILE:LINE>' cannot be used with '--into <WHERE>'",
        ),
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--into",
                "elsewhere",
            ],
            2,
            "invalid value 'elsewhere' for '--into <WHERE>': expected place, served, embedded, custom, or a sheet such as css/custom.css",
        ),
        (
            &[
                "insert",
                "pages/home.html",
                "h2.today",
                "<p>x</p>",
                "--side",
                "inside",
            ],
            2,
            "invalid value 'inside' for '--side <SIDE>': expected before, after, first or last",
        ),
        (
            &[
                "class",
                "pages/home.html",
                "h2.today",
                "+a",
                "--every-page",
                "--on",
                "pages/fares.html",
            ],
            2,
            "the argument '--every-page' cannot be used with '--on <PAGE>'",
        ),
        (
            &["selector", "pages/home.html", "css/skerry.css:255"],
            2,
            "the following required arguments were not provided:",
        ),
        (
            &["move-rule", "pages/home.html", "css/skerry.css:255"],
            2,
            "the following required arguments were not provided:",
        ),
        (
            &["new-sheet", "pages/home.html", "css/winter.txt"],
            2,
            "'css/winter.txt' is not the name of a sheet, such as css/winter.css",
        ),
        (
            &["respell", "pages/home.html", "element", "a", "b"],
            2,
            "invalid value 'element' for '<WHAT>': expected class, id or property",
        ),
        (
            &["notation", "pages/home.html", ".note", "color", "cmyk"],
            2,
            "invalid value 'cmyk' for '<TO>'",
        ),
    ]);
}
