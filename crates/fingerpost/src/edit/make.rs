//! From an intent to an edit: the elements that it is about, the kind of change, one patch a file.

use std::collections::BTreeMap;

use super::destination::{Around, chosen, needed, put_into};
use super::habits::Wanted;
use super::intent::{Change, Destination, Intent, SelectorChange, Side};
use super::place::{property, rule_at};
use super::warnings::{REFERENCES, warnings};
use super::{
    Edit, EditError, FileChange, Made, attribute, authored, declaration, element, notation, rule,
    set, step, switch, variable,
};
use crate::markup::Document;
use crate::page::{Page, Styles, Target};
use crate::question::ElementSummary;
use crate::question::find::{What, elements, one};
use crate::text::{Patch, Replacement};

/// Turns an intent into an edit of the files that a page is made of, as the page has them.
///
/// # Errors
/// Where the element is not found, what is asked for can't be read or does not fit, or there is
/// nothing to change; [`EditError`] says what to do.
pub fn make(page: &Page, intent: &Intent) -> Result<Edit, EditError> {
    make_in(page, intent, &Around::default())
}

/// The same, with what the site knows besides the page.
///
/// # Errors
/// As [`make`].
pub fn make_in(page: &Page, intent: &Intent, around: &Around) -> Result<Edit, EditError> {
    let styles = page.styles();
    let targets = targets(page, intent)?;
    let mut whole = match &targets[..] {
        targets if intent.into != Destination::Place => {
            put_elsewhere(&styles, targets, intent, around)?
        }
        [] => one_change(&styles, None, intent)?,
        [only] => one_change(&styles, Some(only), intent)?,
        many => of_each(&styles, many, intent)?,
    };
    if !whole.followed {
        whole.changes = authored::follow(page, whole.changes)?;
    }
    if is_markup(&intent.change)
        && let [change] = &whole.changes[..]
    {
        let document = page.document();
        let text = document.text().patched(&change.patch);
        if let Ok(text) = text {
            let after = Document::parse(text);
            let news = warnings(document, &after, &change.patch);
            whole.warnings.extend(news);
        }
    }
    Ok(Edit {
        intent: intent.clone(),
        said: said(page, intent, &targets, whole.was.as_deref()),
        changes: whole.changes,
        warnings: whole.warnings,
    })
}

/// The elements that an intent is about; none for one about a rule.
fn targets(page: &Page, intent: &Intent) -> Result<Vec<Target>, EditError> {
    let what = match (&intent.element, &intent.change) {
        (Some(element), _) => What::parse(element),
        (None, Change::Variable { .. }) => {
            return Ok(vec![Target::from(page.document().root_element())]);
        }
        (None, Change::Selector { .. } | Change::MoveRule { .. }) => return Ok(Vec::new()),
        (None, Change::Rule { selector, .. }) if selector.is_some() => return Ok(Vec::new()),
        (None, _) => return Err(EditError::NoElement),
    };
    if !intent.all {
        return Ok(vec![one(page, &what)?]);
    }
    let found = elements(page, &what)?;
    if found.is_empty() {
        // Says what nearly matches.
        one(page, &what)?;
    }
    Ok(found.into_iter().map(Target::from).collect())
}

/// The same change of several elements, as one patch for each file.
fn of_each(styles: &Styles<'_>, targets: &[Target], intent: &Intent) -> Result<Made, EditError> {
    let mut whole = Made::default();
    let mut skipped: Vec<EditError> = Vec::new();
    for target in targets {
        match one_change(styles, Some(target), intent) {
            Ok(made) => {
                whole.changes.extend(made.changes);
                whole.warnings.extend(made.warnings);
            }
            // An element that is so already, or has nothing to change, stays as it is.
            Err(error) if error.is_an_answer() => skipped.push(error),
            Err(error) => return Err(error),
        }
    }
    whole.warnings.dedup();
    match skipped.first() {
        Some(first) if whole.changes.is_empty() => return Err(first.clone()),
        Some(first) => whole.warnings.push(format!(
            "{} of the {} elements stay as they are: {first}",
            skipped.len(),
            targets.len()
        )),
        None => {}
    }
    whole.changes = merged(styles.page(), whole.changes)?;
    Ok(whole)
}

