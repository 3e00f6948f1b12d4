//! Headless Chromium over WebDriver.

use std::net::{TcpListener, TcpStream};
use std::os::unix::process::CommandExt;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fantoccini::error::CmdError;
use fantoccini::wd::{Capabilities, PrintConfiguration};
use fantoccini::{Client, ClientBuilder};
use hyper_util::client::legacy::connect::HttpConnector;
use serde::Deserialize;
use serde_json::json;

/// How long the browser may take over one page. It takes a second or two.
const LONGEST_ANSWER: Duration = Duration::from_secs(40);

/// How long the browser may take to start. It takes a second or two; one that hangs never does.
const LONGEST_START: Duration = Duration::from_secs(30);

/// How long the driver may take until it listens.
const LONGEST_WAIT_FOR_DRIVER: Duration = Duration::from_secs(10);

/// How often a browser is started anew before the machine is held unfit for the test.
const MOST_STARTS: usize = 4;

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
    /// The longhands that the engine knows.
    pub properties: Vec<String>,
    /// The selectors asked about that the engine does not take, by their place.
    pub refused: Vec<usize>,
    /// The elements in document order.
    pub elements: Vec<EngineElement>,
}

/// The surroundings that a browser is started in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Surroundings {
    /// The window's size.
    pub window: (u32, u32),
    /// Whether dark colors are preferred.
    pub dark: bool,
    /// Whether the medium is print.
    pub print: bool,
}

/// A running browser.
pub struct Browser {
    client: Client,
    print: bool,
    /// Kept so that the browser lives as long as this does.
    _driver: Driver,
}

/// A running driver, with the browser that it started.
struct Driver {
    process: Child,
    port: u16,
}

/// Whether Chromium and its driver are installed.
pub fn is_installed() -> bool {
    let runs = |program: &str| {
        Command::new(program)
            .arg("--version")
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .status()
            .is_ok_and(|status| status.success())
    };
    runs("chromedriver") && runs("chromium")
}

impl Browser {
    /// Starts a browser; one that hangs while it starts is killed, with its driver, and started anew.
    ///
    /// # Panics
    /// Where it does not start: the machine is not fit for the test.
    pub async fn start(surroundings: Surroundings) -> Browser {
        let capabilities = capabilities(surroundings);
        let mut failures = Vec::new();
        for _ in 0..MOST_STARTS {
            let driver = Driver::start();
            let url = format!("http://127.0.0.1:{}", driver.port);
            if !driver.listens().await {
                failures.push("the driver does not listen".to_owned());
                continue;
            }
            let mut builder = ClientBuilder::new(HttpConnector::new());
            let connecting = builder.capabilities(capabilities.clone()).connect(&url);
            match tokio::time::timeout(LONGEST_START, connecting).await {
                Ok(Ok(client)) => {
                    return Browser {
                        client,
                        print: surroundings.print,
                        _driver: driver,
                    };
                }
                Ok(Err(error)) => failures.push(error.to_string()),
                Err(_) => failures.push(format!("no session within {LONGEST_START:?}")),
            }
        }
        panic!("the browser does not start: {failures:?}");
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
        self.client.goto(url).await.map_err(failed)?;
        let arguments = vec![json!(selectors), json!(self.print)];
        let script = include_str!("ask.js");
        let mut answer = self
            .client
            .execute(script, arguments)
            .await
            .map_err(failed)?;
        if self.print {
            // The styles for print hold only while the page is printed: the script waits for that.
            let paper = PrintConfiguration::default();
            self.client.print(paper).await.map_err(failed)?;
            let collected = "return window.collected ?? null;";
            answer = self
                .client
                .execute(collected, Vec::new())
                .await
                .map_err(failed)?;
        }
        let text = answer.as_str().ok_or_else(|| format!("{url}: {answer}"))?;
        serde_json::from_str(text).map_err(|error| format!("{url}: {error}"))
    }

    /// Whether each of some selectors, values and conditions is valid; for a condition, whether it holds.
    ///
    /// # Errors
    /// Where the browser does not answer as expected.
    pub async fn valid(&self, cases: &[[&str; 3]]) -> Result<Vec<bool>, String> {
        let script = include_str!("valid.js");
        let answer = self.client.execute(script, vec![json!(cases)]).await;
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
        self.client.goto(url).await.map_err(failed)?;
        let script = include_str!("recalculate.js");
        let running = self
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
        let closing = self.client.clone().close();
        let _ = tokio::time::timeout(LONGEST_ANSWER, closing).await;
    }
}

impl Driver {
    fn start() -> Driver {
        let port = TcpListener::bind("127.0.0.1:0")
            .and_then(|l| l.local_addr())
            .expect("a free port")
            .port();
        let process = Command::new("chromedriver")
            .arg(format!("--port={port}"))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .process_group(0)
            .spawn()
            .expect("chromedriver starts");
        Driver { process, port }
    }

    /// Waits until the driver takes connections.
    async fn listens(&self) -> bool {
        let begun = Instant::now();
        while begun.elapsed() < LONGEST_WAIT_FOR_DRIVER {
            if TcpStream::connect(("127.0.0.1", self.port)).is_ok() {
                return true;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        false
    }
}

impl Drop for Driver {
    fn drop(&mut self) {
        // The driver leads a group of processes of its own: the browser goes with it. A driver that hangs
        // would ignore a request to end, and waiting for it would hang the test.
        let _ = Command::new("kill")
            .args(["-KILL", "--"])
            .arg(format!("-{}", self.process.id()))
            .status();
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

/// What the driver is asked to start.
fn capabilities(surroundings: Surroundings) -> Capabilities {
    let (width, height) = surroundings.window;
    let scheme = if surroundings.dark { 0 } else { 1 };
    let arguments = [
        "--headless".to_owned(),
        "--no-sandbox".to_owned(),
        "--disable-gpu".to_owned(),
        "--disable-dev-shm-usage".to_owned(),
        "--disable-quic".to_owned(),
        "--no-first-run".to_owned(),
        "--disable-background-networking".to_owned(),
        "--disable-component-update".to_owned(),
        "--disable-sync".to_owned(),
        "--hide-scrollbars".to_owned(),
        format!("--window-size={width},{height}"),
        format!("--blink-settings=preferredColorScheme={scheme}"),
    ];
    let mut capabilities = Capabilities::new();
    let options = json!({ "args": arguments });
    capabilities.insert("goog:chromeOptions".to_owned(), options);
    capabilities.insert("pageLoadStrategy".to_owned(), json!("normal"));
    capabilities
}
