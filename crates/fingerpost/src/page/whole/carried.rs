//! What a page takes over from its state before an edit or in another environment: the matches of all rules but those
//! with other selectors, and the styles that no changed rule has a part in.
//!
//! The elements must be the same, and the rules must stand where they stood. Then a style is as it was where the
//! element's rules are and hold as before, where no value asked what is another now, and where nothing came down from
//! above that is another.

use std::cmp::Ordering;
use std::sync::{Arc, OnceLock};

use rustc_hash::FxHashSet;

use super::group_styles::{ASKED_BY_OTHERS, Style, by_name};
use super::groups::{ASKED_FROM_BELOW, Groups, StyleId, has_container_queries, same_for_groups};
use super::lists::Matches;
use super::symbols::Position;
use crate::environment::Environment;
use crate::markup::ElementId;
use crate::page::matching::registrations;
use crate::page::{Page, PageSheet, PropertyName, StyleRule, Styles, Value, ValueSource};
use crate::parallel;
use crate::sheet::RuleId;
use crate::value::declared::Name;
use crate::value::{Dependencies, PropertyId, is_css_wide};

/// How many styles one thread works out at a time, at most: neighbors share most of their ancestors.
const MOST_STYLES_AT_ONCE: usize = 64;

/// So few styles are made sooner than other threads wake up.
const FEW_STYLES: usize = 16;

/// Where more rules have other selectors, all are matched again in one walk.
const MOST_SELECTORS: usize = 64;

/// The styles of all groups.
pub(in crate::page) type AllStyles = Arc<OnceLock<Vec<Arc<Style>>>>;

/// The state of a page before, as far as the next one can use it.
#[derive(Debug)]
pub(in crate::page) struct Before {
    matches: Arc<OnceLock<Matches>>,
    groups: Arc<OnceLock<Groups>>,
    styles: AllStyles,
    changes: Changes,
}

/// What differs between two states of a page.
#[derive(Debug)]
pub(in crate::page) struct Changes {
    /// The rules with other selectors, by their indices on the page, in order.
    selectors: Vec<u32>,
    /// The rules with other declarations, and those that hold only in one of the states.
    declarations: Vec<u32>,
    /// What has another answer for whoever asks it.
    asks: Dependencies,
    /// The properties that the changed declarations are about; none where more than declarations differs.
    properties: Option<Vec<PropertyName>>,
    /// Whether every declaration is about the property that it was about, and as important.
    only_values: bool,
    /// Whether the same elements are alike.
    same_groups: bool,
}

impl Changes {
    /// What differs between two states of a page; none where they can't be told apart rule by rule.
    pub fn between(before: &Page, after: &Page) -> Option<Changes> {
        let same = |(a, b): (&StyleRule, &StyleRule)| {
            (a.sheet, a.rule, a.layer_order) == (b.sheet, b.rule, b.layer_order)
        };
        let same_rules = Arc::ptr_eq(&before.rules, &after.rules);
        if before.sheets.len() != after.sheets.len()
            || before.rules.len() != after.rules.len()
            || !(same_rules || before.rules.iter().zip(&*after.rules).all(same))
            || !registrations::alike(&before.registrations, &after.registrations)
            || before.environment.container_sizes != after.environment.container_sizes
        {
            return None;
        }
        let holding = before.rules.iter().zip(&*after.rules).enumerate();
        let holding = holding.filter(|(_, (a, b))| a.blocked.is_some() != b.blocked.is_some());
        let declarations: Vec<u32> = holding.map(|(at, _)| at as u32).collect();
        let asks = other_answers(&before.environment, &after.environment);
        let same_environment = asks.is_empty() && declarations.is_empty();
        let mut changes = Changes {
            selectors: Vec::new(),
            declarations,
            asks,
            properties: same_environment.then(Vec::new),
            only_values: before.environment == after.environment,
            same_groups: true,
        };
        // What a container query asks is not told by the value that it is around.
        if !changes.asks.is_empty() && has_container_queries(after) {
            return None;
        }
        for (at, (a, b)) in before.sheets.iter().zip(&after.sheets).enumerate() {
            if a.origin != b.origin || a.host != b.host || a.layer != b.layer {
                return None;
            }
            if !Arc::ptr_eq(&a.styles, &b.styles) {
                changes.of_sheet(at as u32, a, b, &after.rules)?;
            }
        }
        Some(changes)
    }

