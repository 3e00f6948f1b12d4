//! The tasks on published themes: done through the command as a person would type it, saved, and judged in a browser.
//!
//! Each task starts from a fresh copy. After the save, the browser must show the change in the state and at the width that were asked
//! for. Every other computed value on the compared pages must be as before, unless the answer announced it. No vendor or minified file
//! may have changed.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Duration;

use fantoccini::actions::{InputSource, MouseActions, PointerAction};
use fingerpost::prelude::*;
use fingerpost::question::find::ElementQuery;
use serde_json::{Value, json};
use test_browser::{Browser, BrowserSettings, Files, Scripts};

use crate::cases::{is_asked_for, times};
use crate::fetching::{fetched, pages};
use crate::tasks::{Judge, Part, TASKS, Task, announced};

/// A published theme: the package, and the folder of the site in it.
const THEMES: [(&str, &str); 13] = [
    ("startbootstrap-clean-blog@6", "dist"),
    ("startbootstrap-sb-admin@7", "dist"),
    ("startbootstrap-sb-admin-2@4", ""),
    ("startbootstrap-agency@7", "dist"),
    ("startbootstrap-creative@7", "dist"),
    ("startbootstrap-freelancer@7", "dist"),
    ("startbootstrap-grayscale@7", "dist"),
    ("startbootstrap-landing-page@6", "dist"),
    ("startbootstrap-resume@7", "dist"),
    ("startbootstrap-modern-business@5", "dist"),
    ("paper-kit-2@2", ""),
    ("now-ui-kit@1", ""),
    ("html5-boilerplate@9", "dist"),
];

/// How many pages of a theme are compared, the first ones.
const MOST_PAGES: usize = 4;

/// How many lines a task may take.
const MOST_CALLS: usize = 3;

const WIDE: BrowserSettings = BrowserSettings {
    window: (1280, 800),
    dark: false,
};
const NARROW: (u32, u32) = (520, 800);

/// What came of the tasks of a theme.
#[derive(Debug, Default)]
struct Tally {
    done: usize,
    calls: usize,
    /// Tasks for which the page has no such part.
    left_out: usize,
    /// Each with what was typed and answered.
    failed: Vec<String>,
}

/// The command, built by the same run of Cargo, or now.
fn command() -> PathBuf {
    let own = std::env::current_exe().expect("a test is a program");
    let folder = own
        .parent()
        .and_then(Path::parent)
        .expect("it is in target/debug/deps");
    let command = folder.join("fingerpost");
    if let Ok(given) = std::env::var("FINGERPOST_COMMAND") {
        return PathBuf::from(given);
    }
    if !command.is_file() {
        let built = Command::new(env!("CARGO"))
            .args(["build", "--quiet", "--package", "fingerpost-cli"])
            .status();
        assert!(
            built.is_ok_and(|status| status.success()),
            "the command is built"
        );
    }
    command
}

fn copy(from: &Path, to: &Path) {
    std::fs::create_dir_all(to).unwrap();
    for entry in std::fs::read_dir(from).unwrap().flatten() {
        let (path, target) = (entry.path(), to.join(entry.file_name()));
        let name = entry.file_name();
        if path.is_dir() && name != "node_modules" {
            copy(&path, &target);
        } else if path.is_file() {
            std::fs::copy(&path, &target).unwrap();
        }
    }
}

/// Every file of a folder, by name.
fn files(root: &Path) -> BTreeMap<String, Vec<u8>> {
    let mut found = BTreeMap::new();
    let mut open = vec![root.to_owned()];
    while let Some(folder) = open.pop() {
        for entry in std::fs::read_dir(&folder).unwrap().flatten() {
            let path = entry.path();
            if path.is_dir() {
                if !path.ends_with(".fingerpost") {
                    open.push(path);
                }
            } else {
                let name = path
                    .strip_prefix(root)
                    .unwrap()
                    .to_string_lossy()
                    .into_owned();
                found.insert(name, std::fs::read(&path).unwrap());
            }
        }
    }
    found
}

/// A theme that is worked on.
struct Work<'a> {
    command: &'a Path,
    root: PathBuf,
    page: String,
    /// The pages that are compared.
    pages: Vec<String>,
    browser: &'a Browser,
}

