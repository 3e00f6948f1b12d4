//! Advice: what a person could do next, as data with everything that is needed to do it.
//!
//! Errors, refusals, `whynot` and every change of the draft give advice. The command prints it as a line that can be
//! typed, the desk as a button, JSON as it is here. Nothing here is the syntax of a command.
//!
//! ```
//! use fingerpost::advice::Action;
//! use fingerpost::edit::kinds::RemoveDeclaration;
//! use fingerpost::prelude::*;
//!
//! let page = Page::new(Text::new("a.html", "<style>p { color: teal }</style><p>Boats"));
//! let change = RemoveDeclaration { property: "colr".into() };
//! let intent = Intent::new("a.html", "p", change);
//! let refused = make(&page, &intent).unwrap_err();
//! assert_eq!(refused.code(), "unknown-property");
//! let advice = refused.advice(&intent);
//! let Action::Edit { edits } = &advice[0].action else { panic!() };
//! assert_eq!(edits[0].change.properties(), ["color"]);
//! ```

use serde::{Deserialize, Serialize};

use crate::draft::{DraftError, numbered};
use crate::edit::{Change, Destination, DestinationKind, EditError, Intent, Pages};
use crate::question::find::{ElementQuery, FindError};
use crate::question::state_needed::StateNeeded;
use crate::text::{PlaceQuery, SitePath};

/// Something to do next.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Advice {
    /// What kind of advice, in a word that stays the same: `nearest-property`, `override-sheet`.
    pub code: String,
    /// What it does, in a phrase that begins with a verb.
    pub label: String,
    /// How to do it.
    #[serde(flatten)]
    pub action: Action,
    /// What else it changes, where it was tried; none where it was not, or where nothing else changes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub side_effects: Option<String>,
    /// Whether it was tried before it was offered.
    #[serde(default, skip_serializing_if = "crate::edit::is_false")]
    pub tried: bool,
    /// The environments of the theme in which it leaves the element as it is.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub unchanged: Vec<String>,
    /// Whether it is good for a test only.
    #[serde(default, skip_serializing_if = "crate::edit::is_false")]
    pub test_only: bool,
}

/// How to follow a piece of advice.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(tag = "do", rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Action {
    /// Make these edits, in order, all or none.
    Edit {
        /// What is wanted.
        edits: Vec<Intent>,
    },
    /// Ask the same again, with elements in these states.
    AskInState {
        /// What named the element.
        asked: String,
        /// What names it without the state.
        element: String,
        /// The states.
        states: Vec<StateNeeded>,
    },
    /// Ask the same again about another element.
    AskAbout {
        /// What named the element.
        asked: String,
        /// What names the other one.
        element: String,
    },
    /// Look at the draft.
    ShowDraft,
    /// Switch a change of the draft on.
    SwitchOn {
        /// Its number.
        change: u32,
    },
    /// Discard a change of the draft, or all.
    Discard {
        /// Its number; none for all.
        change: Option<u32>,
    },
    /// Make a change of the draft again over the files as they are now.
    Reapply {
        /// Its number; none for all that conflict.
        change: Option<u32>,
    },
    /// Save changes of the draft.
    Save {
        /// Their numbers; none for all.
        changes: Vec<u32>,
    },
    /// Undo the last step of the draft.
    Undo,
    /// Finish an interrupted save, or leave the files as they are and forget it.
    Recover {
        /// Whether to leave the files.
        leave: bool,
    },
    /// Write a configuration for the site.
    Configure,
    /// Work in another folder.
    UseSite {
        /// The folder.
        folder: String,
    },
}

impl Advice {
    /// A piece of advice that was not tried.
    pub fn new(code: &str, label: impl Into<String>, action: Action) -> Advice {
        Advice {
            code: code.to_owned(),
            label: label.into(),
            action,
            side_effects: None,
            tried: false,
            unchanged: Vec::new(),
            test_only: false,
        }
    }

    /// One edit.
    pub fn edit(code: &str, label: impl Into<String>, intent: Intent) -> Advice {
        Advice::new(
            code,
            label,
            Action::Edit {
                edits: vec![intent],
            },
        )
    }
}

