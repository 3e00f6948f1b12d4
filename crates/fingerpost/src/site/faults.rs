//! A disk that fails on demand: every command runs through every failing call, and what it says is
//! compared with what is on the disk.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};

use tempfile::TempDir;

use super::{Selection, Site, SiteError};
use crate::edit::Change;
use crate::environment::Environment;
use crate::session::{ChangeError, Scope, Session};
use crate::text::Patch;

thread_local! {
    static PLANNED: RefCell<Faults> = RefCell::default();
}

/// Which of the calls that follow fail, counted from the first.
#[derive(Clone, Debug, Default)]
pub(super) struct Faults(Option<Arc<Mutex<Plan>>>);

#[derive(Debug, Default)]
struct Plan {
    made: usize,
    failing: Vec<usize>,
    /// From this call on all fail: a disk that is full stays full.
    all_from: Option<usize>,
    /// What another program does at a call.
    other: Option<(usize, OtherProgram)>,
}

/// A program that saves a file while we do.
#[derive(Clone, Debug)]
struct OtherProgram {
    file: PathBuf,
    appends: &'static str,
    /// Whether it puts a new file in the place of the old one, or writes into the old one.
    replaces: bool,
}

impl OtherProgram {
    fn save(&self) {
        let text = fs::read_to_string(&self.file).unwrap_or_default() + self.appends;
        if !self.replaces {
            return fs::write(&self.file, text).unwrap();
        }
        let beside = self.file.with_extension("theirs");
        fs::write(&beside, text).unwrap();
        fs::rename(&beside, &self.file).unwrap();
    }
}

impl Faults {
    /// Those that are planned for sites opened in this thread.
    pub fn of_thread() -> Faults {
        PLANNED.with_borrow(Clone::clone)
    }

    fn plan(failing: &[usize], all_from: Option<usize>) -> Arc<Mutex<Plan>> {
        let plan = Arc::new(Mutex::new(Plan {
            made: 0,
            failing: failing.to_vec(),
            all_from,
            other: None,
        }));
        PLANNED.with_borrow_mut(|planned| *planned = Faults(Some(plan.clone())));
        plan
    }

    fn none() {
        PLANNED.with_borrow_mut(|planned| *planned = Faults(None));
    }

    /// Counts a call, and lets it fail where that is planned.
    pub fn next(&self) -> io::Result<()> {
        let Some(plan) = &self.0 else { return Ok(()) };
        let mut plan = plan.lock().unwrap();
        let call = plan.made;
        plan.made += 1;
        if let Some((_, other)) = plan.other.take_if(|(at, _)| *at == call) {
            other.save();
        }
        match plan.failing.contains(&call) || plan.all_from.is_some_and(|from| call >= from) {
            true => Err(io::Error::other("the disk fails on demand")),
            false => Ok(()),
        }
    }
}

const PAGE: &str = "<!doctype html>\n<link rel=stylesheet href=a.css>\n\
                    <link rel=stylesheet href=b.css>\n<p class=x>text</p>\n";

/// A site of a page and two sheets.
fn site() -> TempDir {
    let folder = TempDir::new().unwrap();
    fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n").unwrap();
    fs::write(folder.path().join("p.html"), PAGE).unwrap();
    fs::write(folder.path().join("a.css"), ".x { color: red; }\n").unwrap();
    fs::write(folder.path().join("b.css"), ".x { top: 0; }\n").unwrap();
    folder
}

/// The sources and whatever else lies beside them, without the program's own folder.
fn sources(root: &Path) -> BTreeMap<String, String> {
    let entries = fs::read_dir(root).unwrap().map(Result::unwrap);
    let files = entries.filter(|entry| entry.file_type().unwrap().is_file());
    files
        .map(|entry| {
            let name = entry.file_name().into_string().unwrap();
            (name, fs::read_to_string(entry.path()).unwrap())
        })
        .collect()
}

/// What a disk that fails stops: an error of the site.
fn of_site<T>(done: Result<T, ChangeError>) -> Result<(), SiteError> {
    match done {
        Ok(_) => Ok(()),
        Err(ChangeError::Site(error)) => Err(error),
        Err(other) => panic!("{other}"),
    }
}

fn try_one(site: &mut Site, element: &str, change: Change) -> Result<(), SiteError> {
    let mut session = site.session()?.with_effects(Scope::Nothing);
    of_site(session.edit("p.html", element, change))
}

/// Tries changes of three files.
fn try_three(root: &Path) -> Result<(), SiteError> {
    let mut site = Site::of_folder(root)?;
    try_one(&mut site, ".x", Change::set("color", "navy"))?;
    try_one(&mut site, ".x", Change::set("top", "1px"))?;
    let title = crate::edit::kinds::Attribute {
        name: "title".to_owned(),
        value: "t".to_owned(),
        remove: false,
    };
    try_one(&mut site, ".x", title.into())?;
    Ok(())
}

fn save(root: &Path) -> Result<(), SiteError> {
    of_site(Site::of_folder(root)?.session()?.save_all())
}

