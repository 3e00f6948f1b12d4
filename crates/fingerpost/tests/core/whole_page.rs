//! A page worked out at once says what it says element by element.

use std::sync::Arc;

use crate::cases::cases;
use fingerpost::environment::Environment;
use fingerpost::markup::ElementId;
use fingerpost::page::{
    DeclarationRef, Page, PropertyName, Request, SheetRef, Target, ValueSource,
};
use fingerpost::text::Text;
use fingerpost::value::PropertyId;
use proptest::prelude::*;
use rayon::prelude::*;

fn page(html: &str) -> Page {
    Page::new(Text::new("p.html", html))
}

/// The element of another page of the same text that is this one.
fn on(page: &Page, from: &Page, element: ElementId) -> ElementId {
    let index = from.document().element(element).index;
    page.document().elements()[index as usize]
}

/// A declaration as another page of the same text names it.
fn declared_on(page: &Page, from: &Page, declaration: DeclarationRef) -> DeclarationRef {
    let sheet = match declaration.sheet {
        SheetRef::Listed(at) => SheetRef::Listed(at),
        SheetRef::Attribute(element) => SheetRef::Attribute(on(page, from, element)),
        SheetRef::Hints(element) => SheetRef::Hints(on(page, from, element)),
    };
    DeclarationRef {
        sheet,
        ..declaration
    }
}

/// Every element with its pseudo-elements: the same rules match, with the same weight.
fn same_matches(html: &str) {
    let (lazy, whole) = (page(html), page(html));
    whole.match_all();
    let (lazy, whole) = (lazy.styles(), whole.styles());
    let elements = lazy.page().document().elements();
    for (element, same) in elements.iter().zip(whole.page().document().elements()) {
        let pseudo = lazy.pseudo_elements(*element);
        assert_eq!(pseudo, whole.pseudo_elements(*same), "{html}");
        for pseudo in pseudo.into_iter().map(Some).chain([None]) {
            let of = |element: ElementId| Target {
                element,
                pseudo: pseudo.clone(),
            };
            let one_by_one = lazy.matched(&of(*element));
            assert_eq!(
                one_by_one,
                whole.matched(&of(*same)),
                "{pseudo:?} of {html}"
            );
        }
    }
}

/// Every property of every element: the shared style says what the element's own does, and its winner is the head
/// of the contest.
fn same_values(html: &str) {
    let shared = page(html);
    same_values_of(&page(html), &shared, html);
    // The same page in another environment shares what matches.
    for environment in environments() {
        let text = Text::new("p.html", html);
        let rebuilt = Page::builder(text).environment(environment.clone()).build();
        same_values_of(&rebuilt, &shared.under(&environment), html);
    }
}

fn environments() -> [Environment; 2] {
    let mut narrow = Environment::default();
    narrow.viewport.width = 500.0;
    let mut dark = Environment {
        media: "print".to_owned(),
        resolution: 1.5,
        ..Environment::default()
    };
    dark.features
        .insert("prefers-color-scheme".to_owned(), "dark".to_owned());
    [narrow, dark]
}

fn same_values_of(lazy: &Page, shared: &Page, html: &str) {
    let whole = shared.whole();
    let styles = lazy.styles();
    let known = PropertyId::all().filter(|p| !p.is_shorthand());
    let mut properties: Vec<PropertyName> = known.map(PropertyName::Known).collect();
    let custom = html.match_indices("--").filter_map(|(at, _)| {
        let name = html[at..]
            .split(|c: char| !c.is_alphanumeric() && c != '-')
            .next()?;
        PropertyName::named(name)
    });
    properties.extend(custom);
    for element in whole.elements() {
        let target = Target::from(on(lazy, shared, element.id()));
        for property in &properties {
            if styles.physical(&target, property) != *property {
                continue;
            }
            let expected = styles.value(&target, property);
            let found = element.value(property);
            let own = element.own().iter().any(|(name, _)| name == property);
            match found {
                Some(found) => {
                    assert_eq!(
                        found.computed, expected.computed,
                        "{property} of {target:?} in {html}"
                    );
                    assert_eq!(
                        found.specified, expected.specified,
                        "{property} of {target:?} in {html}"
                    );
                    // Why a value above was not taken is of the element above.
                    let why = found.fell_through.as_ref().filter(|_| own);
                    assert_eq!(why, expected.fell_through.as_ref(), "{property} in {html}");
                }
                None => assert_eq!(
                    expected.source,
                    ValueSource::Initial,
                    "{property} of {target:?} in {html}"
                ),
            }
            if let ValueSource::Declared(reference) = &expected.source {
                let head = styles.contest(&target, property).contest;
                assert_eq!(head.winning().map(|w| w.declaration), Some(*reference));
                let winner = element.winner(property);
                let winner = winner.map(|winner| declared_on(lazy, shared, winner));
                assert_eq!(winner, Some(*reference), "{property} in {html}");
            }
        }
    }
}

