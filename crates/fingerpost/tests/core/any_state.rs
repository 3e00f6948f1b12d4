//! What rules match in some state is at least what they match in each.

use std::path::Path;

use fingerpost::environment::Environment;
use fingerpost::page::{Page, Target};
use fingerpost::selector::State;
use fingerpost::site::Site;
use fingerpost::text::Text;

const STATES: [&str; 14] = [
    ":hover",
    ":active",
    ":focus",
    ":focus-within",
    ":focus-visible",
    ":visited",
    ":target",
    ":checked",
    ":disabled",
    ":open",
    ":invalid",
    ":placeholder-shown",
    ":read-only",
    ":modal",
];

fn holds_in_each_state(page: &Page, name: &str) {
    let any = page.reach();
    let elements = page.document().elements();
    let mut tried: Vec<(String, Page)> = Vec::new();
    for word in STATES {
        let state: State = word.parse().unwrap();
        assert_eq!(state.to_string(), word);
        // All elements, and those at every other place.
        for step in [1, 2, 3] {
            let some = elements.iter().step_by(step).map(|id| (*id, state));
            tried.push((format!("{state} on every {step}th"), page.with_states(some)));
        }
    }
    tried.push(("no state".to_owned(), page.with_states([])));
    for (how, held) in tried {
        let now = held.reach();
        for (at, rule) in page.rules().iter().enumerate() {
            let reached = now.selectors(at).iter().zip(any.selectors(at));
            for (selector, (now, any)) in reached.enumerate() {
                let more = now
                    .now
                    .iter()
                    .find(|target| !any.in_some_state.contains(target));
                assert_eq!(more, None, "{name}, {how}: selector {selector} of {rule:?}");
            }
        }
    }
}

/// What is matched at once is what is matched one by one.
#[test]
fn reach_is_what_matches() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&folder).unwrap();
    for name in site.pages() {
        let page = site.page(&name, Environment::default()).unwrap();
        let reach = page.reach();
        let styles = page.styles();
        for id in page.document().elements() {
            let pseudos = styles.pseudo_elements(*id).into_iter().map(Some);
            for pseudo in std::iter::once(None).chain(pseudos) {
                let target = Target {
                    element: *id,
                    pseudo,
                };
                let mut now: Vec<u32> = reach
                    .of(&page, &target)
                    .filter(|by| by.now)
                    .map(|by| by.rule)
                    .collect();
                now.dedup();
                let matched: Vec<u32> = styles.matched(&target).iter().map(|m| m.rule).collect();
                assert_eq!(now, matched, "{name}: {target:?}");
                for rule in now {
                    assert!(reach.rule(rule as usize).now.contains(&target));
                }
            }
        }
    }
}

#[test]
fn no_state_matches_more() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&folder).unwrap();
    for name in site.pages() {
        let page = site.page(&name, Environment::default()).unwrap();
        holds_in_each_state(&page, &name);
    }
}

#[test]
fn states_in_every_place_of_a_selector() {
    let html =
        "<main class=a><p class='b c'>One <a href=/>Two</a></p><input checked><p>Three</p></main>";
    for (selector, matches) in [
        ("a:hover", true),
        ("p:not(:hover) > a", true),
        ("p:not(.b:hover)", true),
        ("p:not(.b, .b:hover, :first-child, :last-child)", false),
        (":is(.gone:hover, .b:focus)", true),
        (":is(.gone:hover, .gone)", false),
        ("main:has(a:focus)", true),
        ("main:has(.gone:focus)", false),
        ("p:nth-child(2 of :hover)", true),
        ("b:nth-child(2 of :hover)", false),
        ("a:hover::before", true),
        (".gone:hover::before", false),
        ("input:not(:checked)", true),
        ("input:disabled + p:target", true),
        ("a:muted", true),
    ] {
        let css = format!("{selector} {{ top: 0 }}");
        let page = Page::new(Text::new("a.html", format!("<style>{css}</style>{html}")));
        let last = page.rules().len() - 1;
        assert_eq!(!page.reach().is_idle(last), matches, "{selector}");
        holds_in_each_state(&page, selector);
    }
}

/// What `&` stands for is looked at once, however often it is there.
#[test]
fn deep_nesting_takes_no_longer_than_its_text() {
    let depth = 60;
    let css = format!(
        "p:hover {{ {} top: 0 {}",
        "& + & { ".repeat(depth),
        "}".repeat(depth + 1)
    );
    let page = Page::new(Text::new(
        "a.html",
        format!("<style>{css}</style><p>One<p>Two"),
    ));
    assert!(page.reach().selectors(depth).len() == 1);
}

#[test]
fn parts_that_an_element_can_not_have_are_left_out() {
    let css = "::file-selector-button, *::-webkit-inner-spin-button, ::before { color: teal }";
    let html = format!("<style>{css}</style><h1>Boats</h1><input type=FILE><input type=number>");
    let page = Page::new(Text::new("a.html", html));
    let parts = |element: &str| {
        page.ask()
            .trace(page.ask().find_one(element).unwrap())
            .pseudo_elements
    };
    assert_eq!(parts("h1"), ["::before"]);
    assert_eq!(
        parts("[type=FILE]"),
        [
            "::before",
            "::-webkit-inner-spin-button",
            "::file-selector-button"
        ]
    );
    assert_eq!(
        parts("[type=number]"),
        ["::before", "::-webkit-inner-spin-button"]
    );
    // An edit of such a rule moves those that have the part, and no others.
    let after = Page::new(Text::new(
        "a.html",
        page.document().text().source().replace("teal", "navy"),
    ));
    let affected = after.effect(&page).affected;
    let parts = affected.iter().filter(|one| one.element.pseudo.is_some());
    assert!(parts.clone().all(|one| one.element.pseudo.as_deref()
        != Some("::file-selector-button")
        || one.element.tag == "input"));
    assert!(parts.count() > 0);
}
