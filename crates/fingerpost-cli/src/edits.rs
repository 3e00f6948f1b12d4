//! The edits: each is put into the draft, and the page is asked again.

use fingerpost::edit::{
    AttributeError, Edit, SetError, add, add_here, attribute, class, important, remove, set, step,
};
use fingerpost::markup::NodeId;
use fingerpost::page::{Page, PropertyName, Styles, Target};
use fingerpost::question::find::{What, elements};
use fingerpost::question::trace::trace;
use fingerpost::question::why::{WhyAnswer, why};
use fingerpost::question::{ElementSummary, RuleSummary};
use serde::Serialize;

use crate::arguments::{EditCommand, Subject, Surroundings};
use crate::commands::{Opened, Outcome, Problem, Result, property_named, to_json};
use crate::{drafts, render};

#[derive(Serialize)]
struct SetAnswer<'a> {
    element: ElementSummary,
    property: String,
    edit: &'a Edit,
    diff: String,
    /// What the property comes to now.
    why: WhyAnswer,
}

/// Each edit: try it, and say what it did.
pub fn edit(command: &EditCommand, surroundings: &Surroundings, json: bool) -> Result<Outcome> {
    match command {
        EditCommand::Set {
            subject,
            property,
            value,
        } => {
            let name = property_named(property)?;
            declare(
                "edit set",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| set(styles, target, &name, value),
            )
        }
        EditCommand::Add {
            subject,
            property,
            value,
            rule,
            here,
        } => {
            let name = property_named(property)?;
            let rule = rule.as_deref().map(rule_place).transpose()?;
            declare(
                "edit add",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| {
                    if *here {
                        add_here(styles, target.element, &name, value)
                    } else {
                        add(styles, target, &name, value, rule)
                    }
                },
            )
        }
        EditCommand::Step {
            subject,
            property,
            by,
        } => {
            let name = property_named(property)?;
            declare(
                "edit step",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| step(styles, target, &name, by),
            )
        }
        EditCommand::Important {
            subject,
            property,
            off,
        } => {
            let name = property_named(property)?;
            declare(
                "edit important",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| important(styles, target, &name, !off),
            )
        }
        EditCommand::Remove { subject, property } => {
            let name = property_named(property)?;
            declare(
                "edit remove",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| remove(styles, target, &name),
            )
        }
        EditCommand::Class {
            subject,
            changes,
            all,
        } => {
            // Behind the changes, which may begin with a hyphen, options look like changes.
            let (options, changes): (Vec<String>, Vec<String>) = changes
                .iter()
                .cloned()
                .partition(|c| c == "--all" || c == "--json");
            let has = |name: &str| options.iter().any(|o| o == name);
            let (all, json) = (*all || has("--all"), json || has("--json"));
            mark(
                "edit class",
                subject,
                all,
                surroundings,
                json,
                |page, elements| class(page, elements, &changes),
            )
        }
        EditCommand::Attribute {
            subject,
            name,
            value,
            off,
            all,
        } => {
            let value = (!off).then(|| value.clone().unwrap_or_default());
            mark(
                "edit attribute",
                subject,
                *all,
                surroundings,
                json,
                |page, elements| attribute(page, elements, name, value.as_deref()),
            )
        }
    }
}

/// `css/custom.css:4`
fn rule_place(text: &str) -> Result<(&str, u32)> {
    let parsed = text
        .rsplit_once(':')
        .and_then(|(file, line)| Some((file, line.parse().ok()?)));
    parsed.ok_or_else(|| {
        Problem::bad_use(format!(
            "--in {text}: expected the place of a rule, such as css/custom.css:4"
        ))
    })
}

/// Tries an edit of a declaration, and says what the property comes to then.
fn declare(
    command: &str,
    subject: &Subject,
    property: &PropertyName,
    surroundings: &Surroundings,
    json: bool,
    make: impl FnOnce(&Styles<'_>, &Target) -> std::result::Result<Edit, SetError>,
) -> Result<Outcome> {
    let mut opened = Opened::new(&subject.page, surroundings)?;
    let target = opened.element(&subject.element)?;
    let edit = make(&opened.page.styles(), &target)?;
    let element = ElementSummary::of_target(&opened.page, &target);
    let index = element.index as usize;
    opened.site.try_edit(edit.clone())?;

    // Asked again, on the page as it is now.
    let (page, element_now) = opened.again(index)?;
    let same = Target {
        element: element_now,
        pseudo: target.pseudo.clone(),
    };
    let answer = SetAnswer {
        element,
        property: property.to_string(),
        edit: &edit,
        diff: drafts::diff_of(&opened.site, &edit.file)?,
        why: why(&page.styles(), &same, property),
    };
    let text = if json {
        to_json(command, &answer)
    } else {
        let hint = drafts::site_hint(opened.site.root());
        render::draft::tried(&answer.edit.intent, &answer.diff, &answer.why, &hint)
    };
    Ok(Outcome { text, found: true })
}

#[derive(Serialize)]
struct MarkAnswer<'a> {
    elements: Vec<ElementSummary>,
    edit: &'a Edit,
    diff: String,
    /// The rules that match one of the elements now and did not before, and the other way round.
    gained: Vec<RuleSummary>,
    lost: Vec<RuleSummary>,
}

/// Tries an edit of tags, and says which rules that wins and loses.
fn mark(
    command: &str,
    subject: &Subject,
    all: bool,
    surroundings: &Surroundings,
    json: bool,
    make: impl FnOnce(&Page, &[NodeId]) -> std::result::Result<Edit, AttributeError>,
) -> Result<Outcome> {
    let mut opened = Opened::new(&subject.page, surroundings)?;
    let found = if all {
        elements(&opened.page, &What::parse(&subject.element))?
    } else {
        vec![opened.element(&subject.element)?.element]
    };
    let edit = make(&opened.page, &found)?;
    let indices: Vec<usize> = found
        .iter()
        .map(|id| opened.page.document().expect_element(*id).index as usize)
        .collect();
    let before = rules_of(&opened.page, &indices);
    opened.site.try_edit(edit.clone())?;
    let page = opened.site.page(&opened.name, opened.conditions.clone())?;
    let after = rules_of(&page, &indices);
    let missing = |rules: &[RuleSummary], others: &[RuleSummary]| -> Vec<RuleSummary> {
        let new = rules.iter().filter(|rule| !others.contains(rule));
        new.cloned().collect()
    };
    let answer = MarkAnswer {
        elements: found
            .iter()
            .map(|id| ElementSummary::new(&opened.page, *id))
            .collect(),
        edit: &edit,
        diff: drafts::diff_of(&opened.site, &edit.file)?,
        gained: missing(&after, &before),
        lost: missing(&before, &after),
    };
    let text = if json {
        to_json(command, &answer)
    } else {
        let hint = drafts::site_hint(opened.site.root());
        render::draft::marked(
            &edit.intent,
            &answer.diff,
            &answer.gained,
            &answer.lost,
            &hint,
        )
    };
    Ok(Outcome { text, found: true })
}

/// The rules of the site that match any of some elements.
fn rules_of(page: &Page, indices: &[usize]) -> Vec<RuleSummary> {
    let styles = page.styles();
    let mut found: Vec<RuleSummary> = Vec::new();
    for index in indices {
        let target = Target::from(page.document().elements()[*index]);
        for rule in trace(&styles, &target).rules {
            if rule.rule.arrival != "user-agent" && !found.contains(&rule.rule) {
                found.push(rule.rule);
            }
        }
    }
    found
}