/// How long a task may take with its browsers. It takes a few seconds; a browser that hangs takes for ever.
const LONGEST_TASK: Duration = Duration::from_secs(120);

/// How often a task is begun again with a fresh browser.
const MOST_TRIES: usize = 3;

/// The element that a task is about.
struct Subject {
    index: usize,
    /// The same, counted from the body.
    in_body: usize,
    /// What finds it and those like it.
    selector: &'static str,
}

/// The values of the elements of a page, in the order of the browser's properties.
type Values = Vec<Vec<String>>;

impl Work<'_> {
    fn subject(&self, part: Part) -> Option<Subject> {
        let site = Site::at(&self.root).ok()?;
        let page = site.page(&self.page, Environment::default()).ok()?;
        let document = page.document();
        let is_body = |id: &fingerpost::markup::ElementId| document.element(*id).is_html("body");
        let body = document.elements().iter().position(is_body)?;
        part.selectors().iter().find_map(|selector| {
            let found = page
                .ask()
                .find(ElementQuery::parse(selector).on(&page))
                .ok()?;
            let index = found.elements.get(part.which())?.element.index as usize;
            let in_body = index.checked_sub(body)?;
            Some(Subject {
                index,
                in_body,
                selector,
            })
        })
    }

    /// Runs a line in the site's folder; the status and the answer as JSON, with the words of an error.
    fn typed(&self, line: &str) -> (i32, Value, String) {
        let words = shlex::split(line).expect("a line has all its quotation marks");
        let output = Command::new(self.command)
            .current_dir(&self.root)
            .args(words)
            .arg("--json")
            .env("FINGERPOST_REMEMBER", "no")
            .output()
            .unwrap();
        let text = String::from_utf8_lossy(&output.stdout).into_owned();
        let answer = serde_json::from_str(&text).unwrap_or(Value::Null);
        let status = output.status.code().unwrap_or(-1);
        (
            status,
            answer,
            String::from_utf8_lossy(&output.stderr).into_owned(),
        )
    }

    /// Types the lines of a task, and what the answers advise where one is refused: what was announced, or what went wrong.
    fn done(&self, task: &Task, subject: &Subject, tally: &mut Tally) -> Result<Said, String> {
        let mut is_so = false;
        let mut place = String::new();
        let mut calls = 0;
        for line in task.lines {
            let line = line
                .replace("{page}", &self.page)
                .replace("{it}", &format!("@{}", subject.index))
                .replace("{selector}", &format!("'{}'", subject.selector))
                .replace("{place}", &place);
            let (mut status, mut answer, mut told) = self.typed(&line);
            calls += 1;
            // What is so already needs no change.
            is_so = status == 1 && told.contains("already");
            if is_so {
                continue;
            }
            if status != 0 {
                // The first advice is what a person tries next.
                let advised = answer["error"]["advice"][0]["line"]
                    .as_str()
                    .map(str::to_owned);
                let Some(advised) = advised else {
                    return Err(format!("{line}\na dead end: {told}"));
                };
                let advised = advised
                    .trim_start_matches("fingerpost ")
                    .replace(" --json", "");
                (status, answer, told) = self.typed(&advised);
                calls += 1;
                if status != 0 {
                    return Err(format!(
                        "{line}\n{advised}\nthe advice does not help: {told}"
                    ));
                }
            }
            place = written_at(&answer).unwrap_or_default();
        }
        tally.calls += calls;
        if is_so {
            return Ok(Vec::new());
        }
        let (status, answer, told) = self.typed("save");
        match status {
            0 if calls <= MOST_CALLS => Ok(announced(&answer)),
            0 => Err(format!("it took {calls} lines")),
            _ => Err(format!("the save failed: {told}")),
        }
    }

    async fn values(&self, files: &Files, page: &str) -> Values {
        let script = include_str!("../engine/ask.js");
        self.browser.client.goto(&files.url(page)).await.unwrap();
        let arguments = vec![json!([]), json!(false)];
        let answer = self
            .browser
            .client
            .execute(script, arguments)
            .await
            .unwrap();
        let answer: Value = serde_json::from_str(answer.as_str().unwrap()).unwrap();
        let values = |element: &Value| {
            let all = element["values"].as_array().unwrap().iter();
            all.map(|value| value.as_str().unwrap().to_owned())
                .collect()
        };
        let elements = answer["elements"].as_array().unwrap().iter();
        // A sheet may be linked in the head.
        let of_body = elements.skip_while(|element| element["tag"] != json!("body"));
        of_body.map(values).collect()
    }

    /// A property of an element, as a browser shows it.
    async fn shown(&self, files: &Files, index: usize, property: &str) -> String {
        self.browser
            .client
            .goto(&files.url(&self.page))
            .await
            .unwrap();
        asked(
            self.browser,
            &format!("getComputedStyle(it).getPropertyValue('{property}')"),
            index,
        )
        .await
    }

    async fn judged(&self, task: &Task, subject: &Subject, files: &Files) -> Result<(), String> {
        let index = subject.in_body;
        let wrong = |what: String| Err(format!("the browser shows {what}"));
        match &task.judge {
            Judge::Announced | Judge::Count(_) => Ok(()),
            Judge::Value(property, value) => {
                let found = self.computed(files, &self.page, index, property).await;
                if found == *value {
                    Ok(())
                } else {
                    wrong(format!("{property}: {found}"))
                }
            }
            Judge::OnPhones(property, value) => {
                let (width, height) = NARROW;
                self.browser
                    .client
                    .set_window_size(width, height)
                    .await
                    .unwrap();
                let narrow = self.shown(files, index, property).await;
                let (width, height) = WIDE.window;
                self.browser
                    .client
                    .set_window_size(width, height)
                    .await
                    .unwrap();
                let wide = self.shown(files, index, property).await;
                if narrow == *value && wide != *value {
                    return Ok(());
                }
                wrong(format!(
                    "{property}: {narrow} on a phone, {wide} on a wide screen"
                ))
            }
            Judge::Hovered(property, value) => {
                self.browser
                    .client
                    .goto(&files.url(&self.page))
                    .await
                    .unwrap();
                let stop = "document.head.insertAdjacentHTML('beforeend', '<style>* { transition: none !important }</style>')";
                asked(self.browser, stop, index).await;
                asked(
                    self.browser,
                    "it.scrollIntoView({ block: 'center' })",
                    index,
                )
                .await;
                let middle = "(() => { const b = it.getBoundingClientRect(); return `${Math.round(b.x + b.width / 2)} ${Math.round(b.y + b.height / 2)} ${b.width * b.height}`; })()";
                let at = asked(self.browser, middle, index).await;
                let numbers: Vec<f64> = at.split(' ').filter_map(|n| n.parse().ok()).collect();
                let [x, y, area] = numbers[..] else {
                    return wrong(at);
                };
                if area == 0.0 {
                    return Ok(());
                }
                let point = MouseActions::new("mouse".to_owned()).then(PointerAction::MoveTo {
                    duration: None,
                    x,
                    y,
                });
                // What is not shown can't be pointed at.
                if self.browser.client.perform_actions(point).await.is_err() {
                    return Ok(());
                }
                let over = asked(self.browser, "String(it.matches(':hover'))", index).await;
                let found = asked(
                    self.browser,
                    &format!("getComputedStyle(it).getPropertyValue('{property}')"),
                    index,
                )
                .await;
                // Something else may lie over it.
                if over != "true" || found == *value {
                    Ok(())
                } else {
                    wrong(format!("{property}: {found}"))
                }
            }
            Judge::Everywhere(property, value) => {
                for page in &self.pages {
                    self.browser.client.goto(&files.url(page)).await.unwrap();
                    let all = format!(
                        "[...document.querySelectorAll(\"{}\")].map((one) => getComputedStyle(one).getPropertyValue('{property}')).find((value) => value !== '{value}') ?? '{value}'",
                        subject.selector
                    );
                    let found = asked(self.browser, &all, 0).await;
                    if found != *value {
                        return wrong(format!("{property}: {found} on {page}"));
                    }
                }
                Ok(())
            }
            Judge::Holds(expression) => {
                self.browser
                    .client
                    .goto(&files.url(&self.page))
                    .await
                    .unwrap();
                let found = asked(self.browser, &format!("String({expression})"), index).await;
                if found == "true" {
                    Ok(())
                } else {
                    wrong(format!("{expression}: {found}"))
                }
            }
            Judge::Custom(name) => {
                self.browser
                    .client
                    .goto(&files.url(&self.page))
                    .await
                    .unwrap();
                let root = "getComputedStyle(document.documentElement)";
                let found = asked(
                    self.browser,
                    &format!("{root}.getPropertyValue('{name}')"),
                    0,
                )
                .await;
                match found.is_empty() {
                    true => wrong(format!("no {name}")),
                    false => Ok(()),
                }
            }
        }
    }

    /// A computed value, without boxes.
    async fn computed(&self, files: &Files, page: &str, index: usize, property: &str) -> String {
        self.browser.client.goto(&files.url(page)).await.unwrap();
        let script = format!(
            "(() => {{ document.documentElement.style.setProperty('display', 'none', 'important'); return getComputedStyle(it).getPropertyValue('{property}'); }})()"
        );
        asked(self.browser, &script, index).await
    }
}

