//! One page: ours against the engine's.

use std::collections::BTreeMap;
use std::path::Path;

use fingerpost::environment::{Environment, Viewport};
use fingerpost::page::{Page, PropertyName, Styles, Target};
use fingerpost::selector::{Matcher, SelectorList};
use fingerpost::site::Site;
use fingerpost::value::PropertyId;

use crate::browser::{Browser, BrowserSettings};
use crate::differences::Differences;
use test_browser::Files;

/// What came of comparing pages.
#[derive(Debug, Default)]
pub struct Outcome {
    /// How many elements were compared.
    pub elements: usize,
    /// How many values and matches were compared.
    pub comparisons: usize,
    /// How many differed as the list of known differences has it.
    pub known: usize,
    /// The other differences, counted by what they are: property, ours, the engine's; with the first
    /// element that has it.
    pub unknown: BTreeMap<(String, String, String), (usize, String)>,
}

impl Outcome {
    /// How many comparisons differed and are not on the list.
    pub fn differing(&self) -> usize {
        self.unknown.values().map(|(count, _)| count).sum()
    }

    /// A line that sums it up.
    pub fn summary(&self) -> String {
        let agreed = self.comparisons - self.known - self.differing();
        format!(
            "{} elements, {} comparisons: {} agree ({:.4} %), {} known differences, {} others",
            self.elements,
            self.comparisons,
            agreed,
            100.0 * agreed as f64 / self.comparisons.max(1) as f64,
            self.known,
            self.differing()
        )
    }

    fn differ(&mut self, property: &str, ours: &str, engine: &str, element: String) {
        let key = (property.to_owned(), ours.to_owned(), engine.to_owned());
        self.unknown.entry(key).or_insert((0, element)).0 += 1;
    }

    /// Adds another outcome to this one.
    pub fn add(&mut self, other: Outcome) {
        self.elements += other.elements;
        self.comparisons += other.comparisons;
        self.known += other.known;
        for (key, (count, element)) in other.unknown {
            self.unknown.entry(key).or_insert((0, element)).0 += count;
        }
    }
}

/// Compares one page of a site in the environment of a browser.
///
/// # Errors
/// Where the browser does not answer.
///
/// # Panics
/// Where the page can't be read.
pub async fn compare(
    browser: &Browser,
    settings: BrowserSettings,
    files: &Files,
    root: &Path,
    name: &str,
    differences: &Differences,
) -> Result<Outcome, String> {
    let (site, name) = Site::of_page(&root.join(name)).expect("the page is there");
    let first = site
        .page(&name, Environment::default())
        .expect("the page is read");
    let selectors = selectors_of(&first);
    let engine = browser.ask(&files.url(&name), &selectors).await?;

    let meant = (settings.dark, settings.print);
    assert_eq!((engine.dark, engine.print), meant, "the engine's settings");
    let mut environment = Environment {
        viewport: Viewport {
            width: engine.width,
            height: engine.height,
        },
        ..Environment::default()
    };
    if settings.print {
        environment.media = "print".to_owned();
    }
    if settings.dark {
        let dark = ("prefers-color-scheme".to_owned(), "dark".to_owned());
        environment.features.extend([dark]);
    }
    // A machine without a screen has no mouse either; ours has one.
    for (feature, value) in engine.pointing {
        environment
            .features
            .extend(value.map(|value| (feature, value)));
    }
    let page = site.page(&name, environment).expect("the page is read");
    let styles = page.styles();
    let document = page.document();
    let matcher = Matcher::new(document, page.states());
    let mut outcome = Outcome::default();

    let names: Vec<&str> = engine.elements.iter().map(|e| e.tag.as_str()).collect();
    let ours: Vec<&str> = document
        .elements()
        .iter()
        .map(|e| &*document.element(*e).name)
        .collect();
    assert_eq!(ours, names, "{name}: the trees differ");

    let lists: Vec<Option<SelectorList>> = selectors
        .iter()
        .enumerate()
        .map(|(at, s)| {
            SelectorList::parse(s)
                .ok()
                .filter(|_| !engine.refused.contains(&at))
        })
        .collect();
    for (id, element) in document.elements().iter().zip(&engine.elements) {
        outcome.elements += 1;
        let place = document
            .text()
            .place(document.element(*id).start_tag.start());
        let label = format!("{} {place}:{}", element.tag, place.column);
        for (at, list) in lists.iter().enumerate() {
            let Some(list) = list else { continue };
            outcome.comparisons += 1;
            let matches = matcher.matches_list(list, *id);
            if matches != element.matches.contains(&at) {
                let engine = (!matches).to_string();
                outcome.differ(&selectors[at], &matches.to_string(), &engine, label.clone());
            }
        }
        // What no slot takes has no style in the engine.
        if !document.is_in_flat_tree(*id) {
            continue;
        }
        let target = Target::from(*id);
        for (property, value) in engine.properties.iter().zip(&element.values) {
            let Some(known) = PropertyId::named(property) else {
                continue;
            };
            // What is a shorthand by now is one value to the engine still.
            let is_one = property == "background-position";
            // Hiding the root changed its own display.
            if known.is_shorthand() && !is_one || (property == "display" && element.tag == "html") {
                continue;
            }
            outcome.comparisons += 1;
            let ours = match is_one {
                true => positions(&styles, &target),
                false => styles
                    .resolved(&target, &PropertyName::Known(known))
                    .to_string(),
            };
            let ours = ours.trim();
            // The engine's URLs begin with the server, ours with the site's root.
            let value = &value.replace(&files.url(""), "/");
            if ours == value || same_color(ours, value) {
                continue;
            }
            if differences.know(&element.tag, property, value)
                || measures_font(&page, &target, known)
            {
                outcome.known += 1;
            } else {
                outcome.differ(property, ours, value, label.clone());
            }
        }
    }
    Ok(outcome)
}

