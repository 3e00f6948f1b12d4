//! The contest for a property of a target: who competes, who wins, and who stays out of it.

use std::sync::Arc;

use crate::cascade::{Contest, Rank, Rollback};
use crate::page::Blocked;
use crate::page::style::styles::Styles;
use crate::page::target::{DeclarationRef, PropertyName, Target};
use crate::value::declared::Meaning;
use crate::value::grammar::Mismatch;

/// Why a declaration that matches takes no part in a contest.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum ExcludedBecause {
    /// A condition around it does not hold, or is not evaluated.
    Blocked(Arc<Blocked>),
    /// Its value does not fit the property.
    Misfit(Mismatch),
}

/// A declaration that would compete, but for a reason does not.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Excluded {
    /// The declaration.
    pub declaration: DeclarationRef,
    /// The rank that it would have.
    pub rank: Rank,
    /// The reason.
    pub because: ExcludedBecause,
}

/// The contest for one property of one element, and who stayed out of it.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct PropertyContest {
    /// The contest.
    pub contest: Contest<DeclarationRef>,
    /// Those that take no part, in the order they would have had.
    pub excluded: Vec<Excluded>,
}

impl Styles<'_> {
    /// The declaration that wins the contest for a longhand or custom property: the same as the contest's head, found
    /// without the others.
    pub(in crate::page) fn winner(
        &self,
        target: &Target,
        property: &PropertyName,
    ) -> Option<DeclarationRef> {
        let mut best: Option<(DeclarationRef, Rank)> = None;
        let declarations = self.declarations_of(target);
        for (declaration, rank, blocked) in self.about(&declarations, target, property) {
            let (declaration, rank) = (*declaration, *rank);
            if blocked.is_some()
                || best.is_some_and(|(_, other)| rank.compare(&other).ordering.is_lt())
            {
                continue;
            }
            let styles = self.sheet(declaration.sheet);
            match &styles.reading(declaration.id).meaning {
                Meaning::Misfit(_) => {}
                // What rolls back needs all the others.
                Meaning::Wide(word) if word.starts_with("revert") => {
                    let contest = self.contest(target, property).contest;
                    return contest.winning().map(|winner| winner.declaration);
                }
                _ => best = Some((declaration, rank)),
            }
        }
        best.map(|(declaration, _)| declaration)
    }

    /// The contest for one longhand or custom property.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let late = page.ask().find_one(".late")?;
    /// let contest = page.styles().contest(&late, &"color".parse()?).contest;
    /// assert_eq!(contest.contenders.len(), 2);
    /// assert!(contest.winning().is_some());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn contest(&self, target: &Target, property: &PropertyName) -> PropertyContest {
        let mut competing = Vec::new();
        let mut excluded = Vec::new();
        for (declaration, rank, blocked) in self.about_in_order(target, property) {
            if let Some(blocked) = blocked {
                excluded.push(Excluded {
                    declaration,
                    rank,
                    because: ExcludedBecause::Blocked(blocked),
                });
                continue;
            }
            let styles = self.sheet(declaration.sheet);
            if let Some(mismatch) = styles.misfit(declaration.id) {
                excluded.push(Excluded {
                    declaration,
                    rank,
                    because: ExcludedBecause::Misfit(mismatch),
                });
                continue;
            }
            competing.push((declaration, rank));
        }
        excluded.sort_by(|a, b| b.rank.compare(&a.rank).ordering);
        let contest = Contest::decide(competing, |declaration| {
            let styles = self.sheet(declaration.sheet);
            match &styles.reading(declaration.id).meaning {
                Meaning::Wide(word) if &**word == "revert" => Rollback::Reverts,
                Meaning::Wide(word) if &**word == "revert-layer" => Rollback::RevertsLayer,
                _ => Rollback::Gives,
            }
        });
        PropertyContest { contest, excluded }
    }
}
