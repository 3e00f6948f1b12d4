//! What a replacement is in its sheet: by this, not by its range, the same change is found in the source of a built sheet.

use crate::edit::expected::{Declared, InSheet};
use crate::sheet::{DeclarationId, RuleId};
use crate::text::{Replacement, TextRange, TextSize};

/// What a replacement is in its sheet.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Placement {
    /// The name of a declaration.
    Name(DeclarationId),
    /// The whole value of a declaration.
    Value(DeclarationId),
    /// A part of a declaration's value.
    PartOfValue(DeclarationId),
    /// The mark `!important` of a declaration, with what is before it.
    Important(DeclarationId),
    /// A whole declaration, removed.
    Removed(DeclarationId),
    /// A whole declaration, made a comment.
    CommentedOut(DeclarationId),
    /// New declarations after one.
    After(DeclarationId, Vec<Declared>),
    /// A text on its own line before a declaration.
    BeforeLine(DeclarationId, String),
    /// The selectors of a rule, or a part of them.
    Prelude(RuleId),
    /// What no declaration or selector says where to put: new rules, and the first declaration of a rule.
    Elsewhere,
}

impl Placement {
    /// The declaration that it is about.
    pub fn declaration(&self) -> Option<DeclarationId> {
        match self {
            Placement::Name(id)
            | Placement::Value(id)
            | Placement::PartOfValue(id)
            | Placement::Important(id)
            | Placement::Removed(id)
            | Placement::CommentedOut(id)
            | Placement::After(id, _)
            | Placement::BeforeLine(id, _) => Some(*id),
            Placement::Prelude(_) | Placement::Elsewhere => None,
        }
    }

    /// A replacement that is this.
    pub fn replacing(self, range: TextRange, with: impl Into<String>) -> Placed {
        Placed {
            replacement: Replacement {
                range,
                with: with.into(),
            },
            placement: self,
        }
    }

    /// An insertion that is this.
    pub fn at(self, at: TextSize, with: impl Into<String>) -> Placed {
        self.replacing(TextRange::empty(at), with)
    }
}

/// A replacement, and what it is.
#[derive(Clone, Debug)]
pub(super) struct Placed {
    pub replacement: Replacement,
    pub placement: Placement,
}

/// What the replacements of a proposal are, by their sheets.
#[derive(Clone, Debug, Default)]
pub(super) struct Placements(Vec<(InSheet, TextRange, Placement)>);

impl Placements {
    pub fn of(sheet: &InSheet, placed: &[Placed]) -> Placements {
        let all = placed.iter().map(|one| {
            let range = one.replacement.range;
            (sheet.clone(), range, one.placement.clone())
        });
        Placements(all.collect())
    }

    pub fn join(&mut self, others: Placements) {
        self.0.extend(others.0);
    }

    /// What a replacement of a sheet is.
    pub fn get(&self, sheet: &InSheet, range: TextRange) -> Placement {
        let mut all = self.0.iter();
        let found = all.find(|(of, at, _)| of == sheet && *at == range);
        found.map_or(Placement::Elsewhere, |(_, _, placement)| placement.clone())
    }
}
