//! A piece of a text: of the file as it was, or put there by a change.

use crate::draft::ids::{EditId, Ids};
use crate::text::Cut;
use serde::{Deserialize, Serialize};

/// One replacement of one edit: the edit, and which of its replacements of the text.
pub(super) type Mark = (EditId, u32);

/// Where a piece comes from.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged, deny_unknown_fields)]
pub(super) enum Piece {
    /// A part of the file's own text: from one byte offset to another.
    Own {
        base: (u32, u32),
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        gone: Vec<Mark>,
    },
    /// What an edit put in.
    Put {
        by: Mark,
        text: String,
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        gone: Vec<Mark>,
    },
}

impl Piece {
    pub(super) fn gone(&self) -> &[Mark] {
        match self {
            Piece::Own { gone, .. } | Piece::Put { gone, .. } => gone,
        }
    }

    pub(super) fn gone_mut(&mut self) -> &mut Vec<Mark> {
        match self {
            Piece::Own { gone, .. } | Piece::Put { gone, .. } => gone,
        }
    }

    pub(super) fn by(&self) -> Option<Mark> {
        match self {
            Piece::Own { .. } => None,
            Piece::Put { by, .. } => Some(*by),
        }
    }

    pub(super) fn length(&self) -> usize {
        match self {
            Piece::Own { base, .. } => (base.1 - base.0) as usize,
            Piece::Put { text, .. } => text.len(),
        }
    }

    pub(super) fn text<'a>(&'a self, base: &'a str) -> &'a str {
        match self {
            Piece::Own {
                base: (start, end), ..
            } => base.cut(*start as usize..*end as usize),
            Piece::Put { text, .. } => text,
        }
    }

    pub(super) fn is_shown(&self, on: &Ids) -> bool {
        self.by().is_none_or(|(id, _)| on.contains(id))
            && !self.gone().iter().any(|(id, _)| on.contains(*id))
    }

    /// Takes the rest of a piece, from an offset in it, off.
    pub(super) fn split_off(&mut self, at: usize) -> Piece {
        match self {
            Piece::Own { base, gone } => {
                let middle = base.0 + at as u32;
                let end = std::mem::replace(&mut base.1, middle);
                Piece::Own {
                    base: (middle, end),
                    gone: gone.clone(),
                }
            }
            Piece::Put { by, text, gone } => Piece::Put {
                by: *by,
                text: text.split_off(at),
                gone: gone.clone(),
            },
        }
    }
}
