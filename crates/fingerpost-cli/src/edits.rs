//! The edits: each is put into the draft, and the page is asked again.

use std::collections::HashMap;
use std::io::Read;
use std::path::Path;

use fingerpost::edit::{
    Anchor, Change, Edit, Intent, Where, declared, kinds, selectors_at, subjects,
};
use fingerpost::markup::{NodeId, Written};
use fingerpost::page::{Page, PropertyName, Target};
use fingerpost::question::find::{What, elements};
use fingerpost::question::why::{WhyAnswer, why};
use fingerpost::question::{ElementSummary, RuleSummary, site_rules};
use fingerpost::text::LARGEST_FILE;
use serde::Serialize;

use crate::arguments::{EditCommand, Surroundings};
use crate::commands::{Opened, Outcome, Problem, Result, opened_site, to_json};
use crate::{drafts, render};

/// What a tried edit did.
#[derive(Serialize)]
pub struct EditAnswer {
    /// Its number in the draft.
    pub id: u32,
    /// The elements that it is about, as they were.
    pub elements: Vec<ElementSummary>,
    pub edit: Edit,
    /// The files that it changes, each with what it changes there.
    pub files: Vec<drafts::FileAnswer>,
    /// What the properties that it is about come to now, for the first of the elements.
    pub why: Vec<WhyAnswer>,
    /// The rules that match one of the elements now and did not before, and the other way round.
    pub gained: Vec<RuleSummary>,
    pub lost: Vec<RuleSummary>,
    /// What was asked for and does not win, with what does.
    pub beaten: Vec<String>,
    /// How many elements of the page a changed selector list reached, and reaches.
    pub reach: Option<Reach>,
}

#[derive(Serialize)]
pub struct Reach {
    pub before: usize,
    pub after: usize,
}

/// One edit: try it, and say what it did.
pub fn edit(command: &EditCommand, surroundings: &Surroundings, json: bool) -> Result<Outcome> {
    let mut opened = Opened::to_edit(command.page(), surroundings)?;
    let mut intent = command.intent(&opened.name);
    from_standard_input(&mut intent.change)?;
    let answer = attempt(&mut opened, &intent)?;
    let text = if json {
        to_json("edit", &answer)
    } else {
        let hint = drafts::site_hint(opened.site.root());
        render::edit::tried(&answer, &hint)
    };
    Ok(Outcome { text, found: true })
}

/// Markup given as `-` is read from standard input.
fn from_standard_input(change: &mut Change) -> Result<()> {
    let (Change::Markup(kinds::Markup { source, .. })
    | Change::Insert(kinds::Insert { source, .. })) = change
    else {
        return Ok(());
    };
    if source == "-" {
        *source = standard_input()?;
    }
    Ok(())
}

/// What is given on standard input, up to the size of a source text.
fn standard_input() -> Result<String> {
    let mut text = String::new();
    let limited = std::io::stdin().lock().take(LARGEST_FILE as u64 + 1);
    let read = std::io::BufReader::new(limited).read_to_string(&mut text);
    read.map_err(|error| Problem::bad_use(format!("standard input can't be read: {error}")))?;
    match text.len() > LARGEST_FILE {
        true => Err(Problem::bad_use(format!(
            "standard input has more than {LARGEST_FILE} bytes, which is too large for a source text"
        ))),
        false => Ok(text),
    }
}

/// The properties that a change is about.
fn properties(change: &Change) -> Vec<PropertyName> {
    let mut found: Vec<PropertyName> = Vec::new();
    for name in change
        .properties()
        .iter()
        .filter_map(|n| PropertyName::parse(n))
    {
        if !found.contains(&name) {
            found.push(name);
        }
    }
    found
}

