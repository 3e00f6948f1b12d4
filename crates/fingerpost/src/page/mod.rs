//! A page: a document with the sheets that style it, in cascade order.
//!
//! [`Page::builder`] loads the sheets that the markup names (through a [`Loader`] of the caller: the
//! core reads no files here), flattens their rules, and indexes them. It decides nothing about any
//! element; that is done on demand by [`Styles`], which remembers what it worked out while a
//! question is answered. A page is immutable and can be shared between threads; a `Styles` is not.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let css = "p { color: teal } @media (width < 600px) { p { color: navy } }";
//! let page = Page::new(Text::new("a.html", format!("<style>{css}</style><p>Boats")));
//! let color = "color".parse()?;
//! let of = |page: &Page| {
//!     let p = page.ask().find_one("p").expect("it is there");
//!     page.styles().value(&p, &color).computed.to_string()
//! };
//! assert_eq!(of(&page), "rgb(0, 128, 128)");
//! // The same page in another environment: nothing is parsed or matched again.
//! let narrow = page.under(&"480x800".parse()?);
//! assert_eq!(of(&narrow), "rgb(0, 0, 128)");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod load;
mod matching;
mod style;
mod target;
mod whole;

pub use load::builder::{Loader, PageBuilder};
pub use load::loading::{Arrival, Failure, Gate, LoadError, PageSheet, Request};
pub(crate) use load::loading::{asked_for, imported};
pub use load::style_sheet::{Dropped, Reading, StyleSheet};
pub use matching::at_rules::PageAtRule;
pub use matching::matched::Matched;
pub use matching::reach::{Reach, Reached, ReachedBy};
pub use matching::registrations::Registration;
pub use matching::rules::{Blocked, ContainerGate, StyleRule};
pub use style::contests::{Excluded, ExcludedBecause, PropertyContest};
pub use style::declarations::Row;
pub use style::hints::Hints;
pub(crate) use style::styles::Known;
pub use style::styles::Styles;
pub use style::value::{Value, ValueSource, VariableStep};
pub use target::{DeclarationRef, PropertyName, SheetRef, Target, UnknownProperty};
pub use whole::{ElementStyle, WholePage};

use std::collections::HashMap;
use std::sync::{Arc, OnceLock};

use crate::environment::{Environment, Viewport};
use crate::markup::{Document, ElementId};
use crate::parallel;
use crate::selector::{Action, Controls, SelectorList, State, States, can_be_in};
use crate::text::Text;
use matching::registrations::Registrations;
use style::declarations::Declarations;

/// The result of each request for a sheet, by the file that asks and the URL.
type Loads = HashMap<(String, String), Result<Arc<Text>, LoadError>>;

/// A page with its sheets.
#[derive(Debug)]
pub struct Page {
    document: Arc<Document>,
    sheets: Vec<PageSheet>,
    failures: Vec<Failure>,
    loads: Arc<Loads>,
    rules: Arc<Vec<StyleRule>>,
    index: Arc<OnceLock<matching::index::RuleIndex>>,
    environment: Environment,
    states: States,
    registrations: Registrations,
    container_sizes: Vec<(SelectorList, Viewport)>,
    /// What values with their variables put in say.
    readings: Arc<load::readings::Readings>,
    /// What the elements are called, and what of their styles depends on the document alone.
    names: Arc<OnceLock<whole::Names>>,
    bearings: Arc<OnceLock<whole::InheritanceFacts>>,
    /// Which rules match which element, once a person has asked for all; the same in whatever environment.
    matches: Arc<OnceLock<whole::Matches>>,
    /// Which elements are alike; the same.
    groups: Arc<OnceLock<whole::Groups>>,
    /// The styles of those groups.
    styles: whole::AllStyles,
    /// The declarations of elements with the same list of matches, by its number.
    declarations: Arc<OnceLock<style::declarations::OfLists>>,
    /// The state before an edit, which some of this can be taken from.
    before: Option<whole::Before>,
}