#[test]
fn what_asks_the_element_is_shared_by_nobody() {
    let elements = "<p data-w=1>a<p data-w=2>b<p data-w=3>c";
    // Names of functions are read in any letter case, and with escapes.
    for function in ["attr", "ATTR", "\\61 ttr"] {
        let css = format!("p {{ width: {function}(data-w px) }}");
        same_values(&format!("<!doctype html><style>{css}</style>{elements}"));
        let style = format!("<p style='width: {function}(data-w px)'");
        same_values(&format!(
            "<!doctype html>{}",
            elements.replace("<p", &style)
        ));
        // Nor after an edit that brings it.
        let html = "<!doctype html><link rel=stylesheet href=a.css><p data-w=1>a<p data-w=2>b";
        let text = Text::new("p.html", html);
        let build = |before: Option<&Page>, css: &str| {
            let sheet = Text::new("a.css", css);
            let mut load = |_: &Request<'_>| Ok(sheet.clone());
            let environment = Environment::default();
            match before {
                Some(page) => Page::builder(text.clone())
                    .after(page)
                    .environment(environment)
                    .loader(&mut load)
                    .build(),
                None => Page::builder(text.clone())
                    .environment(environment)
                    .loader(&mut load)
                    .build(),
            }
        };
        let before = build(None, "p { width: 1px }");
        let _ = before.whole();
        same_values_of(&build(None, &css), &build(Some(&before), &css), html);
    }
}

#[test]
fn an_initial_color_above_follows_the_scheme() {
    for value in ["inherit", "color-mix(in srgb, currentcolor, red)"] {
        let css = format!(":root {{ color-scheme: light dark }} p {{ color: {value} }}");
        same_values(&format!("<!doctype html><style>{css}</style><p>a<b>b</b>"));
    }
}

#[test]
fn values_on_pages_of_the_proof() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../fingerpost-proof/pages");
    let mut paths: Vec<_> = std::fs::read_dir(folder)
        .unwrap()
        .map(|e| e.unwrap().path())
        .collect();
    paths.sort();
    paths.par_iter().for_each(|path| {
        let html = std::fs::read(path).unwrap();
        same_values(&String::from_utf8_lossy(&html));
    });
}

#[test]
fn pages_of_the_proof() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../fingerpost-proof/pages");
    let mut count = 0;
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let html = std::fs::read(&path).unwrap();
        same_matches(&String::from_utf8_lossy(&html));
        count += 1;
    }
    assert!(count > 150, "{count} pages");
}

fn simple() -> impl Strategy<Value = String> {
    prop::sample::select(vec![
        "p",
        "div",
        "b",
        "span",
        "*",
        ".a",
        ".b",
        ".c",
        ".A",
        "#i",
        "#j",
        "[title]",
        "[title=x]",
        "[class~=a]",
        ":root",
        ":first-child",
        ":last-child",
        ":nth-child(2n+1)",
        ":nth-child(2 of .a)",
        ":only-child",
        ":empty",
        ":not(.a)",
        ":not(p, .b)",
        ":is(.a, .c)",
        ":is(p .a, #i)",
        ":where(b, .missing)",
        ":has(.b)",
        ":has(> .c)",
        ":has(+ .a)",
        ":hover",
        ":is(:hover, .b)",
        ".missing",
        "missing",
        ":is(.missing)",
        ":scope",
        ":enabled",
        ":checked",
        "svg",
        "circle",
        ":lang(en)",
    ])
    .prop_map(str::to_owned)
}

