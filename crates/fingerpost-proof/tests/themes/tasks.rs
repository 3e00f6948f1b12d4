//! Tasks as people have them, in plain words, and the lines that they would type.

use serde_json::{Value, json};

/// A part of a page that a task is about, with selectors by which it is looked for, the first that finds one first.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Part {
    Body,
    Heading,
    /// The second of several.
    Button,
    NavLink,
    FooterLink,
    Box,
    Paragraph,
    Image,
    Item,
}

impl Part {
    pub fn selectors(self) -> &'static [&'static str] {
        match self {
            Part::Body => &["body"],
            Part::Heading => &["main h1", "header h1", "h1", "h2", "h3", "h4", "h5"],
            Part::Button => &[".btn", "button", "a"],
            Part::NavLink => &["nav .nav-link", "nav a", ".nav-link", "header a", "a"],
            Part::FooterLink => &["footer a", "footer p", "footer div", "footer", "a"],
            Part::Box => &[
                ".card",
                ".service-box",
                "section .container",
                "main section",
                ".container",
                "section",
                "div",
            ],
            Part::Paragraph => &["main p", "section p", ".container p", "p"],
            Part::Image => &["main img", "section img", "img", "svg", "i"],
            Part::Item => &["main li", "nav li", "ul li", "li"],
        }
    }

    /// Which of several is meant, from 0.
    pub fn which(self) -> usize {
        usize::from(self == Part::Button)
    }
}

