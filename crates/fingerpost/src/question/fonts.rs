//! `fonts`: the font families that a page asks for, by how many elements, and where each is declared.
//!
//! Only elements that have a box count: what is inside `display: none` asks for no font. Neither does what no declaration gives
//! one: the browser's own font is not counted.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<style>body { font-family: Harbor, serif } h2 { font-family: Mast }</style><h2>Boats</h2><p>Fares";
//! let page = Page::new(Text::new("a.html", html));
//! let answer = page.ask().fonts();
//! let families: Vec<(&str, usize)> = answer.families.iter().map(|f| (f.family.as_str(), f.first)).collect();
//! assert_eq!(families, [("Harbor", 2), ("Mast", 1), ("serif", 0)]);
//! // No `@font-face` of the page has it: it is on the reader's machine, or the next one in the list is used.
//! assert!(answer.families[0].faces.is_empty());
//! ```

use std::collections::{BTreeMap, HashMap, HashSet};

use serde::{Deserialize, Serialize};

use super::describe::{declaration_place, rule_of};
use crate::markup::ElementId;
use crate::page::{DeclarationRef, Page, PropertyName, Styles, Target, ValueSource};
use crate::sheet::AtRule;
use crate::text::Place;
use crate::value::PropertyId;
use crate::value::typed::{Component, Computed};

/// The generic families (CSS Fonts 4 § 2.1.3), which every browser has.
const GENERIC: [&str; 13] = [
    "serif",
    "sans-serif",
    "cursive",
    "fantasy",
    "monospace",
    "system-ui",
    "emoji",
    "math",
    "fangsong",
    "ui-serif",
    "ui-sans-serif",
    "ui-monospace",
    "ui-rounded",
];

const FONT_FAMILY: PropertyName = PropertyName::Known(PropertyId::FONT_FAMILY);
const DISPLAY: PropertyName = PropertyName::Known(PropertyId::DISPLAY);

/// The font families of a page.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FontsAnswer {
    /// The page.
    pub page: String,
    /// The families, those that most elements ask for first at the front.
    pub families: Vec<FamilyAnswer>,
}

/// A font family that elements ask for.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FamilyAnswer {
    /// Its name, as CSSOM writes it.
    pub family: String,
    /// Whether it is a generic family.
    pub generic: bool,
    /// How many elements have it in their list.
    pub elements: usize,
    /// How many have it at the head of their list.
    pub first: usize,
    /// Where the lists that it is in are declared, those with the most elements first.
    pub declared: Vec<FamilyDeclaration>,
    /// The `@font-face` rules of the page that have it.
    pub faces: Vec<FaceAnswer>,
}

/// A declaration that asks for a font family.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FamilyDeclaration {
    /// Where it is.
    pub place: Place,
    /// The selector of its rule.
    pub selector: String,
    /// How many elements have their list from it, directly or inherited.
    pub elements: usize,
}

/// A `@font-face` rule.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FaceAnswer {
    /// Where it begins.
    pub place: Place,
    /// Its `font-weight`, as written.
    pub weight: Option<String>,
    /// Its `font-style`, as written.
    pub style: Option<String>,
    /// Whether a condition around it keeps it from counting.
    pub blocked: bool,
}

/// The elements that have one list from one declaration.
#[derive(Default)]
struct Family {
    generic: bool,
    elements: usize,
    first: usize,
    declared: HashMap<DeclarationRef, (ElementId, usize)>,
}

/// The font families of a page.
pub(crate) fn fonts(styles: &Styles<'_>) -> FontsAnswer {
    let page = styles.page();
    let mut families: BTreeMap<String, Family> = BTreeMap::new();
    // An element comes after its parent: what it inherits, and whether it is in a box, is known.
    let mut hidden: HashSet<ElementId> = HashSet::new();
    let mut declared: HashMap<ElementId, DeclarationRef> = HashMap::new();
    for id in page.document().elements() {
        let parent = page.document().parent_or_host(*id);
        if parent.is_some_and(|parent| hidden.contains(&parent)) || is_hidden(styles, *id) {
            hidden.insert(*id);
            continue;
        }
        let value = styles.value(&Target::from(*id), &FONT_FAMILY);
        let from = match value.source {
            ValueSource::Declared(declaration) => {
                declared.insert(*id, declaration);
                Some((*id, declaration))
            }
            ValueSource::Inherited { from } => declared.get(&from).map(|d| (from, *d)),
            ValueSource::Initial => None,
        };
        // The browser's own font is not counted.
        let Some((element, declaration)) = from else {
            continue;
        };
        for (at, (name, generic)) in names(&value.computed).into_iter().enumerate() {
            let family = families.entry(name).or_default();
            family.generic = generic;
            family.elements += 1;
            family.first += usize::from(at == 0);
            let (_, count) = family.declared.entry(declaration).or_insert((element, 0));
            *count += 1;
        }
    }
    let mut families: Vec<FamilyAnswer> = families
        .into_iter()
        .map(|(name, family)| answer(styles, name, &family))
        .collect();
    families.sort_by_key(|family| std::cmp::Reverse((family.first, family.elements)));
    FontsAnswer {
        page: page.document().text().name().to_owned(),
        families,
    }
}

fn is_hidden(styles: &Styles<'_>, id: ElementId) -> bool {
    let display = styles.value(&Target::from(id), &DISPLAY);
    display.computed.text() == "none"
}

/// The families of a list as CSSOM writes them, and whether each is generic.
fn names(list: &Computed) -> Vec<(String, bool)> {
    let parts = list.components().split(|part| *part == Component::Comma);
    let named = parts.map(|part| {
        let name = Computed::new(part.to_vec()).text().to_owned();
        // In quotation marks it is a family that has the name of a generic one.
        let generic = matches!(part, [Component::Word(word)] if GENERIC.contains(&word.as_str()));
        (name, generic)
    });
    named.collect()
}

fn answer(styles: &Styles<'_>, name: String, family: &Family) -> FamilyAnswer {
    let declared = family
        .declared
        .iter()
        .map(|(declaration, (element, elements))| {
            let rule = rule_of(styles, &Target::from(*element), *declaration);
            FamilyDeclaration {
                place: declaration_place(styles, *declaration),
                selector: rule.selector,
                elements: *elements,
            }
        });
    let mut declared: Vec<FamilyDeclaration> = declared.collect();
    declared.sort_by(|a, b| b.elements.cmp(&a.elements).then(a.place.cmp(&b.place)));
    FamilyAnswer {
        faces: match family.generic {
            true => Vec::new(),
            false => faces(styles.page(), &name),
        },
        family: name,
        generic: family.generic,
        elements: family.elements,
        first: family.first,
        declared,
    }
}

/// The `@font-face` rules with a family. Names of families match in any case (CSS Fonts 4 § 5.1).
fn faces(page: &Page, family: &str) -> Vec<FaceAnswer> {
    let bare = |name: &str| name.trim().trim_matches(['"', '\'']).to_lowercase();
    let rules = page.at_rules().into_iter();
    let of_family = rules.filter(|rule| {
        let name = rule.descriptor("font-family");
        rule.kind() == Some(&AtRule::FontFace)
            && name.is_some_and(|name| bare(name) == bare(family))
    });
    let faces = of_family.map(|rule| FaceAnswer {
        place: rule.place(),
        weight: rule.descriptor("font-weight").map(str::to_owned),
        style: rule.descriptor("font-style").map(str::to_owned),
        blocked: rule.blocked.is_some(),
    });
    faces.collect()
}
