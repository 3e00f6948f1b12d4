//! What is refused, and with which words.

use super::refused;

#[test]
fn values_and_names_that_are_not_valid() {
    refused(&[
        (
            "set pages/home.html h2.today color nvy",
            2,
            "color: nvy is not valid: 'nvy' does not fit color; expected <color>. Do you mean navy?",
        ),
        (
            "set pages/home.html h2.today colour navy",
            2,
            "no property is called 'colour'. Do you mean 'color'?",
        ),
        (
            "change-property pages/home.html h2.today color colour",
            2,
            "no property is called 'colour'. Do you mean 'color'?",
        ),
        (
            "step pages/home.html h2.today font-size fast",
            2,
            "'fast' is not a step; expected a number such as +1 or -0.1",
        ),
        (
            "step pages/home.html h2.today color +1",
            2,
            "color is 'var(--brass)', which is not a single number; set it instead",
        ),
        (
            "convert-color pages/home.html .note color hsl --alpha 7",
            2,
            "'7' is not an alpha, such as .5 or 50%",
        ),
        (
            "rule pages/home.html h2.today 'color navy'",
            2,
            "'color navy': neither a declaration nor a rule; expected name: value;",
        ),
        (
            "rule pages/home.html h2.today 'color: navy' --selector ..x",
            2,
            "'..x' is not a valid selector: expected a class name after .",
        ),
        (
            "custom-property pages/home.html brass red",
            2,
            "'brass' is not the name of a custom property, such as --brand",
        ),
        (
            "attribute pages/home.html .hero 'da ta' x",
            2,
            "'da ta' is not the name of an attribute",
        ),
        (
            "tag pages/home.html h2.today 'h 2'",
            2,
            "'h 2' is not the name of an element",
        ),
        (
            "rename pages/home.html class panel 'a b'",
            2,
            "'a b' is not a class",
        ),
    ]);
}

#[test]
fn elements_that_are_not_there_or_not_one() {
    refused(&[
        (
            "set pages/home.html h2.nowhere color navy",
            1,
            "no element of pages/home.html matches 'h2.nowhere'. Nearest: without '.nowhere' it matches 3 elements, first h2.panel-title.today at pages/home.html:38:9.",
        ),
        (
            "set pages/home.html - color navy",
            2,
            "this change needs an element; name one",
        ),
        (
            "set pages/none.html h2 color navy",
            2,
            "pages/none.html: no such file; do you mean pages/home.html?",
        ),
        (
            "remove-element pages/home.html img",
            2,
            "'img' matches 2 elements of pages/home.html; say which:",
        ),
        (
            "disable pages/home.html css/overrides.css:14 color",
            2,
            "css/overrides.css is not the page in question, pages/home.html; expected an element of that page",
        ),
        (
            "insert pages/home.html img '<p>x' --side after",
            2,
            "'img' matches 2 elements of pages/home.html; say which:",
        ),
    ]);
}

#[test]
fn rules_that_are_not_there_or_not_about_the_element() {
    refused(&[
        (
            "set pages/home.html h2.today color navy --rule css/skerry.css:9999",
            2,
            "css/skerry.css:9999: no rule starts there",
        ),
        (
            "set pages/home.html h2.today color navy --rule css/skerry.css:203",
            2,
            "css/skerry.css:203: the rule there, .button, does not match h2.panel-title.today",
        ),
        (
            "set pages/home.html h2.today color navy --rule css/none.css:3",
            2,
            "css/none.css:3: css/none.css is not a sheet of this page",
        ),
        (
            "set pages/home.html h2.today color navy --into css/none.css",
            2,
            "css/none.css: the site has no such sheet",
        ),
        (
            "selector pages/home.html css/skerry.css:255:1 --remove .today",
            2,
            "css/skerry.css:255:1: .today is the rule's only selector; remove the rule instead",
        ),
        (
            "selector pages/home.html css/skerry.css:255 --remove .other",
            1,
            "nothing would change: .other is none of the rule's selectors: .today",
        ),
        (
            "move-rule pages/home.html css/skerry.css:255 --after css/skerry.css:255",
            2,
            "css/skerry.css:255:1: a rule can't be moved next to itself, nor out of or into a rule that contains it",
        ),
        (
            "split pages/home.html css/skerry.css:255 .today",
            1,
            "nothing would change: .today is the rule's only selector already",
        ),
        (
            "split pages/home.html css/skerry.css:106 .other",
            1,
            "nothing would change: .other is none of the rule's selectors: a:focus-visible, .button:focus-visible",
        ),
        (
            "remove-rule pages/home.html css/skerry.css:1",
            2,
            "css/skerry.css:1: no rule starts there",
        ),
        (
            "condition pages/home.html css/skerry.css:255 print",
            2,
            "css/skerry.css:255: no at-rule starts there",
        ),
    ]);
}

#[test]
fn parts_of_a_shorthand_name_the_whole() {
    refused(&[
        (
            "disable pages/home.html .sailings padding-left",
            2,
            "css/overrides.css:4:10: padding-left is set by padding: 24px, which sets more than that; name padding to change all of it, or set padding-left to another value",
        ),
        (
            "important pages/home.html .sailings padding-top",
            2,
            "css/overrides.css:4:10: padding-top is set by padding: 24px, which sets more than that; name padding to change all of it, or set padding-top to another value",
        ),
        (
            "remove-declaration pages/home.html .brand font-size",
            2,
            "css/skerry.css:129:3: font-size is set by font: 700 1.25rem/1.2 var(--font-plain), which sets more than that; name font to change all of it, or set font-size to another value",
        ),
    ]);
}

#[test]
fn options_that_contradict_each_other() {
    refused(&[
        (
            "set pages/home.html h2.today color navy --inline --into overrides",
            2,
            "--inline and --into can't be given together",
        ),
        (
            "set pages/home.html h2.today color navy --rule css/overrides.css:4:10 --into overrides",
            2,
            "--rule and --into can't be given together",
        ),
        (
            "set pages/home.html h2.today color navy --into elsewhere",
            2,
            "--into 'elsewhere': expected winning, sources, overrides, page, or a sheet such as css/base.css",
        ),
        (
            "insert pages/home.html h2.today '<p>x</p>' --side inside",
            2,
            "--side: 'inside' is not one of before, after, first, last",
        ),
        (
            "class pages/home.html h2.today +a --every-page --also-on pages/fares.html",
            2,
            "--every-page and --also-on can't be given together",
        ),
        (
            "selector pages/home.html css/skerry.css:255",
            2,
            "--to or --add or --remove is missing",
        ),
        (
            "move-rule pages/home.html css/skerry.css:255",
            2,
            "--before or --after is missing",
        ),
        (
            "new-sheet pages/home.html css/winter.txt",
            2,
            "'css/winter.txt' is not the name of a sheet, such as css/winter.css",
        ),
        (
            "rename pages/home.html element a b",
            2,
            "WHAT: 'element' is not one of class, id, custom-property",
        ),
        (
            "convert-color pages/home.html .note color cmyk",
            2,
            "TO: 'cmyk' is not one of hex, rgb, hsl, hwb, lab, lch, oklab, oklch, name",
        ),
    ]);
}
