//! Find: what the search box leads to, the way to an element, and what a page is made of.

use fingerpost::markup::{Document, ElementId, Written};
use fingerpost::page::{Page, PropertyName, Target};
use fingerpost::question::ElementSummary;
use fingerpost::question::find::ElementQuery;
use fingerpost::value::PropertyId;
use maud::{Markup, html};

use super::{count, place, problem, swatch};
use crate::view::label::label;

/// How many hits of each kind are shown.
const MOST_HITS: usize = 40;

/// How much of a text is shown.
const TEXT_LENGTH: usize = 60;

/// What the text in the search box can mean, the likeliest first.
pub(crate) fn results(page: &Page, text: &str) -> Markup {
    if text.is_empty() {
        return Markup::default();
    }
    let elements = elements(page, text);
    let properties = properties(text);
    let declarations = declarations(page, text);
    let sheets: Vec<&str> = page
        .sheets()
        .iter()
        .map(|sheet| sheet.styles.sheet().text().name())
        .filter(|name| name.contains(text))
        .collect();
    let nothing =
        elements.is_none() && properties.is_empty() && declarations.is_empty() && sheets.is_empty();
    html! {
        @if let Some(found) = elements { (found) }
        @if !properties.is_empty() {
            h3 { "Properties" }
            ul.hits {
                @for name in properties.iter().take(MOST_HITS) {
                    li { button.hit type="button" data-property=(name) { code { (name) } } }
                }
            }
        }
        @if !declarations.is_empty() {
            h3 { "In the sheets" }
            ul.hits {
                @for hit in declarations.iter().take(MOST_HITS) { (hit) }
            }
            @if declarations.len() > MOST_HITS {
                p.quiet { "and " (declarations.len() - MOST_HITS) " more" }
            }
        }
        @if !sheets.is_empty() {
            h3 { "Sheets" }
            ul.hits { @for sheet in sheets { li { button.hit type="button" data-sheets { (sheet) } } } }
        }
        @if nothing { (problem(&format!("Nothing on this page is or has '{text}'."))) }
    }
}

fn elements(page: &Page, text: &str) -> Option<Markup> {
    let what = ElementQuery::parse(text).on(page);
    let answer = page.ask().find(&what).ok()?;
    if answer.elements.is_empty() {
        return answer
            .nearest
            .map(|nearest| html! { p.quiet { "No element. " (nearest) } });
    }
    let all = answer.elements.len();
    Some(html! {
        h3 { (count(all, "element")) }
        ul.hits {
            @for found in answer.elements.iter().take(MOST_HITS) {
                li { button.hit type="button" data-handle=(found.element.index) {
                    code { (label(&found.element)) }
                    @if !found.text.is_empty() { span.words { (found.text) } }
                    (place(&found.element.place))
                } }
            }
        }
        @if all > MOST_HITS { p.quiet { "and " (all - MOST_HITS) " more" } }
    })
}

fn properties(text: &str) -> Vec<&'static str> {
    let name = text
        .split(':')
        .next()
        .unwrap_or(text)
        .trim()
        .to_ascii_lowercase();
    if name.is_empty() || name.contains(|c: char| !c.is_ascii_alphabetic() && c != '-') {
        return Vec::new();
    }
    let exact = PropertyId::named(&name).map(PropertyId::name);
    let rest = PropertyId::names().map(|(known, _)| known);
    let rest = rest.filter(|known| known.starts_with(&name) && Some(*known) != exact);
    exact.into_iter().chain(rest).take(8).collect()
}