/// Tries an intent on an opened page, and asks the page again.
fn attempt(opened: &mut Opened, intent: &Intent) -> Result<EditAnswer> {
    let found = subjects(&opened.page, intent)?;
    let elements: Vec<NodeId> = found.iter().map(|t| t.element).collect();
    opened.pretend(&elements);
    let edit = opened.site.make(&opened.page, intent)?;
    let summaries: Vec<ElementSummary> = found
        .iter()
        .map(|target| ElementSummary::of_target(&opened.page, target))
        .collect();
    let anchors = anchors(opened, &elements);
    let before = site_rules(&opened.page.styles(), &elements);
    let reach_before = reached(&opened.page, &intent.change);
    let texts = drafts::texts_of(&opened.site, &edit)?;
    let id = opened.site.try_edit(edit.clone())?;
    let files = drafts::differences(texts, drafts::texts_of(&opened.site, &edit)?);

    opened.refresh()?;
    let still = anchored(opened, &anchors);
    let now: Vec<NodeId> = still.iter().flatten().copied().collect();
    opened.pretend(&now);
    let after = site_rules(&opened.page.styles(), &now);
    let styles = opened.page.styles();
    let first = still.first().copied().flatten().map(|element| Target {
        element,
        pseudo: found[0].pseudo.clone(),
    });
    let asked = first.iter().flat_map(|target| {
        let properties = properties(&intent.change);
        properties
            .into_iter()
            .map(|p| why(&styles, target, &p))
            .collect::<Vec<_>>()
    });
    let missing = |rules: &[RuleSummary], others: &[RuleSummary]| -> Vec<RuleSummary> {
        let same = |a: &RuleSummary, b: &RuleSummary| {
            a.selector == b.selector && a.place.file == b.place.file && a.layer == b.layer
        };
        let new = rules
            .iter()
            .filter(|rule| !others.iter().any(|o| same(o, rule)));
        new.cloned().collect()
    };
    let why: Vec<WhyAnswer> = asked.collect();
    Ok(EditAnswer {
        id,
        beaten: beaten(&intent.change, &why),
        elements: summaries,
        files,
        why,
        gained: missing(&after, &before),
        lost: if still.iter().all(Option::is_some) {
            missing(&before, &after)
        } else {
            Vec::new()
        },
        reach: reach_before
            .zip(reached(&opened.page, &intent.change))
            .map(|(before, after)| Reach { before, after }),
        edit,
    })
}

/// What was asked for and does not win, in sentences.
fn beaten(change: &Change, why: &[WhyAnswer]) -> Vec<String> {
    let fold = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let wanted: Vec<(String, String)> = match change {
        Change::Set(kinds::Set { property, value })
        | Change::Add(kinds::Add { property, value }) => {
            vec![(property.clone(), fold(value))]
        }
        Change::Rule(rule) => {
            let all = declared(&rule.declarations).into_iter();
            all.map(|(name, value)| (name, fold(&value))).collect()
        }
        _ => Vec::new(),
    };
    let mut sentences = Vec::new();
    for (property, value) in wanted {
        let about = why
            .iter()
            .filter(|w| w.property.eq_ignore_ascii_case(&property));
        for contest in about.flat_map(|w| &w.contests) {
            let Some(winner) = contest.contenders.iter().find(|c| c.standing == "wins") else {
                continue;
            };
            let own = contest.contenders.iter().find(|c| {
                c.declaration.property.eq_ignore_ascii_case(&property)
                    && c.declaration.value == value
            });
            if winner.declaration.value != value
                && let Some(own) = own
            {
                sentences.push(format!(
                    "{property}: {value} does not win; it {}. {} wins, at {}",
                    own.sentence, winner.declaration.rule.selector, winner.declaration.place
                ));
                break;
            }
        }
    }
    sentences
}

fn anchors(opened: &Opened, elements: &[NodeId]) -> Vec<Option<Anchor>> {
    let document = opened.page.document();
    let file = document.text().name();
    let start = |id: &NodeId| document.expect_element(*id).start_tag.start();
    elements
        .iter()
        .map(|id| opened.site.anchor(file, start(id)))
        .collect()
}

/// The elements of the page whose tags begin at anchors.
fn anchored(opened: &Opened, anchors: &[Option<Anchor>]) -> Vec<Option<NodeId>> {
    let document = opened.page.document();
    // An implied parent begins where the element does: the one with a tag is meant.
    let is_written = |id: &NodeId| document.expect_element(*id).written == Written::Tag;
    let (written, implied): (Vec<NodeId>, Vec<NodeId>) =
        document.elements().iter().partition(|id| is_written(id));
    let starts: HashMap<_, NodeId> = implied
        .into_iter()
        .rev()
        .chain(written)
        .map(|id| (document.expect_element(id).start_tag.start(), id))
        .collect();
    let at = |anchor: &Option<Anchor>| {
        let offset = opened.site.offset(anchor.as_ref()?)?;
        starts.get(&offset).copied()
    };
    anchors.iter().map(at).collect()
}

/// How many elements a rule reaches whose selectors change.
fn reached(page: &Page, change: &Change) -> Option<usize> {
    let Change::Selector(selector) = change else {
        return None;
    };
    Some(reach_of(page, &selectors_at(page, &selector.rule)?))
}

