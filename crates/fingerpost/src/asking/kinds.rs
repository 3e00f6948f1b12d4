//! The questions: each is registered here and nowhere else.

use std::sync::Arc;

use super::any_answer::{AnyValues, EachAnswer};
use super::{
    About, AnswerType, Answered, Ask, AskError, Asked, QuestionGroup, QuestionKind, Sample, Step,
};
use crate::field::{Field, Holds, flag, named, optional, required};
use crate::impact::class_for::classes_for;
use crate::impact::destinations::{DestinationsAnswer, destinations};
use crate::impact::remedies::{WhyNotReport, tried};
use crate::page::PropertyName;
use crate::question::classes::ClassesAnswer;
use crate::question::codes::ArrivalKind;
use crate::question::complete::{CompleteAnswer, property_names, values_of};
use crate::question::facts::{FactsAnswer, facts};
use crate::question::find::{ElementQuery, FindAnswer};
use crate::question::fonts::FontsAnswer;
use crate::question::selectors::SelectorsAnswer;
use crate::question::sheets::SheetsAnswer;
use crate::question::trace::TraceAnswer;
use crate::question::tree::TreeAnswer;
use crate::question::why::WhyAnswer;
use crate::question::whynot;

/// What most questions have in common.
const USUAL: QuestionKind = QuestionKind {
    name: "",
    does: "",
    step: Step::Why,
    about: About::Element,
    fields: &[],
    examples: &[],
    rests_on_sheets: true,
    answer: AnswerType::of::<()>(),
    ask: Ask::Standards(|_| Err(AskError::NeedsElement)),
};

const PROPERTY: Field = required(
    "property",
    "A property, a shorthand, or a custom property such as --brand",
    Holds::Property,
);

const HOME: &str = "pages/home.html";

/// A sample on the demo theme.
const fn sample(
    page: &'static str,
    element: &'static str,
    parts: &'static [(&'static str, &'static str)],
) -> Sample {
    Sample {
        page,
        element,
        is_text: false,
        parts,
    }
}

pub(super) static GROUPS: [QuestionGroup; 1] = [QuestionGroup {
    name: "suggest",
    does: "Suggest properties, values, classes, selectors or destinations",
}];

