//! Values: from a contest's winner to the computed value, with every step remembered.

use std::sync::Arc;

use rustc_hash::{FxBuildHasher, FxHashMap};

use crate::cascade::Origin;
use crate::page::load::style_sheet::Longhand;
use crate::page::style::styles::Styles;
use crate::page::style::value::{Value, ValueSource};
use crate::page::style::variables::explain;
use crate::page::target::{DeclarationRef, PropertyName, SheetRef, Target, is, known};
use crate::sheet::Token;
use crate::value::color::{self, Color};
use crate::value::computed::ValueContext;
use crate::value::declared::{Meaning, Name};
use crate::value::grammar::{Definition, match_definition};
use crate::value::logical;
use crate::value::longhand::Piece;
use crate::value::specified::Specified;
use crate::value::substitution::value_tokens;
use crate::value::typed::{Component, Computed};
use crate::value::{Dependencies, PropertyId};

/// How far a custom property may refer to others through others. Real themes go a handful deep.
const DEEPEST_VARIABLES: usize = 100;

/// How many values of an element are asked for where all are that something sets.
const USUAL_VALUES: usize = 50;

/// How many values may be worked out for the sake of each other before the way to the root is taken from its
/// other end.
const DEEPEST_DETOUR: usize = 100;

impl Styles<'_> {
    /// What a target inherits from: the parent element, or the element of a pseudo-element.
    pub fn parent(&self, target: &Target) -> Option<Target> {
        match target.pseudo {
            Some(_) => Some(target.element.into()),
            None => self
                .page
                .document()
                .flat_parent(target.element)
                .map(Target::from),
        }
    }

    /// What a property of a target results in.
    ///
    /// A shorthand has no value itself; ask for its longhands.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { width: calc(1em + 4px) }</style><p>Boats"));
    /// let p = page.ask().find_one("p")?;
    /// let width = page.styles().value(&p, &"width".parse()?);
    /// assert_eq!((&*width.specified, width.computed.pixels()), ("calc(1em + 4px)", Some(20.0)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn value(&self, target: &Target, property: &PropertyName) -> Arc<Value> {
        let property = &self.physical(target, property);
        if let Some(known) = self.remembered(target, property) {
            return known;
        }
        let depth = self.known.depth.replace(self.known.depth.get() + 1);
        if depth >= DEEPEST_DETOUR && self.inherits(property) {
            // From the root down, so that no step has to go up more than one element: a tree may be
            // deep, the stack is not.
            let mut open = Vec::new();
            let mut at = self.inherited_from(target, property);
            while let Some(above) = at {
                if self.remembered(&above, property).is_some() {
                    break;
                }
                at = self.inherited_from(&above, property);
                open.push(above);
            }
            for above in open.iter().rev() {
                self.step(above, property);
            }
        }
        let value = self.next(target, property);
        self.known.depth.set(depth);
        value
    }

    /// Where a property of a target comes from when nothing on the target sets it: the next element up that says
    /// something of it, and for want of one the root. Font sizes and line heights are looked at on every element,
    /// since they follow the family and the kind of element.
    pub(super) fn inherited_from(
        &self,
        target: &Target,
        property: &PropertyName,
    ) -> Option<Target> {
        let mut at = self.parent(target)?;
        if is_of_font(property) || !self.inherits(property) {
            return Some(at);
        }
        while let Some(above) = self.parent(&at) {
            if self.is_spoken_of(&at, property) {
                break;
            }
            at = above;
        }
        Some(at)
    }

    fn remembered(&self, target: &Target, property: &PropertyName) -> Option<Arc<Value>> {
        self.known
            .values
            .borrow()
            .get(target)?
            .get(property)
            .cloned()
    }

    fn remember(&self, target: &Target, property: &PropertyName, value: Arc<Value>) {
        let mut values = self.known.values.borrow_mut();
        if let Some(own) = values.get_mut(target) {
            own.insert(property.clone(), value);
        } else {
            let mut own = FxHashMap::with_capacity_and_hasher(USUAL_VALUES, FxBuildHasher);
            own.insert(property.clone(), value);
            values.insert(target.clone(), own);
        }
    }

    /// The value of a property that nothing on the element is about: the parent's, shared with all
    /// that inherit it, or the initial one, shared with all that have it.
    fn shared(&self, target: &Target, property: &PropertyName) -> Option<Arc<Value>> {
        if self.is_spoken_of(target, property) {
            return None;
        }
        if !self.inherits(property) {
            return self.shared_initial(target, property);
        }
        let from = self.inherited_from(target, property)?;
        let above = self.value(&from, property);
        match above.source {
            _ if above.guaranteed_invalid => None,
            ValueSource::Inherited { .. } if above.fell_through.is_none() => Some(above),
            ValueSource::Declared(_) => Some(self.handed_down(&from, property, &above)),
            _ => None,
        }
    }

    /// What a value that is declared on an element is to those below that inherit it.
    fn handed_down(&self, from: &Target, property: &PropertyName, value: &Value) -> Arc<Value> {
        let key = (from.element, property.clone());
        let mut known = self.known.handed_down.borrow_mut();
        let handed = known.entry(key).or_insert_with(|| {
            let from = from.element;
            let source = ValueSource::Inherited { from };
            Arc::new(Value::new(
                value.specified.clone(),
                value.computed.clone(),
                source,
            ))
        });
        handed.clone()
    }

    pub(in crate::page) fn step(&self, target: &Target, property: &PropertyName) -> Arc<Value> {
        let known = self.remembered(target, property);
        known.unwrap_or_else(|| self.next(target, property))
    }

    /// A value that is not remembered yet.
    fn next(&self, target: &Target, property: &PropertyName) -> Arc<Value> {
        let of_font = is_of_font(property);
        if !of_font && let Some(shared) = self.shared(target, property) {
            self.remember(target, property, shared.clone());
            return shared;
        }
        let key = (target.clone(), property.clone());
        // What a custom property can be made of: others, and the font that its em refer to.
        let watched = matches!(property, PropertyName::Custom(_)) || of_font;
        if watched {
            let mut open = self.known.open.borrow_mut();
            let seen = open.iter().position(|other| *other == key);
            if let Some(from) = seen {
                self.known
                    .cyclic
                    .borrow_mut()
                    .extend_from_slice(&open[from..]);
            }
            if seen.is_some() || open.len() > DEEPEST_VARIABLES {
                drop(open);
                let mut value = self.initial(target, property);
                value.guaranteed_invalid = matches!(property, PropertyName::Custom(_));
                return Arc::new(value);
            }
            open.push(key.clone());
        }
        let mut value = self.work_out(target, property);
        if watched {
            self.known.open.borrow_mut().pop();
            let mut cyclic = self.known.cyclic.borrow_mut();
            let inside = cyclic.contains(&key);
            cyclic.retain(|other| *other != key);
            // Whoever asked may be in the cycle too; then it finds nothing here.
            let open = self.known.open.borrow();
            let above = open.iter().any(|other| cyclic.contains(other));
            drop((cyclic, open));
            if inside && matches!(property, PropertyName::Custom(_)) {
                let mut value = self.initial(target, property);
                value.fell_through =
                    Some("it refers to itself, so its own value does not count".to_owned());
                let kept = Arc::new(value.clone());
                self.remember(target, property, kept);
                value.guaranteed_invalid = above;
                return Arc::new(value);
            }
        }
        if is(property, PropertyId::FONT_SIZE) {
            let size = self.font_size(target, &value);
            if value.computed.pixels() != Some(size) {
                let computed = Computed::new(vec![Component::pixels(size)]);
                Arc::make_mut(&mut value).computed = computed;
            }
        }
        if is(property, PropertyId::LINE_HEIGHT) && self.is_drop_down(target) {
            let value = Arc::make_mut(&mut value);
            value.computed = Computed::keyword("normal");
            let why =
                "engines draw a drop-down list in its own line height while appearance is auto";
            value.fell_through = Some(why.to_owned());
        }
        if is(property, PropertyId::TEXT_ALIGN) && self.is_aligned_header(target, &value) {
            let mut inherited = self.inherited(target, property);
            let why = "browsers centre a header cell only where nothing above it sets text-align";
            inherited.fell_through = Some(why.to_owned());
            value = Arc::new(inherited);
        }
        self.remember(target, property, value.clone());
        value
    }

    /// HTML § 15.3.8 centres a header cell only where its parent has the initial alignment.
    fn is_aligned_header(&self, target: &Target, value: &Value) -> bool {
        let ValueSource::Declared(reference) = &value.source else {
            return false;
        };
        let SheetRef::Listed(sheet) = reference.sheet else {
            return false;
        };
        let origin = self.page.sheets()[sheet as usize].origin;
        let element = self.page.document().element(target.element);
        origin == Origin::UserAgent
            && element.is_html("th")
            && target.pseudo.is_none()
            && self.parent(target).is_some_and(|parent| {
                let above = self.value(&parent, &known(PropertyId::TEXT_ALIGN));
                !above.computed.is("start")
            })
    }

    fn is_drop_down(&self, target: &Target) -> bool {
        let element = self.page.document().element(target.element);
        let is_list = element.attribute("multiple").is_some()
            || element
                .attribute("size")
                .is_some_and(|size| !matches!(size.trim(), "0" | "1"));
        element.is_html("select")
            && !is_list
            && target.pseudo.is_none()
            && !self
                .value(target, &known(PropertyId::APPEARANCE))
                .computed
                .is("none")
    }

    fn work_out(&self, target: &Target, property: &PropertyName) -> Arc<Value> {
        let Some(reference) = self.winner(target, property) else {
            return Arc::new(self.default(target, property, None));
        };
        let styles = self.sheet(reference.sheet);
        let sheet = styles.sheet();
        let declaration = sheet.declaration(reference.id);
        let source = sheet.text().source();
        let reading = styles.reading(reference.id);
        let constant = match (property, &reading.meaning) {
            (PropertyName::Known(wanted), Meaning::Fits(pieces)) => {
                let place = self.place_of_piece(target, *wanted, pieces);
                let longhand = place.and_then(|at| styles.longhand(reference.id, at));
                longhand
                    .filter(|longhand| longhand.is_constant())
                    .map(|longhand| {
                        let make = || self.longhand(target, *wanted, reference, longhand);
                        longhand.constant.of(reference, make)
                    })
            }
            (PropertyName::Custom(name), Meaning::Free)
                if self.page.registration(name).is_none() && !reading.substitutes =>
            {
                let tokens = sheet.value_tokens(declaration);
                let make = || self.custom(target, property, reference, source, &tokens);
                Some(reading.constant.of(reference, make))
            }
            _ => None,
        };
        if let Some(constant) = constant {
            return constant;
        }
        Arc::new(match (&reading.name, &reading.meaning) {
            (_, Meaning::Wide(word)) => self.wide(word, target, property, reference),
            (Name::Property(declared), Meaning::Pending(_)) => {
                let tokens = sheet.value_tokens(declaration);
                self.substituted(target, property, reference, *declared, source, &tokens)
            }
            (_, Meaning::Fits(pieces)) => {
                let PropertyName::Known(wanted) = property else {
                    return Arc::new(self.default(target, property, None));
                };
                let place = self.place_of_piece(target, *wanted, pieces);
                match place.and_then(|at| styles.longhand(reference.id, at)) {
                    Some(longhand) => self.longhand(target, *wanted, reference, longhand),
                    None => self.declared(target, *wanted, reference, None),
                }
            }
            (Name::Custom(_), Meaning::Free) => {
                let tokens = sheet.value_tokens(declaration);
                self.custom(target, property, reference, source, &tokens)
            }
            _ => self.default(target, property, None),
        })
    }

    /// What a declaration whose value is read gives a longhand.
    fn longhand(
        &self,
        target: &Target,
        property: PropertyId,
        reference: DeclarationRef,
        longhand: &Longhand,
    ) -> Value {
        let computed = match &longhand.specified {
            Some(specified) => self.compute(target, property, specified),
            None => Computed::written(longhand.text.clone()),
        };
        let source = ValueSource::Declared(reference);
        Value {
            asks: longhand
                .specified
                .as_ref()
                .map_or(Dependencies::empty(), Specified::asks),
            ..Value::new(longhand.text.clone(), computed, source)
        }
    }

    /// A custom property: its tokens with variables put in, or a typed value where it is registered.
    fn custom(
        &self,
        target: &Target,
        property: &PropertyName,
        reference: DeclarationRef,
        source: &str,
        tokens: &[Token],
    ) -> Value {
        let put_in = self.put_in_variables(target, source, tokens);
        let (variables, result) = (put_in.steps.all(), put_in.result);
        let PropertyName::Custom(name) = property else {
            return self.default(target, property, None);
        };
        let declared = ValueSource::Declared(reference);
        let registration = self.page.registration(name);
        let syntax = registration.and_then(|r| Some((r, r.syntax.as_ref()?)));
        let mut value = match (result, syntax) {
            (Ok(text), None) => Value::written(&text, declared),
            // Custom Properties 1 § 3.1: without a type it is not even inherited.
            (Err(error), None) => {
                let mut value = self.initial(target, property);
                value.fell_through = Some(explain(&error));
                value
            }
            (Err(error), Some(_)) => self.default(target, property, Some(explain(&error))),
            (Ok(text), Some((registration, syntax))) => match self.typed(target, syntax, &text) {
                Some((computed, asks)) => Value {
                    asks,
                    ..Value::new(text.into(), computed, declared)
                },
                None => {
                    let why = format!(
                        "'{}' is not a {}, which it is registered as, so it is invalid at \
                             computed-value time",
                        text.trim(),
                        registration.syntax_source
                    );
                    self.default(target, property, Some(why))
                }
            },
        };
        value.variables = variables;
        value
    }

    /// The computed value of a registered custom property.
    fn typed(
        &self,
        target: &Target,
        syntax: &Definition,
        text: &str,
    ) -> Option<(Computed, Dependencies)> {
        let tokens = value_tokens(text);
        let matched = match_definition(syntax, text, &tokens).ok()?;
        let specified = Specified::read_registered(text, &tokens, &matched);
        // Its units are those of any length.
        let computed = self.compute(target, PropertyId::WIDTH, &specified);
        Some((computed, specified.asks()))
    }

    /// The piece of a declaration that a longhand gets, under its physical or its logical name.
    pub(in crate::page) fn piece_of<'a>(
        &self,
        target: &Target,
        wanted: PropertyId,
        pieces: &'a [(PropertyId, Piece)],
    ) -> Option<&'a Piece> {
        let at = self.place_of_piece(target, wanted, pieces)?;
        pieces.get(at).map(|(_, piece)| piece)
    }

    fn place_of_piece(
        &self,
        target: &Target,
        wanted: PropertyId,
        pieces: &[(PropertyId, Piece)],
    ) -> Option<usize> {
        let place = |wanted: PropertyId| pieces.iter().position(|(p, _)| *p == wanted);
        place(wanted).or_else(|| place(logical::logical(wanted, self.writing_mode(target))?))
    }

    /// What a declaration gives a longhand; none where its shorthand says nothing of it.
    pub(in crate::page) fn declared(
        &self,
        target: &Target,
        property: PropertyId,
        reference: DeclarationRef,
        text: Option<&str>,
    ) -> Value {
        let text = text.unwrap_or_else(|| property.facts().initial);
        let source = ValueSource::Declared(reference);
        match self.read(property, reference, text) {
            Some(specified) => Value {
                asks: specified.asks(),
                ..Value::new(
                    text.into(),
                    self.compute(target, property, &specified),
                    source,
                )
            },
            None => Value::written(text, source),
        }
    }

    /// A value that is in a declaration.
    fn read(
        &self,
        property: PropertyId,
        reference: DeclarationRef,
        text: &str,
    ) -> Option<Arc<Specified>> {
        self.page.readings.specified(property, text, || {
            let sheet = self.sheet(reference.sheet);
            Some(sheet.sheet().text().name().to_owned())
        })
    }

    pub(super) fn compute(
        &self,
        target: &Target,
        property: PropertyId,
        specified: &Specified,
    ) -> Computed {
        if let Specified::Same(value) = specified {
            return value.clone();
        }
        let asks = specified.asks();
        let measures = self.measures(target, property, asks);
        let mut context = ValueContext::of_nothing(&measures);
        context.dark = asks.contains(Dependencies::SCHEME) && self.is_dark(target);
        if asks.contains(Dependencies::PARENT_COLOR) {
            context.parent_color = self.parent_color(target);
        }
        if asks.contains(Dependencies::PARENT_WEIGHT)
            && let Some(parent) = self.parent(target)
            && let Some(weight) = self.value(&parent, &known(property)).computed.number()
        {
            context.parent_weight = weight;
        }
        specified.computed(&context)
    }

    /// What `color: currentcolor` is.
    fn parent_color(&self, target: &Target) -> Color {
        let parent = self.parent(target);
        let value = parent.map(|parent| self.step(&parent, &known(PropertyId::COLOR)));
        match value.as_ref().map(|value| value.computed.components()) {
            Some([Component::Color(color)]) => color.clone(),
            Some(_) => Color::Current,
            None => color::read("black"),
        }
    }

    /// What a value of a property would compute to on a target.
    pub(in crate::page) fn as_if(
        &self,
        target: &Target,
        property: PropertyId,
        value: &str,
    ) -> Computed {
        let base = || {
            let winner = self.winner(target, &PropertyName::Known(property))?;
            Some(self.sheet(winner.sheet).sheet().text().name().to_owned())
        };
        match self.page.readings.specified(property, value, base) {
            Some(specified) => self.compute(target, property, &specified),
            None => Computed::written(value),
        }
    }
}

fn is_of_font(property: &PropertyName) -> bool {
    is(property, PropertyId::FONT_SIZE) || is(property, PropertyId::LINE_HEIGHT)
}
