//! The words of a command line, put into the order in which the parser of arguments reads them.
//!
//! People leave the page out, give the property before the element, write `color: navy` as one word, or begin with
//! the edit that they want. Where only one thing can be meant, it is understood; where it can't be told, the answer is
//! one sentence with the line to type. The result is always: commands, options, `--`, and the words of the command in
//! their order, so that no word is ever taken for an option.

use std::path::Path;

use clap::Command;
use fingerpost::page::Page;
use fingerpost::question::find::ElementQuery;
use fingerpost::selector::SelectorList;
use fingerpost::site::{AskedBefore, Site, is_url};

use super::lead::{Lead, lead};
use super::line::quoted;
use super::usage::{example, nearest_command, needed, usage};
use super::word_kinds::{
    at_number, is_element, is_only_element, is_page, is_property, is_sheet_place,
    is_slip_of_command,
};
use crate::problem::Problem;

/// Words that may be any text, the name of a page among them.
const TEXTS: [&str; 5] = ["name", "text", "source", "file", "from"];

/// How many pages are looked through for what the words name.
const MOST_PAGES: usize = 40;

/// A word of fewer letters is too short to tell a slip in an option from the name of a custom property.
const SHORTEST_SLIP: usize = 4;

/// A command line that was understood.
#[derive(Debug, Default)]
pub struct Understood {
    /// The words for the parser of arguments.
    pub words: Vec<String>,
    /// What was filled in or read in another way, in sentences.
    pub notes: Vec<String>,
}

/// Puts words in order. The first is the program's own name.
pub fn understood(words: Vec<String>, root: &Command) -> Result<Understood, Problem> {
    let mut words = words.into_iter();
    let mut line = Line {
        program: words.next().unwrap_or_default(),
        options: Vec::new(),
        commands: Vec::new(),
        words: Vec::new(),
        notes: Vec::new(),
    };
    let rest: Vec<String> = words.collect();
    let command = line.take(rest, root)?;
    if command.get_positionals().any(|a| a.get_id() == "page") && !line.asks_help() {
        line.with_page(command)?;
    }
    Ok(line.done())
}

struct Line {
    program: String,
    commands: Vec<String>,
    options: Vec<String>,
    words: Vec<String>,
    notes: Vec<String>,
}