fn compound() -> impl Strategy<Value = String> {
    prop::collection::vec(simple(), 1..3).prop_map(|mut simples| {
        simples.sort_by_key(|s| !s.starts_with(|c: char| c.is_alphabetic() || c == '*'));
        let typed = simples
            .iter()
            .skip(1)
            .any(|s| s.starts_with(|c: char| c.is_alphabetic() || c == '*'));
        if typed {
            simples.truncate(1);
        }
        simples.concat()
    })
}

fn selector() -> impl Strategy<Value = String> {
    let combinator = prop::sample::select(vec![" ", " > ", " + ", " ~ "]);
    let rest = prop::collection::vec((combinator, compound()), 0..4);
    let pseudo = prop::sample::select(vec!["", "", "", "::before", "::after", "::first-line"]);
    (compound(), rest, pseudo).prop_map(|(first, rest, pseudo)| {
        let rest: String = rest.into_iter().map(|(c, s)| format!("{c}{s}")).collect();
        format!("{first}{rest}{pseudo}")
    })
}

fn rule() -> impl Strategy<Value = String> {
    let list = prop::collection::vec(selector(), 1..3).prop_map(|list| list.join(", "));
    let value = prop::sample::select(vec![
        "red",
        "blue !important",
        "var(--x)",
        "inherit",
        "revert",
    ]);
    (list, value, 0..7u8, selector()).prop_map(|(list, value, shape, other)| {
        let plain = format!("{list} {{ color: {value}; --x: teal }}");
        match shape {
            0 => format!("@layer one {{ {plain} }}"),
            1 => format!("@media (width > 900px) {{ {plain} }}"),
            2 if !other.contains("::") => format!("@scope ({other}) {{ {plain} }}"),
            3 if !other.contains("::") => format!("{other} {{ & {list} {{ margin: 1px }} }}"),
            4 if !other.contains("::") => format!("{other} {{ {plain} &.a {{ padding: 2px }} }}"),
            _ => plain,
        }
    })
}

fn element(deep: u32) -> BoxedStrategy<String> {
    let tag = prop::sample::select(vec!["p", "div", "b", "span", "svg", "input"]);
    let attributes = prop::sample::select(vec![
        "",
        " class=a",
        " class='b a'",
        " class=c",
        " id=i",
        " id=j class=a",
        " title=x",
        " title",
        " class='A'",
        " checked",
        " style='color: green'",
        " align=center",
    ]);
    if deep == 0 {
        return (tag, attributes)
            .prop_map(|(tag, attributes)| format!("<{tag}{attributes}>x</{tag}>"))
            .boxed();
    }
    (
        tag,
        attributes,
        prop::collection::vec(element(deep - 1), 0..4),
    )
        .prop_map(|(tag, attributes, inside)| {
            format!("<{tag}{attributes}>{}</{tag}>", inside.concat())
        })
        .boxed()
}

fn random_page() -> impl Strategy<Value = String> {
    let doctype = prop::sample::select(vec!["<!doctype html>", ""]);
    (
        doctype,
        prop::collection::vec(rule(), 1..12),
        prop::collection::vec(element(3), 1..4),
    )
        .prop_map(|(doctype, rules, body)| {
            format!(
                "{doctype}<html lang=en><style>{}</style><body>{}",
                rules.join("\n"),
                body.concat()
            )
        })
}

/// A page with one sheet; made from its state before, where there is one.
fn with_sheet(text: &Arc<Text>, before: Option<&Page>, css: &str) -> Page {
    let sheet = Text::new("a.css", css);
    let mut load = |_: &Request<'_>| Ok(sheet.clone());
    match before {
        Some(page) => Page::builder(text.clone())
            .after(page)
            .environment(Environment::default())
            .loader(&mut load)
            .build(),
        None => Page::builder(text.clone()).loader(&mut load).build(),
    }
}

