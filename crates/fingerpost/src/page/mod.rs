//! A page: a document with the sheets that style it, in cascade order.
//!
//! [`Page::build`] loads the sheets that the markup names (through a function of the caller: the
//! core reads no files here), flattens their rules, and indexes them. It decides nothing about any
//! element; that is done on demand by [`Styles`], which remembers what it worked out while a
//! question is answered. A page is immutable and can be shared between threads; a `Styles` is not.

mod containers;
mod font_size;
mod hints;
mod index;
mod load;
mod measures;
mod readings;
mod registrations;
mod resolved;
mod rules;
mod styles;
mod values;
mod variables;
mod whole;

pub use hints::Hints;
pub use load::{Arrival, Failure, LoadError, PageSheet, Request};
pub(crate) use load::{asked_for, imported};
pub use registrations::Registration;
pub use rules::{Blocked, ContainerGate, StyleRule};
pub use styles::{
    DeclarationRef, Excluded, ExcludedBecause, Matched, PropertyContest, PropertyName, Row,
    SheetRef, Styles, Target,
};
pub use values::{Value, ValueSource, VariableStep};
pub use whole::{ElementStyle, WholePage};

use std::collections::HashMap;
use std::sync::{Arc, OnceLock};

use crate::condition::{Conditions, Viewport};
use crate::markup::{Document, NodeId};
use crate::selector::{Action, Namespaces, SelectorError, SelectorList, Setting, State, States};
use crate::sheet::{Declaration, DeclarationId, RuleId, Sheet, Token, again};
use crate::text::Text;
use crate::value::declared::{self, Meaning, Name};
use registrations::Registrations;

type Selectors = Result<Arc<SelectorList>, SelectorError>;

/// A sheet with what its selectors and declarations mean, worked out when first asked for, once
/// for all pages that have the sheet.
#[derive(Debug)]
pub struct StyleSheet {
    sheet: Sheet,
    namespaces: Namespaces,
    /// Whether it is read with the quirks of a page in quirks mode.
    quirks: bool,
    selectors: Vec<OnceLock<Selectors>>,
    meanings: Vec<OnceLock<(Name, Meaning)>>,
}

