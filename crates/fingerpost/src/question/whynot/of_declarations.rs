//! Each declaration of a rule: whether it is valid, wins, and has an effect.

use super::Question;
use super::answer::{Finding, Obstacle};
use super::idle_value;
use super::remedy::{DeclarationSite, Loser, Winner, class_alone, remedies};
use crate::cascade::{Appearance, Contender, Rank, Standing};
use crate::page::{DeclarationRef, ExcludedBecause, PropertyName, SheetRef, StyleRule};
use crate::question::codes::{ArrivalKind, ObstacleKind};
use crate::question::describe;
use crate::selector::Selector;
use crate::sheet::DeclarationId;
use crate::value::PropertyId;
use crate::value::declared::{self, Meaning, Name};
use crate::value::longhand::Piece;
use crate::value::substitution::value_tokens;

/// A declaration that could win.
struct Usable {
    reference: DeclarationRef,
    name: PropertyName,
    /// As it is named in sentences.
    shown: String,
    /// The same, where it is one of several.
    several: Option<String>,
}

impl Question<'_, '_> {
    /// Each declaration of a rule that matches: whether it is valid, wins, and has an effect.
    pub(super) fn declarations(
        &self,
        sheet_ref: SheetRef,
        ids: &[DeclarationId],
        selector: Option<&str>,
        finding: &mut Finding,
    ) {
        let style_sheet = self.styles.sheet(sheet_ref);
        let sheet = style_sheet.sheet();
        for id in ids {
            let Some(Usable {
                reference,
                name,
                shown,
                several,
            }) = self.usable(sheet_ref, *id, ids.len(), finding)
            else {
                continue;
            };
            let declaration = sheet.declaration(*id);
            let mut beaten: Vec<Obstacle> = Vec::new();
            let mut won = 0;
            for longhand in longhands(&name) {
                let property = self.styles.physical(self.target, &longhand);
                let contest = self.styles.contest(self.target, &property);
                let excluded = contest.excluded.iter().any(|e| {
                    e.declaration == reference && matches!(e.because, ExcludedBecause::Blocked(_))
                });
                let mine = contest
                    .contest
                    .contenders
                    .iter()
                    .find(|c| c.declaration == reference);
                let Some(mine) = mine.filter(|_| !excluded) else {
                    continue;
                };
                match mine.standing {
                    Standing::Loses { to, .. } => {
                        let winner = &contest.contest.contenders[to];
                        let obstacle =
                            self.lost(reference, mine.rank, winner, &shown, several.clone());
                        if !beaten.iter().any(|b| b.place == obstacle.place) {
                            beaten.push(obstacle);
                            self.help(reference, mine.rank, winner, selector, finding);
                        }
                    }
                    _ => {
                        let value = self.styles.value(self.target, &property);
                        let Some(why) = &value.fell_through else {
                            won += 1;
                            continue;
                        };
                        // It wins, and is nothing all the same.
                        let mut obstacle = Obstacle::new(ObstacleKind::InvalidValue, why.clone());
                        obstacle.declaration = several.clone();
                        if !beaten.contains(&obstacle) {
                            beaten.push(obstacle);
                        }
                    }
                }
            }
            finding.obstacles.extend(beaten);
            if won > 0 {
                match self.effectless(&name, sheet.value_source(declaration)) {
                    Some(mut obstacle) => {
                        obstacle.declaration = several;
                        finding.obstacles.push(obstacle);
                    }
                    None => finding.effective.push(shown),
                }
            }
        }
    }

    /// A declaration with a known property and a valid value; of any other the obstacle is noted.
    fn usable(
        &self,
        sheet: SheetRef,
        id: DeclarationId,
        count: usize,
        finding: &mut Finding,
    ) -> Option<Usable> {
        let reference = DeclarationRef { sheet, id };
        let written = describe::name_of(self.styles, reference);
        let shown = format!("{written}: {}", describe::value_of(self.styles, reference));
        let several = (count > 1).then(|| shown.clone());
        if let Some(mut obstacle) = self.unusable(reference) {
            obstacle.declaration = several;
            finding.obstacles.push(obstacle);
            return None;
        }
        Some(Usable {
            reference,
            name: PropertyName::named(&written)?,
            shown,
            several,
        })
    }

    /// Unknown, or with a value that does not fit.
    pub(super) fn unusable(&self, reference: DeclarationRef) -> Option<Obstacle> {
        let style_sheet = self.styles.sheet(reference.sheet);
        let place = describe::declaration_place(self.styles, reference);
        match (
            &style_sheet.reading(reference.id).name,
            style_sheet.misfit(reference.id),
        ) {
            (Name::Unknown, _) => {
                let name = describe::name_of(self.styles, reference);
                let mut obstacle = Obstacle::new(
                    ObstacleKind::UnknownProperty,
                    format!("no property is called '{name}'"),
                );
                let near = PropertyId::nearest(&name);
                obstacle
                    .hints
                    .extend(near.map(|near| format!("do you mean '{near}'?")));
                Some(obstacle.at(place))
            }
            (_, Some(mismatch)) => {
                let sentence = describe::misfit(self.styles, reference, &mismatch);
                Some(Obstacle::new(ObstacleKind::InvalidValue, sentence).at(place))
            }
            _ => None,
        }
    }

