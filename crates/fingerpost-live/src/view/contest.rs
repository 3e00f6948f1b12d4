//! A contest as a ladder: the winner on top, below it each rung with the reason it lost, and on each what
//! can be changed right there.

use fingerpost::cascade::Origin;
use fingerpost::edit::Destination;
use fingerpost::page::Page;
use fingerpost::question::codes::{ContenderStanding, ValueFrom};
use fingerpost::question::why::{ContenderAnswer, ContestAnswer, DeclarationAnswer, WhyAnswer};
use fingerpost::site::Site;
use fingerpost::value::parts::{PartKind, parts};
use maud::{Markup, html};

use super::{as_hex, count, declarations, place, rule, swatch};
use crate::quick;
use crate::view::label::label;

/// What can be changed, and where it goes.
#[derive(Clone, Copy)]
pub(crate) struct Controls<'a> {
    pub page: &'a Page,
    pub site: &'a Site,
}

/// How many uses of a custom property are shown.
const MOST_USES: usize = 30;

pub(crate) fn contest(answer: &WhyAnswer, controls: &Controls<'_>) -> Markup {
    html! {
        @for contest in &answer.contests { (ladder(contest, Some(controls))) }
    }
}

/// The same for what can't be changed.
pub(crate) fn read_only(answer: &WhyAnswer) -> Markup {
    html! { @for contest in &answer.contests { (ladder(contest, None)) } }
}

fn ladder(contest: &ContestAnswer, controls: Option<&Controls<'_>>) -> Markup {
    let value = &contest.value;
    let has_winner = contest
        .contenders
        .iter()
        .any(|c| c.standing == ContenderStanding::Wins);
    html! {
        div.contest data-contest=(contest.property) {
            @if let Some(fell) = &value.fell_through { p.note { (fell) } }
            ol.ladder {
                @for contender in &contest.contenders { (rung(contest, contender, controls)) }
                @for out in &contest.excluded {
                    li.rung.out {
                        (head(&out.declaration))
                        p.reason { (out.sentence) }
                        @if let Some(then) = &out.if_it_holds { p.reason { (then) } }
                    }
                }
                @if !has_winner { li.rung.none { p.reason { (no_winner(contest)) } } }
            }
            @if contest.more_contenders > 0 {
                p.quiet { "and " (contest.more_contenders) " more, which all lose" }
            }
            @if !value.variables.is_empty() {
                ul.way aria-label="Custom properties substituted" { @for step in &value.variables {
                    li {
                        code { (step.name) } " is " (swatch(step.value.as_deref().unwrap_or("")))
                        (step.value.as_deref().unwrap_or("not set: the fallback is taken"))
                        " on " code { (label(&step.element)) }
                        @if let Some(declaration) = &step.declaration {
                            " " (place(&declaration.place))
                            @if let Some(controls) = controls {
                                (value_control(controls, declaration, false))
                            }
                        }
                    }
                } }
            }
            @if let Some(controls) = controls.filter(|_| contest.property.starts_with("--")) {
                (uses(controls.page, &contest.property))
            }
            @for passing in &contest.passing { p.note { (passing) } }
            p.result {
                "Computed value " (swatch(&value.computed)) code { (value.computed) }
            }
            @if let Some(controls) = controls { (new_declaration(contest, controls, has_winner)) }
        }
    }
}

/// Who uses a custom property.
fn uses(page: &Page, name: &str) -> Markup {
    let mut found = Vec::new();
    for (sheet, declaration) in declarations(page) {
        let value = sheet.value_source(declaration);
        if !value.contains(name) {
            continue;
        }
        let uses = |kind: &PartKind| matches!(kind, PartKind::CustomProperty(used) if used == name);
        if parts(None, value).iter().any(|part| uses(&part.kind)) {
            let selector = sheet.prelude_source(sheet.rule(declaration.rule));
            found.push((
                selector,
                sheet.name_source(declaration),
                sheet.place(declaration.span.start()),
            ));
        }
    }
    html! {
        p.quiet { "Used by " (count(found.len(), "declaration")) " of this page's sheets" }
        ul.hits { @for (selector, property, at) in found.iter().take(MOST_USES) {
            li { button.hit type="button" data-selector=(selector) data-property=(property) {
                code { (selector) } span.words { (property) } (place(at))
            } }
        } }
    }
}

