//! `custom-property`: a custom property gets a value where it is defined for an element, or on the root
//! element where nothing defines it; a variable of an authored source gets one there.

use serde::{Deserialize, Serialize};

use crate::cascade::Origin;
use crate::edit::error::EditError;
use crate::edit::expected::{Declared, InSheet, Meant, StyleOp};
use crate::edit::file_change::FileChange;
use crate::edit::given::{one_value, value_of};
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, NEW_RULE, required};
use crate::edit::kinds::rule::new_rule_for;
use crate::edit::kinds::{Kind, RuleRequest, SummaryContext};
use crate::edit::plan::original::{definition_range, written};
use crate::edit::plan::rule_at::{fold, strongest_of};
use crate::edit::plan::winner::{Found, winner};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write;
use crate::page::{PropertyName, Target};
use crate::question::ElementSummary;
use crate::sheet::Sheet;
use crate::text::{Authored, Cut, Patch, Replacement, TextSize, nearest, span};

/// A custom property gets a value where it is defined.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct CustomProperty {
    /// Its name, `--…`; or `$…` or `@…` of an authored source.
    pub name: String,
    /// The value.
    pub value: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "custom-property",
    does: "Give a custom property a new value where it is defined",
    more: "A $name or @name of the source that a built sheet is made from works too.",
    about: About::ElementOrRoot,
    destinations: NEW_RULE,
    fields: &[
        required("name", "The custom property", Holds::Property),
        required("value", "The new value", Holds::Value),
    ],
    example: Example {
        before: "<style>:root { --ink: teal }</style><h2>Boats</h2>",
        element: "",
        change: r#"{"name":"--ink","value":"navy"}"#,
        after: "<style>:root { --ink: navy }</style><h2>Boats</h2>",
    },
    demo: r##"{"page":"pages/home.html","change":{"custom-property":{"name":"--brass","value":"#c0902f"}}}"##,
};

impl Kind for CustomProperty {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let (name, value) = (self.name.as_str(), self.value.trim());
        if name.starts_with(['$', '@']) {
            return source_variable(at, name, value);
        }
        let target = target.ok_or(EditError::NoElement)?;
        let property = custom(name)?;
        one_value(value)?;
        match defined(at, target, &property) {
            Some(candidate) => {
                let label = ElementSummary::of_target(at.page(), &candidate).label();
                let reference = winner(at.styles, &candidate, &property, &label)?;
                let found = Found {
                    reference,
                    is_own: true,
                };
                super::set::set_found(at, found, name, value)
            }
            None => on_root(at, name, value),
        }
    }

    fn elsewhere(&self, at: &At<'_, '_>, targets: &[Target]) -> Result<RuleRequest, EditError> {
        let target = targets.first().ok_or(EditError::NoElement)?;
        let property = custom(&self.name)?;
        value_of(&property, self.value.trim())?;
        let root = || Target::from(at.page().document().root_element());
        Ok(RuleRequest {
            targets: vec![defined(at, target, &property).unwrap_or_else(root)],
            declared: vec![Declared {
                name: self.name.clone(),
                value: self.value.trim().to_owned(),
                important: false,
            }],
            selector: None,
        })
    }

    fn shown(&self) -> String {
        format!("{}: {}", self.name, self.value.trim())
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let CustomProperty { name, value } = self;
        format!(
            "set {name} of {} on {}: {}{value}",
            told.who,
            told.on,
            told.before()
        )
    }

    fn properties(&self) -> Vec<String> {
        vec![self.name.clone()]
    }
}

fn custom(name: &str) -> Result<PropertyName, EditError> {
    match PropertyName::named(name) {
        Some(property @ PropertyName::Custom(_)) => Ok(property),
        _ => Err(EditError::InvalidName {
            what: "the name of a custom property, such as --brand",
            name: name.to_owned(),
        }),
    }
}

/// The element that defines a custom property for another one: itself, or the nearest above.
fn defined(at: &At<'_, '_>, target: &Target, property: &PropertyName) -> Option<Target> {
    let above = at.page().document().flat_trail(target.element);
    let mut candidates = vec![target.clone()];
    if at.styles.inherits(property) {
        let own = target.pseudo.is_some();
        let rest = above.into_iter().rev().skip(usize::from(!own));
        candidates.extend(rest.map(Target::from));
    }
    candidates.into_iter().find(|candidate| {
        let contest = at.styles.contest(candidate, property).contest;
        contest.winning().is_some()
    })
}

/// Defines a custom property that nothing defines: in the strongest rule of the root element that
/// defines others, or in a new rule for it.
fn on_root(at: &At<'_, '_>, name: &str, value: &str) -> Result<Proposal, EditError> {
    let root = Target::from(at.page().document().root_element());
    let new = Declared {
        name: name.to_owned(),
        value: value.to_owned(),
        important: false,
    };
    let has_others = |rule: crate::edit::plan::rule_at::RuleAt| {
        let sheet = rule.sheet(at.styles);
        let plain = sheet.rule(rule.rule).parent.is_none();
        let mut own = sheet.declarations_of(rule.rule);
        plain && own.any(|(_, d)| sheet.name_source(d).starts_with("--"))
    };
    let made = match strongest_of(at.styles, &root, &has_others) {
        Some(rule) => write::added_to(at.styles, rule, std::slice::from_ref(&new)),
        None => new_rule_for(at, &[root], Some(":root"), std::slice::from_ref(&new))?,
    };
    let head = made.was.clone().unwrap_or_default();
    let mut warnings = made.warnings;
    warnings.extend(slip(at, name));
    Ok(Proposal {
        summary: Some(format!("define {name}: {value} in {head}")),
        warnings,
        ..made
    })
}

