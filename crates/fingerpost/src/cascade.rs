//! The cascade: CSS Cascade 5 and 6.
//!
//! A [`Contest`] is all declarations that compete for one property of one element, strongest first.
//! The order is that of [`Rank`], whose fields are in the order of the standard's criteria, so
//! that the first field in which two ranks differ is the [`Criterion`] that decided between them.
//!
//! ```
//! use fingerpost::cascade::{Appearance, Criterion, LayerOrder, Origin, Rank};
//! use fingerpost::selector::Specificity;
//!
//! let rule = Rank {
//!     origin: Origin::Author,
//!     important: false,
//!     context: 0,
//!     attached: false,
//!     layer: LayerOrder::UNLAYERED,
//!     specificity: Specificity::default(),
//!     proximity: u32::MAX,
//!     order: Appearance::new(0, 7),
//! };
//! let later = Rank { order: Appearance::new(1, 0), ..rule };
//! let layered = Rank { layer: LayerOrder(3), ..later };
//! assert_eq!(rule.compare(&later).criterion, Criterion::Order);
//! assert!(layered.compare(&rule).ordering.is_lt());
//! assert_eq!(layered.compare(&rule).criterion, Criterion::Layers);
//! ```

use std::cmp::Ordering;
use std::fmt;

use serde::{Deserialize, Serialize};

use crate::selector::Specificity;

/// Where a declaration comes from (§ 6.2).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Origin {
    /// The browser's own sheet.
    UserAgent,
    /// The reader's sheet.
    User,
    /// Attributes of the markup that speak of style, such as `width`: the author's, but weaker
    /// than any sheet of the author's.
    Hint,
    /// The site's sheets, its embedded styles and style attributes.
    Author,
}

impl fmt::Display for Origin {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Origin::UserAgent => "user-agent",
            Origin::User => "user",
            Origin::Hint => "presentational attribute",
            Origin::Author => "author",
        })
    }
}

/// The criteria of the cascade sort order, in the standard's order (§ 6.1).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Criterion {
    /// Origin and importance.
    OriginAndImportance,
    /// Context: which shadow tree it comes from.
    Context,
    /// Element-attached styles: a `style` attribute against rules.
    ElementAttached,
    /// Cascade layers.
    Layers,
    /// Specificity.
    Specificity,
    /// Scoping proximity.
    Proximity,
    /// Order of appearance.
    Order,
}

impl fmt::Display for Criterion {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Criterion::OriginAndImportance => "origin and importance",
            Criterion::Context => "context",
            Criterion::ElementAttached => "element-attached styles",
            Criterion::Layers => "layers",
            Criterion::Specificity => "specificity",
            Criterion::Proximity => "scoping proximity",
            Criterion::Order => "order of appearance",
        })
    }
}

/// The place of a cascade layer in the layer order; what is in no layer has the largest.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct LayerOrder(pub u32);

impl LayerOrder {
    /// The place of declarations that are in no layer.
    pub const UNLAYERED: LayerOrder = LayerOrder(u32::MAX);
}

/// Where a declaration stands among all others. The greater rank wins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Rank {
    /// Its origin.
    pub origin: Origin,
    /// Whether it is `!important`.
    pub important: bool,
    /// How many shadow trees its sheet is in.
    pub context: u32,
    /// Whether it is in a `style` attribute.
    pub attached: bool,
    /// Its layer.
    pub layer: LayerOrder,
    /// The specificity of its selector.
    pub specificity: Specificity,
    /// How many steps lie between the element and the root of the rule's scope; a rule without a
    /// scope is infinitely far.
    pub proximity: u32,
    /// Its position in the order of appearance.
    pub order: Appearance,
}

/// Where a declaration is in the order of appearance (§ 6.1): by its sheet first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Appearance {
    /// The sheet, in the order in which the page has them.
    pub sheet: u32,
    /// The declaration in it.
    pub declaration: u32,
}

impl Appearance {
    /// The declaration of that number in the sheet of that number.
    pub const fn new(sheet: u32, declaration: u32) -> Appearance {
        Appearance { sheet, declaration }
    }
}