impl StyleSheet {
    /// A sheet whose declarations nobody has asked about yet; `quirks` where its page is in quirks
    /// mode, in which some values may be written without their units.
    pub fn new(sheet: Sheet, quirks: bool) -> Arc<Self> {
        let selectors = (0..sheet.rule_count()).map(|_| OnceLock::new()).collect();
        let meanings = (0..sheet.declaration_count())
            .map(|_| OnceLock::new())
            .collect();
        Arc::new(StyleSheet {
            namespaces: Namespaces::of(&sheet),
            quirks,
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
    fn selectors(
        &self,
        id: RuleId,
        parent: Option<&Arc<SelectorList>>,
        scoped: bool,
    ) -> &Selectors {
        self.selectors[id.index()].get_or_init(|| {
            // Spans that count from the rule's beginning stay true when the rule moves.
            let rule = self.sheet.rule(id);
            let base = u32::from(rule.span.start());
            let tokens = self.sheet.prelude_tokens(rule).iter().map(|token| Token {
                kind: token.kind,
                start: token.start - base,
                end: token.end - base,
            });
            let tokens: Vec<Token> = tokens.collect();
            let source = &self.sheet.text().source()[base as usize..];
            self.read_in(source, &tokens, parent, scoped)
        })
    }

    /// The sheet with another text; what the change does not touch is not worked out again.
    fn renewed(&self, text: &Arc<Text>) -> Option<Arc<StyleSheet>> {
        let (sheet, kept) = again(&self.sheet, text)?;
        let namespaces = Namespaces::of(&sheet);
        let same = namespaces == self.namespaces;
        let known = |at: usize| -> Option<&OnceLock<Selectors>> {
            match at {
                at if at < kept.new.start => self.selectors.get(at),
                at if at < kept.new.end => None,
                at => self.selectors.get(at - kept.new.end + kept.old.end),
            }
        };
        let selectors = (0..sheet.rule_count()).map(|at| {
            // What is no selector says so with a place, which may have moved.
            let valid = known(at).filter(|_| same).and_then(OnceLock::get);
            match valid {
                Some(Ok(list)) => OnceLock::from(Ok(list.clone())),
                _ => OnceLock::new(),
            }
        });
        Some(Arc::new(StyleSheet {
            selectors: selectors.collect(),
            meanings: self.moved_meanings(&sheet),
            namespaces,
            quirks: self.quirks,
            sheet,
        }))
    }

    /// What is known of the declarations before and behind a change, with its places moved.
    fn moved_meanings(&self, changed: &Sheet) -> Vec<OnceLock<(Name, Meaning)>> {
        let count = changed.declaration_count();
        let same = |(before, after): (DeclarationId, DeclarationId)| {
            let (a, b) = (self.sheet.declaration(before), changed.declaration(after));
            self.sheet.text().slice(a.span) == changed.text().slice(b.span)
        };
        let ids = |sheet: &Sheet| sheet.declarations().map(|(id, _)| id).collect::<Vec<_>>();
        let (old, new) = (ids(&self.sheet), ids(changed));
        let front = old.iter().copied().zip(new.iter().copied());
        let front = front.take_while(|pair| same(*pair)).count();
        let rest = old.len().min(new.len()) - front;
        let back = old.iter().rev().copied().zip(new.iter().rev().copied());
        let back = back.take(rest).take_while(|pair| same(*pair)).count();
        let twin = |at: usize| match at {
            at if at < front => Some(old[at]),
            at if at >= count - back => Some(old[old.len() - (count - at)]),
            _ => None,
        };
        let meanings = new.iter().enumerate().map(|(at, id)| {
            let known = twin(at).and_then(|twin| Some((twin, self.meanings[twin.index()].get()?)));
            let Some((twin, (name, meaning))) = known else {
                return OnceLock::new();
            };
            let from = u32::from(self.sheet.declaration(twin).span.start());
            let to = u32::from(changed.declaration(*id).span.start());
            OnceLock::from((name.clone(), meaning.moved(i64::from(to) - i64::from(from))))
        });
        meanings.collect()
    }

    fn read_selectors(
        &self,
        tokens: &[Token],
        parent: Option<&Arc<SelectorList>>,
        scoped: bool,
    ) -> Selectors {
        self.read_in(self.sheet.text().source(), tokens, parent, scoped)
    }

    fn read_in(
        &self,
        source: &str,
        tokens: &[Token],
        parent: Option<&Arc<SelectorList>>,
        scoped: bool,
    ) -> Selectors {
        let setting = Setting {
            parent,
            namespaces: Some(&self.namespaces),
            scoped,
            unforgiving: false,
        };
        SelectorList::parse_tokens(source, tokens, setting).map(Arc::new)
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
            Name::Property(property) => {
                let meaning = declared::meaning(*property, source, tokens);
                match &meaning {
                    Meaning::Misfit(_) if self.quirks => {
                        declared::quirky(*property, source, tokens).unwrap_or(meaning)
                    }
                    _ => meaning,
                }
            }
            Name::Custom => declared::custom_meaning(source, tokens),
            Name::Unknown => Meaning::Free,
        }
    }
}

/// A page with its sheets.
#[derive(Debug)]
pub struct Page {
    document: Arc<Document>,
    sheets: Vec<PageSheet>,
    failures: Vec<Failure>,
    /// What each request for a sheet came to, by the file that asks and the URL.
    loads: HashMap<(String, String), Result<Arc<Text>, LoadError>>,
    rules: Vec<StyleRule>,
    index: Arc<index::RuleIndex>,
    conditions: Conditions,
    states: States,
    registrations: Registrations,
    container_sizes: Vec<(SelectorList, Viewport)>,
    /// Which rules match which element, once somebody has asked for all; the same in whatever surroundings.
    matches: Arc<OnceLock<whole::Matches>>,
    /// What values with their variables put in say.
    readings: Arc<readings::Readings>,
    /// The values that are the same on every element in whatever surroundings.
    constants: Arc<values::Constants>,
    /// Those that are the same on every element, but ask the viewport or the resolution.
    own_constants: values::Constants,
    /// Which elements are alike; the same.
    groups: Arc<OnceLock<whole::Groups>>,
}

impl Page {
    /// Parses a page and loads its sheets.
    pub fn build(
        text: Arc<Text>,
        conditions: Conditions,
        load: &mut dyn FnMut(&Request<'_>) -> Result<Arc<Text>, LoadError>,
    ) -> Self {
        Page::build_for_reader(text, None, conditions, load)
    }

    /// The same for a reader who brings a sheet of their own: the user origin.
    pub fn build_for_reader(
        text: Arc<Text>,
        user_sheet: Option<Arc<Text>>,
        conditions: Conditions,
        load: &mut dyn FnMut(&Request<'_>) -> Result<Arc<Text>, LoadError>,
    ) -> Self {
        let document = match conditions.has_scripts() {
            true => Document::parse(text),
            false => Document::parse_without_scripts(text),
        };
        let document = Arc::new(document);
        Page::of_document(document, user_sheet, conditions, load, None)
    }

    /// The same page with other texts. What is as it was in this one is taken from it, so that a
    /// question about a small change is answered much sooner.
    pub fn again(
        &self,
        text: Arc<Text>,
        user_sheet: Option<Arc<Text>>,
        conditions: Conditions,
        load: &mut dyn FnMut(&Request<'_>) -> Result<Arc<Text>, LoadError>,
    ) -> Self {
        let same = self.document.text().name() == text.name()
            && self.document.text().source() == text.source()
            && self.conditions.has_scripts() == conditions.has_scripts();
        let document = match (same, conditions.has_scripts()) {
            (true, _) => self.document.clone(),
            (false, true) => Arc::new(Document::parse(text)),
            (false, false) => Arc::new(Document::parse_without_scripts(text)),
        };
        Page::of_document(document, user_sheet, conditions, load, Some(self))
    }

    /// The same page in other surroundings. Nothing is parsed or matched again but what depends on them: which
    /// rules match does not.
    pub fn under(&self, conditions: &Conditions) -> Self {
        if self.conditions.has_scripts() != conditions.has_scripts() {
            // Without scripts `noscript` holds other elements.
            let text = self.document.text().clone();
            return self.again(text, self.user_text(), conditions.clone(), &mut |r| {
                self.loaded(r)
            });
        }
        let document = self.document.clone();
        let mut load = |request: &Request<'_>| self.loaded(request);
        Page::of_document(
            document,
            self.user_text(),
            conditions.clone(),
            &mut load,
            Some(self),
        )
    }

    /// What a request came to when this page was built.
    fn loaded(&self, request: &Request<'_>) -> Result<Arc<Text>, LoadError> {
        let known = self
            .loads
            .get(&(request.from.to_owned(), request.url.to_owned()));
        known.cloned().unwrap_or_else(|| {
            Err(LoadError::Missing {
                file: request.url.to_owned(),
            })
        })
    }

    fn user_text(&self) -> Option<Arc<Text>> {
        let mut sheets = self.sheets.iter();
        let sheet = sheets.find(|sheet| sheet.arrival == Arrival::User)?;
        Some(sheet.styles.sheet().text().clone())
    }

    fn of_document(
        document: Arc<Document>,
        user_sheet: Option<Arc<Text>>,
        conditions: Conditions,
        load: &mut dyn FnMut(&Request<'_>) -> Result<Arc<Text>, LoadError>,
        known: Option<&Page>,
    ) -> Self {
        let mut loads = HashMap::new();
        let mut remembering = |request: &Request<'_>| {
            let result = load(request);
            loads.insert(
                (request.from.to_owned(), request.url.to_owned()),
                result.clone(),
            );
            result
        };
        let known_sheets = known.map_or(&[][..], |known| &known.sheets);
        let (sheets, failures) = load::load(
            &document,
            user_sheet,
            &conditions,
            &mut remembering,
            known_sheets,
        );
        let (rules, registrations) = rules::flatten(&document, &sheets, &conditions);
        let readings = known.map(|known| known.readings.clone());
        let readings = readings.unwrap_or_default();
        let known = known.filter(|known| {
            known.document.is_quirks() == document.is_quirks()
                && rules::ask_alike(&known.sheets, &sheets)
        });
        let index = match known {
            Some(known) => known.index.clone(),
            None => Arc::new(index::RuleIndex::new(&rules, document.is_quirks())),
        };
        let known = known.filter(|known| Arc::ptr_eq(&known.document, &document));
        let known = known.filter(|known| known.states.is_empty());
        let same_sheets = |known: &&Page| {
            let pairs = known.sheets.iter().zip(&sheets);
            known.sheets.len() == sheets.len()
                && pairs
                    .into_iter()
                    .all(|(a, b)| Arc::ptr_eq(&a.styles, &b.styles))
        };
        let constants = known
            .filter(same_sheets)
            .map(|known| known.constants.clone());
        let constants = constants.unwrap_or_default();
        let matches = known.map(|known| known.matches.clone()).unwrap_or_default();
        let mut page = Page {
            loads,
            document,
            sheets,
            failures,
            rules,
            index,
            container_sizes: containers::given_sizes(&conditions.container_sizes),
            matches,
            readings,
            constants,
            own_constants: values::Constants::default(),
            groups: Arc::default(),
            conditions,
            states: States::default(),
            registrations,
        };
        if let Some(known) = known
            && whole::same_groups(known, &page)
        {
            page.groups = known.groups.clone();
        }
        page
    }

    /// The document.
    pub fn document(&self) -> &Document {
        &self.document
    }

    /// A sheet by its place among the page's sheets, as rules name it.
    pub(crate) fn sheet(&self, at: u32) -> &PageSheet {
        &self.sheets[at as usize]
    }

    /// A rule by its place among the page's rules, as matches name it.
    pub(crate) fn rule(&self, at: u32) -> &StyleRule {
        &self.rules[at as usize]
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

    /// How a custom property is registered, where an `@property` rule does.
    pub fn registration(&self, name: &str) -> Option<&Registration> {
        self.registrations.get(name)
    }

    /// The surroundings that the page is looked at in.
    pub fn conditions(&self) -> &Conditions {
        &self.conditions
    }

    /// The states that elements are pretended to be in.
    pub fn states(&self) -> &States {
        &self.states
    }

    /// Pretends that an element is in a state, and whatever that implies of the elements around it:
    /// who hovers an element hovers those around it, and a focus is within them.
    pub fn pretend(&mut self, element: NodeId, state: State) {
        self.matches = Arc::default();
        self.groups = Arc::default();
        self.states.pretend(element, state);
        let State::Action(action) = state else { return };
        let implied: &[Action] = match action {
            Action::Hover | Action::Active | Action::FocusWithin | Action::TargetWithin => {
                &[action]
            }
            Action::Focus | Action::FocusVisible => &[Action::FocusWithin],
            Action::Target => &[Action::TargetWithin],
            _ => &[],
        };
        if action == Action::FocusVisible {
            self.states.pretend(element, State::Action(Action::Focus));
        }
        let above: Vec<NodeId> = self.document.ancestors_and_self(element).collect();
        for (at, action) in above
            .iter()
            .flat_map(|at| implied.iter().map(move |a| (at, a)))
        {
            self.states.pretend(*at, State::Action(*action));
        }
    }

    /// Pretends that every element is in a state.
    pub(crate) fn pretend_everywhere(&mut self, state: State) {
        self.matches = Arc::default();
        self.groups = Arc::default();
        self.states.pretend_everywhere(state);
    }

    /// Matches every rule against every element at once, in parallel. Whoever asks about most elements of a page
    /// does well to call this first: every [`Styles`] of the page then knows what matches.
    pub fn match_all(&self) {
        self.all_matches();
    }

    pub(crate) fn all_matches(&self) -> &whole::Matches {
        self.matches.get_or_init(|| whole::Matches::of(self))
    }

    pub(crate) fn groups(&self) -> &whole::Groups {
        self.groups.get_or_init(|| whole::Groups::of(self))
    }

    /// Works out every set value of every element, in parallel.
    pub fn whole(&self) -> WholePage<'_> {
        WholePage::of(self)
    }

    /// Begins to work out styles.
    pub fn styles(&self) -> Styles<'_> {
        Styles::new(self)
    }
}
