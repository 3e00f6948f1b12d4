//! A page: a document with the sheets that style it, in cascade order.
//!
//! [`Page::build`] loads the sheets that the markup names (through a function of the caller: the
//! core reads no files here), flattens their rules, and indexes them. It decides nothing about any
//! element; that is done on demand by [`Styles`], which remembers what it worked out while a
//! question is answered. A page is immutable and can be shared between threads; a `Styles` is not.

mod hints;
mod index;
mod load;
mod resolved;
mod rules;
mod styles;
mod values;

pub use hints::Hints;
pub use load::{Arrival, Failure, LoadError, PageSheet, Request};
pub use rules::{Blocked, StyleRule};
pub use styles::{
    DeclarationRef, Excluded, ExcludedBecause, Matched, PropertyContest, PropertyName, Row,
    SheetRef, Styles, Target,
};
pub use values::{Value, ValueSource, VariableStep};

use std::sync::{Arc, OnceLock};

use crate::condition::Conditions;
use crate::markup::Document;
use crate::selector::{SelectorError, SelectorList, States};
use crate::sheet::{Declaration, DeclarationId, RuleId, Sheet};
use crate::text::Text;
use crate::value::declared::{self, Meaning, Name};

type Selectors = Result<Arc<SelectorList>, SelectorError>;

/// A sheet with what its selectors and declarations mean, worked out when first asked for, once
/// for all pages that have the sheet.
#[derive(Debug)]
pub struct StyleSheet {
    sheet: Sheet,
    selectors: Vec<OnceLock<Selectors>>,
    meanings: Vec<OnceLock<(Name, Meaning)>>,
}

impl StyleSheet {
    /// A sheet whose declarations nobody has asked about yet.
    pub fn new(sheet: Sheet) -> Arc<Self> {
        let selectors = (0..sheet.rule_count()).map(|_| OnceLock::new()).collect();
        let meanings = (0..sheet.declaration_count())
            .map(|_| OnceLock::new())
            .collect();
        Arc::new(StyleSheet {
            sheet,
            selectors,
            meanings,
        })
    }

    /// The sheet.
    pub fn sheet(&self) -> &Sheet {
        &self.sheet
    }

    /// The selectors of a style rule; `parent` are those of the rule that it is nested in.
    fn selectors(&self, id: RuleId, parent: Option<&Arc<SelectorList>>) -> &Selectors {
        self.selectors[id.index()].get_or_init(|| {
            let tokens = self.sheet.prelude_tokens(self.sheet.rule(id));
            let source = self.sheet.text().source();
            SelectorList::parse_tokens(source, tokens, parent).map(Arc::new)
        })
    }

    /// The property that a declaration names, and what its value says.
    pub fn meaning(&self, id: DeclarationId) -> &(Name, Meaning) {
        self.meanings[id.index()].get_or_init(|| {
            let declaration = self.sheet.declaration(id);
            let name = declared::name(&self.sheet, declaration);
            let meaning = self.meaning_of(&name, declaration);
            (name, meaning)
        })
    }

    fn meaning_of(&self, name: &Name, declaration: &Declaration) -> Meaning {
        let source = self.sheet.text().source();
        let tokens = self.sheet.value_tokens(declaration);
        match name {
            Name::Property(property) => declared::meaning(*property, source, tokens),
            Name::Custom => match declared::wide_keyword(source, tokens) {
                Some(word) => Meaning::Wide(word),
                None => Meaning::Free,
            },
            Name::Unknown => Meaning::Free,
        }
    }
}

/// A page with its sheets.
#[derive(Debug)]
pub struct Page {
    document: Document,
    sheets: Vec<PageSheet>,
    failures: Vec<Failure>,
    rules: Vec<StyleRule>,
    index: index::RuleIndex,
    conditions: Conditions,
    states: States,
}

impl Page {
    /// Parses a page and loads its sheets.
    pub fn build(
        text: Arc<Text>,
        conditions: Conditions,
        load: &mut dyn FnMut(&Request<'_>) -> Result<Arc<Text>, LoadError>,
    ) -> Self {
        let document = Document::parse(text);
        let (sheets, failures) = load::load(&document, &conditions, load);
        let rules = rules::flatten(&sheets, &conditions);
        let index = index::RuleIndex::new(&rules, document.is_quirks());
        Page {
            document,
            sheets,
            failures,
            rules,
            index,
            conditions,
            states: States::default(),
        }
    }

    /// The document.
    pub fn document(&self) -> &Document {
        &self.document
    }

    /// The sheets in cascade order: the user-agent sheet first.
    pub fn sheets(&self) -> &[PageSheet] {
        &self.sheets
    }

    /// The sheets that did not load.
    pub fn failures(&self) -> &[Failure] {
        &self.failures
    }

    /// Every style rule of every sheet, in order of appearance.
    pub fn rules(&self) -> &[StyleRule] {
        &self.rules
    }

    /// The surroundings that the page is looked at in.
    pub fn conditions(&self) -> &Conditions {
        &self.conditions
    }

    /// The states that elements are pretended to be in.
    pub fn states(&self) -> &States {
        &self.states
    }

    /// Begins to work out styles.
    pub fn styles(&self) -> Styles<'_> {
        Styles::new(self)
    }
}