    fn lost(
        &self,
        reference: DeclarationRef,
        rank: Rank,
        winner: &Contender<DeclarationRef>,
        shown: &str,
        several: Option<String>,
    ) -> Obstacle {
        let own = describe::rule_of(self.styles, self.target, reference);
        let theirs = describe::rule_of(self.styles, self.target, winner.declaration);
        let place = describe::declaration_place(self.styles, winner.declaration);
        let mine = describe::declaration_place(self.styles, reference);
        let criterion = rank.compare(&winner.rank).criterion;
        let sentence = describe::loss(
            criterion,
            (&rank, &mine, own.layer.as_deref()),
            (&winner.rank, &place, theirs.layer.as_deref()),
        );
        let value = describe::value_of(self.styles, winner.declaration);
        let name = describe::name_of(self.styles, winner.declaration);
        let mut obstacle = Obstacle::new(
            ObstacleKind::Beaten,
            format!(
                "{shown} is beaten by {name}: {value} of {}, {place}: it {sentence}",
                match theirs.arrival {
                    ArrivalKind::Attribute => "the style attribute",
                    _ => &theirs.selector,
                }
            ),
        );
        obstacle.declaration = several;
        obstacle.at(place)
    }

    fn help(
        &self,
        reference: DeclarationRef,
        rank: Rank,
        winner: &Contender<DeclarationRef>,
        selector: Option<&str>,
        finding: &mut Finding,
    ) {
        let theirs = describe::rule_of(self.styles, self.target, winner.declaration);
        let (mine, other) = (
            DeclarationSite::of(self.styles, reference),
            DeclarationSite::of(self.styles, winner.declaration),
        );
        let loser = Loser {
            rank,
            selector,
            stand: Some(&mine),
        };
        let class = class_alone(self.styles, self.target, winner.declaration);
        let beaten = Winner {
            class: class.as_deref(),
            rank: winner.rank,
            place: &other.at,
            rule: &theirs.selector,
            layer: theirs.layer.as_deref(),
            sheet: winner.declaration.sheet,
            stand: &other,
        };
        let wanted = (
            describe::name_of(self.styles, reference),
            describe::value_of(self.styles, reference),
        );
        for mut remedy in remedies(self.styles, self.target, &loser, &beaten) {
            remedy.wants.push(wanted.clone());
            let known = finding.remedies.iter_mut().find(|known| {
                known.kind == remedy.kind
                    && (known.sentence == remedy.sentence
                        || known.selector.is_some() && known.selector == remedy.selector
                        || known.test_only && remedy.test_only)
            });
            match known {
                // One change may help several declarations.
                Some(known) if !known.wants.contains(&wanted) => known.wants.push(wanted.clone()),
                Some(_) => {}
                None => finding.remedies.push(remedy),
            }
        }
        finding.remedies.sort_by_key(|r| r.test_only);
    }

    /// A rule that does not match: what its declarations would meet if it did.
    pub(super) fn even_so(
        &self,
        sheet_ref: SheetRef,
        ids: &[DeclarationId],
        rule: &StyleRule,
        selector: Option<&Selector>,
        finding: &mut Finding,
    ) {
        let style_sheet = self.styles.sheet(sheet_ref);
        let sheet = style_sheet.sheet();
        for id in ids {
            let Some(Usable {
                reference,
                name,
                shown,
                several,
            }) = self.usable(sheet_ref, *id, ids.len(), finding)
            else {
                continue;
            };
            let declaration = sheet.declaration(*id);
            let rank = Rank {
                origin: rule.origin,
                important: declaration.important.is_some(),
                context: rule.depth,
                attached: false,
                layer: rule.layer_order,
                specificity: selector.map(|s| s.specificity).unwrap_or_default(),
                proximity: u32::MAX,
                order: Appearance::new(rule.sheet, id.index() as u32),
            };
            for longhand in longhands(&name) {
                let property = self.styles.physical(self.target, &longhand);
                let contest = self.styles.contest(self.target, &property).contest;
                let Some(winner) = contest.winning() else {
                    continue;
                };
                if rank.compare(&winner.rank).ordering.is_lt() {
                    let mut obstacle = self.lost(reference, rank, winner, &shown, several.clone());
                    obstacle.sentence = format!("even if it matched, {}", obstacle.sentence);
                    finding.obstacles.push(obstacle);
                    break;
                }
            }
        }
    }

    pub(super) fn effectless(&self, name: &PropertyName, value: &str) -> Option<Obstacle> {
        let meaning = match name {
            PropertyName::Known(id) => declared::meaning(*id, value, &value_tokens(value)),
            PropertyName::Custom(_) => Meaning::Free,
        };
        let pieces: &[(PropertyId, Piece)] = match &meaning {
            Meaning::Fits(pieces) => pieces,
            _ => &[],
        };
        let mut reasons = longhands(name).into_iter().map(|longhand| {
            let own = pieces
                .iter()
                .find(|(property, _)| longhand == PropertyName::Known(*property));
            let text = own
                .and_then(|(_, piece)| piece.text(value))
                .unwrap_or(value);
            let property = self.styles.physical(self.target, &longhand);
            idle_value::no_effect(self.styles, self.target, &property, text)
        });
        let first = reasons.next()??;
        // A shorthand has no effect where none of its longhands has.
        reasons
            .all(|reason| reason.is_some())
            .then(|| Obstacle::new(ObstacleKind::NoEffect, first))
    }
}

pub(super) fn longhands(name: &PropertyName) -> Vec<PropertyName> {
    match name {
        PropertyName::Known(id) => {
            let reset: Vec<PropertyId> = id
                .facts()
                .reset_only
                .iter()
                .filter_map(|name| PropertyId::named(name))
                .flat_map(|p| p.longhands().iter().copied())
                .collect();
            let all = id.longhands().iter().copied();
            all.filter(|p| !reset.contains(p))
                .map(PropertyName::Known)
                .collect()
        }
        PropertyName::Custom(_) => vec![name.clone()],
    }
}
