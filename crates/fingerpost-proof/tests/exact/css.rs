//! Every kind of change of a style, over sheets of every bad habit.

use std::collections::BTreeMap;

use fingerpost::edit::{Change, Destination, Edit, Intent, kinds, make};
use fingerpost::prelude::*;
use fingerpost::text::PlaceQuery;

use crate::cases::cases;
use crate::numbers::Numbers;
use crate::sheets::{Entry, differences, entries};

const PROPERTIES: [(&str, &[&str]); 8] = [
    (
        "color",
        &["red", "rgb(1 2 3 / .5)", "var(--x, {a;b})", "#abc"],
    ),
    ("top", &["0", "1px", "calc(1px + (2px))", "-.5em"]),
    (
        "margin",
        &["1px", "1.5rem auto", "0 1px 2px 3px", "0 auto 1em"],
    ),
    ("margin-top", &["2px", "1em"]),
    ("content", &["\"}\"", "';'", "\"a\\\"b{\"", "\"\\7d\""]),
    (
        "background-image",
        &["url(a;b.png)", "url( 'c}d.png' )", "none"],
    ),
    ("--x", &["{ a: b; c }", "a;b".split_at(1).0, " ", "\"*/\""]),
    ("font-size", &["12px", "1.1em"]),
];

/// A sheet with some of these habits in it.
fn sheet(numbers: &mut Numbers) -> String {
    let ending = numbers.one(&["\n", "\n", "\r\n", ""]);
    let mut css = String::new();
    if numbers.once_in(12) {
        css.push_str("@charset \"utf-8\";");
        css.push_str(ending);
    }
    for _ in 0..1 + numbers.below(5) {
        comment(numbers, &mut css);
        if numbers.once_in(5) {
            let head = numbers.one(&[
                "@media (min-width: 1px)",
                "@supports (color: red)",
                "@layer base",
                "@media/*;*/screen",
            ]);
            css.push_str(head);
            css.push_str(numbers.one(&[" {", "{"]));
            css.push_str(ending);
            for _ in 0..1 + numbers.below(2) {
                rule(numbers, &mut css, ending, 1);
            }
            css.push('}');
        } else if numbers.once_in(14) {
            css.push_str(numbers.one(&[
                "@font-face{font-family:x;src:url(y)}",
                "@keyframes k{0%{top:0}to{top:1px}}",
                "a { nonsense; top }",
                "<!-- .z{top:0} -->",
            ]));
        } else {
            rule(numbers, &mut css, ending, 0);
        }
        css.push_str(ending);
        if ending.is_empty() && numbers.once_in(3) {
            css.push(' ');
        }
    }
    // The last block may be left open.
    if numbers.once_in(15) {
        css.push_str(".a{top:1px");
    }
    css
}

fn comment(numbers: &mut Numbers, css: &mut String) {
    if numbers.once_in(6) {
        css.push_str(numbers.one(&[
            "/* a; b */",
            "/*}*/",
            "/* { \" */",
            "/**/",
            "/* é 🚢 */",
            "/* top: 9px; */",
        ]));
    }
}

fn rule(numbers: &mut Numbers, css: &mut String, ending: &str, depth: usize) {
    let indent = match ending {
        "" => String::new(),
        _ => numbers.one(&["  ", "\t", "", "    "]).repeat(depth + 1),
    };
    css.push_str(numbers.one(&[
        ".a",
        "p",
        "#t",
        ".a , .b",
        "h1,\n.a/*,*/,p",
        ".zz",
        "p.a:not(.x, [title=\"a,b{\"])",
        ".\\61",
        "P.a",
    ]));
    comment(numbers, css);
    css.push_str(numbers.one(&[" {", "{", "\n{"]));
    css.push_str(ending);
    let count = numbers.below(5);
    for number in 0..count {
        let (name, values) = PROPERTIES[numbers.below(PROPERTIES.len())];
        css.push_str(&indent);
        comment(numbers, css);
        if numbers.once_in(12) {
            css.push_str(numbers.one(&["*zoom: 1;", "_height: 1px;", "colr: red;", ";", "top: ;"]));
        }
        match numbers.below(8) {
            0 => css.push_str(&name.to_ascii_uppercase()),
            _ => css.push_str(name),
        }
        comment(numbers, css);
        css.push_str(numbers.one(&[": ", ":", " : ", ":\t"]));
        comment(numbers, css);
        css.push_str(values[numbers.below(values.len())]);
        comment(numbers, css);
        if numbers.once_in(7) {
            css.push_str(numbers.one(&[" !important", "!important", " ! /* x */ important"]));
        }
        comment(numbers, css);
        let last = number + 1 == count;
        if !last || !numbers.once_in(3) {
            css.push(';');
        }
        comment(numbers, css);
        css.push_str(ending);
    }
    if depth == 0 && numbers.once_in(8) {
        if !css.trim_end().ends_with([';', '{', '}', '/']) {
            css.push(';');
        }
        css.push_str(numbers.one(&[
            "&:hover { top: 3px }",
            "& b{color:red}",
            "@media print{top:0}",
        ]));
        css.push_str(ending);
    }
    css.push('}');
}

