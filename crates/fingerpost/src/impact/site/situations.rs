//! The environments of the theme in which a change is looked at, besides those asked for.

use crate::cascade::Origin;
use crate::environment::{Asked, Environment, Variant, media_asks, variants};
use crate::impact::page::NamedStates;
use crate::page::Page;
use crate::sheet::{AtRule, RuleKind};
use crate::value::substitution::value_tokens;

/// An environment besides the one asked for.
pub(super) struct Situation {
    pub words: String,
    pub environment: Environment,
    /// What every element is assumed to be in, as far as it can be.
    pub states: Option<NamedStates>,
}

pub(super) fn situations(
    asked: &[Asked],
    named: &[NamedStates],
    own: &Environment,
) -> Vec<Situation> {
    let mut found: Vec<Situation> = Vec::new();
    for states in named {
        if found
            .iter()
            .all(|known| known.states.as_ref() != Some(states))
        {
            found.push(Situation {
                words: format!("on {states}"),
                environment: own.clone(),
                states: Some(states.clone()),
            });
        }
    }
    let of_theme = variants(asked, own).into_iter().map(|variant| Situation {
        words: variant.words,
        environment: variant.environment,
        states: None,
    });
    found.extend(of_theme);
    found
}

/// The assumed features that no media query of a page's own sheets asks for, so that they change nothing by
/// themselves.
pub fn unasked(page: &Page) -> Vec<String> {
    let asked = asks_of(page);
    let asks = |name: &str| {
        asked
            .iter()
            .any(|ask| matches!(ask, Asked::Keyword(asked, _) if asked == name))
    };
    // These are asked for by other means: `light-dark()` and system colors, and `noscript`.
    let elsewhere = ["prefers-color-scheme", "scripting", "forced-colors"];
    let features = page.environment().features.keys();
    let unasked = features.filter(|name| !asks(name) && !elsewhere.contains(&name.as_str()));
    unasked.cloned().collect()
}

/// The environment that a page's own sheets ask for, besides those that it is in: a width between each two
/// of its breakpoints, each medium, each preference.
pub fn theme_variants(page: &Page) -> Vec<Variant> {
    variants(&asks_of(page), page.environment())
}

/// What the author's sheets of a page ask of the environment.
pub(super) fn asks_of(page: &Page) -> Vec<Asked> {
    let mut asked = Vec::new();
    for page_sheet in page.sheets() {
        if page_sheet.origin != Origin::Author {
            continue;
        }
        for gate in &page_sheet.gates {
            if let Some(query) = gate.condition.strip_prefix("media ") {
                asked.extend(media_asks(query, &value_tokens(query)));
            }
        }
        let sheet = page_sheet.styles.sheet();
        let media = sheet
            .rules()
            .filter(|(_, r)| r.kind == RuleKind::At(AtRule::Media));
        for (_, rule) in media {
            asked.extend(media_asks(
                sheet.text().source(),
                &sheet.prelude_tokens(rule),
            ));
        }
    }
    asked
}