fn reach_of(page: &Page, selectors: &str) -> usize {
    elements(page, &What::Selector(selectors.to_owned())).map_or(0, |found| found.len())
}

/// Makes a change of the draft again, for something else.
pub fn aim(
    folder: &Path,
    number: u32,
    what: Option<&str>,
    surroundings: &Surroundings,
    json: bool,
) -> Result<Outcome> {
    let mut site = opened_site(folder)?;
    site.hold()?;
    let tried = site.draft().edit(number).ok_or_else(|| Problem {
        message: format!("the draft has no change {number}; `fingerpost draft` lists them"),
        status: 1,
    })?;
    let mut intent = tried.intent.clone();
    if let Some(what) = what {
        match &mut intent.change {
            Change::Selector(kinds::Selector { rule, .. })
            | Change::MoveRule(kinds::MoveRule { rule, .. })
            | Change::Split(kinds::Split { rule, .. })
            | Change::RemoveRule(kinds::RemoveRule { rule })
            | Change::Condition(kinds::Condition { rule, .. })
            | Change::Enclose(kinds::Enclose { rule, .. }) => what.clone_into(rule),
            _ => match &mut intent.into {
                Where::At(place) => what.clone_into(place),
                _ => intent.element = Some(what.to_owned()),
            },
        }
    }
    // Made over what there is without the old one.
    let mut bare = opened_site(folder)?;
    bare.without(number);
    let mut opened = Opened::of_site(bare, intent.page.clone(), surroundings)?;
    let found: Vec<NodeId> = subjects(&opened.page, &intent)?
        .iter()
        .map(|t| t.element)
        .collect();
    opened.pretend(&found);
    let edit = opened.site.make(&opened.page, &intent)?;
    let summary = edit.summary.clone();
    let id = site.aim(number, edit)?.unwrap_or(number);
    drafts::listed(
        &site,
        &format!("Change {number} is now change {id}: {summary}"),
        json,
    )
}

/// Tries every edit of a script, in order; none where one of them can't be made.
pub fn script(
    folder: &Path,
    script: &Path,
    surroundings: &Surroundings,
    json: bool,
) -> Result<Outcome> {
    let text = match script.to_str() {
        Some("-") => standard_input()?,
        _ => {
            let bytes = fingerpost::site::read_file(script)?;
            String::from_utf8(bytes).map_err(|_| {
                Problem::bad_use(format!("{}: it is not UTF-8 text", script.display()))
            })?
        }
    };
    let script_of = fingerpost::edit::Script::from_json(&text)
        .map_err(|error| Problem::bad_use(format!("{}: {error}", script.display())))?;
    let mut site = opened_site(folder)?;
    site.hold()?;
    let before = site.draft().clone();
    let mut opened: Option<Opened> = None;
    let mut answers = Vec::new();
    let mut waiting = Some(site);
    for (at, intent) in script_of.edits.iter().enumerate() {
        let site = match opened.take() {
            Some(opened) => opened.site,
            None => waiting.take().expect("the site is in one of two hands"),
        };
        let next = Opened::of_site(site, intent.page.clone(), surroundings);
        let tried = next.and_then(|mut next| {
            let done = attempt(&mut next, intent);
            opened = Some(next);
            done
        });
        match tried {
            Ok(answer) => answers.push(answer),
            Err(problem) => {
                // All or nothing: half a script is a state that nobody asked for.
                if let Some(opened) = &mut opened {
                    opened.site.change_draft(|draft| *draft = before)?;
                } else {
                    let mut site = opened_site(folder)?;
                    site.change_draft(|draft| *draft = before)?;
                }
                return Err(Problem {
                    message: format!(
                        "{}: edit {}: {}; nothing of the script was tried",
                        script.display(),
                        at + 1,
                        problem.message
                    ),
                    status: problem.status,
                });
            }
        }
    }
    let site = opened
        .map(|o| o.site)
        .or(waiting)
        .expect("the site is in one of two hands");
    let text = if json {
        to_json("edit --script", Scripted { edits: answers })
    } else {
        let hint = drafts::site_hint(site.root());
        render::edit::scripted(&answers, &drafts::file_answers(&site.changes()?), &hint)
    };
    Ok(Outcome {
        text,
        found: !script_of.edits.is_empty(),
    })
}

#[derive(Serialize)]
struct Scripted {
    edits: Vec<EditAnswer>,
}
