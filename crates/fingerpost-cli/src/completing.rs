//! What a shell offers for a word that is being written: pages, elements, properties, values and classes of the
//! theme in the current folder.
//!
//! A shell asks the command itself, by the protocol of `clap_complete`. No offer is an error: where the site can't be
//! read there is nothing to offer.

use std::collections::BTreeMap;
use std::ffi::OsStr;
use std::path::Path;

use clap::Command;
use clap_complete::engine::{ArgValueCompleter, CompletionCandidate};
use fingerpost::environment::Environment;
use fingerpost::page::{Page, PropertyName};
use fingerpost::question::codes::OfferKind;
use fingerpost::question::complete::{property_names, values_of};
use fingerpost::site::Site;

/// How many elements are offered, those with the most telling names first.
const MOST_ELEMENTS: usize = 200;

/// The command with what is offered for each kind of word.
pub fn with_offers(command: Command) -> Command {
    let command = command.mut_args(|argument| {
        let offers: Option<fn(&OsStr) -> Vec<CompletionCandidate>> =
            match argument.get_id().as_str() {
                "page" => Some(pages),
                "element" | "elements" => Some(elements),
                "property" => Some(properties),
                "value" => Some(values),
                "changes" | "beginning" => Some(classes),
                _ => None,
            };
        match offers {
            Some(offers) => argument.add(ArgValueCompleter::new(offers)),
            None => argument,
        }
    });
    command.mut_subcommands(with_offers)
}

fn site() -> Option<Site> {
    Site::of_folder(Path::new(".")).ok()
}

/// The words of the line that is being written.
fn words() -> Vec<String> {
    let words = std::env::args().skip_while(|word| word != "--").skip(1);
    words.collect()
}

/// The page that the line names, else the one asked about last, else the only one.
fn page() -> Option<Page> {
    let site = site()?;
    let known = site.pages();
    let named = words().into_iter().find(|word| known.contains(word));
    let last = site.asked().into_iter().next().map(|asked| asked.page);
    let only = match &known[..] {
        [only] => Some(only.clone()),
        _ => None,
    };
    let name = named.or(last).or(only)?;
    site.page(&name, Environment::default()).ok()
}

fn offered(
    begun: &OsStr,
    texts: impl IntoIterator<Item = (String, Option<String>)>,
) -> Vec<CompletionCandidate> {
    let begun = begun.to_string_lossy();
    let fitting = texts
        .into_iter()
        .filter(|(text, _)| text.starts_with(&*begun));
    let candidates =
        fitting.map(|(text, about)| CompletionCandidate::new(text).help(about.map(Into::into)));
    candidates.collect()
}

/// The pages of the site; and the elements of the page asked about last, for a page may be left out.
fn pages(begun: &OsStr) -> Vec<CompletionCandidate> {
    let Some(site) = site() else {
        return Vec::new();
    };
    let pages = site.pages().into_iter().map(|page| (page, None));
    let mut all = offered(begun, pages);
    if all.is_empty() && !begun.is_empty() {
        all = elements(begun);
    }
    all
}

fn elements(begun: &OsStr) -> Vec<CompletionCandidate> {
    let Some(page) = page() else {
        return Vec::new();
    };
    let document = page.document();
    // Ids say most, then classes, then tags; of each the rarest.
    let mut names: BTreeMap<(u8, String), usize> = BTreeMap::new();
    for element in document.elements().iter().map(|id| document.element(*id)) {
        let classes = element.classes().map(|class| (1, format!(".{class}")));
        let id = element.attribute("id").map(|id| (0, format!("#{id}")));
        let tag = std::iter::once((2, element.name.to_string()));
        for name in classes.chain(id).chain(tag) {
            *names.entry(name).or_default() += 1;
        }
    }
    let mut names: Vec<_> = names.into_iter().collect();
    names.sort_by_key(|((kind, name), count)| (*kind, *count, name.clone()));
    let texts = names.into_iter().map(|((_, name), count)| {
        let about = match count {
            1 => "1 element".to_owned(),
            count => format!("{count} elements"),
        };
        (name, Some(about))
    });
    let last = ("@".to_owned(), Some("the element you used last".to_owned()));
    let mut all = offered(begun, std::iter::once(last).chain(texts));
    all.truncate(MOST_ELEMENTS);
    all
}

/// The custom properties that the page's own sheets declare.
fn custom_properties() -> Vec<String> {
    let mut names = Vec::new();
    for sheet in page().iter().flat_map(Page::sheets) {
        let sheet = sheet.styles.sheet();
        for (_, declaration) in sheet.declarations() {
            let name = sheet.name_source(declaration);
            if name.starts_with("--") {
                names.push(name.to_owned());
            }
        }
    }
    names.sort();
    names.dedup();
    names
}

fn properties(begun: &OsStr) -> Vec<CompletionCandidate> {
    if begun.to_string_lossy().starts_with('-') {
        return offered(
            begun,
            custom_properties().into_iter().map(|name| (name, None)),
        );
    }
    let offers = property_names(&begun.to_string_lossy()).offers;
    offered(begun, offers.into_iter().map(|offer| (offer.text, None)))
}

/// The values of the property that the line names, and the page's custom properties.
fn values(begun: &OsStr) -> Vec<CompletionCandidate> {
    let words = words();
    let mut named = words
        .iter()
        .rev()
        .filter_map(|word| PropertyName::named(word));
    let Some(PropertyName::Known(property)) = named.next() else {
        return Vec::new();
    };
    let offers = values_of(property, "").offers.into_iter();
    let written =
        offers.filter(|offer| matches!(offer.kind, OfferKind::Keyword | OfferKind::Function));
    let written = written.map(|offer| (offer.text, Some(offer.meaning)));
    let variables = custom_properties().into_iter();
    let variables = variables.map(|name| (format!("var({name})"), None));
    offered(begun, written.chain(variables))
}

/// The classes of the theme, with the sign that stands before one that is given or taken.
fn classes(begun: &OsStr) -> Vec<CompletionCandidate> {
    let Some(page) = page() else {
        return Vec::new();
    };
    let text = begun.to_string_lossy();
    let bare = text.trim_start_matches(['+', '-']);
    let sign = &text[..text.len() - bare.len()];
    let known = page.ask().classes(bare).classes.into_iter();
    let texts = known.map(|class| (format!("{sign}{}", class.name), None));
    offered(begun, texts)
}