/// An expression over an element, by its number.
async fn asked(browser: &Browser, expression: &str, index: usize) -> String {
    let script = format!(
        "const it = [document.body, ...document.body.querySelectorAll('*')][{index}]; return String({expression});"
    );
    let answer = browser.client.execute(&script, Vec::new()).await;
    match answer {
        Ok(answer) => answer.as_str().unwrap_or_default().to_owned(),
        Err(error) => error.to_string(),
    }
}

/// What was announced at the save: elements of pages, by their numbers.
type Said = Vec<(String, usize)>;

/// The place of the rule that an edit wrote.
fn written_at(answer: &Value) -> Option<String> {
    let contender = &answer["edits"][0]["details"]["why"][0]["contests"][0]["contenders"][0];
    let place = &contender["rule"]["place"];
    Some(format!(
        "{}:{}",
        place["file"].as_str()?,
        place["line"].as_u64()?
    ))
}

/// The elements above each element of a page's body, by number from there, and the number of the body.
fn inside(root: &Path, page: &str) -> (usize, Vec<BTreeSet<usize>>) {
    let site = Site::at(root).unwrap();
    let page = site.page(page, Environment::default()).unwrap();
    let document = page.document();
    let all = document.elements();
    let is_body = |id: &fingerpost::markup::ElementId| document.element(*id).is_html("body");
    let body = all.iter().position(is_body).unwrap_or_default();
    let numbers: BTreeMap<_, _> = all.iter().skip(body).copied().zip(0..).collect();
    let above = |id: &fingerpost::markup::ElementId| {
        let ancestors = document.ancestors_and_self(*id).filter(|above| above != id);
        ancestors
            .filter_map(|above| numbers.get(&above).copied())
            .collect()
    };
    (body, all.iter().skip(body).map(above).collect())
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn tasks_on_published_themes_are_done_as_asked_and_announced() {
    on_themes(0).await;
}

/// The same on the themes between those, so that both can run at once.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn tasks_on_more_published_themes_are_done_as_asked_and_announced() {
    on_themes(1).await;
}