/// What the browser must show after the save.
#[derive(Clone, Debug)]
pub enum Judge {
    /// A property of the part: its computed value.
    Value(&'static str, &'static str),
    /// The same in a narrow window, while the wide one stays as it was.
    OnPhones(&'static str, &'static str),
    /// The same while the pointer is over it, or the keyboard's focus on it.
    Hovered(&'static str, &'static str),
    /// The same for all like it, on all pages.
    Everywhere(&'static str, &'static str),
    /// An expression over the element, `it`, is true.
    Holds(&'static str),
    /// No element is left where it was, so that there is one less; or one more.
    Count(isize),
    /// A custom property of the root.
    Custom(&'static str),
    /// What was announced is all.
    Announced,
}

/// A task.
#[derive(Clone, Debug)]
pub struct Task {
    pub words: &'static str,
    pub part: Part,
    /// The lines to type. `{page}` and `{it}` are the page and the element; `{place}` is the place of the rule that the line before
    /// wrote; `{selector}` finds the element and others like it.
    pub lines: &'static [&'static str],
    pub judge: Judge,
}

/// Thirty tasks.
pub const TASKS: [Task; 30] = {
    use Judge::{Announced, Count, Custom, Everywhere, Holds, Hovered, OnPhones, Value};
    use Part::{Body, Box, Button, FooterLink, Heading, Image, Item, NavLink, Paragraph};
    const fn task(
        words: &'static str,
        part: Part,
        lines: &'static [&'static str],
        judge: Judge,
    ) -> Task {
        Task {
            words,
            part,
            lines,
            judge,
        }
    }
    [
        task(
            "make the heading navy",
            Heading,
            &["edit set {page} {it} color navy"],
            Value("color", "rgb(0, 0, 128)"),
        ),
        task(
            "make the heading smaller on phones",
            Heading,
            &[
                "edit rule {page} {it} 'font-size: 19px'",
                "edit enclose {page} {place} '@media (max-width: 600px)'",
            ],
            OnPhones("font-size", "19px"),
        ),
        task(
            "the second button red when the pointer is over it",
            Button,
            &["edit set {page} {it} background-color red --state :hover"],
            Hovered("background-color", "rgb(255, 0, 0)"),
        ),
        task(
            "the links of the footer without underline, on all pages",
            FooterLink,
            &["edit set {page} {selector} text-decoration-line none --each --every-page"],
            Everywhere("text-decoration-line", "none"),
        ),
        task(
            "more space above this box, and only this one",
            Box,
            &["edit set {page} {it} margin-top 47px --into overrides"],
            Value("margin-top", "47px"),
        ),
        task(
            "all links of the navigation a little wider",
            NavLink,
            &["edit set {page} {selector} letter-spacing 1px --each"],
            Value("letter-spacing", "1px"),
        ),
        task(
            "more air between the lines of this paragraph",
            Paragraph,
            &["edit set {page} {it} line-height 33px"],
            Value("line-height", "33px"),
        ),
        task(
            "the box without round corners",
            Box,
            &["edit set {page} {it} border-radius 0"],
            Value("border-top-left-radius", "0px"),
        ),
        task(
            "a thin border around the box",
            Box,
            &["edit set {page} {it} border '1px solid gray'"],
            Value("border-top-style", "solid"),
        ),
        task(
            "another text for the heading",
            Heading,
            &["edit text {page} {it} 'Welcome aboard'"],
            Holds("it.textContent.trim() === 'Welcome aboard'"),
        ),
        task(
            "a text for those who can't see the image",
            Image,
            &["edit attribute {page} {it} title 'A ferry at the quay'"],
            Holds("it.getAttribute('title') === 'A ferry at the quay'"),
        ),
        task(
            "give the box a new class",
            Box,
            &["edit class {page} {it} +featured"],
            Holds("it.classList.contains('featured')"),
        ),
        task(
            "hide the footer's link in print",
            FooterLink,
            &[
                "edit rule {page} {it} 'visibility: hidden'",
                "edit enclose {page} {place} '@media print'",
            ],
            Announced,
        ),
        task(
            "the heading in capitals",
            Heading,
            &["edit set {page} {it} text-transform uppercase"],
            Value("text-transform", "uppercase"),
        ),
        task(
            "the second button with more room inside",
            Button,
            &["edit set {page} {it} padding '11px 23px'"],
            Value("padding-left", "23px"),
        ),
        task(
            "remove the image",
            Image,
            &["edit remove-element {page} {it}"],
            Count(-1),
        ),
        task(
            "put a box of our own around the paragraph",
            Paragraph,
            &["edit wrap {page} {it} '<div class=\"our-note\">'"],
            Holds("document.querySelector('.our-note > *') !== null"),
        ),
        task(
            "show the item twice",
            Item,
            &["edit duplicate {page} {it}"],
            Holds("it.nextElementSibling.outerHTML === it.outerHTML"),
        ),
        task(
            "a line before the paragraph",
            Paragraph,
            &["edit insert {page} {it} '<hr class=\"our-line\">' --side before"],
            Holds("document.querySelector('.our-line') !== null"),
        ),
        task(
            "the heading in its usual weight",
            Heading,
            &["edit set {page} {it} font-weight 400"],
            Value("font-weight", "400"),
        ),
        task(
            "no space below the heading",
            Heading,
            &["edit set {page} {it} margin-bottom 0"],
            Value("margin-bottom", "0px"),
        ),
        task(
            "the link of the navigation in teal",
            NavLink,
            &["edit set {page} {it} color teal"],
            Value("color", "rgb(0, 128, 128)"),
        ),
        task(
            "a frame for the link that has the focus",
            NavLink,
            &["edit rule {page} {it} 'outline: 3px solid red' --state :focus"],
            Announced,
        ),
        task(
            "another color for the whole page",
            Body,
            &["edit set {page} {it} background-color ivory"],
            Value("background-color", "rgb(255, 255, 240)"),
        ),
        task(
            "the image no wider than half of its place",
            Image,
            &["edit set {page} {it} max-width 50%"],
            Value("max-width", "50%"),
        ),
        task(
            "the box a little pale",
            Box,
            &["edit set {page} {it} opacity 0.9"],
            Value("opacity", "0.9"),
        ),
        task(
            "a note in the sheet why the heading is so",
            Heading,
            &[
                "edit rule {page} {it} 'letter-spacing: 2px'",
                "edit comment {page} {it} letter-spacing 'as on the boats'",
            ],
            Value("letter-spacing", "2px"),
        ),
        task(
            "the second button on the right",
            Button,
            &["edit set {page} {it} float right"],
            Value("float", "right"),
        ),
        task(
            "the paragraph in a size of 17 px",
            Paragraph,
            &["edit set {page} {it} font-size 17px"],
            Value("font-size", "17px"),
        ),
        task(
            "give the theme a color with a new name",
            Body,
            &["edit rule {page} html '--quay: teal' --selector :root"],
            Custom("--quay"),
        ),
    ]
};

/// What an answer of the command announced: the elements of each page that change now, each by its number.
pub fn announced(answer: &Value) -> Vec<(String, usize)> {
    let groups = answer["effect"]["groups"].as_array().cloned();
    let mut found = Vec::new();
    for group in groups.unwrap_or_default() {
        let changes = group["changes"].as_array().cloned().unwrap_or_default();
        let custom = |change: &Value| {
            change["property"]
                .as_str()
                .is_some_and(|p| p.starts_with("--"))
        };
        if group["now"] != json!(true) || changes.iter().all(custom) {
            continue;
        }
        for element in group["elements"].as_array().into_iter().flatten() {
            // The browser is asked for elements alone.
            if element.get("pseudo").is_none_or(Value::is_null) {
                let file = element["file"].as_str().unwrap_or_default().to_owned();
                found.push((file, element["index"].as_u64().unwrap_or_default() as usize));
            }
        }
    }
    found
}
