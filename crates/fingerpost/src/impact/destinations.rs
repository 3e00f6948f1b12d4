//! Where a change of a property could go, each place tried on the site: whether it wins there, what else it moves, and what would
//! overwrite it.
//!
//! ```
//! use fingerpost::impact::destinations::destinations;
//! use fingerpost::prelude::*;
//!
//! # let folder = tempfile::tempdir()?;
//! # std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! # std::fs::write(folder.path().join("a.css"), "p { color: teal }")?;
//! # std::fs::write(folder.path().join("a.html"), "<link rel=stylesheet href=a.css><p id=boats>Boats<p>Fares")?;
//! // a.css: p { color: teal }
//! // a.html: <link rel=stylesheet href=a.css><p id=boats>Boats<p>Fares
//! let site = Site::of_folder(folder.path())?;
//! let page = site.page("a.html", Environment::default())?;
//! let target = page.ask().find_one("#boats")?;
//! let set = ("color", "navy");
//! let answer = destinations(&site, &page, &target, set, &ElementStates::default());
//!
//! // In an override sheet, which would be made, it moves nothing else; the rule that sets it now is about the other paragraph too.
//! let best = &answer.destinations[0];
//! assert_eq!((best.into.to_string().as_str(), best.others), ("overrides", 0));
//! assert!(answer.destinations.iter().any(|other| other.others == 1));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use serde::{Deserialize, Serialize};

use super::remedies::Trials;
use super::site::{ImpactOptions, effect};
use crate::advice::{Advice, making};
use crate::edit::{Change, Destination, Edit, EditError, Intent, Pages};
use crate::page::{Page, PropertyName, Target};
use crate::question::ElementSummary;
use crate::question::codes::ContenderStanding;
use crate::question::element_states::ElementStates;
use crate::question::find::ElementQuery;
use crate::question::why::why;
use crate::site::{Site, View};
use crate::text::Place;

/// Where a change could go.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct DestinationsAnswer {
    /// The page.
    pub page: String,
    /// The element.
    pub element: ElementSummary,
    /// The property.
    pub property: String,
    /// The value.
    pub value: String,
    /// Where it can go, the best first: what wins, lasts and moves the least of the rest.
    pub destinations: Vec<DestinationAnswer>,
    /// Where it can't go.
    pub refused: Vec<RefusedDestination>,
}

/// A place that a change could go to, as trying it showed.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct DestinationAnswer {
    /// What names it.
    pub into: Destination,
    /// The file that it is written to.
    pub file: String,
    /// Whether the element has the value then.
    pub wins: bool,
    /// The selector of the rule that gives the value then: its own where it wins, else the one that beats it.
    pub selector: Option<String>,
    /// Where that stands.
    pub place: Option<Place>,
    /// How many other elements it changes, over the whole site and all states that it names.
    pub others: usize,
    /// What it changes of them, in half a sentence; none where nothing else changes.
    pub side_effects: Option<String>,
    /// What would overwrite it, in a sentence; none where it lasts.
    pub risk: Option<String>,
}

/// A place that a change can't go to.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct RefusedDestination {
    /// What names it.
    pub into: Destination,
    /// Why not.
    pub why: String,
}

/// The destinations that are tried. Where several write the same, the first stands for all.
const TRIED: [Destination; 5] = [
    Destination::Sources,
    Destination::Overrides,
    Destination::Page,
    Destination::Winning,
    Destination::Inline,
];

/// Where a property of an element can get a value: `set` is both.
pub fn destinations(
    site: &Site,
    page: &Page,
    target: &Target,
    set: (&str, &str),
    element_states: &ElementStates,
) -> DestinationsAnswer {
    let search = Search {
        trials: Trials {
            site,
            page,
            target,
            element_states,
        },
        property: set.0,
        value: set.1,
    };
    let mut known: Vec<Vec<crate::edit::FileChange>> = Vec::new();
    let mut found: Vec<DestinationAnswer> = Vec::new();
    let mut refused = Vec::new();
    for into in TRIED {
        match search.made(&into) {
            Ok((view, edit)) if !known.contains(&edit.changes) => {
                found.extend(search.judged(into, &view, &edit));
                known.push(edit.changes);
            }
            Ok(_) => {}
            Err(error) => refused.push(RefusedDestination {
                into,
                why: error.to_string(),
            }),
        }
    }
    found.sort_by_key(|one| (!one.wins, one.risk.is_some(), one.others));
    DestinationsAnswer {
        page: page.document().text().name().to_owned(),
        element: ElementSummary::of_target(page, target),
        property: set.0.to_owned(),
        value: set.1.to_owned(),
        destinations: found,
        refused,
    }
}