/// The tasks on every second theme.
async fn on_themes(first: usize) {
    let command = command();
    let wanted = std::env::var("FINGERPOST_THEME").unwrap_or_default();
    let mut browser = Browser::start(WIDE).await;
    let mut failed = Vec::new();
    for (number, (package, folder)) in THEMES.iter().enumerate().skip(first).step_by(2) {
        // Every third theme, unless `FINGERPOST_CASES` or `FINGERPOST_THEME` is set.
        if !package.contains(&wanted) || (number % 3 != 0 && !is_asked_for()) {
            continue;
        }
        let unpacked = match fetched(package) {
            Ok(unpacked) => unpacked,
            Err(why) => {
                println!("skipped: {package}: {why}");
                continue;
            }
        };
        let mut tally = Tally::default();
        // A few tasks of each theme, others on each; all of them where that is asked for.
        let step = (60 / times()).max(1);
        for task in TASKS.iter().skip(number % step).step_by(step) {
            let mut outcome = None;
            for _ in 0..MOST_TRIES {
                let theme = unpacked.join(folder);
                let working = attempted(&command, &theme, task, &browser, &mut tally);
                match tokio::time::timeout(LONGEST_TASK, working).await {
                    Ok(found) => {
                        outcome = Some(found);
                        break;
                    }
                    Err(_) => {
                        println!(
                            "{package}, {}: trying again with a fresh browser",
                            task.words
                        );
                        browser = Browser::start(WIDE).await;
                    }
                }
            }
            match outcome {
                Some(Ok(true)) => tally.done += 1,
                Some(Ok(false)) => tally.left_out += 1,
                Some(Err(why)) => tally
                    .failed
                    .push(format!("{package}, {}: {why}", task.words)),
                None => tally
                    .failed
                    .push(format!("{package}, {}: no answer", task.words)),
            }
        }
        println!(
            "{package}: {} tasks done, {} lines typed, {} without such a part, {} failed",
            tally.done,
            tally.calls,
            tally.left_out,
            tally.failed.len()
        );
        for why in &tally.failed {
            println!("  {why}");
        }
        failed.append(&mut tally.failed);
    }
    browser.close().await;
    assert!(failed.is_empty(), "{} tasks failed", failed.len());
}