impl Line {
    /// Takes the words apart: the commands, the options with their values, and what is left.
    fn take<'c>(&mut self, rest: Vec<String>, root: &'c Command) -> Result<&'c Command, Problem> {
        let mut command = root;
        let mut rest: std::collections::VecDeque<String> = rest.into();
        let mut open = true;
        while let Some(word) = rest.pop_front() {
            if open && word == "--" {
                open = false;
            } else if open && let Some(takes_value) = option_of(command, root, &word) {
                self.options.push(word);
                self.options
                    .extend(takes_value.then(|| rest.pop_front()).flatten());
            } else if open
                && self.words.is_empty()
                && let Some(inner) = command.find_subcommand(&word)
            {
                command = inner;
                self.commands.push(word);
            } else if open
                && command.get_name() == "edit"
                && self.words.is_empty()
                && rest
                    .iter()
                    .take(2)
                    .chain([&word])
                    .any(|word| is_property(word))
                && !is_slip_of_command(command, &word)
                && let Some(inner) = command.find_subcommand("set")
            {
                // `edit color h2 navy`, `edit h2 color navy`
                command = inner;
                self.commands.push("set".to_owned());
                self.words.push(word);
            } else if open && word == "help" && self.words.is_empty() {
                self.options.push("--help".to_owned());
            } else if open && self.words.is_empty() && self.asks_help() && command.has_subcommands()
            {
                let near = nearest_command(&word, command);
                let near = near.map(|near| format!(" Do you mean {near}?"));
                return Err(Problem::bad_use(format!(
                    "'{word}' is not a command.{}",
                    near.unwrap_or_default()
                )));
            } else if open && is_unknown_letter(command, &word) {
                return Err(Problem::bad_use(format!(
                    "{word} is not an option here\nExpected: {}",
                    usage(command)
                )));
            } else if open && self.words.is_empty() && command.get_name() == root.get_name() {
                match lead(&word, root) {
                    Some(Lead::To(names)) => {
                        let answers = names.join(" ");
                        self.notes
                            .push(format!("{word} runs fingerpost {answers}."));
                        for name in names.into_iter().rev() {
                            rest.push_front(name.to_owned());
                        }
                    }
                    Some(Lead::Edit) => {
                        rest.push_front(word);
                        rest.push_front("edit".to_owned());
                    }
                    Some(Lead::Say(sentence)) => {
                        return Err(Problem::bad_use(format!("{word}: {sentence}")));
                    }
                    None if is_property(&word) => {
                        return Err(Problem::bad_use(format!(
                            "{word} is a property. To see why it has its value: fingerpost why ELEMENT {word}; to set it: \
                             fingerpost edit set ELEMENT {word} VALUE"
                        )));
                    }
                    None => self.words.push(word),
                }
            } else {
                self.words.push(word);
            }
        }
        Ok(command)
    }

    fn asks_help(&self) -> bool {
        self.options.iter().any(|o| o == "-h" || o == "--help")
    }

    fn done(mut self) -> Understood {
        let mut words = vec![self.program];
        words.append(&mut self.commands);
        words.append(&mut self.options);
        if !self.words.is_empty() {
            // A command that does not exist is named by the parser of arguments.
            if words.len() > 1 {
                words.push("--".to_owned());
            }
            words.append(&mut self.words);
        }
        Understood {
            words,
            notes: self.notes,
        }
    }

    /// The value of an option that was given.
    fn option(&self, name: &str) -> Option<&str> {
        let mut options = self.options.iter();
        let mut found = None;
        while let Some(option) = options.next() {
            if option == name {
                found = options.next().map(String::as_str);
            } else if let Some(value) = option.strip_prefix(name)
                && let Some(value) = value.strip_prefix('=')
            {
                found = Some(value);
            }
        }
        found
    }

    /// Puts the words of a command that asks a page in order.
    fn with_page(&mut self, command: &Command) -> Result<(), Problem> {
        // Without a word there is more to say than that no page is named.
        let needs_more = command
            .get_positionals()
            .any(|argument| argument.is_required_set() && argument.get_id() != "page");
        if self.words.is_empty() && needs_more {
            return Ok(());
        }
        let names: Vec<&str> = command
            .get_positionals()
            .map(|argument| argument.get_id().as_str())
            .collect();
        let folder = self.option("--site").unwrap_or(".").to_owned();
        let site = || Site::of_folder(Path::new(&folder)).ok();
        // Where a word may be any text, a page is only taken for one in front: `attribute a href /fares.html`.
        let takes_text = names.iter().any(|name| TEXTS.contains(name));
        let found = self.words.iter().position(|word| is_page(word));
        let at = found.filter(|at| *at == 0 || !takes_text);
        let (page, history) = match at {
            Some(at) => {
                let page = self.words.remove(at);
                let history = self.words.iter().any(|w| at_number(w).is_some());
                let history = history.then(site).flatten();
                (
                    existing(&page, site),
                    history.map(|s| s.asked()).unwrap_or_default(),
                )
            }
            // With one word more than a page and all the others make, a folder can only be meant as the page.
            None if self.words.len() >= names.len() && Path::new(&self.words[0]).is_dir() => {
                (self.words.remove(0), Vec::new())
            }
            None => self.page_left_out(command, site())?,
        };
        self.pointing_back(&history)?;
        self.in_order(&names, command)?;
        self.words.insert(0, page);
        Ok(())
    }

    /// The page that is meant when none is named, and what was asked before.
    fn page_left_out(
        &mut self,
        command: &Command,
        site: Option<Site>,
    ) -> Result<(String, Vec<AskedBefore>), Problem> {
        let line = usage(command);
        let Some(site) = site else {
            return Err(Problem::bad_use(format!(
                "no page is named, and this folder is not part of a site. Name the page, as in: {line}"
            )));
        };
        let history = site.asked();
        let back = self.words.iter().find_map(|word| at_number(word));
        // Where too little was asked before, that is said of the element, not of the page.
        let asked = history.get(back.unwrap_or(0)).or(history.first());
        let (page, why) = match asked {
            Some(asked) => (asked.page.clone(), "the page you used last"),
            None => match &site.pages()[..] {
                [] => {
                    return Err(Problem::bad_use(format!(
                        "no page is named, and the site has none. Name one, a file or a URL, as in: {line}"
                    )));
                }
                [only] => (only.clone(), "the site's only page"),
                // A folder is not a page, which is said where the page is opened.
                [_, ..]
                    if self
                        .words
                        .first()
                        .is_some_and(|word| Path::new(word).is_dir()) =>
                {
                    return Ok((self.words.remove(0), history));
                }
                // A word is missing, so no corrected line can be offered.
                _ if self.words.len() < needed(command) => {
                    let example = example(command).unwrap_or(line);
                    return Err(Problem::bad_use(format!(
                        "no page is named, and not all that the command needs. A whole line: {example}"
                    )));
                }
                pages => {
                    let page = self.likely_page(&site, pages);
                    let words: Vec<String> = self.words.iter().map(|word| quoted(word)).collect();
                    // With what was written, where something was; else as the command takes it.
                    let line = match line.split_once("[PAGE]") {
                        Some((begin, _)) if !words.is_empty() => {
                            format!("{begin}{page} {}", words.join(" "))
                        }
                        _ => line.replace("[PAGE]", &page),
                    };
                    return Err(Problem::bad_use(format!(
                        "no page is named, and you have not used one before. Name one, as in: {line}"
                    )));
                }
            },
        };
        self.notes.push(format!("Page: {page} ({why})."));
        let page = match is_url(&page) || page.starts_with('/') {
            true => page,
            false => site.root().join(&page).display().to_string(),
        };
        Ok((page, history))
    }

    /// The first page that has what the words name, or the first at all.
    fn likely_page(&self, site: &Site, pages: &[String]) -> String {
        let queries: Vec<ElementQuery> = self
            .words
            .iter()
            .filter(|word| is_element(word))
            .map(|word| ElementQuery::parse(word))
            .collect();
        let has = |name: &&String| {
            let Ok(text) = site.file_text(name) else {
                return false;
            };
            let page = Page::new(text);
            let ask = page.ask();
            let found = |query: &ElementQuery| ask.elements(query).is_ok_and(|all| !all.is_empty());
            queries.iter().any(found)
        };
        let likely = pages.iter().take(MOST_PAGES).find(has).or(pages.first());
        likely.cloned().unwrap_or_default()
    }

    /// `@` is the element asked about last, `@-1` the one before it.
    fn pointing_back(&mut self, history: &[AskedBefore]) -> Result<(), Problem> {
        let elements: Vec<&str> = {
            let mut seen: Vec<&str> = Vec::new();
            for element in history.iter().filter_map(|asked| asked.element.as_deref()) {
                seen.push(element);
            }
            seen
        };
        for word in &mut self.words {
            let Some(back) = at_number(word) else {
                continue;
            };
            let Some(element) = elements.get(back) else {
                return Err(Problem::bad_use(format!(
                    "{word} means an element asked about earlier, and {}. Name the element by a \
                     selector, a text or a place",
                    match elements.len() {
                        0 => "no element was".to_owned(),
                        1 => "only one was".to_owned(),
                        count => format!("only {count} were"),
                    }
                )));
            };
            let pseudo = word.find("::").and_then(|at| word.get(at..));
            let meant = format!("{element}{}", pseudo.unwrap_or_default());
            self.notes.push(format!("{word} is {meant}."));
            *word = meant;
        }
        Ok(())
    }

    /// The other words, in the order of the command's own.
    fn in_order(&mut self, names: &[&str], command: &Command) -> Result<(), Problem> {
        let names = &names[1..];
        let place = |name: &str| names.iter().position(|n| *n == name);
        if let (Some(property), Some(value)) = (place("property"), place("value"))
            && value == property + 1
        {
            self.apart(property);
        }
        if names == ["element", "property"] {
            self.in_one_word();
        }
        if let (Some(0), Some(1)) = (place("element"), place("property")) {
            self.element_first(place("value") == Some(2));
            if place("value").is_none() {
                self.not_a_declaration()?;
            }
            self.not_only_a_property(command)?;
        }
        if let (Some(0), Some(1)) = (place("element"), place("what")) {
            self.declaration_or_rule();
        }
        // What is looked for may be several words.
        if names == ["what"] && self.words.len() > 1 {
            self.words = vec![self.words.join(" ")];
        }
        Ok(())
    }

    /// `color: navy` is a property and its value.
    fn apart(&mut self, at: usize) {
        let Some(word) = self.words.get(at).cloned() else {
            return;
        };
        let pair = word.split_once(':').filter(|(name, _)| is_property(name));
        match pair.map(|(name, value)| (name.trim(), value.trim())) {
            Some((name, "")) => self.words[at] = name.to_owned(),
            Some((name, value)) if self.words.len() == at + 1 => {
                let value = value.strip_suffix(';').unwrap_or(value);
                self.words.splice(at.., [name.to_owned(), value.to_owned()]);
            }
            _ => {}
        }
    }

    /// `color h2.today` and `color navy h2.today` have the element last.
    fn element_first(&mut self, has_value: bool) {
        if let [first, second, ..] = &self.words[..]
            && is_property(first)
            && !is_property(second)
            && is_element(second)
        {
            let last = match &self.words[2..] {
                [third] if has_value && is_only_element(third) && !is_only_element(second) => 2,
                _ => 1,
            };
            let element = self.words.remove(last);
            self.words.insert(0, element);
        }
    }

    /// A question about a property that is given a declaration.
    fn not_a_declaration(&self) -> Result<(), Problem> {
        if let [element, pair] = &self.words[..]
            && let Some((property, value)) = pair.split_once(':')
            && is_property(property)
            && !value.trim().is_empty()
        {
            let property = property.trim();
            let (element, pair) = (quoted(element), quoted(pair));
            return Err(Problem::bad_use(format!(
                "{pair} is a declaration. To see why {property} has its value: fingerpost why {element} {property}\n\
                 To see why that declaration does not win: fingerpost whynot {element} {pair}"
            )));
        }
        Ok(())
    }

    /// One word that can only be the property, where an element is needed.
    fn not_only_a_property(&self, command: &Command) -> Result<(), Problem> {
        let needed = command
            .get_positionals()
            .filter(|argument| argument.is_required_set())
            .count();
        if let [only] = &self.words[..]
            && needed > 2
            && is_property(only)
            && !is_element(only)
        {
            let line = usage(command).replace("[PAGE] ", "");
            let line = line.replace("ELEMENT", "@").replace("PROPERTY", only);
            return Err(Problem::bad_use(format!(
                "no element is named, only the property {only}. For the element you used last: {line}. A shell reads # \
                 as the start of a comment: quote an id, '#name'"
            )));
        }
        Ok(())
    }

    /// `whynot h2.today color navy`, and a rule before the element: the place of a rule is never the element.
    fn declaration_or_rule(&mut self) {
        if let [_, property, value @ ..] = &self.words[..]
            && !value.is_empty()
            && is_property(property)
        {
            let declaration = format!("{property}: {}", value.join(" "));
            self.words.splice(1.., [declaration]);
        }
        if let [first, second] = &self.words[..]
            && is_sheet_place(first)
            && !is_sheet_place(second)
        {
            self.words.swap(0, 1);
        }
    }
}

