//! What texts say, read once for a page and its next states: many elements result in the same ones.

use std::sync::{Arc, PoisonError, RwLock};

use rustc_hash::FxHashMap;

use crate::value::PropertyId;
use crate::value::declared::{self, Meaning};
use crate::value::grammar::match_property;
use crate::value::specified::Specified;
use crate::value::substitution::value_tokens;

/// Texts longer than this are read each time: they are rare.
const LONGEST_REMEMBERED: usize = 512;

/// How many texts are remembered before all are forgotten, so that a page that is edited all day stays small.
const MOST_REMEMBERED: usize = 1 << 14;

/// What texts say as values of properties.
#[derive(Debug, Default)]
pub(in crate::page) struct Readings {
    meanings: Memo<Arc<Meaning>>,
    specified: Memo<Option<Arc<Specified>>>,
}

impl Readings {
    /// What a text with its variables put in says, shorthands opened.
    pub fn meaning(&self, property: PropertyId, text: &str) -> Arc<Meaning> {
        let read = || Arc::new(declared::meaning(property, text, &value_tokens(text)));
        self.meanings.of(property, text, read)
    }

    /// A longhand's value; none where it does not fit the grammar. The base is the file that URLs refer to.
    pub fn specified(
        &self,
        property: PropertyId,
        text: &str,
        base: impl FnOnce() -> Option<String>,
    ) -> Option<Arc<Specified>> {
        let read = |base: Option<&str>| {
            let tokens = value_tokens(text);
            let matched = match_property(property, text, &tokens).ok()?;
            let specified = Specified::read(property, text, &tokens, &matched, base);
            Some(Arc::new(specified))
        };
        if names_files(text) {
            return read(base().as_deref());
        }
        self.specified.of(property, text, || read(None))
    }
}

fn names_files(text: &str) -> bool {
    let lower = text.to_ascii_lowercase();
    let functions = ["url", "src(", "image"];
    functions.iter().any(|word| lower.contains(word))
}

#[derive(Debug)]
struct Memo<T>(RwLock<FxHashMap<PropertyId, FxHashMap<Box<str>, T>>>);

impl<T> Default for Memo<T> {
    fn default() -> Self {
        Memo(RwLock::default())
    }
}

impl<T: Clone> Memo<T> {
    fn of(&self, property: PropertyId, text: &str, read: impl FnOnce() -> T) -> T {
        let known = self.0.read().unwrap_or_else(PoisonError::into_inner);
        if let Some(found) = known.get(&property).and_then(|texts| texts.get(text)) {
            return found.clone();
        }
        drop(known);
        let found = read();
        if text.len() <= LONGEST_REMEMBERED {
            let mut known = self.0.write().unwrap_or_else(PoisonError::into_inner);
            if known.values().map(FxHashMap::len).sum::<usize>() >= MOST_REMEMBERED {
                known.clear();
            }
            let texts = known.entry(property).or_default();
            texts.insert(text.into(), found.clone());
        }
        found
    }
}
