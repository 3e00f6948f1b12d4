//! What one element's rules depend on besides selectors: scopes, containers, shadow trees,
//! assumed states and the reader's sheet.

use crate::support::Fixture;
use fingerpost::environment::{Environment, Viewport};
use fingerpost::page::{LoadError, Page, PropertyName, Request, Target};
use fingerpost::selector::State;
use fingerpost::text::Text;

#[test]
fn the_nearer_scope_wins_and_says_so() {
    let fixture = Fixture::new(
        "<style>@scope (.dark) { a { color: red } } @scope (.light) { a { color: blue } }</style>\
         <div class=light><div class=dark>¤<a>",
    );
    assert_eq!(
        fixture.story("color"),
        [
            "a {color: red} wins",
            "a {color: blue} loses on scoping proximity, counted from the scope's root: 2 steps below it against 1 step below it",
        ]
    );
}

#[test]
fn a_container_query_has_both_outcomes_until_the_size_is_given() {
    let text = "<style>.fares { container-type: inline-size } p { color: blue } \
                @container (width > 400px) { p { color: red } }</style><div class=fares>¤<p>";
    let fixture = Fixture::new(text);
    assert_eq!(fixture.computed("color"), "rgb(0, 0, 255)");
    let answer = fixture.why("color");
    let excluded = &answer.contests[0].excluded[0];
    assert_eq!(excluded.because.as_str(), "depends-on-layout");
    assert_eq!(
        excluded.if_it_holds.as_deref(),
        Some("if it is true, red wins on order of appearance; if not, blue wins")
    );
    for (width, color) in [(300.0, "rgb(0, 0, 255)"), (500.0, "rgb(255, 0, 0)")] {
        let size = Viewport {
            width,
            height: 100.0,
        };
        let environment = Environment {
            container_sizes: vec![(".fares".to_owned(), size)],
            ..Environment::default()
        };
        assert_eq!(Fixture::under(text, environment).computed("color"), color);
    }
}

#[test]
fn the_outer_tree_wins_unless_the_inner_one_is_important() {
    let host = "<style>div { color: red; top: 1px }</style>¤<div><template shadowrootmode=open>\
                <style>:host { color: blue; top: 2px !important }</style><slot></slot></template></div>";
    let fixture = Fixture::new(host);
    assert_eq!(fixture.computed("color"), "rgb(255, 0, 0)");
    assert_eq!(fixture.computed("top"), "2px");
    assert_eq!(
        fixture.story("color")[1],
        ":host {color: blue} loses on context: inside a shadow tree against outside it"
    );
}

#[test]
fn what_is_slotted_inherits_from_its_slot() {
    let fixture = Fixture::new(
        "<div><template shadowrootmode=open><style>b { color: teal }</style><b><slot></slot></b>\
         </template>¤<i>x</i></div>",
    );
    assert_eq!(fixture.computed("color"), "rgb(0, 128, 128)");
}

#[test]
fn an_assumed_state_reaches_the_elements_around() {
    let mut fixture = Fixture::new(
        "<style>a:hover { color: red } nav:hover { top: 1px } nav:focus-within { left: 2px }</style>\
         <nav>¤<a href=x>",
    );
    assert_eq!(fixture.computed("color"), "rgb(0, 0, 238)");
    let nav = fixture
        .page
        .document()
        .parent_element(fixture.target.element)
        .unwrap();
    let states = [":hover", "focus-visible"].map(|state| State::named(state).unwrap());
    let element = fixture.target.element;
    fixture.page = fixture
        .page
        .with_states(states.map(|state| (element, state)));
    assert_eq!(fixture.computed("color"), "rgb(255, 0, 0)");
    let styles = fixture.page.styles();
    let of_nav = |name| styles.resolved(&Target::from(nav), &PropertyName::named(name).unwrap());
    assert_eq!(of_nav("top"), "1px");
    assert_eq!(of_nav("left"), "2px");
}

#[test]
fn the_readers_sheet_is_weaker_than_the_sites_until_it_is_important() {
    let html = "<style>p { color: red; top: 1px }</style><p>";
    let page = Page::builder(Text::new("page.html", html))
        .user_sheet(Text::new(
            "mine.css",
            "p { color: blue; left: 3px; top: 2px !important }",
        ))
        .loader(|_: &Request<'_>| Err(LoadError::Remote))
        .build();
    let target = Target::from(*page.document().elements().last().unwrap());
    let styles = page.styles();
    let of = |name| styles.resolved(&target, &PropertyName::named(name).unwrap());
    assert_eq!(of("color"), "rgb(255, 0, 0)");
    assert_eq!(of("left"), "3px");
    assert_eq!(of("top"), "2px");
}

#[test]
fn many_shadow_trees_inside_each_other_are_read() {
    let html = format!(
        "{}<b>deep</b>",
        "<div><template shadowrootmode=open><style>:host { top: 1px }</style>".repeat(300)
    );
    let page = Page::builder(Text::new("a.html", html))
        .loader(|_: &Request<'_>| Err(LoadError::Remote))
        .build();
    let last = Target::from(*page.document().elements().last().unwrap());
    let color = PropertyName::named("color").unwrap();
    assert_eq!(page.styles().resolved(&last, &color), "rgb(0, 0, 0)");
}