    /// Whether the same elements are alike, where the same rules match them.
    pub fn same_groups(&self) -> bool {
        self.same_groups
    }

    fn of_sheet(
        &mut self,
        at: u32,
        a: &PageSheet,
        b: &PageSheet,
        rules: &[StyleRule],
    ) -> Option<()> {
        let (a, b) = (&a.styles, &b.styles);
        let count = self.selectors.len();
        let first = rules.partition_point(|rule| rule.sheet < at);
        let of_rule = |id: RuleId| {
            // Rules come in the order of their sheets, and within a sheet as they stand there.
            let start = rules.partition_point(|rule| (rule.sheet, rule.rule) < (at, id));
            let found = rules.iter().skip(start);
            let own = found.take_while(move |rule| (rule.sheet, rule.rule) == (at, id));
            own.enumerate()
                .map(move |(place, _)| (start + place) as u32)
        };
        let heads = a.other_selectors(b)?;
        if !heads.is_empty() {
            let inside = |id: RuleId| {
                let mut around = std::iter::successors(Some(id), |id| b.sheet().rule(*id).parent);
                around.any(|id| heads.contains(&id))
            };
            let touched = rules.iter().enumerate().skip(first);
            let touched = touched.take_while(|(_, rule)| rule.sheet == at);
            let touched = touched.filter(|(_, rule)| inside(rule.rule));
            self.selectors
                .extend(touched.map(|(place, _)| place as u32));
        }
        if self.selectors.len() > count {
            self.properties = None;
            self.only_values = false;
        }
        for id in a.changed_declarations(b)? {
            let (was, is) = (a.sheet().declaration(id), b.sheet().declaration(id));
            self.declarations.extend(of_rule(is.rule));
            self.same_groups &= same_for_groups((a, id), (b, id));
            let names = [&a.reading(id).name, &b.reading(id).name];
            self.only_values &=
                names[0] == names[1] && was.important.is_some() == is.important.is_some();
            if let Some(properties) = &mut self.properties {
                properties.extend(names.into_iter().flat_map(longhands));
            }
        }
        Some(())
    }
}

/// The longhands that a declaration is about, or the custom property.
fn longhands(name: &Name) -> Vec<PropertyName> {
    match name {
        Name::Property(property) => {
            let longhands = property.longhands().iter().copied();
            longhands.map(PropertyName::Known).collect()
        }
        Name::Custom(name) => vec![PropertyName::Custom(name.clone())],
        Name::Unknown => Vec::new(),
    }
}

/// What has other answers in another environment.
fn other_answers(before: &Environment, after: &Environment) -> Dependencies {
    let mut asks = Dependencies::empty();
    asks.set(
        Dependencies::VIEWPORT | Dependencies::CONTAINER,
        before.viewport != after.viewport,
    );
    asks.set(
        Dependencies::RESOLUTION,
        before.resolution != after.resolution,
    );
    // The color above may be the initial one, which no declaration tells.
    asks.set(
        Dependencies::SCHEME | Dependencies::PARENT_COLOR,
        before.features != after.features,
    );
    asks
}

impl Before {
    /// What is left of a page for its next state.
    pub fn of(page: &Page, changes: Changes) -> Option<Before> {
        page.matches.get()?;
        Some(Before {
            matches: page.matches.clone(),
            groups: page.groups.clone(),
            styles: page.styles.clone(),
            changes,
        })
    }

    /// The matches of the page now; none where they were not known before.
    pub fn matches(&self, page: &Page) -> Option<Matches> {
        let before = self.matches.get()?;
        self.keeps_lists(page)
            .then(|| Matches::with_other_selectors(before, page, &self.changes.selectors))
    }

    /// Whether lists of matches keep their numbers.
    fn keeps_lists(&self, page: &Page) -> bool {
        self.changes.selectors.len() <= MOST_SELECTORS && page.document.shadow_roots().is_empty()
    }

    /// The groups before and the matches that they are made from, where lists have kept their numbers.
    pub fn groups(&self, page: &Page) -> Option<(&Groups, &Matches)> {
        let known = self.groups.get().zip(self.matches.get());
        known.filter(|_| self.keeps_lists(page))
    }

    /// Whether the declarations of each list of matches are the same, whatever their values.
    pub fn same_declarations(&self) -> bool {
        self.changes.only_values && self.changes.selectors.is_empty()
    }

