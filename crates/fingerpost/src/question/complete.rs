//! `complete`: names of properties, and what a property's value can go on with.
//!
//! ```
//! use fingerpost::question::complete::{property_names, values_of};
//! use fingerpost::value::PropertyId;
//!
//! let names = property_names("text-dec");
//! assert!(names.offers.iter().any(|offer| offer.text == "text-decoration"));
//! let border = PropertyId::named("border").expect("it is one");
//! let values = values_of(border, "1px so");
//! assert_eq!(values.offers[0].text, "solid");
//! ```

use super::codes::OfferKind;
use serde::{Deserialize, Serialize};

use crate::value::PropertyId;
use crate::value::grammar::{Offer, offers};

/// What can be written next.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct CompleteAnswer {
    /// The property whose value is written; none where its name is.
    pub property: Option<String>,
    /// What is written so far.
    pub written: String,
    /// Whether that is whole.
    pub complete: bool,
    /// What fits.
    pub offers: Vec<OfferAnswer>,
}

/// Something that can be written next.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct OfferAnswer {
    /// What to write, or `<length>` and the like for what has no fixed words.
    pub text: String,
    /// What kind of thing it is.
    pub kind: OfferKind,
    /// What it is, in one line.
    pub meaning: String,
    /// Where the standard defines it.
    pub link: Option<String>,
}

/// The properties whose name begins with a prefix; other names of a property are among them.
pub fn property_names(prefix: &str) -> CompleteAnswer {
    let lower = prefix.to_ascii_lowercase();
    let offers = PropertyId::names()
        .filter(|(name, _)| name.starts_with(&lower))
        .map(|(name, property)| OfferAnswer {
            text: name.to_owned(),
            kind: OfferKind::Property,
            meaning: if name == property.name() {
                meaning(property)
            } else {
                format!("another name of {}", property.name())
            },
            link: link(property),
        })
        .collect();
    CompleteAnswer {
        property: None,
        written: prefix.to_owned(),
        complete: PropertyId::named(prefix).is_some(),
        offers,
    }
}

/// What can stand at the end of a property's value.
pub fn values_of(property: PropertyId, text: &str) -> CompleteAnswer {
    let found = offers(property, text);
    let initial = property.facts().initial;
    let mut all: Vec<OfferAnswer> = found
        .offers
        .iter()
        .map(|offer| match offer {
            Offer::Keyword(word, of) => OfferAnswer {
                text: word.to_string(),
                kind: OfferKind::Keyword,
                meaning: match of {
                    _ if **word == *initial => "the initial value".to_owned(),
                    Some(of) => format!("a <{of}>"),
                    None => format!("a keyword of {}", property.name()),
                },
                link: link(property),
            },
            Offer::Function(name, syntax) => OfferAnswer {
                text: format!("{name}()"),
                kind: OfferKind::Function,
                meaning: fold(syntax),
                link: link(property),
            },
            Offer::Type(label) => OfferAnswer {
                text: label.clone(),
                kind: OfferKind::Type,
                meaning: of_type(label).to_owned(),
                link: link(property),
            },
            Offer::Mark(mark) => OfferAnswer {
                text: mark.to_string(),
                kind: OfferKind::Mark,
                meaning: String::new(),
                link: None,
            },
        })
        .collect();
    if found.written.trim().is_empty() {
        let word = found.word.to_ascii_lowercase();
        let wide = WIDE.iter().filter(|(name, _)| name.starts_with(&word));
        all.extend(wide.map(|(name, meaning)| OfferAnswer {
            text: (*name).to_owned(),
            kind: OfferKind::Keyword,
            meaning: (*meaning).to_owned(),
            link: Some("https://drafts.csswg.org/css-cascade-5/#defaulting-keywords".to_owned()),
        }));
    }
    CompleteAnswer {
        property: Some(property.name().to_owned()),
        written: text.to_owned(),
        complete: found.complete,
        offers: all,
    }
}

/// CSS Cascade 5 § 7.3.
const WIDE: [(&str, &str); 5] = [
    ("inherit", "the parent's value"),
    ("initial", "the initial value"),
    (
        "unset",
        "the parent's value if the property is inherited, else the initial one",
    ),
    (
        "revert",
        "what the origins below say: the browser, for a site's rule",
    ),
    ("revert-layer", "what the layers below say"),
];

fn link(property: PropertyId) -> Option<String> {
    let link = property.facts().link;
    (!link.is_empty()).then(|| link.to_owned())
}

/// What a property is, in one line of its facts.
fn meaning(property: PropertyId) -> String {
    let facts = property.facts();
    if property.is_shorthand() {
        let count = property.longhands().len();
        let noun = if count == 1 { "property" } else { "properties" };
        return format!("sets {count} {noun}");
    }
    let inherited = if facts.inherited { ", inherited" } else { "" };
    let applies = match facts.applies_to {
        "" => String::new(),
        all if all.to_ascii_lowercase().starts_with("all elements") => String::new(),
        other => format!("; for {}", fold(other)),
    };
    format!("initially {}{inherited}{applies}", facts.initial)
}

fn fold(text: &str) -> String {
    text.split_ascii_whitespace().collect::<Vec<_>>().join(" ")
}

/// Types that the standards define in prose, in one line.
fn of_type(label: &str) -> &'static str {
    let name = label
        .trim_start_matches('<')
        .split('>')
        .next()
        .unwrap_or("");
    match name {
        "length" => "a length: 0, 12px, 1.5em, 2rem, 10vw",
        "length-percentage" => "a length or a percentage: 0, 1em, 50%",
        "percentage" => "a percentage: 50%",
        "number" => "a number: 1.5",
        "integer" => "a whole number: 2",
        "angle" | "angle-percentage" => "an angle: 45deg, 0.25turn",
        "time" | "time-percentage" => "a time: 200ms, 0.2s",
        "resolution" => "a resolution: 2dppx, 192dpi",
        "flex" => "a share of the free space: 1fr",
        "frequency" | "frequency-percentage" => "a frequency: 440Hz",
        "string" => "a text in quotes",
        "custom-ident" | "ident" => "a name of your own",
        "dashed-ident" | "custom-property-name" => "a name of your own with two dashes: --wide",
        "hex-color" => "a color such as #0b3d5c",
        "url-token" => "a file: url(boat.svg)",
        _ => "",
    }
}