#[test]
fn a_container_query_follows_an_edit_above_it() {
    let html = "<!doctype html><link rel=stylesheet href=a.css><body><p></p>";
    let text = Text::new("p.html", html);
    let build = |before: Option<&Page>, css: &str| with_sheet(&text, before, css);
    let css = "p { color: red; --y: red }\n\
               @container style(--y: red) { :first-child { color: red; --y: red } }";
    let before = build(None, css);
    let _ = before.whole();
    // The text before the query gets longer, by another selector or another value.
    for (from, to) in [("p {", ":root {"), ("color: red;", "color: magenta;")] {
        let css = css.replacen(from, to, 1);
        let story = format!("{css}\n{html}");
        same_values_of(&build(None, &css), &build(Some(&before), &css), &story);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: cases(50) as u32, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn random_pages(html in random_page()) {
        same_matches(&html);
        same_values(&html);
    }

    /// Whatever is taken over from the page before an edit, the page after it equals the page read from scratch.
    #[test]
    fn random_edits(
        body in prop::collection::vec(element(3), 1..4),
        mut rules in prop::collection::vec(part(), 2..10),
        edits in prop::collection::vec((any::<prop::sample::Index>(), part(), 0..3u8), 1..4),
    ) {
        let html = format!("<!doctype html><link rel=stylesheet href=a.css><body>{}", body.concat());
        let text = Text::new("p.html", html.as_str());
        let css = |rules: &[Part]| rules.iter().map(Part::text).collect::<Vec<_>>().join("\n");
        let build = |before: Option<&Page>, css: &str| with_sheet(&text, before, css);
        let mut page = build(None, &css(&rules));
        let _ = page.whole();
        for (at, other, kind) in edits {
            let rule = at.get_mut(&mut rules);
            match kind {
                0 => rule.selector = other.selector,
                1 => rule.value = other.value,
                _ => *rule = other,
            }
            let css = css(&rules);
            page = build(Some(&page), &css);
            let story = format!("{css}\n{html}");
            same_values_of(&build(None, &css), &page, &story);
        }
        // And so is the page in another environment.
        let css = css(&rules);
        for environment in environments() {
            let sheet = Text::new("a.css", css.as_str());
            let mut load = |_: &Request<'_>| Ok(sheet.clone());
            let fresh = Page::builder(text.clone()).environment(environment.clone()).loader(&mut load).build();
            let story = format!("{css}\n{html}");
            same_values_of(&fresh, &page.under(&environment), &story);
        }
    }
}

/// A rule that can be edited.
#[derive(Clone, Debug)]
struct Part {
    around: &'static str,
    selector: String,
    property: &'static str,
    value: &'static str,
}

impl Part {
    fn text(&self) -> String {
        let Part {
            around,
            selector,
            property,
            value,
        } = self;
        let rule = format!("{selector} {{ {property}: {value}; --y: {value} }}");
        match *around {
            "" => rule,
            around => format!("{around} {{ {rule} }}"),
        }
    }
}

fn part() -> impl Strategy<Value = Part> {
    let around = prop::sample::select(vec![
        "",
        "",
        "",
        "@layer one",
        "@media (width > 900px)",
        "@media print",
        "@media (prefers-color-scheme: dark)",
        "@scope (.a)",
        "@container (width > 1px)",
        "@container style(--y: red)",
        "@container style(display: none)",
        ".b &",
        "@keyframes k",
    ]);
    let property = prop::sample::select(vec![
        "color",
        "font-size",
        "font-family",
        "border",
        "margin",
        "padding-inline-start",
        "writing-mode",
        "line-height",
        "all",
        "display",
        "container-type",
        "text-align",
        "--x",
        "font-weight",
        "width",
        "color-scheme",
        "border-top",
    ]);
    let value = prop::sample::select(vec![
        "red",
        "2em",
        "1.5rem",
        "3px",
        "inherit",
        "initial",
        "revert",
        "var(--x)",
        "var(--y, inherit)",
        "currentcolor",
        "vertical-rl",
        "monospace",
        "1lh",
        "50cqw",
        "bolder",
        "none",
        "inline-size",
        "center !important",
        "calc(1em + 2vw)",
        "attr(title)",
        "light-dark(red, blue)",
        "light dark",
        "color-mix(in srgb, currentcolor, red)",
        "canvastext",
        "10vw",
        "thin solid",
    ]);
    (around, selector(), property, value).prop_map(|(around, selector, property, value)| Part {
        around,
        selector,
        property,
        value,
    })
}