    /// The styles of the page now; none where it is better to work them all out.
    pub fn styles(&self, page: &Page) -> Option<Vec<Arc<Style>>> {
        let carrier = Carrier {
            page,
            before: self,
            matches: (self.matches.get()?, page.all_matches()),
            groups: (self.groups.get()?, page.groups()),
            styles: self.styles.get()?,
            containers: has_container_queries(page),
        };
        Some(carrier.styles())
    }
}

/// How a style came out.
#[derive(Clone, Debug)]
enum State {
    /// It is as it was.
    Kept,
    /// These values of it are others, its own or those that it hands down. What is below takes them as they are, and
    /// makes something of them only where a declaration asks for it: see [`makes_of`].
    Changed(Vec<PropertyName>),
    /// Something is another of which anything below may be made.
    Inherited,
}

struct Carrier<'a> {
    page: &'a Page,
    before: &'a Before,
    matches: (&'a Matches, &'a Matches),
    groups: (&'a Groups, &'a Groups),
    styles: &'a [Arc<Style>],
    /// Whether what is below an element may ask for any property of it.
    containers: bool,
}

impl Carrier<'_> {
    fn styles(&self) -> Vec<Arc<Style>> {
        let lists = self.touched_lists();
        let representatives = &self.groups.1.representatives;
        let places: Vec<Position> = representatives
            .iter()
            .map(|id| self.page.document.element(*id).index)
            .collect();
        let is_touched = |place: Position| {
            let list = self.matches.1.list_of(place);
            lists[list as usize] || self.matches.0.list_of(place) != list
        };
        let asks = |at: usize| {
            let before = self.style_before(representatives[at], places[at]);
            before.is_some_and(|style| style.asks.intersects(self.before.changes.asks))
        };
        let all = 0..places.len();
        let touched = all.filter(|at| is_touched(places[*at]) || asks(*at));
        let touched: Vec<usize> = touched.collect();
        let make =
            |styles: &Styles<'_>, at: usize| self.made(styles, representatives[at], places[at]);
        let mut made = made(self.page, &touched, &make).into_iter().peekable();
        let styles = self.page.styles();
        let mut states: Vec<State> = Vec::with_capacity(places.len());
        let mut found: Vec<Option<Arc<Style>>> = Vec::with_capacity(places.len());
        for (at, (id, place)) in representatives.iter().zip(&places).enumerate() {
            let own = made
                .next_if(|(other, _)| *other == at)
                .map(|(_, style)| style);
            let (state, style) = match (self.state_above(*place, &states), own) {
                // What is above has a part in more of it than the changed rules have.
                (State::Inherited, _) => (State::Inherited, None),
                (above, own) => match self.style_before(*id, *place) {
                    None => (State::Inherited, None),
                    Some(before) => self.compared(&styles, *id, before, &above, own),
                },
            };
            states.push(state);
            found.push(style);
        }
        with_the_rest(self.page, found)
    }

    /// The style of an element that a changed rule has a part in.
    fn made(&self, styles: &Styles<'_>, id: ElementId, place: Position) -> Arc<Style> {
        let properties = self.before.changes.properties.as_ref();
        let known = self.style_before(id, place).zip(properties);
        let patched = known.and_then(|(before, properties)| before.patched(styles, id, properties));
        Arc::new(patched.unwrap_or_else(|| Style::of(styles, id)))
    }

    /// How a style came out that inherited nothing that was not asked for.
    fn compared(
        &self,
        styles: &Styles<'_>,
        id: ElementId,
        before: &Arc<Style>,
        above: &State,
        own: Option<Arc<Style>>,
    ) -> (State, Option<Arc<Style>>) {
        let from_above = match above {
            State::Changed(names) => &names[..],
            _ => &[],
        };
        let now = match own {
            _ if makes_of(before, from_above) => Arc::new(Style::of(styles, id)),
            Some(own) => own,
            None => before.clone(),
        };
        let mut names = match Arc::ptr_eq(before, &now) {
            true => Vec::new(),
            false => changed(before, &now),
        };
        let through = |name: &&PropertyName| styles.inherits(name) && now.value(name).is_none();
        names.extend(from_above.iter().filter(through).cloned());
        let state = match names {
            names if names.is_empty() => State::Kept,
            names if self.containers || !names.iter().all(is_plain) => State::Inherited,
            names => State::Changed(names),
        };
        (state, Some(now))
    }

    /// Which lists have a changed rule in them.
    fn touched_lists(&self) -> Vec<bool> {
        let Changes {
            selectors,
            declarations,
            ..
        } = &self.before.changes;
        let changed: FxHashSet<u32> = selectors.iter().chain(declarations).copied().collect();
        let is_changed = |rule: u32| changed.contains(&rule);
        let lists = self.matches.1.lists();
        lists
            .map(|(list, _)| list.iter().any(|(_, matched)| is_changed(matched.rule)))
            .collect()
    }

    /// The style that an element had, where it stood for its group then as it does now.
    fn style_before(&self, id: ElementId, place: Position) -> Option<&Arc<Style>> {
        let group = self.groups.0.style_of(place);
        let stood = self.groups.0.representatives.get(group as usize) == Some(&id);
        self.styles.get(group as usize).filter(|_| stood)
    }

    /// How the style of the parent came out.
    fn state_above(&self, place: Position, states: &[State]) -> State {
        let Some(above) = self.page.bearings().above(place) else {
            return State::Kept;
        };
        let group: StyleId = self.groups.1.style_of(above);
        let first = self.groups.1.representatives[group as usize];
        let first = self.page.document.element(first).index;
        // The group describes its first element, whose parent may have come from another.
        let alike = self.groups.0.style_of(above) == self.groups.0.style_of(first);
        match states.get(group as usize) {
            Some(state) if alike => state.clone(),
            _ => State::Inherited,
        }
    }
}

