//! `variable`: a custom property gets a value where it is defined for an element.

use super::authored::{definition_range, written};
use super::place::winner;
use super::set::set;
use super::{EditError, FileChange, Made};
use crate::page::{PropertyName, Styles, Target};
use crate::question::ElementSummary;
use crate::text::{Patch, Replacement, TextSize, span};

/// Sets a custom property in the declaration that gives it its value: the element's own, or that of
/// the nearest one above from which it is inherited.
pub(super) fn variable(
    styles: &Styles<'_>,
    target: &Target,
    name: &str,
    value: &str,
) -> Result<Made, EditError> {
    if name.starts_with(['$', '@']) {
        return source_variable(styles, name, value);
    }
    let (candidate, property) = defined(styles, target, name)?;
    let label = ElementSummary::of_target(styles.page(), &candidate).label();
    winner(styles, &candidate, &property, &label)?;
    set(styles, &candidate, &property, value)
}

/// Sets a variable of the language that sheets of the page are written in, `$name` or `@name`, where
/// the sources define it; the served declarations whose value it is get the value too.
pub(super) fn source_variable(
    styles: &Styles<'_>,
    name: &str,
    value: &str,
) -> Result<Made, EditError> {
    let value = value.trim();
    if value.is_empty() || value.contains([';', '{', '}']) {
        return Err(EditError::NotAValue {
            value: value.to_owned(),
            found: "an empty text, ';' or a brace".to_owned(),
        });
    }
    let mut made = Made::default();
    let mut unseen = 0;
    let mut sources: Vec<(String, Patch)> = Vec::new();
    let mut texts: Vec<String> = Vec::new();
    for page_sheet in styles.page().sheets() {
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
                let was = source.source()[range.clone()].to_owned();
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
        let mut served = Vec::new();
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
            } else if own.match_indices(name).any(|(at, _)| {
                let next = own[at + name.len()..].chars().next();
                next.is_none_or(|c| !(c.is_alphanumeric() || c == '-' || c == '_'))
            }) {
                unseen += 1;
            }
        }
        let patch = Patch::new(served).expect("values don't overlap");
        if patch.is_empty() {
            continue;
        }
        let of = |file: &str| {
            let found = sources.iter().find(|(name, _)| name == file);
            found.map(|(_, patch)| patch.clone())
        };
        let followed = map.follow(sheet.text(), &patch, &of, &[]);
        made.changes.push(FileChange {
            file: sheet.text().name().to_owned(),
            patch,
        });
        made.changes
            .extend(followed.map(|(file, patch)| FileChange {
                file: file.name().to_owned(),
                patch,
            }));
    }
    if sources.is_empty() {
        return Err(EditError::NothingToChange {
            property: name.to_owned(),
            element: "this page".to_owned(),
            whence: "no source of its sheets defines it".to_owned(),
        });
    }
    if unseen > 0 {
        made.warnings.push(format!(
            "{unseen} values are worked out from {name} and are seen after the next build only"
        ));
    }
    let patches = sources.into_iter();
    made.changes
        .extend(patches.map(|(file, patch)| FileChange { file, patch }));
    made.followed = true;
    Ok(made)
}

/// The element that defines a custom property for another one: itself, or the nearest above.
pub(super) fn defined(
    styles: &Styles<'_>,
    target: &Target,
    name: &str,
) -> Result<(Target, PropertyName), EditError> {
    let Some(property @ PropertyName::Custom(_)) = PropertyName::parse(name) else {
        return Err(EditError::NoName {
            what: "a custom property, such as --brand",
            name: name.to_owned(),
        });
    };
    let above = styles.page().document().flat_trail(target.element);
    let mut candidates = vec![target.clone()];
    if styles.inherits(&property) {
        let own = target.pseudo.is_some();
        let rest = above.into_iter().rev().skip(usize::from(!own));
        candidates.extend(rest.map(Target::from));
    }
    for candidate in candidates {
        if styles
            .contest(&candidate, &property)
            .contest
            .winning()
            .is_some()
        {
            return Ok((candidate, property));
        }
    }
    Err(EditError::NothingToChange {
        property: name.to_owned(),
        element: ElementSummary::of_target(styles.page(), target).label(),
        whence: "no rule defines it here or above; add it to a rule, such as the one of :root"
            .to_owned(),
    })
}