impl Page {
    /// The same page in another environment. Nothing is parsed or matched again but what depends on them: which
    /// rules match does not.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>@media print { p { color: maroon } }</style><p>Boats"));
    /// let print = page.under(&Environment { media: "print".into(), ..Environment::default() });
    /// let color = |page: &Page| {
    ///     let p = page.ask().find_one("p").expect("there is one");
    ///     page.styles().value(&p, &"color".parse().unwrap()).computed.text().to_owned()
    /// };
    /// assert_eq!((color(&page), color(&print)), ("rgb(0, 0, 0)".into(), "rgb(128, 0, 0)".into()));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn under(&self, environment: &Environment) -> Self {
        if self.environment.has_scripts() != environment.has_scripts() {
            // Without scripts `noscript` holds other elements.
            let text = self.document.text().clone();
            return Page::builder(text)
                .after(self)
                .user_sheet(self.user_text())
                .environment(environment.clone())
                .loader(|request: &Request<'_>| self.loaded(request))
                .build();
        }
        let document = self.document.clone();
        let mut load = |request: &Request<'_>| self.loaded(request);
        Page::of_document(
            document,
            self.user_text(),
            environment.clone(),
            &mut load,
            Some(self),
        )
    }

    /// The result of a request when this page was built.
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
        environment: Environment,
        loader: &mut dyn Loader,
        known: Option<&Page>,
    ) -> Self {
        let mut loads = HashMap::new();
        let mut remembering = |request: &Request<'_>| {
            let result = loader.load(request);
            loads.insert(
                (request.from.to_owned(), request.url.to_owned()),
                result.clone(),
            );
            result
        };
        let known_sheets = known.map_or(&[][..], |known| &known.sheets);
        let (sheets, failures) = load::loading::load(
            &document,
            user_sheet,
            &environment,
            &mut remembering,
            known_sheets,
        );
        let same = known.filter(|known| {
            Arc::ptr_eq(&known.document, &document) && known.environment == environment
        });
        let known_rules = same.and_then(|known| {
            let rules = match matching::rules::stand_alike(&known.sheets, &sheets) {
                true => known.rules.clone(),
                false => {
                    let (rules, before) = (&known.rules, &known.sheets);
                    Arc::new(matching::rules::with_other_selectors(
                        rules, before, &sheets,
                    )?)
                }
            };
            Some((rules, known.registrations.clone()))
        });
        let (rules, registrations) = known_rules.unwrap_or_else(|| {
            let flat = matching::rules::flatten(&document, &sheets, &environment);
            (Arc::new(flat.rules), flat.registrations)
        });
        let mut page = Page {
            loads: Arc::new(loads),
            container_sizes: style::containers::given_sizes(&environment.container_sizes),
            document,
            sheets,
            failures,
            rules,
            index: Arc::default(),
            environment,
            states: States::default(),
            registrations,
            readings: Arc::default(),
            names: Arc::default(),
            bearings: Arc::default(),
            matches: Arc::default(),
            groups: Arc::default(),
            styles: Arc::default(),
            declarations: Arc::default(),
            before: None,
        };
        if let Some(known) = known {
            page.take_over(known);
        }
        page
    }

    /// Takes over from the state before whatever is the same.
    fn take_over(&mut self, known: &Page) {
        self.readings = known.readings.clone();
        let alike = known.document.is_quirks() == self.document.is_quirks()
            && matching::rules::ask_alike(&known.sheets, &self.sheets);
        if alike {
            self.index = known.index.clone();
        }
        if !Arc::ptr_eq(&known.document, &self.document) {
            return;
        }
        self.names = known.names.clone();
        self.bearings = known.bearings.clone();
        if !known.states.is_empty() {
            return;
        }
        let changes = whole::Changes::between(known, self);
        if alike {
            self.matches = known.matches.clone();
            if changes.as_ref().is_some_and(whole::Changes::same_groups) {
                self.groups = known.groups.clone();
            }
        }
        self.before = changes.and_then(|changes| whole::Before::of(known, changes));
        if self
            .before
            .as_ref()
            .is_some_and(whole::Before::same_declarations)
        {
            self.declarations = known.declarations.clone();
        }
    }

    /// The document.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<p id=boats>Boats"));
    /// let document = page.document();
    /// let last = *document.elements().last().expect("a page has elements");
    /// assert_eq!(document.element(last).id(), Some("boats"));
    /// ```
    pub fn document(&self) -> &Document {
        &self.document
    }

    /// Whether a target is one of this page. Those of the page before an edit of its markup are not; an edit of
    /// styles, other states and another environment leave them as they are.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let late = page.ask().find_one(".late")?;
    /// assert!(page.holds(&late));
    /// assert!(!Page::new(page.document().text().clone()).holds(&late));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn holds(&self, target: &Target) -> bool {
        self.document.holds(target.element)
    }

    /// The target that a target of another state of the page is now; none where its element is gone.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let before = Page::new(Text::new("a.html", "<p>Boats</p>"));
    /// let target = before.ask().find_one("p")?;
    /// let after = Page::new(Text::new("a.html", "<h2>Today</h2><p class=a>Boats</p>"));
    /// assert!(!after.holds(&target));
    /// let target = after.carry(&before, &target).expect("it is there still");
    /// assert_eq!(after.document().element(target.element).attribute("class"), Some("a"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Panics
    /// Where `target` is not of `before`.
    pub fn carry(&self, before: &Page, target: &Target) -> Option<Target> {
        Some(Target {
            element: self.document.carry(&before.document, target.element)?,
            pseudo: target.pseudo.clone(),
        })
    }

    /// A sheet by its index among the page's sheets, as rules name it.
    pub(crate) fn sheet(&self, at: u32) -> &PageSheet {
        &self.sheets[at as usize]
    }

    /// A rule by its index among the page's rules, as matches name it.
    pub(crate) fn rule(&self, at: u32) -> &StyleRule {
        &self.rules[at as usize]
    }

    /// The sheets in cascade order: the user-agent sheet first.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// // The browser's own comes first.
    /// let sheet = page.sheets().last().unwrap().styles.sheet();
    /// assert_eq!(sheet.rule_count(), 2);
    /// ```
    pub fn sheets(&self) -> &[PageSheet] {
        &self.sheets
    }

    /// The sheets that did not load.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<link rel=stylesheet href=gone.css><p>Boats"));
    /// assert_eq!(page.failures()[0].url, "gone.css");
    /// ```
    pub fn failures(&self) -> &[Failure] {
        &self.failures
    }

    /// Every style rule of every sheet, in order of appearance.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// // The browser's own come first.
    /// let last = page.rules().last().expect("two of the page");
    /// assert_eq!(last.selectors.as_ref().unwrap().to_string(), ".late");
    /// ```
    pub fn rules(&self) -> &[StyleRule] {
        &self.rules
    }

    /// How a custom property is registered, where an `@property` rule does.
    pub fn registration(&self, name: &str) -> Option<&Registration> {
        self.registrations.get(name)
    }

    /// The environment that the page is looked at in.
    pub fn environment(&self) -> &Environment {
        &self.environment
    }

    /// The states that elements are in.
    pub fn states(&self) -> &States {
        &self.states
    }

    /// The same page with elements in states, besides those that they are in already. A state implies others: a
    /// hovered element's ancestors are hovered, and a focused one's ancestors have `:focus-within`.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let html = "<style>a:hover { color: navy }</style><a href=/>Boats</a>";
    /// let page = Page::new(Text::new("a.html", html));
    /// let link = page.ask().find_one("a")?;
    /// let hovered = page.with_states([(link.element, ":hover".parse()?)]);
    /// let why = hovered.ask().why(&link, &"color".parse()?);
    /// assert_eq!(why.contests[0].value.computed, "rgb(0, 0, 128)");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn with_states(&self, states: impl IntoIterator<Item = (ElementId, State)>) -> Page {
        let mut all = self.states.clone();
        for (element, state) in states {
            self.add_state(&mut all, element, state);
        }
        self.in_states(all)
    }

    /// The same page with every element in states, as far as it can be in them, and out of others.
    #[must_use]
    pub(crate) fn with_states_everywhere(&self, on: &[State], off: &[State]) -> Page {
        let mut all = self.states.clone();
        let controls = Controls::default();
        for state in on {
            // What can be in these is around what can be in the others.
            let asked = match state {
                State::Action(Action::FocusWithin) => State::Action(Action::Focus),
                State::Action(Action::TargetWithin) => State::Action(Action::Target),
                state => *state,
            };
            for id in self.document.elements() {
                if !can_be_in(&self.document, *id, asked, &controls) {
                    continue;
                }
                match state {
                    State::Action(Action::Hover | Action::Active) => all.add(*id, *state),
                    _ => self.add_state(&mut all, *id, *state),
                }
            }
        }
        for state in off {
            if let State::Form(state) = state {
                all.nowhere(*state);
            }
        }
        self.in_states(all)
    }

    fn add_state(&self, all: &mut States, element: ElementId, state: State) {
        all.add(element, state);
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
            all.add(element, State::Action(Action::Focus));
        }
        for above in self.document.ancestors_and_self(element) {
            for action in implied {
                all.add(above, State::Action(*action));
            }
        }
    }

    /// The page in other states: which rules match is worked out again.
    fn in_states(&self, states: States) -> Page {
        Page {
            document: self.document.clone(),
            sheets: self.sheets.clone(),
            failures: self.failures.clone(),
            loads: self.loads.clone(),
            rules: self.rules.clone(),
            index: self.index.clone(),
            environment: self.environment.clone(),
            states,
            registrations: self.registrations.clone(),
            container_sizes: self.container_sizes.clone(),
            readings: self.readings.clone(),
            names: self.names.clone(),
            bearings: self.bearings.clone(),
            matches: Arc::default(),
            groups: Arc::default(),
            styles: Arc::default(),
            declarations: Arc::default(),
            before: None,
        }
    }

    /// The page with other rules.
    fn with_rules(&self, rules: Vec<StyleRule>) -> Page {
        Page {
            rules: Arc::new(rules),
            index: Arc::default(),
            ..self.in_states(self.states.clone())
        }
    }

    /// Matches every rule against every element at once, in parallel. Whoever asks about most elements of a page
    /// does well to call this first: every [`Styles`] of the page then knows what matches.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// page.match_all(); // on all cores; the questions after it find their rules matched
    /// assert_eq!(page.ask().sheets().sheets.last().unwrap().rules_matching, 2);
    /// ```
    pub fn match_all(&self) {
        self.all_matches();
    }

    pub(crate) fn all_matches(&self) -> &whole::Matches {
        self.matches.get_or_init(|| {
            let before = self.before.as_ref();
            let known = before.and_then(|before| before.matches(self));
            known.unwrap_or_else(|| whole::Matches::of(self))
        })
    }

    pub(crate) fn groups(&self) -> &whole::Groups {
        self.groups.get_or_init(|| {
            let before = self.before.as_ref();
            whole::Groups::of(self, before.and_then(|before| before.groups(self)))
        })
    }

    fn shared_styles(&self) -> &[Arc<whole::Style>] {
        self.styles.get_or_init(|| {
            if self.bearings.get().is_none() {
                // Neither needs the other.
                parallel::join(|| self.bearings(), || self.all_matches());
            }
            let before = self.before.as_ref();
            let known = before.and_then(|before| before.styles(self));
            known.unwrap_or_else(|| whole::all_styles(self))
        })
    }

    fn declarations_of_list(&self, list: usize) -> Option<&OnceLock<Arc<Declarations>>> {
        let all = self.declarations.get_or_init(|| {
            let count = self.all_matches().lists().count();
            (0..count).map(|_| OnceLock::new()).collect()
        });
        all.get(list)
    }

    fn names(&self) -> &whole::Names {
        self.names.get_or_init(|| whole::Names::of(&self.document))
    }

    fn bearings(&self) -> &whole::InheritanceFacts {
        let all = || whole::InheritanceFacts::of(&self.document);
        self.bearings.get_or_init(all)
    }

    fn index(&self) -> &matching::index::RuleIndex {
        let quirks = self.document.is_quirks();
        self.index
            .get_or_init(|| matching::index::RuleIndex::new(&self.rules, quirks))
    }

    /// Works out every set value of every element, in parallel.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let whole = page.whole();
    /// let colors = whole.elements().filter_map(|e| e.value(&"color".parse().ok()?));
    /// assert_eq!(colors.last().map(|v| v.computed.text()), Some("rgb(0, 128, 128)"));
    /// ```
    pub fn whole(&self) -> WholePage<'_> {
        WholePage::of(self)
    }

    /// Begins to work out styles.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let styles = page.styles();
    /// let late = page.ask().find_one(".late")?;
    /// assert_eq!(styles.matched(&late).last().unwrap().specificity.classes, 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn styles(&self) -> Styles<'_> {
        Styles::new(self)
    }

    /// Styles of which some is known.
    pub(crate) fn styles_with(&self, known: Known) -> Styles<'_> {
        Styles::with(self, known)
    }
}