/// One patch for each file; the same replacement asked for twice is one.
fn merged(page: &Page, changes: Vec<FileChange>) -> Result<Vec<FileChange>, EditError> {
    let mut files: BTreeMap<String, Vec<Replacement>> = BTreeMap::new();
    for change in changes {
        let known = files.entry(change.file).or_default();
        for replacement in change.patch.replacements() {
            if !known.contains(replacement) {
                known.push(replacement.clone());
            }
        }
    }
    let patches = files.into_iter().map(|(file, replacements)| {
        let patch = Patch::new(replacements).map_err(|error| {
            let crate::text::PatchError::Overlap { first, second } = error;
            let sheets = page.sheets().iter().map(|s| s.styles.sheet().text());
            let mut texts = sheets.chain([page.document().text()]);
            let text = texts.find(|t| t.name() == file);
            let place = |at| text.unwrap_or(page.document().text()).place(at);
            EditError::Overlap {
                first: place(first.start()),
                second: place(second.start()),
            }
        })?;
        Ok(FileChange { file, patch })
    });
    patches.collect()
}

fn one_change(
    styles: &Styles<'_>,
    target: Option<&Target>,
    intent: &Intent,
) -> Result<Made, EditError> {
    let page = styles.page();
    let needed = || target.ok_or(EditError::NoElement);
    match &intent.change {
        Change::Set {
            property: name,
            value,
            rule,
            here,
        } => {
            let name = property(name)?;
            match (rule, here) {
                (Some(place), _) => set::set_in(styles, rule_at(styles, place)?, &name, value),
                (None, true) => set::set_here(styles, needed()?.element, &name, value),
                (None, false) => set::set(styles, needed()?, &name, value),
            }
        }
        Change::Step { property: name, by } => step::step(styles, needed()?, &property(name)?, by),
        Change::Add {
            property: name,
            value,
            rule,
            here,
        } => {
            let name = property(name)?;
            match (rule, here) {
                (Some(place), _) => {
                    declaration::add_to(styles, rule_at(styles, place)?, &name, value)
                }
                (None, true) => declaration::add_here(styles, needed()?.element, &name, value),
                (None, false) => declaration::add(styles, needed()?, &name, value),
            }
        }
        Change::Remove { property: name } => {
            declaration::remove(styles, needed()?, &property(name)?)
        }
        Change::Off { property: name } => switch::off(styles, needed()?, &property(name)?),
        Change::On { property: name } => switch::on(styles, needed()?, &property(name)?),
        Change::Rename { property: name, to } => {
            declaration::rename(styles, needed()?, &property(name)?, &property(to)?)
        }
        Change::Important { property: name, on } => {
            declaration::important(styles, needed()?, &property(name)?, *on)
        }
        Change::Notation {
            property: name,
            to,
            alpha,
        } => notation::notation(styles, needed()?, &property(name)?, to, alpha.as_deref()),
        Change::Rule {
            selector,
            declarations,
        } => {
            let wanted = rule::declarations(declarations)?;
            new_rule(styles, target, selector.as_deref(), &wanted)
        }
        Change::Selector { rule: place, how } => {
            rule::selector(styles, rule_at(styles, place)?, how)
        }
        Change::MoveRule {
            rule: place,
            side,
            other,
        } => rule::move_rule(
            styles,
            rule_at(styles, place)?,
            *side,
            rule_at(styles, other)?,
        ),
        Change::Variable { name, value } => variable::variable(styles, needed()?, name, value),
        Change::Attribute { name, value } => {
            attribute::attribute(page, needed()?.element, name, value.as_deref())
        }
        Change::Class { changes } => attribute::class(page, needed()?.element, changes),
        Change::Text { text, from } => {
            element::text(page, needed()?.element, text, from.as_deref())
        }
        Change::Tag { name } => element::tag(page, needed()?.element, name),
        Change::Markup { source, inner } => {
            element::markup(page, needed()?.element, source, *inner)
        }
        Change::Insert { source, side } => element::insert(page, needed()?.element, source, *side),
        Change::Duplicate => element::duplicate(page, needed()?.element),
        Change::Move { to, side } => {
            let to = one(page, &What::parse(to))?;
            element::move_to(page, needed()?.element, to.element, *side)
        }
        Change::RemoveElement => element::remove(page, needed()?.element),
        Change::Wrap { tag } => element::wrap(page, needed()?.element, tag),
        Change::Unwrap => element::unwrap(page, needed()?.element),
    }
}

