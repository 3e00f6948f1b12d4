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
        "active" => PseudoClass::Action(Action::Active),
        "focus" => PseudoClass::Action(Action::Focus),
        "focus-visible" => PseudoClass::Action(Action::FocusVisible),
        "focus-within" => PseudoClass::Action(Action::FocusWithin),
        "fullscreen" => PseudoClass::Action(Action::Fullscreen),
        "hover" => PseudoClass::Action(Action::Hover),
        "modal" => PseudoClass::Action(Action::Modal),
        "popover-open" => PseudoClass::Action(Action::PopoverOpen),
        "target" => PseudoClass::Action(Action::Target),
        "target-within" => PseudoClass::Action(Action::TargetWithin),
        "user-invalid" => PseudoClass::Action(Action::UserInvalid),
        "user-valid" => PseudoClass::Action(Action::UserValid),
        "visited" => PseudoClass::Action(Action::Visited),
        "autofill" | "-webkit-autofill" => PseudoClass::Form(FormState::Autofill),
        "checked" => PseudoClass::Form(FormState::Checked),
        "default" => PseudoClass::Form(FormState::Default),
        "disabled" => PseudoClass::Form(FormState::Disabled),
        "enabled" => PseudoClass::Form(FormState::Enabled),
        "in-range" => PseudoClass::Form(FormState::InRange),
        "indeterminate" => PseudoClass::Form(FormState::Indeterminate),
        "invalid" => PseudoClass::Form(FormState::Invalid),
        "open" => PseudoClass::Form(FormState::Open),
        "optional" => PseudoClass::Form(FormState::Optional),
        "out-of-range" => PseudoClass::Form(FormState::OutOfRange),
        "placeholder-shown" => PseudoClass::Form(FormState::PlaceholderShown),
        "read-only" => PseudoClass::Form(FormState::ReadOnly),
        "read-write" => PseudoClass::Form(FormState::ReadWrite),
        "required" => PseudoClass::Form(FormState::Required),
        "valid" => PseudoClass::Form(FormState::Valid),
        _ => return None,
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