/// The ways out of a conflict.
pub fn of_conflict(change: u32) -> Vec<Advice> {
    vec![
        Advice::new(
            "reapply",
            "make it again on the file as it is now",
            Action::Reapply {
                change: Some(change),
            },
        ),
        Advice::new(
            "discard",
            "discard it",
            Action::Discard {
                change: Some(change),
            },
        ),
    ]
}

/// The change with another value of one of its parts.
fn with_part(change: &Change, part: &str, value: &str) -> Option<Change> {
    let mut json = serde_json::to_value(change).ok()?;
    let (_, parts) = json.as_object_mut()?.iter_mut().next()?;
    *parts.get_mut(part)? = value.into();
    serde_json::from_value(json).ok()
}

/// The change with another value in the place of one that a part of it has.
fn with_value(change: &Change, was: &str, value: &str) -> Option<Change> {
    let mut json = serde_json::to_value(change).ok()?;
    let (_, parts) = json.as_object_mut()?.iter_mut().next()?;
    let parts = parts.as_object_mut()?;
    // A property renamed to itself changes nothing.
    if parts.values().any(|part| part.as_str() == Some(value)) {
        return None;
    }
    *parts.values_mut().find(|part| part.as_str() == Some(was))? = value.into();
    serde_json::from_value(json).ok()
}

impl EditError {
    /// What a person could do instead of the refused intent.
    pub fn advice(&self, intent: &Intent) -> Vec<Advice> {
        let takes = |wanted: DestinationKind| {
            let info = intent.change.info();
            info.destinations.contains(&wanted)
        };
        match self {
            EditError::Find(error) => error.advice(),
            EditError::DestinationNotTaken { takes, .. } if !takes.is_empty() => {
                vec![Advice::edit(
                    "default-destination",
                    "make the change where it is written now",
                    elsewhere(intent, Destination::default()),
                )]
            }
            EditError::UnknownProperty {
                name,
                nearest: Some(near),
            } => {
                let change = with_value(&intent.change, name, near);
                another_change(intent, change, "nearest-property", format!("use {near}"))
            }
            EditError::NotANumber {
                part: Some(part), ..
            } => {
                let change = with_part(&intent.change, "property", part);
                another_change(intent, change, "longhand", format!("step {part}"))
            }
            EditError::Several { .. } if takes(DestinationKind::Overrides) => {
                vec![in_overrides(intent, "set it in the override sheet")]
            }
            EditError::SeveralRules { places, .. } => {
                let each = places.iter().map(|place| {
                    let into = Destination::Rule(PlaceQuery::from(place));
                    Advice::edit(
                        "rule",
                        format!("change it at {place}"),
                        elsewhere(intent, into),
                    )
                });
                each.collect()
            }
            EditError::SeveralTexts { texts, .. } => {
                let Change::Text(asked) = &intent.change else {
                    return Vec::new();
                };
                let each = texts.iter().map(|text| {
                    let mut change = asked.clone();
                    change.from = Some(text.clone());
                    let intent = Intent {
                        change: change.into(),
                        ..intent.clone()
                    };
                    Advice::edit("text", format!("change '{text}'"), intent)
                });
                each.collect()
            }
            EditError::NoSuchSheet { file } => vec![new_sheet(intent, file)],
            EditError::NoOverrideSheet { sheet, .. } => vec![
                in_new_sheet(intent, sheet),
                Advice::new(
                    "configure",
                    "write a configuration that names one",
                    Action::Configure,
                ),
            ],
            EditError::Overwritten { sheet, .. } => {
                let mut advice = Vec::new();
                if takes(DestinationKind::File) {
                    advice.push(in_new_sheet(intent, sheet));
                }
                if takes(DestinationKind::Winning) {
                    advice.push(Advice::edit(
                        "winning",
                        "write it there all the same, until it is overwritten",
                        elsewhere(intent, Destination::Winning),
                    ));
                }
                advice
            }
            EditError::NoFile { .. } => vec![Advice::new(
                "configure",
                "write a configuration with the mount that is missing",
                Action::Configure,
            )],
            EditError::NotFollowed { variable, .. } => not_followed(intent, variable.as_deref()),
            _ => Vec::new(),
        }
    }
}

/// The same with another destination.
fn elsewhere(intent: &Intent, into: Destination) -> Intent {
    Intent {
        into,
        ..intent.clone()
    }
}

fn in_overrides(intent: &Intent, label: &str) -> Advice {
    let intent = elsewhere(intent, Destination::Overrides);
    Advice::edit("override-sheet", label, intent)
}