/// A change that is made in another sheet than the one that wins now.
fn put_elsewhere(
    styles: &Styles<'_>,
    targets: &[Target],
    intent: &Intent,
    around: &Around,
) -> Result<Made, EditError> {
    let first = targets.first().ok_or(EditError::NoElement);
    let wanted = |name: &str, value: &str| -> Result<Wanted, EditError> {
        let value = value.trim();
        set::check(&property(name)?, value)?;
        Ok(Wanted {
            name: name.to_owned(),
            value: value.to_owned(),
            important: false,
        })
    };
    let into = |targets: &[Target], declarations: &[Wanted], selector: Option<&str>| {
        put_into(
            styles,
            targets,
            declarations,
            selector,
            &intent.into,
            around,
        )
    };
    match &intent.change {
        Change::Set {
            property, value, ..
        }
        | Change::Add {
            property, value, ..
        } => into(targets, &[wanted(property, value)?], None),
        Change::Step { property: name, by } => {
            let (value, _) = step::stepped(styles, first?, &property(name)?, by)?;
            into(targets, &[wanted(name, &value)?], None)
        }
        Change::Variable { name, value } => {
            let (target, _) = variable::defined(styles, first?, name)?;
            into(&[target], &[wanted(name, value)?], None)
        }
        Change::Rule {
            selector,
            declarations,
        } => into(
            targets,
            &rule::declarations(declarations)?,
            selector.as_deref(),
        ),
        _ => Err(EditError::NotThere {
            place: intent.page.clone(),
            why: "this change is made in its own place only; leave --into out".to_owned(),
        }),
    }
}

fn new_rule(
    styles: &Styles<'_>,
    target: Option<&Target>,
    selector: Option<&str>,
    wanted: &[Wanted],
) -> Result<Made, EditError> {
    let mut warnings = Vec::new();
    let selector = match (selector, target) {
        (Some(given), _) => {
            rule::selectors(given)?;
            given.trim().to_owned()
        }
        (None, Some(target)) => {
            let targets = std::slice::from_ref(target);
            let found = chosen(styles.page(), targets, needed(styles, targets, wanted))?;
            if found.unwanted > 0 {
                warnings.push(format!(
                    "{} reaches {} elements that were not meant",
                    found.selector, found.unwanted
                ));
            }
            found.selector
        }
        (None, None) => return Err(EditError::NoElement),
    };
    let spot = rule::spot(styles, target).ok_or_else(|| EditError::NoRule {
        place: styles.page().document().text().name().to_owned(),
    })?;
    Ok(Made {
        was: Some(selector.clone()),
        warnings,
        ..rule::rule(styles, spot, &selector, wanted)
    })
}

/// Whether a change may make another tree than the one asked for, or lose what others refer to.
fn is_markup(change: &Change) -> bool {
    match change {
        Change::Attribute { name, .. } => {
            let name = name.to_ascii_lowercase();
            name == "id" || name == "href" || REFERENCES.contains(&name.as_str())
        }
        Change::Tag { .. }
        | Change::Markup { .. }
        | Change::Insert { .. }
        | Change::Duplicate
        | Change::Move { .. }
        | Change::RemoveElement
        | Change::Wrap { .. }
        | Change::Unwrap => true,
        _ => false,
    }
}

