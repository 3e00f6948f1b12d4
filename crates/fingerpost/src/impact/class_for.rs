//! Classes of the theme that would give an element a value: a framework's `mb-4` in the place of its `mb-0`. Each is tried on the
//! site before it is offered.

use std::collections::BTreeSet;

use super::remedies::Trials;
use super::site::{ImpactOptions, effect};
use crate::advice::{Action, Advice};
use crate::cascade::Origin;
use crate::edit::{Change, Destination, Intent, kinds};
use crate::page::{Page, PropertyName, Target};
use crate::question::element_states::ElementStates;
use crate::question::find::ElementQuery;
use crate::question::whynot::class_of_winner;
use crate::site::Site;

/// How many classes are tried.
const MOST_TRIED: usize = 60;

/// A class that gives the element the value.
#[derive(Debug)]
pub(crate) struct ClassFor {
    pub class: String,
    pub advice: Advice,
    others: usize,
}

/// The classes with which a property of an element has a value: `set` is both. The first `most` that do it are given, what changes
/// least first.
pub(crate) fn classes_for(
    site: &Site,
    page: &Page,
    target: &Target,
    set: (&str, &str),
    element_states: &ElementStates,
    most: usize,
) -> Vec<ClassFor> {
    let trials = Trials {
        site,
        page,
        target,
        element_states,
    };
    let search = Search { trials, set };
    let Some(name) = PropertyName::named(set.0) else {
        return Vec::new();
    };
    let Some(wanted) = search.wanted(&name) else {
        return Vec::new();
    };
    if value_of(page, target, &name) == wanted {
        return Vec::new();
    }
    let instead_of = class_of_winner(&page.styles(), target, &name);
    let classes = search.classes(&name, instead_of.as_deref());
    let tried = classes.into_iter().take(MOST_TRIED);
    let mut found: Vec<ClassFor> = tried
        .filter_map(|class| search.tried(class, instead_of.as_deref(), &name, &wanted))
        .take(most)
        .collect();
    found.sort_by_key(|one| one.others);
    found
}

fn value_of(page: &Page, target: &Target, name: &PropertyName) -> String {
    let styles = page.styles();
    let of_one = |name: &PropertyName| styles.resolved(target, name).text().to_owned();
    match name {
        PropertyName::Known(id) => {
            let all = id.longhands().iter();
            let all = all.map(|id| of_one(&PropertyName::Known(*id)));
            all.collect::<Vec<_>>().join(" ")
        }
        PropertyName::Custom(_) => of_one(name),
    }
}

struct Search<'a> {
    trials: Trials<'a>,
    set: (&'a str, &'a str),
}

impl Search<'_> {
    /// What the value results in on the element.
    fn wanted(&self, name: &PropertyName) -> Option<String> {
        let Trials { page, target, .. } = self.trials;
        if target.pseudo.is_some() {
            return None;
        }
        let (property, value) = self.set;
        let own = page.document().element(target.element).attribute("style");
        let own = own.map_or_else(String::new, |own| {
            format!("{}; ", own.trim_end_matches(';'))
        });
        let style = kinds::Attribute {
            name: "style".to_owned(),
            value: format!("{own}{property}: {value} !important"),
            remove: false,
        };
        let after = self.after(&self.intent(style.into()))?.1;
        let target = self.target_on(&after)?;
        Some(value_of(&after, &target, name))
    }

    fn intent(&self, change: Change) -> Intent {
        let document = self.trials.page.document();
        let mut intent = Intent::new(document.text().name(), "", change);
        let element = Target::from(self.trials.target.element);
        intent.element = Some(ElementQuery::naming(document, &element));
        intent.into = Destination::default();
        intent
    }

    fn after(&self, intent: &Intent) -> Option<(crate::site::View, Page)> {
        let Trials { site, page, .. } = self.trials;
        let edit = site.make(page, intent).ok()?;
        let view = site.imagined(edit).ok()?;
        let after = self.trials.in_states(view.reparse_page(page).ok()?)?;
        Some((view, after))
    }

    fn target_on(&self, page: &Page) -> Option<Target> {
        Some(Target {
            element: self.trials.element_on(page)?,
            pseudo: self.trials.target.pseudo.clone(),
        })
    }

    /// The classes whose own rule sets the property and nothing else, and that the element does not have. Those that are named like
    /// the one that they would take the place of come first.
    fn classes(&self, name: &PropertyName, instead_of: Option<&str>) -> Vec<String> {
        let Trials { page, target, .. } = self.trials;
        let element = page.document().element(target.element);
        // One that sets more would change the element in other ways too.
        let sets = |written: &str| match (PropertyName::named(written), name) {
            (Some(PropertyName::Known(one)), PropertyName::Known(other)) => {
                one.longhands().iter().all(|id| other.sets(*id))
            }
            (Some(one), other) => one == *other,
            (None, _) => false,
        };
        let mut found: BTreeSet<String> = BTreeSet::new();
        let own = page.rules().iter();
        for rule in own.filter(|r| r.origin == Origin::Author && r.blocked.is_none()) {
            let Ok(list) = &rule.selectors else { continue };
            let sheet = page.sheet(rule.sheet).styles.sheet();
            // One for some widths only is none for the others.
            if sheet.rule(rule.rule).parent.is_some() {
                continue;
            }
            let mut declared = sheet.declarations_of(rule.rule);
            if declared.all(|(_, d)| sets(sheet.name_source(d))) {
                let of_target = list.selectors.iter();
                let of_target = of_target.filter(|s| s.pseudo_element == target.pseudo);
                found.extend(of_target.filter_map(|s| s.only_class().map(str::to_owned)));
            }
        }
        // A class of a component, such as a card, is not a class of looks.
        let answers = page.ask().classes("").classes;
        let looks = |class: &String| answers.iter().any(|c| c.name == *class && c.sets.is_some());
        found.retain(|class| looks(class) && !element.classes().any(|own| own == class));
        let stem = |class: &str| class.rsplit_once('-').map(|(stem, _)| stem.to_owned());
        let like = instead_of.and_then(stem);
        let mut all: Vec<String> = found.into_iter().collect();
        all.sort_by_key(|class| like.is_none() || stem(class) != like);
        all
    }

    fn tried(
        &self,
        class: String,
        instead_of: Option<&str>,
        name: &PropertyName,
        wanted: &str,
    ) -> Option<ClassFor> {
        let mut changes = vec![format!("+{class}")];
        changes.extend(instead_of.map(|old| format!("-{old}")));
        let intent = self.intent(kinds::Class { changes }.into());
        let (view, after) = self.after(&intent)?;
        if value_of(&after, &self.target_on(&after)?, name) != wanted {
            return None;
        }
        let page = self.trials.page;
        let options = ImpactOptions {
            page: Some(page.document().text().name()),
            environment: page.environment(),
            element_states: self.trials.element_states,
            only_here: true,
            aimed: &|page: &Page| self.trials.aimed(page),
        };
        let effect = effect(self.trials.site, &view, &options).ok()?;
        let label = match instead_of {
            Some(old) => format!("swap the class {old} for {class}"),
            None => format!("give the element the class {class}"),
        };
        let edits = vec![intent];
        let mut advice = Advice::new("class", label, Action::Edit { edits });
        advice.tried = true;
        advice.side_effects = effect.side_effects_in_words();
        Some(ClassFor {
            class,
            advice,
            others: effect.side_effects().count(),
        })
    }
}
