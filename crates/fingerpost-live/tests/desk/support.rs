//! A desk on a copy of a theme, and a browser before it.

// Each test program uses a part of this.
#![allow(dead_code)]

use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use fantoccini::actions::{InputSource, MOUSE_BUTTON_LEFT, MouseActions, PointerAction};
use fantoccini::key::Key;
use fantoccini::wd::WebDriverCompatibleCommand;
use fantoccini::{Client, Locator};
use fingerpost::site::Site;
use fingerpost_live::{Desk, Settings};
use serde_json::{Value, json};
use test_browser::{Browser, BrowserSettings};

/// How long something on the desk may take to come.
const PATIENCE: Duration = Duration::from_secs(20);

/// The demo theme, to be changed.
pub struct Theme {
    folder: tempfile::TempDir,
}

impl Theme {
    pub fn copy() -> Theme {
        let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
        let folder = tempfile::tempdir().unwrap();
        copy(&demo, folder.path());
        Theme { folder }
    }

    /// The demo site whose pages a server makes.
    pub fn served() -> Theme {
        let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/served");
        let folder = tempfile::tempdir().unwrap();
        copy(&demo, folder.path());
        Theme { folder }
    }

    /// A site of these files.
    pub fn of(files: &[(&str, &str)]) -> Theme {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n").unwrap();
        for (name, text) in files {
            let path = folder.path().join(name);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        }
        Theme { folder }
    }

    pub fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.path(name)).unwrap()
    }

    pub fn write(&self, name: &str, text: &str) {
        std::fs::write(self.path(name), text).unwrap();
    }

    pub fn desk(&self) -> Desk {
        self.desk_with(Settings::default())
    }

    /// A desk on it, and a browser before that.
    pub async fn seat(&self) -> Seat {
        let desk = self.desk();
        let mut seat = Seat::at(&desk.address()).await;
        seat.desk = Some(desk);
        seat
    }

    pub fn desk_with(&self, settings: Settings) -> Desk {
        Desk::start(Site::of_folder(self.folder.path()).unwrap(), settings).unwrap()
    }
}

fn copy(from: &Path, to: &Path) {
    for entry in std::fs::read_dir(from).unwrap() {
        let entry = entry.unwrap();
        let target = to.join(entry.file_name());
        if entry.path().is_dir() {
            std::fs::create_dir_all(&target).unwrap();
            copy(&entry.path(), &target);
        } else {
            std::fs::copy(entry.path(), target).unwrap();
        }
    }
}

/// The desk in a browser, driven by clicks and keys.
pub struct Seat {
    browser: Browser,
    /// The desk, which runs as long as the seat is there.
    desk: Option<Desk>,
}

impl Seat {
    pub async fn at(address: &str) -> Seat {
        Seat::in_scheme(address, false).await
    }

    /// In a browser that prefers dark colors, or light ones.
    pub async fn in_scheme(address: &str, dark: bool) -> Seat {
        let window = (1280, 900);
        let browser = Browser::start(BrowserSettings { window, dark }).await;
        browser.client.goto(address).await.unwrap();
        let seat = Seat {
            browser,
            desk: None,
        };
        seat.until("document.body.dataset.ready !== undefined")
            .await;
        seat.until("document.querySelector('.chosen')").await;
        seat
    }

    pub fn client(&self) -> &Client {
        &self.browser.client
    }

    pub async fn close(self) {
        self.browser.close().await;
    }

    pub async fn js(&self, script: &str) -> Value {
        let script = format!("return ({script});");
        self.client().execute(&script, Vec::new()).await.unwrap()
    }

