//! Changes of rules, sheets and names.

use super::tried;

/// What a rule of a state changes is said for that state; where no element can be in it, that is said.
#[test]
fn a_rule_of_a_state_says_what_it_changes_there() {
    let rule = |state: &str, notes: &[&str]| {
        let selector = format!(".panel{state}");
        let words = [
            "rule",
            "pages/home.html",
            "@30",
            "color: red",
            "--selector",
            &selector,
        ];
        tried(
            &words,
            &format!("a new rule {selector} {{ color: red }}"),
            &[
                "css/overrides.css",
                &format!("+{selector} {{ color: red; }}"),
            ],
            notes,
        );
    };
    let stays = "color of section.panel.sailings stays rgb(29, 43, 51)";
    rule(
        ":checked",
        &[
            stays,
            "No style of any element changes on the site's 5 pages.",
            "Note: no element on the site's 5 pages matches on :checked",
        ],
    );
    rule(
        ":hover",
        &[
            stays,
            "On :hover: color: rgb(29, 43, 51) → rgb(255, 0, 0)",
            "Unchanged at 360px, at 620px, in print, with prefers-reduced-motion: reduce, with prefers-color-scheme: dark.",
            "Also changes 2 other elements here and 1 on 1 other page:",
            "  section.panel.words  pages/home.html:50 and 2 more, on 2 pages",
            "      color: rgb(29, 43, 51) → rgb(255, 0, 0)  only on :hover; 12 elements inside inherit it",
        ],
    );
}

