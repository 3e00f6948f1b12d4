//! The sheets of a page, and those that failed to load.

use fingerpost::cascade::Origin;
use fingerpost::question::sheets::SheetsAnswer;
use maud::{Markup, html};

use super::{count, place};

pub(crate) fn sheets(answer: &SheetsAnswer) -> Markup {
    let own = answer
        .sheets
        .iter()
        .rev()
        .filter(|sheet| sheet.origin == Origin::Author);
    html! {
        @for failure in &answer.failures {
            p.problem { code { (failure.url) } " did not load: " (failure.reason) " " (place(&failure.place)) }
        }
        ol.sheets { @for sheet in own {
            li {
                p.who { code { (sheet.file) @if sheet.line > 1 { ":" (sheet.line) } } span.layer { (sheet.arrival.as_str()) } }
                p.quiet {
                    (sheet.rules_matching) " of " (count(sheet.rules, "rule")) " match here, "
                    (count(sheet.declarations, "declaration"))
                    @if sheet.problems > 0 { ", " strong { (count(sheet.problems, "problem")) } }
                }
                @for gate in &sheet.conditions {
                    p.quiet data-closed[!gate.holds] {
                        (gate.condition) ": " @if gate.holds { "holds" } @else { "is false" }
                        @if !gate.because.is_empty() { " (" (gate.because.join("; ")) ")" }
                    }
                }
            }
        } }
        p.quiet { "The strongest first: where all else is equal, a rule of a sheet further up wins." }
    }
}