/// How two ranks compare.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Comparison {
    /// The greater wins.
    pub ordering: Ordering,
    /// The first criterion on which they differ.
    pub criterion: Criterion,
}

impl Rank {
    /// § 6.2: normal declarations rise from the browser to the author, important ones fall.
    fn level(&self) -> i8 {
        let rise = match self.origin {
            Origin::UserAgent => 1,
            Origin::User => 2,
            Origin::Hint => 3,
            Origin::Author => 4,
        };
        if self.important { 10 - rise } else { rise }
    }

    /// § 6.4.2: among important declarations the earlier layer wins.
    fn layer_level(&self) -> i64 {
        let place = i64::from(self.layer.0);
        if self.important { -place } else { place }
    }

    /// § 6.1: of two trees the outer one's normal declarations win, and the inner one's important
    /// ones.
    fn context_level(&self) -> i64 {
        let depth = i64::from(self.context);
        if self.important { depth } else { -depth }
    }

    /// How two declarations compare.
    pub fn compare(&self, other: &Rank) -> Comparison {
        let steps = [
            (
                self.level().cmp(&other.level()),
                Criterion::OriginAndImportance,
            ),
            (
                self.context_level().cmp(&other.context_level()),
                Criterion::Context,
            ),
            (
                self.attached.cmp(&other.attached),
                Criterion::ElementAttached,
            ),
            (
                self.layer_level().cmp(&other.layer_level()),
                Criterion::Layers,
            ),
            (
                self.specificity.cmp(&other.specificity),
                Criterion::Specificity,
            ),
            (other.proximity.cmp(&self.proximity), Criterion::Proximity),
        ];
        let (ordering, criterion) = steps
            .into_iter()
            .find(|(ordering, _)| ordering.is_ne())
            .unwrap_or((self.order.cmp(&other.order), Criterion::Order));
        Comparison {
            ordering,
            criterion,
        }
    }
}

/// How a contender fared.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Standing {
    /// It gives the value.
    Wins,
    /// Another one is stronger; the criterion is the first in which the two differ.
    Loses {
        /// The criterion.
        on: Criterion,
        /// The one it lost to, by its index in the contest.
        to: usize,
    },
    /// It is valid, but hands over to what is below it (`revert`, `revert-layer`).
    HandsOver,
}

/// One of the declarations of a contest.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Contender<D> {
    /// The declaration.
    pub declaration: D,
    /// Where it stands among the others.
    pub rank: Rank,
    /// How it fared.
    pub standing: Standing,
}

/// All declarations that compete for one property of one element, strongest first.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Contest<D> {
    /// The contenders.
    pub contenders: Vec<Contender<D>>,
    /// Which of them gives the value; none where they all hand over, or there is none.
    pub winner: Option<usize>,
}

/// What a declaration does when its turn comes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Rollback {
    /// It gives the value.
    Gives,
    /// `revert`: the value is what the origins below say.
    Reverts,
    /// `revert-layer`: the value is what the layers and origins below say.
    RevertsLayer,
}

impl<D> Contest<D> {
    /// Sorts the declarations and finds the winner. `turn` gives the standing of each.
    pub fn decide(declarations: Vec<(D, Rank)>, turn: impl Fn(&D) -> Rollback) -> Self {
        let mut contenders: Vec<Contender<D>> = declarations
            .into_iter()
            .map(|(declaration, rank)| Contender {
                declaration,
                rank,
                standing: Standing::HandsOver,
            })
            .collect();
        contenders.sort_by(|a, b| b.rank.compare(&a.rank).ordering);
        let winner = find_winner(&contenders, turn);
        let strongest = winner.unwrap_or(0);
        for at in 0..contenders.len() {
            let rank = contenders[at].rank;
            contenders[at].standing = match winner {
                Some(winner) if at == winner => Standing::Wins,
                Some(winner) if at > winner => Standing::Loses {
                    on: rank.compare(&contenders[strongest].rank).criterion,
                    to: winner,
                },
                _ => Standing::HandsOver,
            };
        }
        Contest { contenders, winner }
    }