fn no_winner(contest: &ContestAnswer) -> String {
    let value = &contest.value;
    match (
        value.source,
        &value.inherited_from,
        &value.inherited_declaration,
    ) {
        (ValueFrom::Inherited, Some(from), Some(declaration)) => format!(
            "Nothing sets it here: it is inherited from {}, where {} at {} wins.",
            from.label(),
            declaration.rule.selector,
            declaration.place
        ),
        (ValueFrom::Inherited, ..) => "Nothing sets it here: it is inherited.".to_owned(),
        _ => "Nothing sets it here: it has its initial value.".to_owned(),
    }
}

fn rung(
    contest: &ContestAnswer,
    contender: &ContenderAnswer,
    controls: Option<&Controls<'_>>,
) -> Markup {
    let wins = contender.standing == ContenderStanding::Wins;
    let declaration = &contender.declaration;
    let is_ours = declaration.rule.origin == Origin::Author;
    html! {
        li.rung data-wins[wins] {
            (head(declaration))
            @if let Some(controls) = controls.filter(|_| is_ours) {
                div.controls {
                    (value_control(controls, declaration, wins))
                    button type="button" data-do="disable" data-property=(declaration.property)
                        data-at=(declaration.place) { "Comment out" }
                    button type="button" data-do="remove" data-property=(declaration.property)
                        data-at=(declaration.place) { "Remove" }
                }
            } @else {
                p.declared { code { (declaration.property) ": " (declaration.value) } }
            }
            p.reason {
                @if wins && contest.contenders.len() > 1 { "wins" } @else { (contender.sentence) }
            }
            @if let Some(controls) = controls.filter(|_| is_ours) { (rule::more(controls.page, declaration)) }
        }
    }
}

fn head(declaration: &DeclarationAnswer) -> Markup {
    let rule = &declaration.rule;
    html! {
        p.who {
            code { (rule.selector) }
            @if let Some(specificity) = &rule.specificity { span.specificity { (specificity.to_string()) } }
            @if let Some(layer) = &rule.layer { span.layer { "layer " (layer) } }
            @if declaration.important { strong.important { "!important" } }
            (place(&declaration.place))
        }
    }
}

/// The field in which a declaration's value is changed, with a color control where it is a color.
fn value_control(controls: &Controls<'_>, declaration: &DeclarationAnswer, wins: bool) -> Markup {
    let (property, value, place) = (
        &declaration.property,
        &declaration.value,
        &declaration.place,
    );
    // What something else would overwrite is not written there: where it lasts is found by the session.
    let at = match wins && controls.site.role(&place.file).is_overwritten() {
        true => Destination::default().to_string(),
        false => place.to_string(),
    };
    let way = quick::way_at(controls.page, place);
    let way = way.and_then(|way| serde_json::to_string(&way).ok());
    let path = way.as_ref().map(|_| controls.site.url_path(&place.file));
    html! {
        span.control {
            label {
                code { (property) }
                input.edits type="text" value=(value) autocomplete="off" spellcheck="false" list="values"
                    data-property=(property) data-at=(at) data-was=(value)
                    data-way=[way] data-path=[path]
                    aria-label=(format!("{property} at {place}"));
            }
            @if let Some(hex) = as_hex(value) {
                input.picks type="color" value=(hex) aria-label=(format!("Pick a color for {property}"));
            }
        }
    }
}

/// One more declaration for this element: where it goes is chosen beside it.
fn new_declaration(contest: &ContestAnswer, controls: &Controls<'_>, has_winner: bool) -> Markup {
    let overrides = controls.site.override_sheet(controls.page);
    let value = &contest.value.computed;
    html! {
        form.adds data-property=(contest.property) {
            label { @if has_winner { "Another value for this element" } @else { "A value for this element" }
                input name="value" autocomplete="off" spellcheck="false" placeholder=(value);
            }
            label { "goes"
                select name="into" {
                    option value="overrides" { "into " @match overrides { Some(name) => { (name) } None => { "a new override sheet" } } }
                    option value="page" { "into the page's own sheet" }
                    option value="inline" { "on the element itself" }
                    @if has_winner { option value="sources" { "where it is set now" } }
                }
            }
            button { "Add" }
        }
    }
}
