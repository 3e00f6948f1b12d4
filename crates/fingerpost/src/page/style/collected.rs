//! From the rules that match a target to their declarations, each with its rank and what blocks it.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::cascade::{Appearance, LayerOrder, Origin, Rank};
use crate::page::style::declarations::{Declarations, Row};
use crate::page::style::styles::Styles;
use crate::page::target::{DeclarationRef, PropertyName, SheetRef, Target};
use crate::selector::Specificity;
use crate::sheet::RuleId;
use crate::value::PropertyId;
use crate::value::declared::Name;
use crate::value::logical;

impl Styles<'_> {
    /// Every declaration that matches a target, with the rank it has and what blocks it, in order
    /// of appearance; the style attribute's come last.
    pub fn declarations(&self, target: &Target) -> Vec<Row> {
        self.declarations_of(target).rows.clone()
    }

    pub(in crate::page) fn declarations_of(&self, target: &Target) -> Arc<Declarations> {
        if let Some(known) = self.known.declared.borrow().get(target) {
            return known.clone();
        }
        let declarations = match self.shared_declarations(target) {
            Some(shared) => shared,
            None => Arc::new(self.indexed(self.rows(target))),
        };
        let mut all = self.known.declared.borrow_mut();
        all.insert(target.clone(), declarations.clone());
        declarations
    }

    /// The declarations of an element that has none of its own: those of all such elements with the same rules.
    fn shared_declarations(&self, target: &Target) -> Option<Arc<Declarations>> {
        let matches = self.page.matches.get()?;
        if target.pseudo.is_some() {
            return None;
        }
        let element = self.page.document().element(target.element);
        if element.attribute_node("style").is_some() || self.hints(target.element).is_some() {
            return None;
        }
        let list = matches.list_of(element.index);
        let asks_containers = |rule: u32| self.page.rule(rule).containers.is_some();
        let mut rules = matches.list(list).iter().map(|(_, matched)| matched.rule);
        if rules.any(asks_containers) {
            return None;
        }
        let known = self.page.declarations_of_list(list as usize)?;
        let all = known.get_or_init(|| Arc::new(self.indexed(self.rows(target))));
        Some(all.clone())
    }

    fn indexed(&self, rows: Vec<Row>) -> Declarations {
        let mut all = Declarations {
            rows,
            ..Declarations::default()
        };
        for (at, (reference, ..)) in all.rows.iter().enumerate() {
            let styles = self.sheet(reference.sheet);
            match &styles.reading(reference.id).name {
                Name::Property(property) => {
                    for longhand in property.longhands() {
                        all.any_logical |= logical::is_logical(*longhand);
                        all.known.push((*longhand, at as u32));
                    }
                }
                Name::Custom(name) => all.custom.push((name.clone(), at as u32)),
                Name::Unknown => {}
            }
        }
        all.known.sort_unstable();
        all.custom.sort_unstable();
        all
    }

    /// The physical longhands and custom properties that the declarations of a target are about, whether
    /// they win or not.
    pub(crate) fn declared_properties(&self, target: &Target) -> Vec<PropertyName> {
        let declarations = self.declarations_of(target);
        let mut known: Vec<PropertyId> = declarations.known.iter().map(|(id, _)| *id).collect();
        known.dedup();
        if declarations.any_logical {
            let mode = self.writing_mode(target);
            for id in &mut known {
                *id = logical::physical(*id, mode);
            }
        }
        known.sort_unstable();
        known.dedup();
        let mut custom: Vec<&Arc<str>> = declarations.custom.iter().map(|(name, _)| name).collect();
        custom.dedup();
        let custom = custom
            .into_iter()
            .map(|name| PropertyName::Custom(name.clone()));
        let known = known.into_iter().map(PropertyName::Known);
        known.chain(custom).collect()
    }

    /// Whether any declaration of a target is about a property.
    pub(in crate::page) fn is_spoken_of(&self, target: &Target, property: &PropertyName) -> bool {
        let declarations = self.declarations_of(target);
        self.about(&declarations, target, property).next().is_some()
    }

    /// The declarations of a target that are about a property, under its physical and its logical
    /// name, by their indices; one that sets it under both comes twice.
    fn indices<'d>(
        &self,
        declarations: &'d Declarations,
        target: &Target,
        property: &PropertyName,
    ) -> impl Iterator<Item = u32> + use<'d> {
        let (mut known, mut twin, mut custom) = (None, None, None);
        match property {
            PropertyName::Custom(name) => custom = Some(declarations.of_custom(name)),
            PropertyName::Known(id)
                if id.facts().logical_group.is_empty()
                    || !(declarations.any_logical || logical::is_logical(*id)) =>
            {
                known = Some(declarations.of_known(*id));
            }
            PropertyName::Known(id) => {
                let mode = self.writing_mode(target);
                let physical = logical::physical(*id, mode);
                known = Some(declarations.of_known(physical));
                let logical = logical::logical(physical, mode);
                twin = logical.map(|logical| declarations.of_known(logical));
            }
        }
        let known = known.into_iter().flatten();
        known
            .chain(twin.into_iter().flatten())
            .chain(custom.into_iter().flatten())
    }

    /// The declarations of a target that are about a property; one that sets it under its physical and its
    /// logical name comes twice.
    pub(in crate::page) fn about<'d>(
        &self,
        declarations: &'d Declarations,
        target: &Target,
        property: &PropertyName,
    ) -> impl Iterator<Item = &'d Row> + use<'d> {
        let indices = self.indices(declarations, target, property);
        indices.map(|at| &declarations.rows[at as usize])
    }

    /// The same, each once, in order of appearance.
    pub(in crate::page) fn about_in_order(
        &self,
        target: &Target,
        property: &PropertyName,
    ) -> Vec<Row> {
        let declarations = self.declarations_of(target);
        let mut indices: Vec<u32> = self.indices(&declarations, target, property).collect();
        indices.sort_unstable();
        indices.dedup();
        let rows = indices.into_iter();
        rows.map(|at| declarations.rows[at as usize].clone())
            .collect()
    }

    fn rows(&self, target: &Target) -> Vec<Row> {
        let mut found = Vec::new();
        let mut gates = FxHashMap::default();
        for matched in self.matched(target) {
            let rule = &self.page.rules[matched.rule as usize];
            let blocked = rule.blocked.clone().or_else(|| {
                let gate = rule.containers.as_ref()?;
                let verdict = gates
                    .entry(Arc::as_ptr(gate))
                    .or_insert_with(|| self.closed_container(target, gate));
                verdict.clone()
            });
            let styles = &self.page.sheets[rule.sheet as usize].styles;
            for (id, declaration) in styles.sheet().declarations_of(rule.rule) {
                let rank = Rank {
                    origin: rule.origin,
                    important: declaration.important.is_some(),
                    context: rule.depth,
                    attached: false,
                    layer: rule.layer_order,
                    specificity: matched.specificity,
                    proximity: matched.proximity,
                    order: Appearance::new(rule.sheet, id.index() as u32),
                };
                let reference = DeclarationRef {
                    sheet: SheetRef::Listed(rule.sheet),
                    id,
                };
                found.push((reference, rank, blocked.clone()));
            }
        }
        let depth = self.page.document().shadow_depth(target.element);
        if target.pseudo.is_none()
            && let Some(hints) = self.hints(target.element)
        {
            for (id, _) in hints.styles.sheet().declarations() {
                let rank = Rank {
                    origin: Origin::Hint,
                    important: false,
                    context: depth,
                    attached: false,
                    layer: LayerOrder::UNLAYERED,
                    specificity: Specificity::default(),
                    proximity: u32::MAX,
                    order: Appearance::new(0, id.index() as u32),
                };
                let reference = DeclarationRef {
                    sheet: SheetRef::Hints(target.element),
                    id,
                };
                found.push((reference, rank, None));
            }
        }
        if target.pseudo.is_none()
            && let Some(styles) = self.attribute_sheet(target.element)
        {
            for (id, declaration) in styles.sheet().declarations_of(RuleId(0)) {
                let rank = Rank {
                    origin: Origin::Author,
                    important: declaration.important.is_some(),
                    context: depth,
                    attached: true,
                    layer: LayerOrder::UNLAYERED,
                    specificity: Specificity::default(),
                    proximity: u32::MAX,
                    order: Appearance::new(u32::MAX, id.index() as u32),
                };
                let reference = DeclarationRef {
                    sheet: SheetRef::Attribute(target.element),
                    id,
                };
                found.push((reference, rank, None));
            }
        }
        found
    }
}