fn change(numbers: &mut Numbers, css: &str) -> (Change, Destination) {
    let (name, values) = PROPERTIES[numbers.below(PROPERTIES.len())];
    let property = || name.to_owned();
    let value = values[numbers.below(values.len())];
    let line = 1 + numbers.below(css.lines().count().max(1));
    let place = |numbers: &mut Numbers| {
        let column = 1 + numbers.below(css.lines().nth(line - 1).unwrap_or("").len().max(1));
        match numbers.below(2) {
            0 => format!("a.css:{line}"),
            _ => format!("a.css:{line}:{column}"),
        }
    };
    let at: PlaceQuery = place(numbers).parse().unwrap();
    let change: Change = match numbers.below(17) {
        0..=2 => Change::set(name, value),
        3 => Change::add(name, value),
        4 => kinds::RemoveDeclaration {
            property: property(),
        }
        .into(),
        5 => kinds::Disable {
            property: property(),
        }
        .into(),
        6 => kinds::Enable {
            property: property(),
        }
        .into(),
        7 => kinds::Important {
            property: property(),
            remove: !(numbers.once_in(2)),
        }
        .into(),
        8 => kinds::Step {
            property: property(),
            by: "+1".to_owned(),
        }
        .into(),
        9 => kinds::ChangeProperty {
            property: property(),
            to: numbers.one(&["background-color", "left", "--y"]).to_owned(),
        }
        .into(),
        10 => kinds::Rule {
            selector: numbers.once_in(2).then(|| ".new".to_owned()),
            declarations: format!("{name}: {value}; left: 3px"),
        }
        .into(),
        11 => kinds::Selector {
            rule: at.clone(),
            how: match numbers.below(3) {
                0 => kinds::SelectorChange::To(".other".to_owned()),
                1 => kinds::SelectorChange::Add("[x=\",\"]".to_owned()),
                _ => kinds::SelectorChange::Remove(".a".to_owned()),
            },
        }
        .into(),
        12 => kinds::Split {
            rule: at.clone(),
            selector: ".a".to_owned(),
        }
        .into(),
        13 => kinds::RemoveRule { rule: at.clone() }.into(),
        14 => kinds::Enclose {
            rule: at.clone(),
            within: "@media (width > 2px)".to_owned(),
        }
        .into(),
        15 => kinds::MoveRule {
            rule: at.clone(),
            beside: [kinds::Beside::Before, kinds::Beside::After][numbers.below(2)](
                place(numbers).parse().unwrap(),
            ),
        }
        .into(),
        _ => kinds::AtRule {
            source: "@keyframes n { to { top: 2px } }".to_owned(),
        }
        .into(),
    };
    let into = match numbers.below(9) {
        0 => Destination::Rule(at),
        1 => Destination::File("a.css".parse().unwrap()),
        _ => Destination::Sources,
    };
    (change, into)
}

