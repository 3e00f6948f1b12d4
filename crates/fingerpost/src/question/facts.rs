//! `facts`: what the standards say about a property.
//!
//! ```
//! use fingerpost::question::facts::facts;
//! use fingerpost::value::PropertyId;
//!
//! let answer = facts(PropertyId::named("gap").expect("it is one"));
//! assert_eq!(answer.longhands, ["row-gap", "column-gap"]);
//! assert!(!answer.inherited);
//! ```

use serde::{Deserialize, Serialize};

use crate::value::PropertyId;
use crate::value::grammar::Definition;

/// What the standards say about a property.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FactsAnswer {
    /// Its name.
    pub property: String,
    /// Its other names.
    pub aliases: Vec<String>,
    /// Its grammar, in the value definition syntax.
    pub syntax: String,
    /// The types that the grammar names, each with its own grammar.
    pub types: Vec<TypeAnswer>,
    /// Its initial value; for a shorthand, those of its longhands count.
    pub initial: String,
    /// Whether it is inherited.
    pub inherited: bool,
    /// Which elements it has an effect on.
    pub applies_to: String,
    /// What percentages refer to.
    pub percentages: String,
    /// What its computed value is.
    pub computed: String,
    /// The longhands that it sets.
    pub longhands: Vec<String>,
    /// The longhands that it only resets.
    pub reset_only: Vec<String>,
    /// The shorthands that set it.
    pub shorthands: Vec<String>,
    /// The logical property group, where it has one.
    pub logical_group: Option<String>,
    /// Where the standard defines it.
    pub link: String,
}

/// A type of a grammar.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct TypeAnswer {
    /// Its name.
    pub name: String,
    /// Its grammar.
    pub syntax: String,
}

/// What the standards say about a property.
pub fn facts(property: PropertyId) -> FactsAnswer {
    let facts = property.facts();
    let owned = |names: &[&str]| names.iter().map(|n| (*n).to_owned()).collect();
    let fold = |text: &str| text.split_ascii_whitespace().collect::<Vec<_>>().join(" ");
    FactsAnswer {
        property: facts.name.to_owned(),
        aliases: PropertyId::names()
            .filter(|(name, id)| *id == property && *name != facts.name)
            .map(|(name, _)| name.to_owned())
            .collect(),
        syntax: fold(facts.syntax),
        types: Definition::of_property(property)
            .named_types()
            .into_iter()
            .map(|(name, syntax)| TypeAnswer {
                name: name.to_owned(),
                syntax: fold(syntax),
            })
            .collect(),
        initial: facts.initial.to_owned(),
        inherited: facts.inherited,
        applies_to: fold(facts.applies_to),
        percentages: fold(facts.percentages),
        computed: fold(facts.computed),
        longhands: owned(facts.longhands),
        reset_only: owned(facts.reset_only),
        shorthands: PropertyId::all()
            .filter(|other| other.is_shorthand() && *other != property && *other != PropertyId::ALL)
            .filter(|other| property.longhands().iter().all(|l| other.sets(*l)))
            .map(|other| other.name().to_owned())
            .collect(),
        logical_group: (!facts.logical_group.is_empty()).then(|| facts.logical_group.to_owned()),
        link: facts.link.to_owned(),
    }
}