/// The same with another change, where there is one.
fn another_change(
    intent: &Intent,
    change: Option<Change>,
    code: &str,
    label: String,
) -> Vec<Advice> {
    let advice = change.map(|change| {
        let intent = Intent {
            change,
            ..intent.clone()
        };
        Advice::edit(code, label, intent)
    });
    advice.into_iter().collect()
}

/// A sheet is made first.
fn new_sheet(intent: &Intent, file: &SitePath) -> Advice {
    Advice::new(
        "new-sheet",
        format!("make {file}, link it, and write the change there"),
        Action::Edit {
            edits: vec![making(intent, file, Pages::This), intent.clone()],
        },
    )
}

/// A sheet for the site's own changes is made, linked last on every page, and takes the change.
fn in_new_sheet(intent: &Intent, file: &SitePath) -> Advice {
    Advice::edit(
        "new-override-sheet",
        format!("make {file}, link it last on every page, and write the change there"),
        elsewhere(intent, Destination::Overrides),
    )
}

/// That an empty sheet is made and linked: on every page, it is the override sheet.
pub(crate) fn making(intent: &Intent, file: &SitePath, pages: Pages) -> Intent {
    let sheet = crate::edit::kinds::NewSheet {
        file: file.clone(),
        source: String::new(),
        after: None,
        overrides: matches!(pages, Pages::Every),
    };
    Intent {
        element: None,
        pages,
        ..Intent::new(&intent.page, "", sheet)
    }
}

/// What to do where the source of a built sheet says something else than the sheet.
fn not_followed(intent: &Intent, variable: Option<&str>) -> Vec<Advice> {
    let takes = &intent.change.info().destinations;
    let mut advice = Vec::new();
    if takes.contains(&DestinationKind::Overrides) {
        advice.push(in_overrides(
            intent,
            "write the change to the override sheet",
        ));
    }
    if takes.contains(&DestinationKind::Winning) {
        advice.push(Advice::edit(
            "built-sheet",
            "change the built sheet; the next build overwrites it",
            elsewhere(intent, Destination::Winning),
        ));
    }
    if let (Some(name), Some(value)) = (variable, intent.change.value()) {
        let change = crate::edit::kinds::CustomProperty {
            name: name.to_owned(),
            value: value.to_owned(),
        };
        let mut intent = Intent::new(&intent.page, "", change);
        intent.element = None;
        advice.push(Advice::edit(
            "variable",
            format!("change {name} where it is defined"),
            intent,
        ));
    }
    advice
}

impl FindError {
    /// What a person could ask instead.
    pub fn advice(&self) -> Vec<Advice> {
        match self {
            FindError::NotFound {
                what,
                state: Some(near),
                ..
            } => {
                let (bare, needed) = &**near;
                vec![Advice::new(
                    "in-state",
                    format!("ask about it in the state {}", needed.state),
                    Action::AskInState {
                        asked: what.trim_matches('\'').to_owned(),
                        element: bare.clone(),
                        states: vec![needed.clone()],
                    },
                )]
            }
            FindError::Several { what, elements, .. } => {
                let asked = what.trim_matches('\'').to_owned();
                let each = elements.iter().take(1).map(|element| {
                    Advice::new(
                        "one-element",
                        "name the first one",
                        Action::AskAbout {
                            asked: asked.clone(),
                            element: ElementQuery::Number(element.index).to_string(),
                        },
                    )
                });
                each.collect()
            }
            _ => Vec::new(),
        }
    }
}

impl DraftError {
    /// What a person could do.
    pub fn advice(&self) -> Vec<Advice> {
        let discard = Advice::new(
            "discard-all",
            "discard the whole draft",
            Action::Discard { change: None },
        );
        match self {
            DraftError::Apart { ids, needs } => {
                let mut changes: Vec<u32> = ids.iter().chain(needs).copied().collect();
                changes.sort_unstable();
                vec![Advice::new(
                    "save-together",
                    format!("save {}", numbered(&changes)),
                    Action::Save { changes },
                )]
            }
            DraftError::Changed { .. } => vec![
                Advice::new(
                    "reapply",
                    "carry the draft over to the files as they are now",
                    Action::Reapply { change: None },
                ),
                discard,
            ],
            _ => vec![discard],
        }
    }
}
