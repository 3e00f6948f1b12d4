//! The names of pseudo-classes, as Selectors 4, HTML and their kin list them.

use std::sync::Arc;

use super::{
    Action, Compound, FormState, Nth, PseudoClass, Selector, SelectorList, Simple, Specificity,
};
use crate::text::{TextRange, TextSize};

/// A pseudo-class without arguments that is matched.
pub(super) fn pseudo_class(lower: &str) -> Option<PseudoClass> {
    let nth = |from_end, of_type| {
        PseudoClass::Nth(Nth {
            step: 0,
            offset: 1,
            from_end,
            of_type,
            of: None,
        })
    };
    let only = |of_type| {
        // "Only" is first and last: two simple selectors in one.
        let simples =
            [false, true].map(|end| (Simple::PseudoClass(nth(end, of_type)), TextRange::default()));
        PseudoClass::Is(Arc::new(SelectorList {
            selectors: vec![Selector {
                compounds: vec![(
                    None,
                    Compound {
                        simples: simples.to_vec(),
                        span: TextRange::default(),
                    },
                )],
                pseudo_element: None,
                through: None,
                specificity: Specificity::default(),
                names_host: false,
                span: TextRange::empty(TextSize::default()),
            }],
        }))
    };
    Some(match lower {
        "root" => PseudoClass::Root,
        "empty" => PseudoClass::Empty,
        "scope" => PseudoClass::Scope,
        "host" => PseudoClass::Host(None),
        "defined" => PseudoClass::Defined,
        "link" => PseudoClass::Link { any: false },
        "any-link" | "-webkit-any-link" => PseudoClass::Link { any: true },
        "first-child" => nth(false, false),
        "last-child" => nth(true, false),
        "first-of-type" => nth(false, true),
        "last-of-type" => nth(true, true),
        "only-child" => only(false),
        "only-of-type" => only(true),
        _ => {
            let action = ACTIONS.iter().find(|(name, _)| *name == lower);
            let form = FORMS.iter().find(|(name, _)| *name == lower);
            return match (action, form) {
                (Some((_, action)), _) => Some(PseudoClass::Action(*action)),
                (_, Some((_, state))) => Some(PseudoClass::Form(*state)),
                _ => None,
            };
        }
    })
}

/// What a user does with an element, by name.
const ACTIONS: [(&str, Action); 13] = [
    ("active", Action::Active),
    ("focus", Action::Focus),
    ("focus-visible", Action::FocusVisible),
    ("focus-within", Action::FocusWithin),
    ("fullscreen", Action::Fullscreen),
    ("hover", Action::Hover),
    ("modal", Action::Modal),
    ("popover-open", Action::PopoverOpen),
    ("target", Action::Target),
    ("target-within", Action::TargetWithin),
    ("user-invalid", Action::UserInvalid),
    ("user-valid", Action::UserValid),
    ("visited", Action::Visited),
];

/// What a form control's markup says, by name; the first of several names is printed.
const FORMS: [(&str, FormState); 17] = [
    ("autofill", FormState::Autofill),
    ("checked", FormState::Checked),
    ("default", FormState::Default),
    ("disabled", FormState::Disabled),
    ("enabled", FormState::Enabled),
    ("in-range", FormState::InRange),
    ("indeterminate", FormState::Indeterminate),
    ("invalid", FormState::Invalid),
    ("open", FormState::Open),
    ("optional", FormState::Optional),
    ("out-of-range", FormState::OutOfRange),
    ("placeholder-shown", FormState::PlaceholderShown),
    ("read-only", FormState::ReadOnly),
    ("read-write", FormState::ReadWrite),
    ("required", FormState::Required),
    ("valid", FormState::Valid),
    ("-webkit-autofill", FormState::Autofill),
];

/// The name of an action.
pub(super) fn of_action(action: Action) -> &'static str {
    let found = ACTIONS.iter().find(|(_, known)| *known == action);
    found.map_or("", |(name, _)| name)
}

/// The name of a form control's state.
pub(super) fn of_form(state: FormState) -> &'static str {
    let found = FORMS.iter().find(|(_, known)| *known == state);
    found.map_or("", |(name, _)| name)
}

/// The name of `:only-child` or `:only-of-type`, where a list is what that stands for.
pub(super) fn only(list: &SelectorList) -> Option<&'static str> {
    ["only-child", "only-of-type"].into_iter().find(|name| {
        let stands_for = pseudo_class(name);
        matches!(stands_for, Some(PseudoClass::Is(known)) if *known == *list)
    })
}

/// Whether the standards have a pseudo-class of that name that is not matched yet.
pub(super) fn is_standard(lower: &str) -> bool {
    matches!(
        lower,
        "active-view-transition"
            | "blank"
            | "buffering"
            | "current"
            | "future"
            | "has-slotted"
            | "heading"
            | "local-link"
            | "muted"
            | "past"
            | "paused"
            | "picture-in-picture"
            | "playing"
            | "seeking"
            | "stalled"
            | "volume-locked"
    )
}