/// That a new name is nearly one that the page's sheets define.
fn slip(at: &At<'_, '_>, name: &str) -> Option<String> {
    let own = at
        .page()
        .sheets()
        .iter()
        .filter(|sheet| sheet.origin == Origin::Author);
    let names = own.flat_map(|sheet| {
        let sheet = sheet.styles.sheet();
        let all = sheet
            .declarations()
            .map(|(_, declaration)| sheet.name_source(declaration));
        all.filter(|name| name.starts_with("--"))
    });
    let near = nearest(name, names)?;
    Some(format!(
        "{name} is a new name. Do you mean {near}, which is defined already?"
    ))
}

/// Sets a variable of the language that sheets of the page are written in, `$name` or `@name`, where
/// the sources define it; the served declarations whose value it is get the value too.
fn source_variable(at: &At<'_, '_>, name: &str, value: &str) -> Result<Proposal, EditError> {
    if value.is_empty() {
        return Err(EditError::NotAValue {
            value: value.to_owned(),
            found: "it is empty".to_owned(),
        });
    }
    one_value(value)?;
    let mut made = Proposal::default();
    let mut unseen: Vec<String> = Vec::new();
    let mut sources: Vec<(String, Patch)> = Vec::new();
    let mut texts: Vec<String> = Vec::new();
    for (number, page_sheet) in at.page().sheets().iter().enumerate() {
        let sheet = page_sheet.styles.sheet();
        let Some(map) = sheet.text().authored() else {
            continue;
        };
        if texts.iter().any(|known| known == sheet.text().name()) {
            continue;
        }
        texts.push(sheet.text().name().to_owned());
        for (_, source) in map.sources() {
            let Some(source) = source else { continue };
            let known = sources.iter().any(|(file, _)| file == source.name());
            if let Some(range) = definition_range(source, name).filter(|_| !known) {
                let was = source.source().cut(range.clone()).to_owned();
                if was == value {
                    return Err(EditError::Same {
                        property: name.to_owned(),
                        value: value.to_owned(),
                        place: source.place(TextSize::new(range.start as u32)),
                    });
                }
                made.was = Some(was);
                let patch = Patch::single(span(range.start, range.end), value);
                sources.push((source.name().to_owned(), patch));
            }
        }
        let key = InSheet::Listed(number as u32);
        unseen.extend(in_built_sheet(
            sheet,
            map,
            (key, name, value),
            &sources,
            &mut made,
        ));
    }
    if sources.is_empty() {
        return Err(EditError::NothingToChange {
            property: name.to_owned(),
            element: "this page".to_owned(),
            whence: "no source of its sheets defines it".to_owned(),
        });
    }
    if made.meant.styles.is_empty() {
        made.warnings.push(format!(
            "the page stays as it is until the next build: no value of its sheets is {name} alone"
        ));
    }
    made.warnings.extend(changed_by_the_build(name, unseen));
    let patches = sources.into_iter();
    made.changes
        .extend(patches.map(|(file, patch)| FileChange::new(&file, patch)));
    made.followed = true;
    Ok(made)
}

/// The values of a built sheet that are a variable of its sources alone, with the other value; and those that are worked out
/// from it.
fn in_built_sheet(
    sheet: &Sheet,
    map: &Authored,
    (key, name, value): (InSheet, &str, &str),
    sources: &[(String, Patch)],
    made: &mut Proposal,
) -> Vec<String> {
    let mut served = Vec::new();
    let mut unseen = Vec::new();
    for (id, declaration) in sheet.declarations() {
        let Some(original) = written(sheet, map, id) else {
            continue;
        };
        let own = original.value_source();
        if own == name {
            served.push(Replacement {
                range: declaration.value,
                with: value.to_owned(),
            });
            let op = StyleOp::Value(id, value.to_owned());
            made.meant.join(Meant::style(key.clone(), op));
        } else if mentions(own, name) {
            let head = fold(sheet.prelude_source(sheet.rule(declaration.rule)));
            unseen.push(format!("{} of {head}", sheet.name_source(declaration)));
        }
    }
    let patch = Patch::new(served).expect("values don't overlap");
    if patch.is_empty() {
        return unseen;
    }
    let of = |file: &str| {
        let found = sources.iter().find(|(name, _)| name == file);
        found.map(|(_, patch)| patch.clone())
    };
    let followed = map.follow(sheet.text(), &patch, &of, &[]);
    made.changes
        .push(FileChange::new(sheet.text().name(), patch));
    made.changes
        .extend(followed.map(|(file, patch)| FileChange::new(&file, patch)));
    unseen
}

/// A warning that names the values that only the next build changes; none where there are none.
fn changed_by_the_build(name: &str, mut unseen: Vec<String>) -> Option<String> {
    unseen.sort();
    unseen.dedup();
    let more = unseen.len().saturating_sub(MOST_NAMED);
    unseen.truncate(MOST_NAMED);
    let rest = match more {
        0 => String::new(),
        more => format!(" and {more} more"),
    };
    (!unseen.is_empty()).then(|| {
        format!(
            "these are worked out from {name} and change with the next build only: {}{rest}",
            unseen.join(", ")
        )
    })
}

/// How many values are named that change with the next build.
const MOST_NAMED: usize = 4;

/// Whether a value has a variable in it.
fn mentions(value: &str, name: &str) -> bool {
    value.match_indices(name).any(|(at, _)| {
        let next = value.cut(at + name.len()..).chars().next();
        next.is_none_or(|c| !(c.is_alphanumeric() || c == '-' || c == '_'))
    })
}