/// Of a shorthand, only what changes is shown.
#[test]
fn a_shorthand_shows_the_longhands_that_change() {
    let site = super::Site::new();
    let said = site.good(&[
        "edit",
        "set",
        "pages/home.html",
        "@28",
        "background",
        "teal",
    ]);
    let now: Vec<&str> = said
        .lines()
        .filter(|line| line.contains(" is now "))
        .collect();
    assert_eq!(
        now,
        ["background-color of a.button is now rgb(0, 128, 128)  css/overrides.css:13"]
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
        &[
            "The rule matches 1 element of this page; before the edit, 1 element, the same.",
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn a_selector_is_dropped_from_a_rule() {
    let words = [
        "selector",
        "pages/home.html",
        "css/skerry.css:106",
        "--remove",
        "a:focus-visible",
    ];
    tried(
        &words,
        "stop selecting a:focus-visible, of a:focus-visible, .button:focus-visible",
        &["css/skerry.css", "-a:focus-visible,"],
        &[
            "The rule matches 0 elements of this page; before the edit, 0 elements.",
            "Changes 6 elements here and 18 on 3 other pages:",
            "  a.brand  pages/home.html:18 and 23 more, on 4 pages",
            "      outline-color: rgb(224, 168, 58) → auto, outline-offset: 2px → 0px, outline-style: solid → auto  only on :focus-visible",
        ],
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
            "-.today {",
            "-  color: var(--brass);",
            "-}",
            "-",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
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
        "split a:focus-visible off into its own rule, from a:focus-visible, .button:focus-visible",
        &[
            "css/skerry.css",
            "-a:focus-visible,",
            "+a:focus-visible {",
            "+  outline: 3px solid var(--late);",
            "+  outline-offset: 2px;",
            "+}",
        ],
        &[
            "No style of any element changes on the site's 5 pages, in any state that the change names, at any width or in any medium that the theme asks for.",
        ],
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
        &[
            ".hero-title  (0,1,0)  css/skerry.css:190 no longer applies to h1#welcome.hero-title",
            "Changes 1 element here:",
            "  h1#welcome.hero-title  pages/home.html:30",
            "      font-size: 40px → 32px, letter-spacing: 0.8px → 0.64px, margin-bottom: 10px → 21.44px, margin-top: 0px → 21.44px",
        ],
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
        &[
            "Changes 6 elements here and 4 on 3 other pages:",
            "  main#content  pages/home.html:28 and 3 more, on 4 pages",
            "      padding: 16px → 24px  only at 556px, at 620px",
            "  section.hero  pages/home.html:29",
            "      padding-bottom: 32px → 48px, padding-left: 16px → 32px, padding-right: 16px → 32px, padding-top: 32px → 48px  only at 556px, at 620px",
            "  section.hero::after  pages/home.html:29",
            "      display: none → block  only at 556px, at 620px",
            "  li.sailing  pages/home.html:41 and 3 more",
            "      grid-template-columns: 56px 1fr → 64px 1fr auto  only at 556px, at 620px",
            "  div.notice-list  pages/notices.html:25",
            "      column-count: auto → 2, column-width: auto → 320px  only at 556px, at 620px",
        ],
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
        &[
            "Changes 1 element here and 3 on 3 other pages:",
            "  img  pages/home.html:18 and 3 more, on 4 pages",
            "      background-color: rgb(244, 247, 248) → rgba(0, 0, 0, 0), border-radius: 6px → 0px  only at 360px, at 620px",
        ],
    );
}

#[test]
fn a_rule_is_enclosed_in_a_layer() {
    let words = [
        "enclose",
        "pages/home.html",
        "css/overrides.css:25",
        "@layer late",
    ];
    tried(
        &words,
        "put the rule .site-footer into @layer late",
        &[
            "css/overrides.css",
            "-.site-footer { margin-top: 3rem; }",
            "+@layer late {",
            "+  .site-footer { margin-top: 3rem; }",
            "+}",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_at_rule_is_added() {
    let words = [
        "at-rule",
        "pages/home.html",
        "@keyframes fade { to { opacity: 0 } }",
        "--into",
        "overrides",
    ];
    tried(
        &words,
        "a new @keyframes fade",
        &[
            "css/overrides.css",
            "+@keyframes fade { to { opacity: 0 } }",
        ],
        &[
            "Note: css/overrides.css is not the last sheet: the embedded sheet of pages/home.html comes after it",
            "No style of any element changes on the site's 5 pages.",
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
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
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
        "link css/winter.css on pages/home.html after css/base.css",
        &[
            "css/winter.css",
            "+h1 { color: navy }",
            "pages/home.html",
            "+  <link rel=\"stylesheet\" href=\"/css/winter.css\">",
        ],
        &[
            "h1  (0,0,1)  css/winter.css:1 now applies to h1#welcome.hero-title",
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn a_class_is_renamed_everywhere() {
    let words = [
        "rename",
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
        &[
            "Note: scripts that use the old name are not changed",
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_id_is_renamed_everywhere() {
    let words = ["rename", "pages/home.html", "id", "welcome", "greeting"];
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
        &[
            "Note: scripts that use the old name are not changed",
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn a_custom_property_is_renamed_everywhere() {
    let words = [
        "rename",
        "pages/home.html",
        "custom-property",
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
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
            "--brass, --gold also changes on 4 elements.",
        ],
    );
}

#[test]
fn a_custom_property_is_changed_where_it_is_defined() {
    let words = ["custom-property", "pages/home.html", "--brass", "#c0902f"];
    tried(
        &words,
        "set --brass of html on pages/home.html: #8a5a00 → #c0902f",
        &[
            "css/skerry.css",
            "-  --brass: #8a5a00;",
            "+  --brass: #c0902f;",
        ],
        &[
            "--brass of html is now #c0902f  css/skerry.css:19",
            "Also changes 1 other element here:",
            "  h2.panel-title.today  pages/home.html:38",
            "      color: rgb(138, 90, 0) → rgb(192, 144, 47)",
            "--brass also changes on 3 elements.",
        ],
    );
}

#[test]
fn a_custom_property_is_defined_on_the_root() {
    let words = ["custom-property", "pages/home.html", "--accent", "#c0902f"];
    tried(
        &words,
        "define --accent: #c0902f in :root",
        &["css/skerry.css", "+  --accent: #c0902f;"],
        &[
            "--accent of html is now #c0902f  css/skerry.css:41",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
            "--accent also changes on 3 elements.",
        ],
    );
}
