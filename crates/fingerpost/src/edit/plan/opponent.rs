//! What a new declaration has to beat.

use crate::cascade::Rank;
use crate::edit::plan::winner::longhands;
use crate::page::{DeclarationRef, PropertyName, Styles, Target};

/// What must be beaten for a property of one target.
pub(in crate::edit) struct Opponent {
    pub rank: Rank,
    pub reference: DeclarationRef,
}

/// The strongest of what wins the longhands of a property.
pub(in crate::edit) fn opponent(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
) -> Option<Opponent> {
    let longhands = longhands(property);
    let all = longhands.iter().filter_map(|longhand| {
        let contest = styles.contest(target, longhand).contest;
        let winner = contest.winning()?;
        Some(Opponent {
            rank: winner.rank,
            reference: winner.declaration,
        })
    });
    all.max_by(|a, b| a.rank.compare(&b.rank).ordering)
}
