//! Completion and facts: every property of the table, and what people type.

use fingerpost::question::complete::{CompleteAnswer, property_names, values_of};
use fingerpost::question::facts::facts;
use fingerpost::value::PropertyId;
use fingerpost::value::match_property;
use fingerpost::value::value_tokens;

fn property(name: &str) -> PropertyId {
    PropertyId::named(name).unwrap()
}

fn texts(answer: &CompleteAnswer) -> Vec<&str> {
    answer.offers.iter().map(|o| o.text.as_str()).collect()
}

#[test]
fn names_are_offered_with_their_aliases() {
    let answer = property_names("word-w");
    assert_eq!(texts(&answer), ["word-wrap"]);
    assert_eq!(answer.offers[0].meaning, "another name of overflow-wrap");
    assert!(!property_names("colr").complete);
    assert!(property_names("color").complete);
    assert!(property_names("zzz").offers.is_empty());
}

#[test]
fn the_initial_value_and_the_wide_keywords_say_so() {
    let answer = values_of(property("position"), "");
    let of = |text: &str| answer.offers.iter().find(|o| o.text == text).unwrap();
    assert_eq!(of("static").meaning, "the initial value");
    assert_eq!(of("inherit").meaning, "the parent's value");
    assert!(
        of("sticky")
            .link
            .as_deref()
            .unwrap()
            .contains("css-position")
    );
    // Only at the front.
    assert!(!texts(&values_of(property("margin"), "1px ")).contains(&"inherit"));
}

/// Every keyword that is offered for an empty value is one that some value can begin with: alone it
/// fits, or the grammar asks for more after it.
#[test]
fn what_is_offered_fits() {
    for property in PropertyId::all() {
        for offer in values_of(property, "").offers {
            if offer.kind.as_str() != "keyword" || fingerpost::value::is_css_wide(&offer.text) {
                continue;
            }
            let tokens = value_tokens(&offer.text);
            if let Err(mismatch) = match_property(property, &offer.text, &tokens) {
                assert!(
                    mismatch.span.is_empty(),
                    "{}: {} does not fit: {:?}",
                    property.name(),
                    offer.text,
                    mismatch.expected
                );
            }
        }
    }
}

/// The initial value of every longhand fits its own grammar.
#[test]
fn every_initial_value_fits() {
    // Words of prose, for which no value can stand.
    let prose = [
        "see",
        "depends",
        "n/a",
        "not",
        "user",
        "UA",
        "varies",
        "a ",
        "implementation",
    ];
    let mut wrong = Vec::new();
    for property in PropertyId::all().filter(|p| !p.is_shorthand()) {
        let facts = property.facts();
        let initial = facts.initial;
        if initial.is_empty()
            || facts.syntax.is_empty()
            || prose.iter().any(|p| initial.starts_with(p))
        {
            continue;
        }
        if match_property(property, initial, &value_tokens(initial)).is_err() {
            wrong.push(format!("{}: {initial}", property.name()));
        }
    }
    assert!(wrong.len() < 30, "{} do not fit: {wrong:#?}", wrong.len());
}

#[test]
fn facts_of_a_longhand_and_a_shorthand() {
    let width = facts(property("border-top-width"));
    assert!(!width.inherited);
    assert!(width.shorthands.contains(&"border".to_owned()));
    assert_eq!(width.types[0].name, "line-width");
    let gap = facts(property("gap"));
    assert_eq!(gap.longhands, ["row-gap", "column-gap"]);
    assert!(gap.aliases.contains(&"grid-gap".to_owned()));
    let border = facts(property("border"));
    assert!(
        border
            .reset_only
            .iter()
            .any(|r| r.starts_with("border-image"))
    );
    let logical = facts(property("margin-inline-start"));
    assert_eq!(logical.logical_group.as_deref(), Some("margin"));
}
