//! Edits through source maps, judged by a Sass compiler: what the built sheet was promised to hold after the next build is what the
//! compiler makes of the changed sources.
//!
//! A framework is compiled before and after each edit, and the two outputs are compared declaration by declaration. The same is done
//! with the built sheet that it ships with. Both must differ in the same declarations, or the edit was refused, or its
//! answer says that it is not certain.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use fingerpost::edit::{Change, Destination, Intent, kinds};
use fingerpost::prelude::*;
use fingerpost::session::Scope;
use fingerpost::sheet::{RuleKind, Sheet};
use fingerpost::text::DecodeHint;

use crate::cases::cases;
use crate::fetching::fetched;
use crate::generated;
use crate::numbers::Numbers;

/// A framework that ships its sources: the package, the sheet that is built, and the file that it is built from.
struct Framework {
    package: &'static str,
    built: &'static str,
    entry: &'static str,
}

/// Those of a later date use functions that the compiler does not have.
const FRAMEWORKS: [Framework; 5] = [
    Framework {
        package: "bootstrap@5",
        built: "dist/css/bootstrap.css",
        entry: "scss/bootstrap.scss",
    },
    Framework {
        package: "bootstrap@4",
        built: "dist/css/bootstrap.css",
        entry: "scss/bootstrap.scss",
    },
    Framework {
        package: "bulma@0.9",
        built: "css/bulma.css",
        entry: "bulma.sass",
    },
    Framework {
        package: "foundation-sites@6.7",
        built: "dist/css/foundation.css",
        entry: "assets/foundation.scss",
    },
    Framework {
        package: "nes.css@2",
        built: "css/nes.css",
        entry: "scss/nes.scss",
    },
];

/// How many selectors of the built sheet get elements.
const SELECTORS: usize = 120;

/// How many edits are tried for one that is taken.
const MOST_TRIES: usize = 40;

/// Values that a compiler writes as they are given, of properties that every framework sets.
const SET: [(&str, &str); 10] = [
    ("color", "rebeccapurple"),
    ("padding-left", "13px"),
    ("margin-top", "-3px"),
    ("margin-bottom", "17px"),
    ("background-color", "honeydew"),
    ("text-align", "right"),
    ("display", "inline-grid"),
    ("font-size", "19px"),
    ("line-height", "1.77"),
    ("position", "sticky"),
];

/// A declaration of a sheet, with its rule and the at-rules around it.
type Declared = (String, String, String);

/// The declarations of a sheet in order. Those with a prefix are left out: another tool adds them after the compiler.
fn declarations(css: &str) -> Vec<Declared> {
    let text = Text::new("built.css", css);
    let span = text.span();
    let sheet = Sheet::parse(text, span);
    let folded = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let mut found = Vec::new();
    for (_, declaration) in sheet.declarations() {
        let name = sheet.name_source(declaration).to_ascii_lowercase();
        if name.starts_with('-') && !name.starts_with("--") {
            continue;
        }
        let mut heads = Vec::new();
        let mut at = Some(declaration.rule);
        while let Some(id) = at {
            let rule = sheet.rule(id);
            let head = folded(sheet.prelude_source(rule));
            heads.push(match &rule.kind {
                RuleKind::Style => alike(&head),
                _ => format!("@{head}"),
            });
            at = rule.parent;
        }
        heads.reverse();
        let value = folded(sheet.value_source(declaration));
        found.push((heads.join(" / "), name, value));
    }
    found
}

/// Selectors without the quotation marks and the order that compilers choose for themselves.
fn alike(selectors: &str) -> String {
    let bare = selectors.replace(['"', '\''], "").replace(", ", ",");
    let mut all: Vec<&str> = bare.split(',').collect();
    all.sort_unstable();
    all.join(",")
}

/// What a sheet has that another one has not: each declaration, as often as it is more often there.
fn more(of: &[Declared], than: &[Declared]) -> Vec<Declared> {
    let mut counts: BTreeMap<&Declared, isize> = BTreeMap::new();
    for declared in of {
        *counts.entry(declared).or_default() += 1;
    }
    for declared in than {
        *counts.entry(declared).or_default() -= 1;
    }
    let more = counts.into_iter().filter(|(_, count)| *count > 0);
    more.flat_map(|(declared, count)| vec![declared.clone(); count as usize])
        .collect()
}

fn compiled(root: &Path, entry: &str) -> Result<String, String> {
    let options = grass::Options::default().load_path(root).quiet(true);
    grass::from_path(root.join(entry), &options).map_err(|error| error.to_string())
}