/// What was done, in a sentence.
fn said(page: &Page, intent: &Intent, targets: &[Target], was: Option<&str>) -> String {
    let who = match targets {
        [] => String::new(),
        [one] => ElementSummary::of_target(page, one).label(),
        many => format!("{} elements", many.len()),
    };
    let on = &intent.page;
    let was = was.unwrap_or("");
    let before = if was.is_empty() {
        String::new()
    } else {
        format!("{was} → ")
    };
    let side = |side: Side| match side {
        Side::Before => "before",
        Side::After => "after",
        Side::First => "at the beginning of",
        Side::Last => "at the end of",
    };
    let sheet = match &intent.into {
        Destination::Place => None,
        Destination::Embedded => Some("the embedded sheet"),
        Destination::Custom => Some("the override sheet"),
        Destination::Sheet(name) => Some(name.as_str()),
    };
    match &intent.change {
        Change::Set {
            property, value, ..
        }
        | Change::Add {
            property, value, ..
        } if sheet.is_some() => {
            format!(
                "{was} {{ {property}: {value} }} in {}",
                sheet.unwrap_or_default()
            )
        }
        Change::Step { property, by } if sheet.is_some() => {
            format!(
                "{was} {{ {property} }} in {}, by {by}",
                sheet.unwrap_or_default()
            )
        }
        Change::Variable { name, value } if sheet.is_some() => {
            format!(
                "{was} {{ {name}: {value} }} in {}",
                sheet.unwrap_or_default()
            )
        }
        Change::Set {
            property,
            value,
            rule: Some(rule),
            ..
        } => {
            format!("set {property} in the rule at {rule}: {value}")
        }
        Change::Set {
            property,
            value,
            here: true,
            ..
        } => format!("set {property} of {who} itself on {on}: {value}"),
        Change::Set {
            property, value, ..
        } => {
            format!("set {property} of {who} on {on}: {before}{value}")
        }
        Change::Step { property, by } => {
            format!("step {property} of {who} on {on} by {by}, from {was}")
        }
        Change::Add {
            property,
            value,
            here: true,
            ..
        } => {
            format!("add {property}: {value} to {who} itself on {on}")
        }
        Change::Add {
            property, value, ..
        } if was.is_empty() => {
            format!("add {property}: {value} for {who} on {on}")
        }
        Change::Add {
            property, value, ..
        } => format!("add {property}: {value} to {was}"),
        Change::Remove { property } if was.is_empty() => {
            format!("remove {property} of {who} on {on}")
        }
        Change::Remove { .. } => format!("remove {was} of {who} on {on}"),
        Change::Off { property } => format!("switch {property} of {who} on {on} off"),
        Change::On { property } => format!("switch {property} of {who} on {on} on again"),
        Change::Rename { property, to } => {
            format!("rename {property} of {who} on {on} to {to}")
        }
        Change::Important { property, on: true } => {
            format!("mark {property} of {who} on {on} !important")
        }
        Change::Important {
            property,
            on: false,
        } => {
            format!("take !important off {property} of {who} on {on}")
        }
        Change::Notation { property, to, .. } => {
            format!("write {property} of {who} on {on} as {to}, from {was}")
        }
        Change::Rule {
            selector,
            declarations,
        } => {
            let selector = selector.as_deref().unwrap_or(was);
            format!("a new rule {selector} {{ {} }}", declarations.trim())
        }
        Change::Selector { how, .. } => match how {
            SelectorChange::To(to) => format!("select {to} instead of {was}"),
            SelectorChange::Add(more) => format!("select {more} besides {was}"),
            SelectorChange::Drop(less) => format!("select {less} no more, of {was}"),
        },
        Change::MoveRule {
            side: where_to,
            other,
            ..
        } => {
            format!("move the rule {was} {} the one at {other}", side(*where_to))
        }
        Change::Variable { name, value } => format!("set {name} of {who} on {on}: {before}{value}"),
        Change::Attribute {
            name,
            value: Some(value),
        } => {
            format!("set {name} of {who} on {on} to '{value}'")
        }
        Change::Attribute { name, value: None } => format!("take {name} off {who} on {on}"),
        Change::Class { changes } => format!("class {} of {who} on {on}", changes.join(" ")),
        Change::Text { text, .. } => format!("text of {who} on {on}: {before}{text}"),
        Change::Tag { name } => format!("make {who} on {on} a {name}"),
        Change::Markup { inner: true, .. } => format!("rewrite what {who} on {on} holds"),
        Change::Markup { inner: false, .. } => format!("rewrite {who} on {on}"),
        Change::Insert { side: where_to, .. } => {
            format!("insert markup {} {who} on {on}", side(*where_to))
        }
        Change::Duplicate => format!("duplicate {who} on {on}"),
        Change::Move { to, side: where_to } => {
            let where_to = match where_to {
                Side::First => "to the beginning of",
                Side::Last => "to the end of",
                other => side(*other),
            };
            format!("move {who} on {on} {where_to} {to}")
        }
        Change::RemoveElement => format!("remove {who} from {on}"),
        Change::Wrap { tag } => format!("wrap {who} on {on} in {tag}"),
        Change::Unwrap => format!("unwrap {who} on {on}"),
    }
}