    /// The winner itself.
    pub fn winning(&self) -> Option<&Contender<D>> {
        self.winner.map(|at| &self.contenders[at])
    }
}

/// § 7.3.3 and § 7.3.4: rolling back goes to the next contender that the rollback does not remove.
fn find_winner<D>(contenders: &[Contender<D>], turn: impl Fn(&D) -> Rollback) -> Option<usize> {
    let mut at = 0;
    while at < contenders.len() {
        let rank = contenders[at].rank;
        let survives = |other: &Rank| match turn(&contenders[at].declaration) {
            Rollback::Gives => true,
            // Rolling back an author's declaration takes all of the author's out, important or
            // not, the markup's hints too.
            Rollback::Reverts => other.origin < rank.origin.min(Origin::Hint),
            Rollback::RevertsLayer => {
                other.origin < rank.origin
                    || (other.origin == rank.origin
                        && (other.layer != rank.layer
                            || other.attached != rank.attached
                            || other.context != rank.context)
                        && other.level() <= rank.level())
            }
        };
        if turn(&contenders[at].declaration) == Rollback::Gives {
            return Some(at);
        }
        at = (at + 1..contenders.len()).find(|next| survives(&contenders[*next].rank))?;
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    const BASE: Rank = Rank {
        origin: Origin::Author,
        important: false,
        context: 0,
        attached: false,
        layer: LayerOrder::UNLAYERED,
        specificity: Specificity::new(0, 1, 0),
        proximity: u32::MAX,
        order: Appearance::new(0, 0),
    };

    #[track_caller]
    fn beats(strong: Rank, weak: Rank, on: Criterion) {
        assert_eq!(
            strong.compare(&weak),
            Comparison {
                ordering: Ordering::Greater,
                criterion: on
            }
        );
    }

    #[test]
    fn criteria_decide_in_the_standards_order() {
        let important = Rank {
            important: true,
            ..BASE
        };
        let browser = Rank {
            origin: Origin::UserAgent,
            ..BASE
        };
        let attached = Rank {
            attached: true,
            ..BASE
        };
        let layered = Rank {
            layer: LayerOrder(1),
            ..BASE
        };
        let strong = Rank {
            specificity: Specificity::new(1, 0, 0),
            ..layered
        };
        let near = Rank {
            proximity: 1,
            ..BASE
        };
        let late = Rank {
            order: Appearance::new(0, 9),
            ..BASE
        };
        let inner = Rank { context: 1, ..BASE };
        let inner_attached = Rank {
            attached: true,
            ..inner
        };
        beats(BASE, inner_attached, Criterion::Context);
        beats(BASE, browser, Criterion::OriginAndImportance);
        beats(important, attached, Criterion::OriginAndImportance);
        beats(attached, strong, Criterion::ElementAttached);
        beats(BASE, strong, Criterion::Layers);
        beats(strong, layered, Criterion::Specificity);
        beats(near, late, Criterion::Proximity);
        beats(late, BASE, Criterion::Order);
    }

    #[test]
    fn importance_turns_origins_and_layers_over() {
        let mark = |rank: Rank| Rank {
            important: true,
            ..rank
        };
        let browser = mark(Rank {
            origin: Origin::UserAgent,
            ..BASE
        });
        let layered = mark(Rank {
            layer: LayerOrder(1),
            ..BASE
        });
        beats(browser, mark(BASE), Criterion::OriginAndImportance);
        beats(layered, mark(BASE), Criterion::Layers);
    }

    #[test]
    fn revert_hands_over_to_the_origin_below() {
        let browser = Rank {
            origin: Origin::UserAgent,
            ..BASE
        };
        let contest = Contest::decide(
            vec![
                ("mine", BASE),
                (
                    "revert",
                    Rank {
                        order: Appearance::new(0, 1),
                        ..BASE
                    },
                ),
                ("browser", browser),
            ],
            |d| {
                if *d == "revert" {
                    Rollback::Reverts
                } else {
                    Rollback::Gives
                }
            },
        );
        assert_eq!(contest.winning().unwrap().declaration, "browser");
    }
}