/// The position of each image, as the engine has them: both axes in one, repeated for as many images as there are.
fn positions(styles: &Styles<'_>, target: &Target) -> String {
    let layers = |id| -> Vec<String> {
        let value = styles
            .resolved(target, &PropertyName::Known(id))
            .to_string();
        let (mut depth, mut all) = (0, vec![String::new()]);
        for character in value.chars() {
            depth += i32::from(character == '(') - i32::from(character == ')');
            match (character, depth) {
                (',', 0) => all.push(String::new()),
                _ => all.last_mut().expect("it begins with one").push(character),
            }
        }
        all.iter().map(|layer| layer.trim().to_owned()).collect()
    };
    let images = layers(PropertyId::BACKGROUND_IMAGE).len();
    let across = layers(PropertyId::BACKGROUND_POSITION_X);
    let down = layers(PropertyId::BACKGROUND_POSITION_Y);
    let pairs = across.iter().cycle().zip(down.iter().cycle()).take(images);
    let pairs: Vec<String> = pairs.map(|(x, y)| format!("{x} {y}")).collect();
    pairs.join(", ")
}

/// Whether two values differ only in the last digits of colors of other spaces than sRGB's bytes.
/// Engines convert in single precision, each by its own matrices (Color 4 § 18 leaves the precision
/// open).
fn same_color(ours: &str, engine: &str) -> bool {
    const SLACK: f64 = 0.001;
    let spaces = ["color(", "lab(", "lch(", "oklab(", "oklch("];
    if !spaces
        .iter()
        .any(|s| ours.contains(s) && engine.contains(s))
    {
        return false;
    }
    let words = |text: &str| -> Vec<String> {
        let parts = text.split([' ', '(', ')', ',', '/']);
        parts.filter(|p| !p.is_empty()).map(str::to_owned).collect()
    };
    // A hue is counted in degrees, so that the same slip is a larger number.
    let least = if engine.contains("lch(") { 20.0 } else { 1.0 };
    let (ours, engine) = (words(ours), words(engine));
    ours.len() == engine.len()
        && ours.iter().zip(&engine).all(|(a, b)| {
            let close = |a: f64, b: f64| (a - b).abs() <= SLACK * b.abs().max(least);
            a == b || matches!((a.parse(), b.parse()), (Ok(a), Ok(b)) if close(a, b))
        })
}

/// Whether a value is written in a unit that only the font in use measures, such as `ch` (Values 4 § 6.1.1). Only a browser has that font.
fn measures_font(page: &Page, target: &Target, property: PropertyId) -> bool {
    const UNITS: [&str; 8] = ["ch", "rch", "ic", "ric", "ex", "rex", "cap", "rcap"];
    let why = page
        .ask()
        .why(target.clone(), &PropertyName::Known(property));
    let written = why
        .contests
        .first()
        .map_or("", |contest| &*contest.value.specified);
    let mut words = written.split(|c: char| !(c.is_ascii_alphanumeric() || c == '.'));
    words.any(|word| {
        let number = word.trim_end_matches(|c: char| c.is_ascii_alphabetic());
        let unit = &word[number.len()..];
        number.parse::<f64>().is_ok() && UNITS.contains(&unit)
    })
}

/// The selectors of the page's own sheets that are about elements, each once.
fn selectors_of(page: &Page) -> Vec<String> {
    let mut found = Vec::new();
    for rule in page.rules() {
        let sheet = page.sheets()[rule.sheet as usize].styles.sheet();
        if page.sheets()[rule.sheet as usize].origin != fingerpost::cascade::Origin::Author {
            continue;
        }
        let Ok(list) = &rule.selectors else { continue };
        for selector in &list.selectors {
            // What a nested rule implies is not written out.
            let text = sheet.slice_in(rule.rule, selector.span);
            let nested = text.contains('&') || sheet.rule(rule.rule).parent.is_some();
            // Nor is what a selector means only in its own sheet.
            let bound = rule.scope.is_some()
                || selector.names_host
                || text.contains('|')
                || text.contains(":scope");
            if bound || selector.through.is_some() {
                continue;
            }
            if selector.pseudo_element.is_none() && !nested && !found.iter().any(|f| f == text) {
                found.push(text.to_owned());
            }
        }
    }
    found
}