/// Copies the styles of a package.
fn copy(from: &Path, to: &Path) {
    std::fs::create_dir_all(to).unwrap();
    for entry in std::fs::read_dir(from).unwrap().flatten() {
        let (path, target) = (entry.path(), to.join(entry.file_name()));
        if path.is_dir() {
            copy(&path, &target);
        } else if path.extension().is_some_and(|e| {
            ["css", "scss", "sass", "map", "json"]
                .iter()
                .any(|x| e == *x)
        }) {
            std::fs::copy(&path, &target).unwrap();
        }
    }
}

/// What came of the edits of a framework.
#[derive(Debug, Default)]
struct Tally {
    as_promised: usize,
    named_as_uncertain: usize,
    refused: BTreeMap<String, usize>,
    wrong: Vec<String>,
}

fn change(numbers: &mut Numbers) -> Change {
    let (property, value) = SET[numbers.below(SET.len())];
    match numbers.below(4) {
        0 => kinds::RemoveDeclaration {
            property: property.to_owned(),
        }
        .into(),
        1 => Change::add("outline-offset", "7px"),
        _ => Change::set(property, value),
    }
}

fn tried(
    framework: &Framework,
    root: &Path,
    old: &[Declared],
    numbers: &mut Numbers,
    tally: &mut Tally,
) {
    let mut site = Site::of_folder(root).unwrap();
    let page = site.page("made.html", Environment::default()).unwrap();
    let read = |site: &Site| {
        let text = site.text(framework.built, DecodeHint::utf8_sheet());
        text.unwrap().source().to_owned()
    };
    let built_before = read(&site);
    for _ in 0..MOST_TRIES {
        let element = numbers.below(page.document().elements().len());
        let intent = Intent {
            into: Destination::Sources,
            ..Intent::new("made.html", &format!("@{element}"), change(numbers))
        };
        let outcome = match site
            .session()
            .unwrap()
            .with_effects(Scope::Nothing)
            .try_edit(&intent)
        {
            Ok(outcome) => outcome,
            Err(error) => {
                *tally.refused.entry(error.code().to_owned()).or_default() += 1;
                continue;
            }
        };
        let warnings = outcome.warnings.join("\n");
        let built_after = read(&site);
        site.session().unwrap().save_all().unwrap();
        let after = compiled(root, framework.entry);
        site.session().unwrap().unsave().unwrap();
        site.session().unwrap().discard(None).unwrap();
        let what = format!("{}: {intent:?}\n{warnings}", framework.package);
        let after = match after {
            Ok(after) => after,
            Err(error) => {
                tally
                    .wrong
                    .push(format!("{what}\nthe sources don't compile: {error}"));
                return;
            }
        };
        let new = declarations(&after);
        let (promised_old, promised_new) =
            (declarations(&built_before), declarations(&built_after));
        let promised = (
            more(&promised_old, &promised_new),
            more(&promised_new, &promised_old),
        );
        let made = (more(old, &new), more(&new, old));
        if made == promised {
            tally.as_promised += 1;
        } else if warnings.contains("the next build will overwrite that") {
            tally.named_as_uncertain += 1;
        } else {
            tally
                .wrong
                .push(format!("{what}\npromised {promised:#?}\nmade {made:#?}"));
        }
        return;
    }
}

#[test]
fn a_compiler_makes_of_changed_sources_what_was_promised() {
    let mut wrong = Vec::new();
    for (at, framework) in FRAMEWORKS.iter().enumerate() {
        let package = match fetched(framework.package) {
            Ok(package) => package,
            Err(why) => {
                println!("skipped: {}: {why}", framework.package);
                continue;
            }
        };
        let work = tempfile::tempdir().unwrap();
        let root: PathBuf = work.path().canonicalize().unwrap();
        copy(&package, &root);
        let old = match compiled(&root, framework.entry) {
            Ok(css) => declarations(&css),
            Err(error) => {
                println!("skipped: {}: not compiled: {error}", framework.package);
                continue;
            }
        };
        std::fs::write(root.join("fingerpost.toml"), "fingerpost = 2\n").unwrap();
        let css = std::fs::read_to_string(root.join(framework.built)).unwrap();
        let page = generated::page(framework.built, &css, SELECTORS);
        std::fs::write(root.join("made.html"), page).unwrap();
        let mut tally = Tally::default();
        let mut numbers = Numbers(0x5ca1_ab1e + at as u64);
        for _ in 0..cases(2) {
            tried(framework, &root, &old, &mut numbers, &mut tally);
        }
        println!(
            "{}: {} as promised, {} named as uncertain, {} wrong; refused: {:?}",
            framework.package,
            tally.as_promised,
            tally.named_as_uncertain,
            tally.wrong.len(),
            tally.refused
        );
        wrong.append(&mut tally.wrong);
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
}