fn save_one(root: &Path) -> Result<(), SiteError> {
    let which = Selection::Edits([2].into());
    of_site(Site::of_folder(root)?.session()?.save(&which))
}

fn unsave(root: &Path) -> Result<(), SiteError> {
    of_site(Site::of_folder(root)?.session()?.unsave())
}

/// A command, and what leads to the site that it is run in.
struct Case {
    name: &'static str,
    before: &'static [Step],
    run: Step,
}

/// Something done in a site's folder.
type Step = fn(&Path) -> Result<(), SiteError>;

const CASES: &[Case] = &[
    Case {
        name: "edit",
        before: &[],
        run: try_three,
    },
    Case {
        name: "save",
        before: &[try_three],
        run: save,
    },
    Case {
        name: "save one",
        before: &[try_three],
        run: save_one,
    },
    Case {
        name: "unsave",
        before: &[try_three, save],
        run: unsave,
    },
    Case {
        name: "unsave beside a draft",
        before: &[try_three, save_one],
        run: unsave,
    },
    Case {
        name: "drop",
        before: &[try_three],
        run: |root| of_site(Site::of_folder(root)?.session()?.discard(None)),
    },
    Case {
        name: "merge",
        before: &[try_three],
        run: |root| {
            let sheet = root.join("a.css");
            let text = fs::read_to_string(&sheet).unwrap();
            if !text.contains("more") {
                fs::write(sheet, format!("{text}.more {{ top: 0 }}\n")).unwrap();
            }
            of_site(Site::of_folder(root)?.session()?.carry_over())
        },
    },
    Case {
        name: "ask",
        before: &[try_three],
        run: |root| {
            Site::of_folder(root)?
                .page("p.html", Environment::default())
                .map(drop)
        },
    },
];

/// A site in which everything before a case has happened.
fn prepared(case: &Case) -> TempDir {
    Faults::none();
    let folder = site();
    for step in case.before {
        step(folder.path()).unwrap();
    }
    folder
}

/// What the draft and the list of saves say afterwards, without faults.
fn settled(root: &Path) -> (BTreeMap<String, String>, usize) {
    Faults::none();
    let site = Site::of_folder(root).unwrap();
    assert!(
        site.interrupted().is_none(),
        "{}",
        site.interrupted().unwrap()
    );
    site.page("p.html", Environment::default()).unwrap();
    let edits = site.draft().edits().count();
    (sources(root), edits)
}

/// Compares what a failed command says with the disk; whichever it was, what follows finds all of it or
/// nothing of it.
fn judge(case: &Case, plan: &str, error: &SiteError, folder: &TempDir, wanted: &Wanted) {
    let said = error.to_string();
    let now = sources(folder.path());
    let what = format!("{} with {plan}: {said}", case.name);
    let texts = |all: &BTreeMap<String, String>| -> BTreeMap<String, String> {
        let own = all.iter().filter(|(name, _)| !name.starts_with('.'));
        own.map(|(name, text)| (name.clone(), text.clone()))
            .collect()
    };
    match error {
        SiteError::Unlisted { .. } => assert_eq!(texts(&now), wanted.after.0, "{what}"),
        SiteError::HalfSaved { written, .. } => {
            for file in written {
                assert_eq!(now[file], wanted.after.0[file], "{what}");
            }
        }
        _ => assert_eq!(texts(&now), wanted.before.0, "{what}"),
    }
    // The next command, on a disk that works again.
    let (sources, edits) = settled(folder.path());
    let all = (sources.clone(), edits);
    let between = case.name == "edit" && sources == wanted.before.0 && edits < 3;
    assert!(
        all == wanted.before || all == wanted.after || between,
        "{what}: neither all nor nothing: {all:?}"
    );
    assert!(
        sources.keys().all(|name| !name.starts_with('.')),
        "{what}: {sources:?}"
    );
}

struct Wanted {
    before: (BTreeMap<String, String>, usize),
    after: (BTreeMap<String, String>, usize),
}

fn wanted(case: &Case) -> (Wanted, usize) {
    let folder = prepared(case);
    let before = settled(folder.path());
    let plan = Faults::plan(&[], None);
    (case.run)(folder.path()).unwrap();
    let calls = plan.lock().unwrap().made;
    let after = settled(folder.path());
    let before = match case.name {
        // Another hand changes the file before.
        "merge" => after.clone(),
        _ => before,
    };
    (Wanted { before, after }, calls)
}

#[test]
fn whatever_fails_is_said_and_leaves_all_or_nothing() {
    let injected: usize = std::thread::scope(|scope| {
        let all = CASES.iter().map(|case| scope.spawn(|| fail_at_each(case)));
        let all: Vec<_> = all.collect();
        all.into_iter().map(|one| one.join().unwrap()).sum()
    });
    assert!(injected > 500, "{injected}");
    println!("{injected} faults");
}