/// Does a task on a fresh copy of a theme; false where it has no such part.
async fn attempted(
    command: &Path,
    theme: &Path,
    task: &Task,
    browser: &Browser,
    tally: &mut Tally,
) -> Result<bool, String> {
    let work = tempfile::tempdir().unwrap();
    let root = work.path().canonicalize().unwrap();
    copy(theme, &root);
    let mut names = pages(&root);
    names.sort_by_key(|name| {
        (
            name.matches('/').count(),
            name != "index.html",
            name.clone(),
        )
    });
    let page = names.first().cloned().expect("a theme has a page");
    names.truncate(MOST_PAGES);
    let work = Work {
        command,
        root,
        page,
        pages: names,
        browser,
    };
    let Some(subject) = work.subject(task.part) else {
        return Ok(false);
    };
    let done = work_on(&work, task, &subject, tally).await;
    let named = |why| format!("{} (@{}): {why}", subject.selector, subject.index);
    done.map(|()| true).map_err(named)
}

async fn work_on(
    work: &Work<'_>,
    task: &Task,
    subject: &Subject,
    tally: &mut Tally,
) -> Result<(), String> {
    let served = Files::of(&work.root, Scripts::Forbidden);
    let mut before = Vec::new();
    for page in &work.pages {
        before.push(work.values(&served, page).await);
    }
    let old = files(&work.root);
    let said = work.done(task, subject, tally)?;
    let new = files(&work.root);
    let changed: Vec<&String> = (new.keys())
        .filter(|name| old.get(*name) != new.get(*name))
        .collect();
    // Nothing that is built or of a package is written without being asked.
    if let Some(name) = changed
        .iter()
        .find(|name| name.contains("vendor/") || name.contains(".min."))
    {
        return Err(format!("{name} was written"));
    }
    work.judged(task, subject, &served).await?;
    for (page, before) in work.pages.iter().zip(before) {
        let after = work.values(&served, page).await;
        if let Judge::Count(more) = task.judge
            && *page == work.page
        {
            let is = after.len() as isize - before.len() as isize;
            if more.signum() != is.signum() {
                return Err(format!("{is} elements more"));
            }
        }
        if before.len() != after.len() {
            continue;
        }
        let changed = before.iter().zip(&after).enumerate();
        let changed: BTreeSet<usize> = changed
            .filter(|(_, (a, b))| a != b)
            .map(|(at, _)| at)
            .collect();
        let (body, above) = inside(&work.root, page);
        let own = said.iter().filter(|(file, _)| file == page);
        let own: BTreeSet<usize> = own
            .filter_map(|(_, index)| index.checked_sub(body))
            .collect();
        let unsaid: Vec<usize> = (changed.iter().copied())
            .filter(|index| {
                !own.contains(index)
                    && above
                        .get(*index)
                        .is_none_or(|above| above.is_disjoint(&own))
            })
            .collect();
        if !unsaid.is_empty() {
            return Err(format!(
                "not announced on {page}: {unsaid:?}; announced {own:?}"
            ));
        }
        let missing: Vec<&usize> = own
            .iter()
            .filter(|index| !changed.contains(index))
            .collect();
        if !missing.is_empty() {
            return Err(format!(
                "announced on {page}, and the browser shows no change: {missing:?}"
            ));
        }
    }
    Ok(())
}
