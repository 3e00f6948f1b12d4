//! Why not: what is in the way, and what would help.

use fingerpost::advice::Action;
use fingerpost::impact::remedies::WhyNotReport;
use maud::{Markup, html};

use super::place;

/// How many rules are shown in full.
const MOST_FINDINGS: usize = 5;

pub(crate) fn answer(report: &WhyNotReport) -> Markup {
    let WhyNotReport { answer, advice, .. } = report;
    html! {
        p.verdict { (answer.verdict) }
        @for finding in answer.findings.iter().take(MOST_FINDINGS) {
            section.finding {
                @if let Some(rule) = &finding.rule {
                    p.who { code { (rule) } @if let Some(at) = &finding.place { (place(at)) } }
                }
                ol.obstacles { @for obstacle in &finding.obstacles {
                    li {
                        @if let Some(declaration) = &obstacle.declaration { code { (declaration) } " " }
                        (obstacle.sentence)
                        @for hint in &obstacle.hints { p.quiet { (hint) } }
                    }
                } }
                @if !finding.remedies.is_empty() {
                    h4 { "What would help" }
                    ul.remedies { @for remedy in &finding.remedies {
                        li {
                            (remedy.sentence)
                            @if remedy.test_only { span.badge { "for a test only" } }
                            @if let Some(trial) = &remedy.trial {
                                @match &trial.others {
                                    Some(others) => p.quiet { "also changes " (others) },
                                    None => p.quiet { "changes nothing else" },
                                }
                            }
                            @let own = advice.iter().find(|one| one.label == remedy.sentence);
                            @if let Some(Action::Edit { edits }) = own.map(|own| &own.action) {
                                @let edits = serde_json::to_string(edits).unwrap_or_default();
                                button type="button" data-do="script" data-edits=(edits) { "Try it" }
                            }
                        }
                    } }
                }
            }
        }
        @for other in &answer.others {
            p.quiet { @if let Some(rule) = &other.rule { code { (rule) } ": " } (other.verdict) }
        }
    }
}
