//! From an intent to an edit: the elements that it is about, the change that its kind makes of them,
//! the sources that follow, and the last look.

use std::collections::{BTreeMap, HashSet};

use crate::edit::check;
use crate::edit::check::warnings::warnings;
use crate::edit::destination::Destination;
use crate::edit::error::EditError;
use crate::edit::file_change::FileChange;
use crate::edit::intent::Intent;
use crate::edit::kinds::{About, Kind, SummaryContext};
use crate::edit::made::Edit;
use crate::edit::plan::sheet_rule::put_into;
use crate::edit::plan::sources;
use crate::edit::proposal::{At, Proposal};
use crate::edit::site_context::SiteContext;
use crate::page::{Page, Target};
use crate::question::ElementSummary;
use crate::question::find::{elements, find_one, in_templates};
use crate::text::{Patch, PatchError, Replacement, TextRange};

/// Turns an intent into an edit of the files that a page is made of, as the page has them.
///
/// # Errors
/// Where the element is not found, what is asked for can't be read or does not fit, there is nothing
/// to change, or something else would change with it; [`EditError`] says what to do.
pub fn make(page: &Page, intent: &Intent) -> Result<Edit, EditError> {
    make_in(page, intent, &SiteContext::default())
}

/// The same, with what the site knows besides the page.
///
/// # Errors
/// As [`make`].
pub fn make_in(page: &Page, intent: &Intent, around: &SiteContext<'_>) -> Result<Edit, EditError> {
    let targets = subjects(page, intent)?;
    make_of(page, intent, around, &targets)
}

/// The same, for elements that were looked up already: those of [`subjects`].
///
/// # Errors
/// As [`make`].
pub(crate) fn make_of(
    page: &Page,
    intent: &Intent,
    around: &SiteContext<'_>,
    targets: &[Target],
) -> Result<Edit, EditError> {
    let styles = page.styles();
    let asked = intent.asked();
    let at = At {
        styles: &styles,
        intent: &asked,
        around,
    };
    let kind = intent.change.kind();
    if !kind.info().takes(&intent.into) {
        return Err(kind.info().refuses(&intent.into));
    }
    let mut whole = made(&at, kind, targets)?;
    if !whole.followed && intent.into != Destination::Winning {
        sources::follow(page, &mut whole)?;
    }
    if !whole.checked {
        let came = check::check(page, around, &whole.changes, &whole.meant)?;
        whole.warnings.extend(came);
    }
    let own = page.document().text().name();
    if kind.is_markup()
        && let Some(change) = whole.changes.iter().find(|c| c.file == own)
    {
        let document = page.document();
        let text = document.text().patched(&change.patch)?;
        let after = document.reparse(text);
        whole
            .warnings
            .extend(warnings(document, &after, &change.patch));
    }
    Ok(Edit {
        intent: intent.clone(),
        summary: summary(page, intent, kind, targets, &whole),
        changes: whole.changes,
        warnings: whole.warnings,
    })
}

fn made(at: &At<'_, '_>, kind: &dyn Kind, targets: &[Target]) -> Result<Proposal, EditError> {
    if at.intent.into.is_sheet() && !kind.writes_there() {
        return put_into(at, kind.elsewhere(at, targets)?);
    }
    match targets {
        [] => kind.make(at, None),
        [only] => kind.make(at, Some(only)),
        many => match kind.make_all(at, many) {
            Some(made) => made,
            None => of_each(at, kind, many),
        },
    }
}

/// The elements that an intent is about; none for one about a rule.
///
/// # Errors
/// Where none is found, or several where one is meant.
pub fn subjects(page: &Page, intent: &Intent) -> Result<Vec<Target>, EditError> {
    targets(page, intent, intent.change.kind())
}