impl DestinationsAnswer {
    /// The change in each destination, the best first.
    pub fn advice(&self) -> Vec<Advice> {
        let of_one = |one: &DestinationAnswer| {
            let change = Change::set(&self.property, &self.value);
            let element = ElementQuery::Number(self.element.index).to_string();
            let mut intent = Intent::new(&self.page, &element, change);
            intent.into = one.into.clone();
            let label = match &one.into {
                Destination::Inline => "write it to the style attribute".to_owned(),
                Destination::Page => "write it to the page's embedded sheet".to_owned(),
                _ => format!("write it to {}", one.file),
            };
            let mut advice = Advice::edit("destination", label, intent);
            advice.tried = true;
            advice.side_effects.clone_from(&one.side_effects);
            advice
        };
        let winning = self.destinations.iter().filter(|one| one.wins);
        winning.map(of_one).collect()
    }
}

struct Search<'a> {
    trials: Trials<'a>,
    property: &'a str,
    value: &'a str,
}

impl Search<'_> {
    fn intent(&self, page: &Page, into: &Destination) -> Option<Intent> {
        let element = self.trials.element_on(page)?;
        let target = Target {
            element,
            ..self.trials.target.clone()
        };
        let named = ElementQuery::naming(page.document(), &target);
        let change = Change::set(self.property, self.value);
        let mut intent = Intent::new(page.document().text().name(), "", change);
        intent.element = Some(named);
        intent.into = into.clone();
        Some(intent)
    }

    /// The site with the change in a destination; an override sheet that is not there is made first.
    fn made(&self, into: &Destination) -> Result<(View, Edit), EditError> {
        let Trials { site, page, .. } = self.trials;
        let intent = self.intent(page, into).ok_or(EditError::NoElement)?;
        let on = |site: &Site, edit: Edit| {
            site.imagined(edit).map_err(|error| EditError::NotThere {
                place: into.to_string(),
                why: error.to_string(),
            })
        };
        match site.make(page, &intent) {
            Ok(edit) => Ok((on(site, edit.clone())?, edit)),
            Err(EditError::NoOverrideSheet { sheet, .. }) => {
                let first = site.make(page, &making(&intent, &sheet, Pages::Every))?;
                let with_sheet = on(site, first)?;
                let missing = |_| EditError::NoElement;
                let after = with_sheet.reparse_page(page).map_err(missing)?;
                let into = Destination::File(sheet);
                let intent = self.intent(&after, &into).ok_or(EditError::NoElement)?;
                let edit = with_sheet.make(&after, &intent)?;
                Ok((on(&with_sheet, edit.clone())?, edit))
            }
            Err(error) => Err(error),
        }
    }

    /// What a change does; none where its page can't be read.
    fn judged(&self, into: Destination, view: &View, edit: &Edit) -> Option<DestinationAnswer> {
        let Trials { site, page, .. } = self.trials;
        let after = self.trials.in_states(view.reparse_page(page).ok()?)?;
        let wants = [(self.property.to_owned(), self.value.to_owned())];
        let wins = self.trials.wins(&after, &wants);
        let file = edit.files().next()?.to_owned();
        let role = site.role(&file);
        let risk = role
            .is_overwritten()
            .then(|| format!("{}: {} overwrites it", role.sentence(&file), role.writer()));
        let options = ImpactOptions {
            page: Some(page.document().text().name()),
            environment: page.environment(),
            element_states: self.trials.element_states,
            only_here: false,
            aimed: &|page: &Page| self.trials.aimed(page),
        };
        let effect = effect(site, view, &options).ok()?;
        let rule = self.winner(&after);
        Some(DestinationAnswer {
            into,
            file,
            wins,
            selector: rule.as_ref().map(|(selector, _)| selector.clone()),
            place: rule.map(|(_, place)| place),
            others: effect.side_effects().count(),
            side_effects: effect.side_effects_in_words(),
            risk,
        })
    }

    /// The rule that gives the value, and where the declaration stands.
    fn winner(&self, page: &Page) -> Option<(String, Place)> {
        let element = self.trials.element_on(page)?;
        let target = Target {
            element,
            ..self.trials.target.clone()
        };
        let name = PropertyName::named(self.property)?;
        let answer = why(&page.styles(), &target, &name);
        let contenders = answer.contests.first()?.contenders.iter();
        let winner = contenders
            .into_iter()
            .find(|c| c.standing == ContenderStanding::Wins)?;
        let rule = winner.declaration.rule.selector.clone();
        Some((rule, winner.declaration.place.clone()))
    }
}
