//! What is refused, and with which words.

use super::files;
use crate::site::Site;

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
            "color: nvy is not valid: 'nvy' does not fit color; expected <color>. Do you mean navy?",
        ),
        (
            &["set", "pages/home.html", "h2.today", "colour", "navy"],
            2,
            "no property is called 'colour'. Do you mean 'color'?",
        ),
        (
            &[
                "change-property",
                "pages/home.html",
                "h2.today",
                "color",
                "colour",
            ],
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
                "convert-color",
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
            &["custom-property", "pages/home.html", "brass", "red"],
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
            &["rename", "pages/home.html", "class", "panel", "a b"],
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
            "pages/none.html: no such file; do you mean pages/home.html?",
        ),
        (
            &["remove-element", "pages/home.html", "img"],
            2,
            "'img' matches 2 elements of pages/home.html; say which:",
        ),
        (
            &[
                "disable",
                "pages/home.html",
                "css/overrides.css:14",
                "color",
            ],
            2,
            "css/overrides.css is not the page in question, pages/home.html; expected an element of that page",
        ),
        (
            &[
                "insert",
                "pages/home.html",
                "img",
                "<p>x",
                "--side",
                "after",
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
                "--rule",
                "css/skerry.css:9999",
            ],
            2,
            "css/skerry.css:9999: no rule starts there",
        ),
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--rule",
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
                "--rule",
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
            "css/none.css: the site has no such sheet",
        ),
        (
            &[
                "selector",
                "pages/home.html",
                "css/skerry.css:255",
                "--remove",
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
                "--remove",
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
            "css/skerry.css:255: a rule can't be moved next to itself, nor out of or into a rule that contains it",
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
            "css/skerry.css:1: no rule starts there",
        ),
        (
            &[
                "condition",
                "pages/home.html",
                "css/skerry.css:255",
                "print",
            ],
            2,
            "css/skerry.css:255: no at-rule starts there",
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
            "this markup can't be put in: a comment, a tag, or an element such as <script> or <textarea> is never closed, and would swallow what comes after it: <!-- x",
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
                "page",
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
            "this markup can't be put in: a comment, a tag, or an element such as <script> or <textarea> is never closed, and would swallow what comes after it: <textarea>",
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
            &["enable", "pages/home.html", "h2.today", "color"],
            1,
            "nothing would change: no rule that matches h2.panel-title.today contains a commented-out declaration of color",
        ),
        (
            &[
                "convert-color",
                "pages/home.html",
                ".note",
                "padding",
                "hsl",
            ],
            1,
            "nothing would change: '.5em .75em' contains no color",
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
            &["rename", "pages/home.html", "class", "nothing", "something"],
            1,
            "nothing would change: nothing in the site is called .nothing",
        ),
        (
            &[
                "attribute",
                "pages/home.html",
                ".hero",
                "nothing",
                "--remove",
            ],
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
            "nothing would change: the element does not contain the text 'nothing'",
        ),
        (
            &["text", "pages/home.html", ".hero", "words"],
            2,
            "pages/home.html:29: the element contains other elements; name the text to change",
        ),
    ]);
}

#[test]
fn parts_of_a_shorthand_name_the_whole() {
    refused(&[
        (
            &["disable", "pages/home.html", ".sailings", "padding-left"],
            2,
            "css/overrides.css:4: padding-left is set by padding: 24px, which sets more than that; name padding to change all of it, or set padding-left to another value",
        ),
        (
            &["important", "pages/home.html", ".sailings", "padding-top"],
            2,
            "css/overrides.css:4: padding-top is set by padding: 24px, which sets more than that; name padding to change all of it, or set padding-top to another value",
        ),
        (
            &[
                "remove-declaration",
                "pages/home.html",
                ".brand",
                "font-size",
            ],
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
                "move-element",
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
                "move-element",
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
            "pages/home.html:38: <br> can't contain anything",
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
            "<img>: the element can't have content",
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
                "--inline",
                "--into",
                "overrides",
            ],
            2,
            "--inline and --into can't be given together",
        ),
        (
            &[
                "set",
                "pages/home.html",
                "h2.today",
                "color",
                "navy",
                "--rule",
                "css/overrides.css:4",
                "--into",
                "overrides",
            ],
            2,
            "--rule and --into can't be given together",
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
            "--into 'elsewhere': expected winning, sources, overrides, page, or a sheet such as css/base.css",
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
            "--side: 'inside' is not one of before, after, first, last",
        ),
        (
            &[
                "class",
                "pages/home.html",
                "h2.today",
                "+a",
                "--every-page",
                "--also-on",
                "pages/fares.html",
            ],
            2,
            "--every-page and --also-on can't be given together",
        ),
        (
            &["selector", "pages/home.html", "css/skerry.css:255"],
            2,
            "--to or --add or --remove is missing",
        ),
        (
            &["move-rule", "pages/home.html", "css/skerry.css:255"],
            2,
            "--before or --after is missing",
        ),
        (
            &["new-sheet", "pages/home.html", "css/winter.txt"],
            2,
            "'css/winter.txt' is not the name of a sheet, such as css/winter.css",
        ),
        (
            &["rename", "pages/home.html", "element", "a", "b"],
            2,
            "WHAT: 'element' is not one of class, id, custom-property",
        ),
        (
            &["convert-color", "pages/home.html", ".note", "color", "cmyk"],
            2,
            "TO: 'cmyk' is not one of hex, rgb, hsl, hwb, lab, lch, oklab, oklch, name",
        ),
    ]);
}
