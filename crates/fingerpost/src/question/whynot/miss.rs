//! Why a rule's selectors miss the element.

use super::Question;
use super::answer::Obstacle;
use crate::page::StyleRule;
use crate::question::ElementSummary;
use crate::question::codes::ObstacleKind;
use crate::question::describe::fold;
use crate::question::state_needed::StateNeeded;
use crate::selector::{Matcher, Miss, Relation, Selector, SelectorList, State};
use crate::sheet::{RuleId, Sheet};
use crate::text::TextRange;

impl Question<'_, '_> {
    /// Why none of a rule's selectors match.
    pub(super) fn missed(
        &self,
        rule: &StyleRule,
        list: &SelectorList,
        sheet: &Sheet,
    ) -> Option<Obstacle> {
        if let Some(scope) = &rule.scope {
            let matcher = Matcher::new(self.page.document(), self.page.states());
            let roots = matcher
                .inside(rule.host)
                .scope_roots(scope, self.target.element);
            if roots.is_empty() {
                return Some(Obstacle::new(
                    ObstacleKind::NotMatched,
                    format!(
                        "{} is not in the scope of the @scope rule around it",
                        self.label()
                    ),
                ));
            }
        }
        let texts = list
            .selectors
            .iter()
            .map(|s| sheet.slice_in(rule.rule, s.span));
        let whole = texts.collect::<Vec<_>>().join(", ");
        self.misses(list, &fold(&whole), Some((sheet, rule.rule)))
    }

    /// Why a selector list misses the target: of the selector that comes furthest. `sheet` has the
    /// text of its spans; without it they are of `source`.
    pub(super) fn misses(
        &self,
        list: &SelectorList,
        source: &str,
        sheet: Option<(&Sheet, RuleId)>,
    ) -> Option<Obstacle> {
        let matcher = Matcher::new(self.page.document(), self.page.states());
        let element = self.target.element;
        let slice = |span: TextRange| match sheet {
            Some((sheet, rule)) => fold(sheet.slice_in(rule, span)),
            None => fold(&source[span]),
        };
        let mut best: Option<(usize, Obstacle)> = None;
        for selector in &list.selectors {
            let (progress, obstacle) = match matcher.explain(selector, element) {
                None if selector.pseudo_element == self.target.pseudo => return None,
                None => {
                    let wanted = selector.pseudo_element.as_ref();
                    let sentence = match (wanted, &self.target.pseudo) {
                        (Some(pseudo), _) => {
                            format!(
                                "{} is about {pseudo} of it, not about the element",
                                slice(selector.span)
                            )
                        }
                        (None, Some(pseudo)) => {
                            format!(
                                "{} is about the element, not about {pseudo} of it",
                                slice(selector.span)
                            )
                        }
                        (None, None) => continue,
                    };
                    (
                        usize::MAX,
                        Obstacle::new(ObstacleKind::NotMatched, sentence),
                    )
                }
                Some(miss) => {
                    let text = slice(selector.span);
                    let mut obstacle = Obstacle::new(
                        ObstacleKind::NotMatched,
                        self.miss_sentence(selector, &miss, &text, &slice),
                    );
                    let states = miss.failing.iter().map(|span| slice(*span));
                    let compound = slice(selector.compounds[miss.compound].1.span);
                    obstacle
                        .states
                        .extend(states.filter_map(|state| state_needed(&state, &compound, &miss)));
                    let near = matcher.near(&text, element);
                    obstacle.hints.extend(
                        near.into_iter()
                            .map(|n| format!("{} would match: {}", n.selector, n.change)),
                    );
                    let failing = miss.failing.len();
                    let progress = (selector.compounds.len() - miss.compound) * 100;
                    (progress.saturating_sub(failing), obstacle)
                }
            };
            if best.as_ref().is_none_or(|(known, _)| progress > *known) {
                best = Some((progress, obstacle));
            }
        }
        best.map(|(_, obstacle)| obstacle)
    }

    fn miss_sentence(
        &self,
        selector: &Selector,
        miss: &Miss,
        text: &str,
        slice: &dyn Fn(TextRange) -> String,
    ) -> String {
        let name = |id| {
            let summary = ElementSummary::new(self.page, id);
            format!("{} at {}", summary.label(), summary.place)
        };
        let compound = slice(selector.compounds[miss.compound].1.span);
        let failing: Vec<String> = miss.failing.iter().map(|span| slice(*span)).collect();
        let lacks = if failing.is_empty() || failing.concat() == compound {
            String::new()
        } else {
            format!(" (it is not {})", failing.join(" and not "))
        };
        let mut sentence = match (miss.relation, miss.at) {
            (Relation::Subject, Some(at)) => {
                format!(
                    "{text} does not match: {} is not {}",
                    name(at),
                    failing.join(" and not ")
                )
            }
            (Relation::Parent, Some(at)) => {
                format!(
                    "{text} does not match: the parent, {}, is not {compound}{lacks}",
                    name(at)
                )
            }
            (Relation::Ancestor, Some(at)) => format!(
                "{text} does not match: no ancestor is {compound}; the nearest to it is {}{lacks}",
                name(at)
            ),
            (Relation::PreviousSibling, Some(at)) => format!(
                "{text} does not match: the element before it, {}, is not {compound}{lacks}",
                name(at)
            ),
            (Relation::EarlierSibling, Some(at)) => format!(
                "{text} does not match: no element before it is {compound}; the nearest to it is \
                 {}{lacks}",
                name(at)
            ),
            (Relation::PreviousSibling | Relation::EarlierSibling, None) => {
                format!("{text} does not match: no element is before it")
            }
            (_, None) => format!("{text} does not match: there is no element around it"),
        };
        if let Some(further) = miss.further {
            sentence.push_str(&format!("; {} is, further off", name(further)));
        }
        sentence
    }
}

/// The state that a selector asks for and an element is not in.
fn state_needed(state: &str, compound: &str, miss: &Miss) -> Option<StateNeeded> {
    State::named(state.strip_prefix(':')?)?;
    let bare = compound.replace(state, "");
    let of = match miss.relation {
        Relation::Subject => None,
        _ if bare.is_empty() => Some("*".to_owned()),
        _ => Some(bare),
    };
    Some(StateNeeded {
        of,
        state: state.to_owned(),
    })
}