/// The properties that two states of a style don't agree on.
fn changed(before: &Style, now: &Style) -> Vec<PropertyName> {
    let (mut old, mut new) = (before.own.iter().peekable(), now.own.iter().peekable());
    let mut changed = Vec::new();
    loop {
        let order = match (old.peek(), new.peek()) {
            (Some((a, _)), Some((b, _))) => by_name(a, b),
            (Some(_), None) => Ordering::Less,
            (None, Some(_)) => Ordering::Greater,
            (None, None) => return changed,
        };
        let one = if order.is_le() { old.next() } else { None };
        let other = if order.is_ge() { new.next() } else { None };
        match (one, other) {
            (Some((_, a)), Some((_, b))) if Arc::ptr_eq(a, b) || a == b => {}
            (Some((name, _)), _) | (None, Some((name, _))) => changed.push(name.clone()),
            (None, None) => return changed,
        }
    }
}

/// Whether the values of other properties depends on a property, of the element or of what is below it, only where a
/// declaration asks for it.
fn is_plain(name: &PropertyName) -> bool {
    /// Where a header cell is in a table follows how the text above it is aligned.
    const OF_HEADERS: PropertyId = PropertyId::TEXT_ALIGN;
    match name {
        PropertyName::Custom(_) => false,
        PropertyName::Known(id) => {
            *id != OF_HEADERS && !ASKED_BY_OTHERS.contains(id) && !ASKED_FROM_BELOW.contains(id)
        }
    }
}

/// Whether values of an element are made of some plain properties of what is above it.
fn makes_of(style: &Style, names: &[PropertyName]) -> bool {
    let asked = |name: &PropertyName| {
        let asks = match name {
            PropertyName::Known(PropertyId::COLOR) => Dependencies::PARENT_COLOR,
            PropertyName::Known(PropertyId::FONT_WEIGHT) => Dependencies::PARENT_WEIGHT,
            _ => Dependencies::empty(),
        };
        let taken = |value: &Value| {
            !matches!(value.source, ValueSource::Declared(_)) || is_css_wide(&value.specified)
        };
        style.asks.intersects(asks) || style.value(name).is_some_and(taken)
    };
    names.iter().any(asked)
}

