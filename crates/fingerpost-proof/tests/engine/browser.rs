//! A page as the browser engine computes it.

use std::time::Duration;

use fantoccini::error::CmdError;
use fantoccini::wd::PrintConfiguration;
use serde::Deserialize;
use serde_json::json;
use test_browser as headless;

/// How long the browser may take over one page. It takes a second or two.
const LONGEST_ANSWER: Duration = Duration::from_secs(40);

/// What the engine says of an element.
#[derive(Debug, Deserialize)]
pub struct EngineElement {
    /// Its name.
    pub tag: String,
    /// The computed values, in the order of [`EnginePage::properties`].
    pub values: Vec<String>,
    /// Which of the selectors asked about match it, by their place.
    pub matches: Vec<usize>,
}

/// What the engine says of a page.
#[derive(Debug, Deserialize)]
pub struct EnginePage {
    /// The viewport's width in CSS px.
    pub width: f64,
    /// The viewport's height in CSS px.
    pub height: f64,
    /// Whether dark colors are preferred.
    pub dark: bool,
    /// Whether the medium is print.
    pub print: bool,
    /// What media queries say of hovering and pointing, by feature.
    pub pointing: Vec<(String, Option<String>)>,
    /// The longhands that the engine knows.
    pub properties: Vec<String>,
    /// The selectors asked about that the engine does not take, by their place.
    pub refused: Vec<usize>,
    /// The elements in document order.
    pub elements: Vec<EngineElement>,
}

/// The environment that a browser is started in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct BrowserSettings {
    /// The window's size.
    pub window: (u32, u32),
    /// Whether dark colors are preferred.
    pub dark: bool,
    /// Whether the medium is print.
    pub print: bool,
}

/// A running browser.
pub struct Browser {
    headless: headless::Browser,
    print: bool,
}

impl Browser {
    /// Starts a browser.
    ///
    /// # Panics
    /// Where it does not start: the machine is not fit for the test.
    pub async fn start(settings: BrowserSettings) -> Browser {
        let headless = headless::Browser::start(headless::BrowserSettings {
            window: settings.window,
            dark: settings.dark,
        });
        Browser {
            headless: headless.await,
            print: settings.print,
        }
    }

    /// Opens a page and asks the engine about every element of it.
    ///
    /// # Errors
    /// Where the browser does not answer in time, or not as expected. A fresh browser may.
    pub async fn ask(&self, url: &str, selectors: &[String]) -> Result<EnginePage, String> {
        match tokio::time::timeout(LONGEST_ANSWER, self.collect(url, selectors)).await {
            Ok(answer) => answer,
            Err(_) => Err(format!("{url}: no answer within {LONGEST_ANSWER:?}")),
        }
    }

    async fn collect(&self, url: &str, selectors: &[String]) -> Result<EnginePage, String> {
        let failed = |error: CmdError| format!("{url}: {error}");
        self.headless.client.goto(url).await.map_err(failed)?;
        let arguments = vec![json!(selectors), json!(self.print)];
        let script = include_str!("ask.js");
        let mut answer = self
            .headless
            .client
            .execute(script, arguments)
            .await
            .map_err(failed)?;
        if self.print {
            // The styles for print hold only while the page is printed: the script waits for that.
            let paper = PrintConfiguration::default();
            self.headless.client.print(paper).await.map_err(failed)?;
            let collected = "return window.collected ?? null;";
            answer = self
                .headless
                .client
                .execute(collected, Vec::new())
                .await
                .map_err(failed)?;
        }
        let text = answer.as_str().ok_or_else(|| format!("{url}: {answer}"))?;
        serde_json::from_str(text).map_err(|error| format!("{url}: {error}"))
    }

    /// Opens a page and runs a script there that answers with a text.
    ///
    /// # Panics
    /// Where the browser does not answer so.
    pub async fn run(&self, url: &str, script: &str, arguments: Vec<serde_json::Value>) -> String {
        self.headless
            .client
            .goto(url)
            .await
            .expect("the page opens");
        let answer = self.headless.client.execute(script, arguments).await;
        let answer = answer.expect("the script runs");
        answer.as_str().expect("it answers with a text").to_owned()
    }

    /// Opens a page.
    ///
    /// # Panics
    /// Where the browser does not.
    pub async fn open(&self, url: &str) {
        self.headless
            .client
            .goto(url)
            .await
            .expect("the page opens");
    }

    /// Runs a script in the page that is open; it is given a function to answer with a text, when it is done.
    ///
    /// # Panics
    /// Where the browser does not answer so.
    pub async fn run_here(&self, script: &str, arguments: Vec<serde_json::Value>) -> String {
        let answer = self.headless.client.execute_async(script, arguments).await;
        let answer = answer.expect("the script runs");
        answer.as_str().expect("it answers with a text").to_owned()
    }

    /// Whether each of some selectors, values and conditions is valid; for a condition, whether it holds.
    ///
    /// # Errors
    /// Where the browser does not answer as expected.
    pub async fn valid(&self, cases: &[[&str; 3]]) -> Result<Vec<bool>, String> {
        let script = include_str!("valid.js");
        let answer = self
            .headless
            .client
            .execute(script, vec![json!(cases)])
            .await;
        let answer = answer.map_err(|error| error.to_string())?;
        serde_json::from_value(answer).map_err(|error| error.to_string())
    }

    /// Opens a page and makes the engine work out all of its styles again, several times. Returns the color of an
    /// element and how long each time took.
    ///
    /// # Errors
    /// Where the browser does not answer as expected.
    pub async fn recalculate(
        &self,
        url: &str,
        selector: &str,
        rounds: usize,
    ) -> Result<(String, Vec<Duration>), String> {
        let failed = |error: CmdError| format!("{url}: {error}");
        self.headless.client.goto(url).await.map_err(failed)?;
        let script = include_str!("recalculate.js");
        let running = self
            .headless
            .client
            .execute(script, vec![json!(selector), json!(rounds)]);
        let answer = tokio::time::timeout(LONGEST_ANSWER, running)
            .await
            .map_err(|_| format!("{url}: no answer within {LONGEST_ANSWER:?}"))?
            .map_err(failed)?;
        let (color, times): (String, Vec<f64>) =
            serde_json::from_value(answer).map_err(|error| format!("{url}: {error}"))?;
        let times = times
            .into_iter()
            .map(|ms| Duration::from_secs_f64(ms / 1000.0));
        Ok((color, times.collect()))
    }

    /// Closes the browser.
    pub async fn close(self) {
        self.headless.close().await;
    }
}