fn targets(page: &Page, intent: &Intent, kind: &dyn Kind) -> Result<Vec<Target>, EditError> {
    if matches!(kind.info().about, About::Rule | About::Pages | About::Site) {
        return Ok(Vec::new());
    }
    let Some(element) = &intent.element else {
        return match kind.info().about {
            About::Element => Err(EditError::NoElement),
            About::ElementOrRoot => Ok(vec![Target::from(page.document().root_element())]),
            About::MaybeElement | About::Rule | About::Pages | About::Site => Ok(Vec::new()),
        };
    };
    let what = element;
    let hidden = || match kind.info().about {
        // What is in a template has no styles, but its markup can be changed.
        About::Element => in_templates(page, what),
        _ => Vec::new(),
    };
    if intent.each {
        let mut found = elements(page, what)?;
        if found.is_empty() {
            found = hidden();
        }
        if found.is_empty() {
            // Says what nearly matches.
            find_one(page, what)?;
        }
        return Ok(found.into_iter().map(Target::from).collect());
    }
    match (find_one(page, what), &hidden()[..]) {
        (Err(crate::question::find::FindError::NotFound { .. }), [only]) => {
            Ok(vec![Target::from(*only)])
        }
        (found, _) => Ok(vec![found?]),
    }
}

/// The same change of several elements, as one patch for each file.
pub(super) fn of_each(
    at: &At<'_, '_>,
    kind: &dyn Kind,
    targets: &[Target],
) -> Result<Proposal, EditError> {
    let mut whole = Proposal::default();
    let mut skipped: Vec<EditError> = Vec::new();
    let mut warned: HashSet<String> = HashSet::new();
    for target in targets {
        match kind.make(at, Some(target)) {
            Ok(mut made) => {
                made.warnings
                    .retain(|warning| warned.insert(warning.clone()));
                whole.join(made);
            }
            // An element that is like this already, or has nothing to change, stays as it is.
            Err(error) if error.is_an_answer() => skipped.push(error),
            Err(error) => return Err(error),
        }
    }
    match skipped.first() {
        Some(first) if whole.changes.is_empty() => return Err(first.clone()),
        Some(first) => whole.warnings.push(format!(
            "{} of the {} elements {}: {first}",
            skipped.len(),
            targets.len(),
            if skipped.len() == 1 {
                "stays as it is"
            } else {
                "stay as they are"
            }
        )),
        None => {}
    }
    whole.meant.once();
    whole.changes = merged(at.page(), whole.changes)?;
    Ok(whole)
}

/// One patch for each file; the same replacement asked for twice is one.
pub(super) fn merged(page: &Page, changes: Vec<FileChange>) -> Result<Vec<FileChange>, EditError> {
    #[derive(Default)]
    struct OfFile {
        seen: HashSet<Replacement>,
        replacements: Vec<Replacement>,
        copies: Vec<TextRange>,
        around: Vec<TextRange>,
    }
    let mut files: BTreeMap<String, OfFile> = BTreeMap::new();
    for change in changes {
        let known = files.entry(change.file).or_default();
        for replacement in change.patch.replacements() {
            if known.seen.insert(replacement.clone()) {
                known.replacements.push(replacement.clone());
            }
        }
        known.copies.extend(change.copies);
        known.around.extend(change.around);
    }
    let patches = files.into_iter().map(|(file, own)| {
        let patch = Patch::new(own.replacements).map_err(|error| {
            let PatchError::Overlap { first, second } = error;
            let sheets = page.sheets().iter().map(|s| s.styles.sheet().text());
            let mut texts = sheets.chain([page.document().text()]);
            let text = texts.find(|t| t.name() == file);
            let place = |at| text.unwrap_or(page.document().text()).place(at);
            EditError::Overlap {
                first: place(first.start()),
                second: place(second.start()),
            }
        })?;
        Ok(FileChange {
            file,
            patch,
            copies: own.copies,
            around: own.around,
        })
    });
    patches.collect()
}

/// What was done, in a sentence.
fn summary(
    page: &Page,
    intent: &Intent,
    kind: &dyn Kind,
    targets: &[Target],
    made: &Proposal,
) -> String {
    if let Some(own) = &made.summary {
        return own.clone();
    }
    let was = made.was.as_deref().unwrap_or("");
    if let Some(sheet) = intent.into.sheet_name()
        && !kind.writes_there()
    {
        let declared = kind.shown();
        return format!("{was} {{ {declared} }} in {sheet}");
    }
    let who = match targets {
        [] => String::new(),
        [one] => ElementSummary::of_target(page, one).label(),
        many => format!("{} elements", many.len()),
    };
    let summary = kind.summary(&SummaryContext {
        who: &who,
        on: &intent.page,
        was,
    });
    match &intent.into {
        Destination::Rule(place) => format!("{summary}, in the rule at {place}"),
        Destination::Inline => format!("{summary}, in its style attribute"),
        _ => summary,
    }
}