/// The declarations whose property, value or variable is meant.
fn declarations(page: &Page, text: &str) -> Vec<Markup> {
    let wanted = text.trim_end_matches(';').trim();
    let mut found = Vec::new();
    for (sheet, declaration) in super::declarations(page) {
        let (name, value) = (
            sheet.name_source(declaration),
            sheet.value_source(declaration),
        );
        let whole = format!("{name}: {value}");
        let is_name = name == wanted && PropertyName::named(name).is_some();
        if !is_name && !value.contains(wanted) && !whole.contains(wanted) {
            continue;
        }
        let rule = sheet.rule(declaration.rule);
        let selector = sheet.prelude_source(rule).to_owned();
        let at = sheet.place(declaration.span.start());
        found.push(html! {
            li { button.hit type="button" data-selector=(selector) data-property=(name) {
                code { (selector) }
                span.words { (swatch(value)) (whole) }
                (place(&at))
            } }
        });
    }
    found
}

/// The way to an element or a pseudo-element, itself, and those around it.
pub(crate) fn trail(page: &Page, target: &Target) -> Markup {
    let document = page.document();
    let id = target.element;
    let summary = ElementSummary::of_target(page, target);
    let mut way = document.trail(id);
    let is_element = target.pseudo.is_none();
    if is_element {
        way.pop();
    }
    // Around a pseudo-element is its element; it has no other neighbors.
    let parent = match is_element {
        true => document.parent_or_host(id),
        false => Some(id),
    };
    let step = |to: Option<ElementId>| to.map(|to| document.element(to).index);
    let beside = |to: Option<ElementId>| step(to.filter(|_| is_element));
    html! {
        nav.trail aria-label="Trail" {
            ol { @for above in &way {
                @let above = ElementSummary::new(page, *above);
                li { button type="button" data-handle=(above.index) { (label(&above)) } }
            } }
        }
        div.chosen
            data-chosen=(summary.index)
            data-parent=[step(parent)]
            data-child=[beside(document.child_elements(id).next())]
            data-previous=[beside(document.previous_element(id))]
            data-next=[beside(document.next_element(id))]
        {
            h2 { code { (label(&summary)) } }
            (place(&summary.place))
            span #measure.measure {}
        }
        @if summary.written == Written::Implied {
            p.quiet { "The parser adds this element; it has no tag in the source." }
        }
    }
}

/// Elements that give a page its shape (HTML § 4.3, sections and headings, and what a reader works with).
const SHAPES: &[&str] = &[
    "header", "nav", "main", "aside", "footer", "section", "article", "form", "table", "dialog",
    "iframe", "h1", "h2", "h3", "h4", "h5", "h6",
];

/// What the page is made of, and what is around an element.
pub(crate) fn outline(page: &Page, chosen: ElementId) -> Markup {
    let document = page.document();
    let shapes: Vec<ElementId> = document
        .elements()
        .iter()
        .copied()
        .filter(|id| SHAPES.contains(&&*document.element(*id).name))
        .collect();
    let children: Vec<ElementId> = document.child_elements(chosen).collect();
    html! {
        div #results {}
        @if !children.is_empty() {
            h3 { "In " code { (label(&ElementSummary::new(page, chosen))) } }
            ul.hits.movable { @for child in children.iter().take(MOST_HITS) { (row(page, *child, 0)) } }
            @if children.len() > MOST_HITS { p.quiet { "and " (children.len() - MOST_HITS) " more" } }
        }
        h3 { "Outline" }
        ul.hits.outline {
            @for id in shapes.iter().take(MOST_HITS * 4) { (row(page, *id, depth(document, *id, &shapes))) }
        }
        h3 { "Recent" }
        ul #last.hits {}
    }
}

fn depth(document: &Document, id: ElementId, shapes: &[ElementId]) -> usize {
    let above = document.ancestors_and_self(id).skip(1);
    above
        .filter(|id| shapes.binary_search(id).is_ok())
        .count()
        .min(6)
}

fn row(page: &Page, id: ElementId, depth: usize) -> Markup {
    let summary = ElementSummary::new(page, id);
    let text = page.document().folded_text(id, TEXT_LENGTH);
    html! {
        li { button.hit type="button" draggable="true" data-handle=(summary.index) data-depth=(depth) {
            code { (label(&summary)) }
            @if !text.is_empty() { span.words { (text) } }
        } }
    }
}