/// Lets each call of a case fail; gives how many faults there were.
fn fail_at_each(case: &Case) -> usize {
    let mut injected = 0;
    let (wanted, calls) = wanted(case);
    for first in 0..calls {
        // One fault, one with another somewhere after it, and a disk that stays broken.
        let mut plans = vec![(vec![first], None), (vec![], Some(first))];
        plans.extend([1, 3, 6].map(|more| (vec![first, first + more], None)));
        for (failing, all_from) in plans {
            let folder = prepared(case);
            Faults::plan(&failing, all_from);
            injected += 1;
            let plan = format!("{failing:?} {all_from:?}");
            match (case.run)(folder.path()) {
                // What does no harm when it fails says nothing.
                Ok(()) => assert_eq!(settled(folder.path()), wanted.after, "{plan}"),
                Err(error) => judge(case, &plan, &error, &folder, &wanted),
            }
        }
    }
    injected
}

/// Another program saves a file at each moment of a save: what it wrote is there afterwards, and our save has changed all files
/// or none.
#[cfg_attr(
    not(any(target_os = "linux", target_os = "macos")),
    ignore = "needs a file system on which two files change places in one step"
)]
#[test]
fn what_another_program_saves_during_a_save_is_there_afterwards() {
    let mut refused = 0;
    for case in [&CASES[1], &CASES[3]] {
        let (wanted, calls) = wanted(case);
        for (call, replaces) in (0..=calls).flat_map(|call| [(call, true), (call, false)]) {
            for (name, appends) in [("a.css", "/* theirs */\n"), ("p.html", "<!-- theirs -->\n")] {
                let folder = prepared(case);
                let other = OtherProgram {
                    file: folder.path().join(name),
                    appends,
                    replaces,
                };
                let plan = Faults::plan(&[], None);
                plan.lock().unwrap().other = Some((call, other));
                let done = (case.run)(folder.path());
                let (now, _) = settled(folder.path());
                let what = format!("{} at {call} of {name}: {done:?}", case.name);
                let wanted = match done {
                    Ok(()) => &wanted.after.0,
                    Err(_) => &wanted.before.0,
                };
                refused += usize::from(done.is_err());
                for (file, text) in &now {
                    let is_theirs = file == name && call < plan.lock().unwrap().made;
                    let wanted = wanted[file].clone() + if is_theirs { appends } else { "" };
                    assert_eq!(text, &wanted, "{what}");
                }
            }
        }
    }
    assert!(refused > 20, "{refused}");
}

/// A save that one fault interrupted is cut off again while it is finished.
#[test]
fn what_fails_while_a_save_is_finished_goes_on_later() {
    let case = &CASES[1];
    let (wanted, calls) = wanted(case);
    for first in 0..calls {
        for second in (0..12).step_by(4) {
            let folder = prepared(case);
            Faults::plan(&[], Some(first));
            let _ = save(folder.path());
            Faults::plan(&[second], None);
            let _ = Site::of_folder(folder.path()).map(drop);
            let all = settled(folder.path());
            assert!(
                all == wanted.before || all == wanted.after,
                "{first} {second}: {all:?}"
            );
        }
    }
}

/// The prepared text of a cut-off save that a person emptied does not become the sheet.
#[test]
fn what_was_prepared_is_compared_before_it_takes_a_place() {
    let case = &CASES[1];
    let (_, calls) = wanted(case);
    let mut seen = 0;
    for first in 0..calls {
        let folder = prepared(case);
        let old = sources(folder.path());
        Faults::plan(&[], Some(first));
        let _ = save(folder.path());
        Faults::none();
        for entry in fs::read_dir(folder.path()).unwrap().flatten() {
            let name = entry.file_name().into_string().unwrap();
            if name.starts_with(".fingerpost-") {
                fs::write(entry.path(), "").unwrap();
                seen += 1;
            }
        }
        let site = Site::of_folder(folder.path()).unwrap();
        // Asking goes on, and nothing became empty.
        site.page("p.html", Environment::default()).unwrap();
        let now = sources(folder.path());
        for name in ["a.css", "b.css", "p.html"] {
            assert!(!now[name].is_empty(), "{first}: {name} was {}", old[name]);
        }
        if let Some(error) = site.interrupted() {
            assert!(!error.advice().is_empty(), "{error}");
            Session::recover(folder.path(), true).unwrap();
            let mended = Site::of_folder(folder.path()).unwrap();
            assert!(mended.interrupted().is_none());
            let left = sources(folder.path());
            assert!(left.keys().all(|name| !name.starts_with('.')), "{left:?}");
        }
    }
    assert!(seen > 0);
}

/// Patches of state files are checked like any other.
#[test]
fn patches_are_checked_when_they_are_read() {
    let overlapping = r#"{"replacements": [
        {"range": [0, 5], "with": "a"}, {"range": [3, 6], "with": "b"}]}"#;
    assert!(serde_json::from_str::<Patch>(overlapping).is_err());
    let unsorted = r#"{"replacements": [
        {"range": [4, 5], "with": "a"}, {"range": [0, 1], "with": "b"}]}"#;
    let patch: Patch = serde_json::from_str(unsorted).unwrap();
    assert_eq!(patch.apply("012345").unwrap(), "b123a5");
}