/// The styles of some groups, worked out in parallel.
fn made(
    page: &Page,
    groups: &[usize],
    make: &(dyn Fn(&Styles<'_>, usize) -> Arc<Style> + Sync),
) -> Vec<(usize, Arc<Style>)> {
    if groups.len() <= FEW_STYLES {
        let styles = page.styles();
        return groups.iter().map(|at| (*at, make(&styles, *at))).collect();
    }
    let shares = parallel::threads() * 4;
    let at_once = groups.len().div_ceil(shares).clamp(1, MOST_STYLES_AT_ONCE);
    let chunks = groups.chunks(at_once).collect();
    let made: Vec<Vec<(usize, Arc<Style>)>> = parallel::map(chunks, |chunk: &[usize]| {
        let styles = page.styles();
        chunk.iter().map(|at| (*at, make(&styles, *at))).collect()
    });
    made.into_iter().flatten().collect()
}

/// All styles, in the order of the groups, those too that are not known.
fn with_the_rest(page: &Page, known: Vec<Option<Arc<Style>>>) -> Vec<Arc<Style>> {
    let missing: Vec<usize> = (0..known.len()).filter(|at| known[*at].is_none()).collect();
    let representatives = &page.groups().representatives;
    let make = |styles: &Styles<'_>, at: usize| Arc::new(Style::of(styles, representatives[at]));
    let mut made = made(page, &missing, &make)
        .into_iter()
        .map(|(_, style)| style);
    let all = known.into_iter().map(|known| known.or_else(|| made.next()));
    all.flatten().collect()
}

/// The styles of all groups of a page.
pub(in crate::page) fn all_styles(page: &Page) -> Vec<Arc<Style>> {
    with_the_rest(page, vec![None; page.groups().representatives.len()])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::environment::Environment;
    use crate::page::Request;
    use crate::text::Text;

    const HTML: &str = "<!doctype html><link rel=stylesheet href=a.css><main><p class=a>a<b>b</b></p>\
                        <p class=b>c<i>d</i></p><div>e<span>f</span></div></main>";
    const CSS: &str = "p { color: teal } .a { margin: 1px; width: 10vw } .b { margin: 2px }\n\
                       @media (width > 900px) { div { padding: 1px } }\n:root { --x: red }";

    fn page(before: Option<&Page>, css: &str) -> Page {
        let html = Text::new("p.html", HTML);
        let sheet = Text::new("a.css", css);
        let mut load = |_: &Request<'_>| Ok(sheet.clone());
        let environment = Environment::default();
        match before {
            Some(page) => Page::builder(html)
                .after(page)
                .environment(environment)
                .loader(&mut load)
                .build(),
            None => Page::builder(html)
                .environment(environment)
                .loader(&mut load)
                .build(),
        }
    }

    /// The elements whose style was worked out again.
    fn made_again(before: &Page, after: &Page) -> Vec<String> {
        let (old, new) = (before.shared_styles(), after.shared_styles());
        let names = after.document.elements().iter().map(|id| {
            let element = after.document.element(*id);
            let (was, is) = (before.groups(), after.groups());
            let style = |styles: &[Arc<Style>], groups: &Groups| {
                styles[groups.style_of(element.index) as usize].clone()
            };
            let same = Arc::ptr_eq(&style(old, was), &style(new, is));
            (!same).then(|| element.name.to_string())
        });
        names.flatten().collect()
    }

    fn edited(from: &str, to: &str) -> Vec<String> {
        let before = page(None, CSS);
        let _ = before.whole();
        made_again(&before, &page(Some(&before), &CSS.replace(from, to)))
    }

    #[test]
    fn a_value_that_stays_on_its_element() {
        assert_eq!(edited("margin: 1px", "margin: 3px"), ["p"]);
    }

    #[test]
    fn a_value_that_comes_down() {
        // What is below takes it as it is.
        assert_eq!(edited("color: teal", "color: navy"), ["p", "p"]);
        let made_of_it = CSS.replace(
            "div {",
            "b { color: inherit } i { color: lch(from currentcolor l c h) } div {",
        );
        let before = page(None, &made_of_it);
        let _ = before.whole();
        let after = page(
            Some(&before),
            &made_of_it.replace("color: teal", "color: navy"),
        );
        assert_eq!(made_again(&before, &after), ["p", "b", "p", "i"]);
        let all = edited("--x: red", "--x: blue");
        assert_eq!(all.len(), 11, "{all:?}");
    }

    #[test]
    fn a_selector_is_matched_again_alone() {
        assert_eq!(edited(".b {", "div {"), ["p", "div"]);
        assert_eq!(edited(".b {", ".missing {"), ["p"]);
    }

    #[test]
    fn another_width() {
        let before = page(None, CSS);
        let _ = before.whole();
        let mut narrow = Environment::default();
        narrow.viewport.width = 500.0;
        assert_eq!(made_again(&before, &before.under(&narrow)), ["p", "div"]);
        narrow = Environment::default();
        narrow.viewport.width = 1000.0;
        assert_eq!(made_again(&before, &before.under(&narrow)), ["p"]);
    }
}