impl Line {
    /// A selector with spaces that was written without quotation marks, before a property.
    fn in_one_word(&mut self) {
        let Some((property, words)) = self.words.split_last() else {
            return;
        };
        let has_property = words.iter().any(|word| is_property(word));
        if words.len() < 2 || has_property || !is_property(property) {
            return;
        }
        let selector = words.join(" ");
        if SelectorList::parse(&selector).is_err() {
            return;
        }
        self.notes.push(format!("Read {selector} as one selector."));
        let last = self.words.len() - 1;
        self.words.splice(..last, [selector]);
    }
}

/// Whether a word is an option of one letter that a command does not have, and can be nothing else there.
fn is_unknown_letter(command: &Command, word: &str) -> bool {
    let letter = word
        .strip_prefix('-')
        .and_then(|rest| rest.parse::<char>().ok());
    let takes_any = command.get_positionals().any(|argument| {
        matches!(
            argument.get_id().as_str(),
            "by" | "value" | "changes" | "from" | "to"
        )
    });
    letter.is_some_and(char::is_alphabetic) && !takes_any
}

/// Whether a word is an option of a command, and whether a value follows it.
fn option_of(command: &Command, root: &Command, word: &str) -> Option<bool> {
    if matches!(word, "-h" | "--help" | "-V" | "--version") {
        return Some(false);
    }
    let letter = word.strip_prefix('-').filter(|rest| rest.len() == 1);
    let is_letter = |argument: &clap::Arg| {
        let short = argument.get_short().map(String::from);
        short.is_some_and(|short| Some(&*short) == letter)
    };
    if root.get_arguments().any(is_letter) {
        return Some(false);
    }
    // The declaration of a custom property.
    let declared = word.split_once(':').map(|(name, _)| name.trim_end());
    if declared.is_some_and(|name| name.starts_with("--") && !name.contains(['=', ' '])) {
        return None;
    }
    let (name, has_value) = match word.strip_prefix("--") {
        Some(long) => match long.split_once('=') {
            Some((name, _)) => (name, true),
            None => (long, false),
        },
        None => return None,
    };
    let edit = root.find_subcommand("edit");
    let global = edit.into_iter().chain([root]);
    let mut arguments = command
        .get_arguments()
        .chain(global.flat_map(|c| c.get_arguments().filter(|a| a.is_global_set())));
    if let Some(found) = arguments.find(|argument| argument.get_long() == Some(name)) {
        return Some(found.get_action().takes_values() && !has_value);
    }
    // What is nearly an option is one with a slip, not a word; `--name` may also be a custom property.
    let near = command
        .get_arguments()
        .filter_map(|argument| argument.get_long());
    let takes_custom = command
        .get_positionals()
        .any(|a| matches!(a.get_id().as_str(), "property" | "name" | "from" | "to"));
    let slip = near
        .map(|long| strsim::damerau_levenshtein(long, name))
        .min();
    let is_slip = name.len() >= SHORTEST_SLIP && slip.is_some_and(|slip| slip <= 1);
    (!takes_custom || is_slip).then_some(false)
}

/// A page as it is named, or the only one of the site whose path ends so.
fn existing(page: &str, site: impl Fn() -> Option<Site>) -> String {
    // A name that is not UTF-8 is put back later, and is looked for as it is.
    let odd = page.contains(char::REPLACEMENT_CHARACTER);
    let there = odd || is_url(page) || page.starts_with('/') || Path::new(page).exists();
    let ending = format!("/{}", page.trim_start_matches("./"));
    let found = (!there).then(site).flatten().and_then(|site| {
        let mut pages = site.pages();
        let name = page.to_owned();
        pages.retain(|other| *other == name || other.ends_with(&ending));
        match &pages[..] {
            [only] => Some(site.root().join(only).display().to_string()),
            _ => None,
        }
    });
    found.unwrap_or_else(|| page.to_owned())
}