/// Whether only what was asked for differs.
fn is_exact(change: &Change, edit: &Edit, before: &[Entry], after: &[Entry]) -> Result<(), String> {
    let (gone, new) = differences(before, after);
    let of = |all: &[Entry]| -> Vec<(String, String, bool)> {
        all.iter().filter_map(|e| e.declaration.clone()).collect()
    };
    let (out, put) = (of(&gone), of(&new));
    let heads = |all: &[Entry]| all.iter().filter(|e| e.declaration.is_none()).count();
    let only = |condition: bool| match condition {
        true => Ok(()),
        false => Err(format!("{}\ngone {gone:#?}\nnew {new:#?}", edit.summary)),
    };
    let plain = |text: &str| {
        let entry = entries(&format!("a{{--b:{text}}}"));
        entry[1].declaration.clone().unwrap().1
    };
    match change {
        Change::Set(set) => {
            let value = plain(&set.value);
            let is_side = set.property == "margin-top";
            let fits = |d: &(String, String, bool)| {
                d.0 == set.property.to_ascii_lowercase() && d.1 == value
                    || is_side && d.0 == "margin"
            };
            // `"\7d"` and `"}"` are the same string to a parser.
            if gone.is_empty() && new.is_empty() && value.starts_with('"') {
                return Ok(());
            }
            // Beside the selector of a rule that says the same.
            if edit.summary.ends_with("in a.css") && heads(&gone) == heads(&new) && out == put {
                return Ok(());
            }
            // One declaration is another, or one is new, in a rule of its own or not.
            only(
                out.len() <= 1
                    && put.len() == 1
                    && fits(&put[0])
                    && heads(&gone) == 0
                    && heads(&new) <= 1,
            )
        }
        Change::Add(add) => only(
            out.len() <= usize::from(heads(&new) == 0)
                && put.len() == 1
                && put[0].0 == add.property
                && put[0].1 == plain(&add.value)
                && heads(&gone) == 0,
        ),
        Change::RemoveDeclaration(_) | Change::Disable(_) => {
            only(out.len() == 1 && put.is_empty() && heads(&gone) + heads(&new) == 0)
        }
        Change::Enable(on) => {
            only(out.is_empty() && put.len() == 1 && put[0].0 == on.property && heads(&new) == 0)
        }
        Change::Important(mark) => only(
            out.len() == 1
                && put.len() == 1
                && out[0].0 == put[0].0
                && out[0].1 == put[0].1
                && put[0].2 != mark.remove
                && out[0].2 == mark.remove,
        ),
        Change::Step(_) => only(out.len() <= 1 && put.len() == 1 && heads(&gone) == 0),
        Change::ChangeProperty(rename) => only(
            out.len() == 1
                && put.len() == 1
                && put[0].0 == rename.to
                && put[0].1 == out[0].1
                && put[0].2 == out[0].2,
        ),
        Change::Rule(_) => only(gone.len() <= 2 && put.len() <= 2 && heads(&gone) == 0),
        Change::AtRule(_) => only(gone.is_empty() && new.len() == 3),
        // `@charset` is nothing that a parser keeps.
        Change::RemoveRule(_) => {
            only(new.is_empty() && (heads(&gone) >= 1 || edit.summary.contains("@charset")))
        }
        Change::Selector(_) => only(heads(&gone) == heads(&new) && out == put && heads(&gone) >= 1),
        Change::Split(_) => only(heads(&new) > heads(&gone) && put.len() >= out.len()),
        Change::Enclose(_) => only(heads(&new) == heads(&gone) + 1 && out == put),
        Change::MoveRule(_) => {
            let (mut one, mut two) = (of(before), of(after));
            one.sort();
            two.sort();
            only(one == two)
        }
        other => Err(format!("no such change here: {other:?}")),
    }
}

#[test]
fn only_the_target_differs_in_sheets_of_every_bad_habit() {
    let mut numbers = Numbers(0x2545_f491_4f6c_dd1d);
    let mut refused: BTreeMap<String, usize> = BTreeMap::new();
    let (mut made, mut wrong) = (0, 0);
    let count = cases(600);
    for case in 0..count {
        let css = sheet(&mut numbers);
        let embedded = numbers.once_in(4) && !css.contains("<!--");
        let page = "<p id=t class='a b'>x<b>y</b></p>";
        let (html, wanted) = match embedded {
            true => (format!("<style>{css}</style>{page}"), "page.html"),
            false => (format!("<link rel=stylesheet href=a.css>{page}"), "a.css"),
        };
        let sheet = Text::new("a.css", css.clone());
        let html = Text::new("page.html", html);
        let page = Page::builder(html.clone())
            .loader(|_: &Request<'_>| Ok(sheet.clone()))
            .build();
        let (change, into) = change(&mut numbers, &css);
        let intent = Intent {
            into,
            ..Intent::new("page.html", "p", change.clone())
        };
        let edit = match make(&page, &intent) {
            Ok(edit) => edit,
            Err(error) => {
                let kind = format!("{error:?}");
                let kind = kind.split([' ', '(', '{']).next().unwrap_or("").to_owned();
                if kind == "Astray" {
                    println!("case {case}: {error}\n  {change:?}\n  {css:?}");
                }
                *refused.entry(kind).or_default() += 1;
                continue;
            }
        };
        made += 1;
        let file = &edit.changes[0];
        assert_eq!(edit.changes.len(), 1);
        assert_eq!(file.file, wanted);
        let base = if embedded { &html } else { &sheet };
        let after = file.patch.apply(base.source()).unwrap();
        assert_eq!(
            file.patch.invert(base.source()).apply(&after).unwrap(),
            base.source()
        );
        let css_of = |text: &str| match embedded {
            true => {
                let rest = text.split_once("<style>").unwrap().1;
                rest.split_once("</style>").unwrap().0.to_owned()
            }
            false => text.to_owned(),
        };
        let (old, new) = (entries(&css), entries(&css_of(&after)));
        if let Err(why) = is_exact(&change, &edit, &old, &new) {
            wrong += 1;
            println!("case {case}: {why}\n  {change:?}\n  {css:?}\n  {after:?}");
        }
    }
    println!("{count} sheets: {made} edits made, {wrong} wrong; refused: {refused:?}");
    assert_eq!(wrong, 0);
    assert_eq!(
        refused.get("Astray"),
        None,
        "the last look finds what an edit got wrong; an edit should not get it wrong"
    );
    assert!(made * 5 > count, "too little is tried");
}
