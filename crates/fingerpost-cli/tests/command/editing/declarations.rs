//! Changes of declarations, and rules for an element.

use super::tried;

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
        &[
            "color of h2.panel-title.today is now rgb(200, 85, 61)  css/skerry.css:256",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
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
            "Note: no declaration sets letter-spacing here: it has its initial value",
            "letter-spacing of h2.panel-title.today is now 2px  css/skerry.css:257",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
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
        "overrides",
    ];
    tried(
        &words,
        ".today { letter-spacing: 2px } in the override sheet",
        &["css/overrides.css", "+.today { letter-spacing: 2px; }"],
        &[
            "Note: css/overrides.css is not the last sheet: the embedded sheet of pages/home.html comes after it",
            "letter-spacing of h2.panel-title.today is now 2px  css/overrides.css:27",
            "Rules that apply now:",
            "  .today  (0,1,0)  css/overrides.css:27",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
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
            "css/overrides.css",
            "-.panel { padding: 24px; }",
            "+.panel { padding: 24px 24px 24px 40px; }",
        ],
        &[
            "padding-left of section.panel.sailings is now 40px  css/overrides.css:4",
            "Also changes 2 other elements here and 1 on 1 other page:",
            "  section.panel.words  pages/home.html:50 and 2 more, on 2 pages",
            "      padding-left: 24px → 40px",
            "To make the change in the override sheet (nothing else changes): fingerpost edit set pages/home.html .sailings padding-left 40px --into overrides",
        ],
    );
}

#[test]
fn a_side_of_a_shorthand_is_stepped_in_it() {
    let words = ["step", "pages/home.html", ".sailings", "padding-left", "+4"];
    tried(
        &words,
        "step padding-left of section.panel.sailings on pages/home.html by +4, from 24px",
        &[
            "css/overrides.css",
            "-.panel { padding: 24px; }",
            "+.panel { padding: 24px 24px 24px 28px; }",
        ],
        &[
            "padding-left of section.panel.sailings is now 28px  css/overrides.css:4",
            "Also changes 2 other elements here and 1 on 1 other page:",
            "  section.panel.words  pages/home.html:50 and 2 more, on 2 pages",
            "      padding-left: 24px → 28px",
            "To make the change in the override sheet (nothing else changes): fingerpost edit step pages/home.html .sailings padding-left +4 --into overrides",
        ],
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
        &[
            "letter-spacing of h2.panel-title.today is now 0.4px  css/skerry.css:257",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn a_misspelt_declaration_is_removed() {
    let words = [
        "remove-declaration",
        "pages/home.html",
        ".masthead",
        "backgorund-color",
    ];
    tried(
        &words,
        "remove backgorund-color: #12324a of header.masthead on pages/home.html",
        &[
            "css/overrides.css",
            "-.masthead { backgorund-color: #12324a; }",
            "+.masthead { }",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
            "Note: the rule .masthead at css/overrides.css:14:1 is empty now; it still matches",
        ],
    );
}

#[test]
fn a_misspelt_declaration_is_renamed() {
    let words = [
        "change-property",
        "pages/home.html",
        ".masthead",
        "backgorund-color",
        "background-color",
    ];
    tried(
        &words,
        "rename backgorund-color of header.masthead on pages/home.html to background-color",
        &[
            "css/overrides.css",
            "-.masthead { backgorund-color: #12324a; }",
            "+.masthead { background-color: #12324a; }",
        ],
        &[
            "background-color of header.masthead is now rgb(18, 50, 74)  css/overrides.css:14",
            "Also changes 2 elements on 2 other pages:",
            "  header.masthead  pages/fares.html:18 and 1 more, on 2 pages",
            "      background-color: rgb(11, 61, 92) → rgb(18, 50, 74)",
        ],
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
        "--rule",
        "css/overrides.css:17",
    ];
    tried(
        &words,
        "set color on pages/timetable.html: #12345 → #123456, in the rule at css/overrides.css:17",
        &[
            "css/overrides.css",
            "-.timetable thead th { color: #12345; }",
            "+.timetable thead th { color: #123456; }",
        ],
        &[
            "Changes 6 elements here:",
            "  th  pages/timetable.html:30 and 5 more",
            "      color: rgb(255, 255, 255) → rgb(18, 52, 86)  not with prefers-color-scheme: dark",
            "  th  pages/timetable.html:30 and 5 more",
            "      color: rgb(20, 36, 45) → rgb(18, 52, 86)  only with prefers-color-scheme: dark",
        ],
    );
}

#[test]
fn a_declaration_is_switched_off() {
    let words = ["disable", "pages/home.html", "h2.today", "color"];
    tried(
        &words,
        "switch off color: var(--brass) of h2.panel-title.today on pages/home.html",
        &[
            "css/skerry.css",
            "-  color: var(--brass);",
            "+  /* color: var(--brass); */",
        ],
        &[
            "color of h2.panel-title.today is now rgb(11, 61, 92)  css/skerry.css:242",
            "With prefers-color-scheme: dark: color: rgb(138, 90, 0) → rgb(143, 199, 224)",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
            "Note: the rule .today at css/skerry.css:255:1 is empty now; it still matches",
        ],
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
        &[
            "color of h2.panel-title.today stays rgb(138, 90, 0)  css/skerry.css:256",
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn a_mark_is_taken_off() {
    let words = [
        "important",
        "pages/home.html",
        ".button-quiet",
        "background-color",
        "--remove",
        "--rule",
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
        &[
            "background-color of a.button.button-quiet is now rgb(200, 85, 61)  css/overrides.css:11",
            "Also changes 1 other element here and 2 on 1 other page:",
            "  a.button  pages/home.html:32 and 2 more, on 2 pages",
            "      background-color: rgb(11, 61, 92) → rgb(200, 85, 61)",
        ],
    );
}

#[test]
fn a_color_is_written_in_another_notation() {
    let words = [
        "convert-color",
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
        &[
            "color of p.note is now rgba(143, 163, 173, 0.5)  css/skerry.css:268",
            "Also changes 3 elements on 3 other pages:",
            "  p.note  pages/fares.html:75 and 2 more, on 3 pages",
            "      color: rgb(143, 163, 173) → rgba(143, 163, 173, 0.5)",
        ],
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
        ],
        &[
            "color of h2.panel-title.today is now rgb(0, 0, 128)  css/skerry.css:260",
            "text-align of h2.panel-title.today is now right  css/skerry.css:261",
            "Rules that apply now:",
            "  .today  (0,1,0)  css/skerry.css:259",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}