pub(super) static ALL: [QuestionKind; 14] = [
    QuestionKind {
        name: "find",
        does: "Find elements by selector, by text, or by place in the source",
        step: Step::Find,
        about: About::Elements,
        examples: &[
            sample(HOME, ".panel > h2", &[]),
            Sample {
                is_text: true,
                ..sample(HOME, "Sailings today", &[])
            },
            sample("pages/fares.html", "42", &[]),
        ],
        rests_on_sheets: false,
        answer: AnswerType::of::<FindAnswer>(),
        ask: Ask::Page(|asked| {
            let answer = asked.page.ask().find(asked.query()?)?;
            let found = !answer.elements.is_empty();
            Ok(Answered::new(answer, found))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "tree",
        does: "Show the element tree with the line of each element",
        step: Step::Find,
        about: About::ElementOrRoot,
        fields: &[named("depth", "How many levels to show", Holds::Number)],
        examples: &[sample(HOME, "main", &[("depth", "2")])],
        rests_on_sheets: false,
        answer: AnswerType::of::<TreeAnswer>(),
        ask: Ask::Page(|asked| {
            let depth = asked.parts.number("depth")?;
            let (page, from) = match asked.elements.is_empty() {
                true => (asked.page.clone(), asked.page.document().root_element()),
                false => asked
                    .target()
                    .map(|(page, target)| (page, target.element))?,
            };
            Ok(Answered::new(page.ask().tree(from, depth), true))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "why",
        does: "Show why a property of an element has its value",
        fields: &[PROPERTY],
        examples: &[
            sample(HOME, "h2.today", &[("property", "color")]),
            sample(HOME, ".sailings", &[("property", "padding")]),
        ],
        answer: AnswerType::of::<WhyAnswer>(),
        ask: Ask::Page(|asked| {
            let (page, target) = asked.target()?;
            let property = asked.parts.property()?;
            Ok(Answered::new(page.ask().why(&target, &property), true))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "whynot",
        does: "Show why a rule or a declaration has no effect on an element, and what would win",
        fields: &[required(
            "what",
            "A rule's place (FILE:LINE), a selector, or a declaration such as \"color: navy\"",
            Holds::Text,
        )],
        examples: &[
            sample(HOME, "h2.today", &[("what", "color: navy")]),
            sample(HOME, "h2.today", &[("what", "css/skerry.css:120")]),
            sample(HOME, "h2.today", &[("what", ".panel > .today")]),
        ],
        answer: AnswerType::of::<WhyNotReport>(),
        ask: Ask::Page(whynot_tried),
        ..USUAL
    },
    QuestionKind {
        name: "trace",
        does: "Show every rule that matches an element, strongest first",
        examples: &[sample(HOME, "h2.today", &[])],
        answer: AnswerType::of::<TraceAnswer>(),
        ask: Ask::Page(|asked| {
            let (page, target) = asked.target()?;
            Ok(Answered::new(page.ask().trace(&target), true))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "values",
        does: "Show an element's computed values, and where each is set",
        fields: &[
            optional(
                "property",
                "One property: how it gets its value; a shorthand with all its longhands",
                Holds::Property,
            ),
            named(
                "filter",
                "Only properties with this word in their name or value",
                Holds::Text,
            ),
            flag("initial", "Include properties with their initial value"),
            flag(
                "each",
                "For every element that matches; as JSON, one line for each",
            ),
        ],
        examples: &[
            sample(HOME, "h2.today", &[("filter", "font")]),
            sample(HOME, ".sailings", &[("property", "padding")]),
            sample(HOME, "li, a", &[("each", ""), ("initial", "")]),
        ],
        answer: AnswerType::of::<AnyValues>(),
        ask: Ask::Page(values),
        ..USUAL
    },
    QuestionKind {
        name: "sheets",
        does: "List every sheet of a page in cascade order, how each is loaded, and what failed to load",
        about: About::Page,
        examples: &[sample(HOME, "", &[])],
        rests_on_sheets: false,
        answer: AnswerType::of::<SheetsAnswer>(),
        ask: Ask::Page(|asked| {
            let elsewhere = asked.site.inventory();
            Ok(Answered::new(
                with_roles(asked, asked.page.ask().beside(&elsewhere).sheets()),
                true,
            ))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "fonts",
        does: "List the font families of a page, and where each is declared",
        about: About::Page,
        examples: &[sample(HOME, "", &[])],
        answer: AnswerType::of::<FontsAnswer>(),
        ask: Ask::Page(|asked| {
            let answer = asked.page.ask().fonts();
            let found = !answer.families.is_empty();
            Ok(Answered::new(answer, found))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "describe",
        does: "Show what the standards say about a property",
        about: About::Nothing,
        fields: &[required("property", "The property", Holds::Property)],
        examples: &[sample("", "", &[("property", "flex-basis")])],
        answer: AnswerType::of::<FactsAnswer>(),
        ask: Ask::Standards(|parts| Ok(Answered::new(facts(parts.known_property()?), true))),
        ..USUAL
    },
    QuestionKind {
        name: "suggest value",
        does: "Complete a value",
        step: Step::Try,
        about: About::Nothing,
        fields: &[
            required("property", "The property", Holds::Property),
            optional("beginning", "The start of a value", Holds::Text),
        ],
        examples: &[
            sample("", "", &[("property", "border"), ("beginning", "1px so")]),
            sample("", "", &[("property", "overflow")]),
        ],
        answer: AnswerType::of::<CompleteAnswer>(),
        ask: Ask::Standards(|parts| {
            let beginning = parts.text("beginning").unwrap_or_default();
            let answer = values_of(parts.known_property()?, beginning);
            let found = !answer.offers.is_empty() || answer.complete;
            Ok(Answered::new(answer, found))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "suggest property",
        does: "Complete the name of a property",
        step: Step::Try,
        about: About::Nothing,
        fields: &[required(
            "beginning",
            "The start of a property's name",
            Holds::Text,
        )],
        examples: &[sample("", "", &[("beginning", "text-dec")])],
        answer: AnswerType::of::<CompleteAnswer>(),
        ask: Ask::Standards(|parts| {
            let answer = property_names(parts.text("beginning").unwrap_or_default());
            let found = !answer.offers.is_empty();
            Ok(Answered::new(answer, found))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "suggest class",
        does: "Complete a class of the theme, or find those that would give an element a value",
        step: Step::Try,
        about: About::Page,
        fields: &[
            optional(
                "beginning",
                "The start of a class, default: all; before a property and a value, the element",
                Holds::Text,
            ),
            optional(
                "property",
                "The property that the element is to have",
                Holds::Property,
            ),
            optional("value", "Its value", Holds::Value),
        ],
        examples: &[
            sample(HOME, "", &[("beginning", "pan")]),
            sample(
                HOME,
                "",
                &[
                    ("beginning", "h2.today"),
                    ("property", "background"),
                    ("value", "var(--ok)"),
                ],
            ),
        ],
        answer: AnswerType::of::<ClassesAnswer>(),
        ask: Ask::Page(|asked| {
            if asked.parts.text("property").is_some() {
                return classes_that_set(asked);
            }
            let beginning = asked.parts.text("beginning").unwrap_or_default();
            let answer = asked.page.ask().classes(beginning);
            let found = !answer.classes.is_empty();
            Ok(Answered::new(answer, found))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "suggest selector",
        does: "Suggest selectors for elements, the best first, each with its reach",
        step: Step::Try,
        about: About::Several,
        fields: &[flag(
            "like",
            "Include all similar elements: same tag and classes, same position in a list",
        )],
        examples: &[
            sample(HOME, "h2.today", &[]),
            sample(HOME, ".sailing:first-child", &[("like", "")]),
        ],
        answer: AnswerType::of::<SelectorsAnswer>(),
        ask: Ask::Page(|asked| {
            asked.query()?;
            let elsewhere = asked.site.inventory();
            let ask = asked.page.ask().beside(&elsewhere);
            let answer = ask.selectors(&asked.elements, asked.parts.has("like"))?;
            let found = !answer.candidates.is_empty();
            Ok(Answered::new(answer, found))
        }),
        ..USUAL
    },
    QuestionKind {
        name: "suggest destination",
        does: "Suggest where a change of a property can go, each place tried, the best first",
        step: Step::Try,
        fields: &[PROPERTY, required("value", "The new value", Holds::Value)],
        examples: &[sample(
            HOME,
            "h2.today",
            &[("property", "color"), ("value", "navy")],
        )],
        answer: AnswerType::of::<DestinationsAnswer>(),
        ask: Ask::Page(|asked| {
            let (page, target) = asked.target()?;
            let property = asked.parts.property()?.to_string();
            let value = asked.parts.text("value").unwrap_or_default();
            let set = (&*property, value);
            let answer = destinations(asked.site, &page, &target, set, &asked.states);
            let advice = answer.advice();
            let found = !advice.is_empty();
            Ok(Answered {
                advice,
                ..Answered::new(answer, found)
            })
        }),
        ..USUAL
    },
];

/// `whynot`, with what would win, tried on the site. Found is what is in the way.
fn whynot_tried(asked: &Asked<'_>) -> Result<Answered, AskError> {
    let (page, target) = asked.target()?;
    let text = asked.parts.text("what").unwrap_or_default();
    let what = whynot::Asked::parse(text);
    if let whynot::Asked::Selector(name) = &what
        && let Some(PropertyName::Known(property)) = PropertyName::named(name)
        && page
            .ask()
            .elements(ElementQuery::parse(name))
            .is_ok_and(|all| all.is_empty())
    {
        return Err(AskError::NotARule {
            name: name.clone(),
            initial: property.facts().initial.to_owned(),
        });
    }
    let report = tried(asked.site, &page, &target, &what, text, &asked.states)?;
    let found = !report.answer.holds;
    Ok(Answered {
        advice: report.advice,
        ..Answered::new(report.answer, found)
    })
}

/// How many classes that would do it are offered.
const MOST_CLASSES: usize = 6;

/// `suggest class` with a property and a value: the classes that would give them to an element, each tried.
fn classes_that_set(asked: &Asked<'_>) -> Result<Answered, AskError> {
    let element = asked.parts.text("beginning").unwrap_or_default();
    let property = asked.parts.property()?.to_string();
    let value = asked.parts.text("value").ok_or(AskError::MissingPart {
        question: "suggest class",
        part: "value",
        what: "Its value",
    })?;
    let of_element = Asked {
        elements: vec![ElementQuery::parse(element)],
        parts: asked.parts.clone(),
        states: asked.states.clone(),
        page: asked.page.clone(),
        site: asked.site,
    };
    let (page, target) = of_element.target()?;
    let set = (&*property, value);
    let found = classes_for(asked.site, &page, &target, set, &asked.states, MOST_CLASSES);
    let all = page.ask().classes("");
    let named = |name: &str| all.classes.iter().find(|class| class.name == name).cloned();
    let answer = ClassesAnswer {
        prefix: element.to_owned(),
        classes: found.iter().filter_map(|one| named(&one.class)).collect(),
        ..all
    };
    let is_found = !found.is_empty();
    Ok(Answered {
        advice: found.into_iter().map(|one| one.advice).collect(),
        ..Answered::new(answer, is_found)
    })
}

/// Whether a property has a word in its name or value.
fn has_word(name: &str, value: &str, word: &str) -> bool {
    let word = word.to_ascii_lowercase();
    name.contains(&word) || value.to_ascii_lowercase().contains(&word)
}

/// `values`: of one property how it is put together; else those of an element, or of each.
fn values(asked: &Asked<'_>) -> Result<Answered, AskError> {
    let (filter, initial) = (asked.parts.text("filter"), asked.parts.has("initial"));
    for (part, other) in [
        ("property", "filter"),
        ("property", "initial"),
        ("property", "each"),
    ] {
        if asked.parts.has(part) && asked.parts.has(other) {
            return Err(AskError::Conflict { part, other });
        }
    }
    if asked.parts.has("each") {
        let (page, elements) = asked.targets()?;
        let mut all = Vec::new();
        page.ask().values_of_each(&elements, initial, |mut one| {
            if let Some(word) = filter {
                let wanted = one
                    .values
                    .iter()
                    .filter(|(name, value)| has_word(name, value, word));
                one.values = Arc::new(
                    wanted
                        .map(|(name, value)| (name.clone(), value.clone()))
                        .collect(),
                );
            }
            all.push(one);
        });
        let answer = EachAnswer { elements: all };
        return Ok(Answered::new(answer, !elements.is_empty()));
    }
    let (page, target) = asked.target()?;
    if asked.parts.text("property").is_some() {
        let property = asked.parts.property()?;
        return Ok(Answered::new(page.ask().opened(&target, &property), true));
    }
    let answer = page.ask().values(&target, filter, initial);
    let found = !answer.values.is_empty();
    Ok(Answered::new(answer, found))
}

/// The sheets, each with what its file is on the site.
fn with_roles(asked: &Asked<'_>, mut answer: SheetsAnswer) -> SheetsAnswer {
    for sheet in &mut answer.sheets {
        if matches!(sheet.arrival, ArrivalKind::Link | ArrivalKind::Import) {
            sheet.role = Some((*asked.site.role(&sheet.file)).clone());
        }
    }
    answer
}