    /// Waits until something is so on the desk.
    pub async fn until(&self, condition: &str) {
        let begun = Instant::now();
        let script = format!("try {{ return !!({condition}) }} catch (error) {{ return false }}");
        let mut said: Vec<Value> = Vec::new();
        loop {
            if self.client().execute(&script, Vec::new()).await.ok() == Some(json!(true)) {
                return;
            }
            // What is said goes after some seconds.
            let now = "return document.querySelector('#said').textContent";
            let now = self.client().execute(now, Vec::new()).await;
            said.extend(now.ok().filter(|now| said.last() != Some(now)));
            if begun.elapsed() >= PATIENCE {
                let shown = self.js("document.querySelector('.column').innerText").await;
                panic!("never so: {condition}\nsaid: {said:?}\nthe column: {shown}");
            }
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    /// Clicks, and tries again where the element is replaced at that moment.
    pub async fn click(&self, selector: &str) {
        let begun = Instant::now();
        loop {
            self.until(&format!("document.querySelector({selector:?})"))
                .await;
            let clicked = match self.client().find(Locator::Css(selector)).await {
                Ok(element) => element.click().await,
                Err(error) => Err(error),
            };
            match clicked {
                Ok(()) => return,
                Err(error) => assert!(begun.elapsed() < PATIENCE, "{selector}: {error}"),
            }
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    pub async fn type_into(&self, selector: &str, text: &str) {
        self.until(&format!("document.querySelector({selector:?})"))
            .await;
        let element = self.client().find(Locator::Css(selector)).await.unwrap();
        element.send_keys(text).await.unwrap();
    }

    /// Presses keys where the focus is.
    pub async fn press(&self, keys: &str) {
        let active = self.client().active_element().await.unwrap();
        active.send_keys(keys).await.unwrap();
    }

    pub async fn press_key(&self, key: Key) {
        self.press(&char::from(key).to_string()).await;
    }

    /// Asks the page in the frame.
    pub async fn in_page(&self, script: &str) -> Value {
        self.in_frame("#live", script).await
    }

    /// Asks the page in one of the frames.
    pub async fn in_frame(&self, frame: &str, script: &str) -> Value {
        let frame = self.client().find(Locator::Css(frame)).await.unwrap();
        frame.enter_frame().await.unwrap();
        let script = format!("return ({script});");
        let answer = self.client().execute(&script, Vec::new()).await;
        self.client().clone().enter_parent_frame().await.unwrap();
        answer.unwrap()
    }

    /// Waits until something is so in the page.
    pub async fn until_in_page(&self, condition: &str) {
        self.until_in_frame("#live", condition).await;
    }

    /// Waits until something is so in one of the frames.
    pub async fn until_in_frame(&self, frame: &str, condition: &str) {
        let begun = Instant::now();
        let script = format!("!!({condition})");
        while self.in_frame(frame, &script).await != json!(true) {
            if begun.elapsed() >= PATIENCE {
                let said = self.js("document.querySelector('#said').textContent").await;
                panic!("never so in the page: {condition}\nsaid: {said}");
            }
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    /// Drags an element of the desk this far, by its middle.
    pub async fn drag_by(&self, selector: &str, (across, down): (f64, f64)) {
        let element = self.client().find(Locator::Css(selector)).await.unwrap();
        let grab = PointerAction::MoveToElement {
            element,
            duration: None,
            x: 0.0,
            y: 0.0,
        };
        let step = PointerAction::MoveBy {
            duration: Some(Duration::from_millis(60)),
            x: across / 2.0,
            y: down / 2.0,
        };
        let mouse = MouseActions::new("mouse".to_owned())
            .then(grab)
            .then(PointerAction::Down {
                button: MOUSE_BUTTON_LEFT,
            })
            .then(step.clone())
            .then(step)
            .then(PointerAction::Up {
                button: MOUSE_BUTTON_LEFT,
            });
        self.client().perform_actions(mouse).await.unwrap();
    }

    /// Drags one element of the desk to a part of another one's height.
    pub async fn drag(&self, from: &str, to: &str, part: f64) {
        let middle = |selector: &str, part: f64| {
            format!(
                "(() => {{ const box = document.querySelector({selector:?}).getBoundingClientRect(); \
                 return [box.left + 20, box.top + box.height * {part}] }})()"
            )
        };
        let mut points = Vec::new();
        for (selector, part) in [(from, 0.5), (to, part)] {
            let found = self.js(&middle(selector, part)).await;
            let at = |index: usize| found[index].as_f64().unwrap();
            points.push((at(0), at(1)));
        }
        let step = |(x, y): (f64, f64)| PointerAction::MoveTo {
            duration: Some(Duration::from_millis(60)),
            x,
            y,
        };
        let (begin, end) = (points[0], points[1]);
        let pause = PointerAction::Pause {
            duration: Duration::from_millis(150),
        };
        let mouse = MouseActions::new("mouse".to_owned())
            .then(step(begin))
            .then(PointerAction::Down {
                button: MOUSE_BUTTON_LEFT,
            })
            .then(step((begin.0 + 6.0, begin.1 + 6.0)))
            .then(step((end.0, end.1 - 1.0)))
            .then(step(end))
            // What is dragged over hears of it a little later.
            .then(pause.clone())
            .then(step((end.0 + 1.0, end.1)))
            .then(pause)
            .then(PointerAction::Up {
                button: MOUSE_BUTTON_LEFT,
            });
        self.client().perform_actions(mouse).await.unwrap();
    }

    /// Clicks on the page itself, in the middle of an element.
    pub async fn click_in_page(&self, selector: &str) {
        let frame = self.client().find(Locator::Css("#live")).await.unwrap();
        frame.enter_frame().await.unwrap();
        let element = self.client().find(Locator::Css(selector)).await.unwrap();
        let clicked = element.click().await;
        self.client().clone().enter_parent_frame().await.unwrap();
        clicked.unwrap();
    }

    /// Clicks on an element of the page until something is so: a click is lost on a page inside
    /// the page that is not loaded yet.
    pub async fn click_in_page_until(&self, selector: &str, condition: &str) {
        let begun = Instant::now();
        while self.js(condition).await != json!(true) {
            assert!(begun.elapsed() < PATIENCE, "never so: {condition}");
            self.click_in_page(selector).await;
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
    }

    /// Moves the mouse over an element of the page.
    pub async fn hover_in_page(&self, selector: &str) {
        let frame = self.client().find(Locator::Css("#live")).await.unwrap();
        frame.enter_frame().await.unwrap();
        let element = self.client().find(Locator::Css(selector)).await.unwrap();
        let over = |x| PointerAction::MoveToElement {
            element: element.clone(),
            duration: Some(Duration::from_millis(30)),
            x,
            y: 0.0,
        };
        let mouse = MouseActions::new("mouse".to_owned())
            .then(over(-5.0))
            .then(over(0.0));
        let moved = self.client().perform_actions(mouse).await;
        self.client().clone().enter_parent_frame().await.unwrap();
        moved.unwrap();
    }

    /// Points at an element of the page, as a person does.
    pub async fn point_at(&self, selector: &str) {
        self.click("#point").await;
        self.click_in_page(selector).await;
        self.until("document.querySelector('[data-chosen], [data-made]')")
            .await;
    }

    /// Finds an element by what is typed into the search box.
    pub async fn find(&self, text: &str) {
        self.js("document.querySelector('#ask').value = ''").await;
        self.type_into("#ask", text).await;
        self.until("document.querySelector('#results .hit[data-handle]')")
            .await;
        self.press_key(Key::Enter).await;
    }

    /// Opens the line of a property in Why.
    pub async fn open_line(&self, property: &str) {
        self.click("#step-why").await;
        let line = format!("details[data-property='{property}']");
        self.until(&format!("document.querySelector(\"{line}\")"))
            .await;
        let is_open = format!("document.querySelector(\"{line}\").open");
        if self.js(&is_open).await != json!(true) {
            self.click(&format!("{line} > summary")).await;
        }
        self.until(&format!(
            "document.querySelector(\"details[data-property='{property}'] .ladder\")"
        ))
        .await;
    }

    /// What screen readers are told, by the browser's own protocol.
    pub async fn accessibility_tree(&self) -> Value {
        self.client().issue_cmd(AccessibilityTree).await.unwrap()
    }

    pub async fn count_unsaved(&self, number: usize) {
        let shown = if number == 0 {
            String::new()
        } else {
            number.to_string()
        };
        self.until(&format!(
            "document.querySelector('#unsaved').textContent.trim() === '{shown}'"
        ))
        .await;
    }
}

#[derive(Debug)]
struct AccessibilityTree;

impl WebDriverCompatibleCommand for AccessibilityTree {
    fn endpoint(
        &self,
        base: &url::Url,
        session: Option<&str>,
    ) -> Result<url::Url, url::ParseError> {
        base.join(&format!(
            "session/{}/goog/cdp/execute",
            session.unwrap_or_default()
        ))
    }

    fn method_and_body(&self, _: &url::Url) -> (http::Method, Option<String>) {
        let body = json!({ "cmd": "Accessibility.getFullAXTree", "params": {} });
        (http::Method::POST, Some(body.to_string()))
    }
}
