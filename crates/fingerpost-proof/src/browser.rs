//! Headless Chromium over WebDriver.

use std::net::TcpListener;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use fantoccini::wd::Capabilities;
use fantoccini::{Client, ClientBuilder};
use hyper_util::client::legacy::connect::HttpConnector;
use serde::Deserialize;
use serde_json::json;

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
    /// Whether dark colours are preferred.
    pub dark: bool,
    /// Whether the medium is print.
    pub print: bool,
}

/// A running browser.
pub struct Browser {
    driver: Child,
    client: Client,
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
    /// Starts a browser.
    ///
    /// # Panics
    /// Where the driver does not start: the machine is not fit for the test.
    pub async fn start(surroundings: Surroundings) -> Browser {
        let port = TcpListener::bind("127.0.0.1:0")
            .and_then(|l| l.local_addr())
            .expect("a free port")
            .port();
        let driver = Command::new("chromedriver")
            .arg(format!("--port={port}"))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .expect("chromedriver starts");
        let (width, height) = surroundings.window;
        let scheme = if surroundings.dark { 0 } else { 1 };
        let mut arguments = vec![
            "--headless".to_owned(),
            "--no-sandbox".to_owned(),
            "--disable-gpu".to_owned(),
            "--disable-quic".to_owned(),
            "--no-first-run".to_owned(),
            "--disable-background-networking".to_owned(),
            "--disable-component-update".to_owned(),
            "--disable-sync".to_owned(),
            "--hide-scrollbars".to_owned(),
            format!("--window-size={width},{height}"),
        ];
        let mut settings = vec![format!("preferredColorScheme={scheme}")];
        if surroundings.print {
            settings.push("mediaTypeOverride=print".to_owned());
        }
        arguments.push(format!("--blink-settings={}", settings.join(",")));
        let mut capabilities = Capabilities::new();
        capabilities.insert(
            "goog:chromeOptions".to_owned(),
            json!({ "args": arguments }),
        );
        capabilities.insert("pageLoadStrategy".to_owned(), json!("normal"));
        let mut last = None;
        for _ in 0..50 {
            let connected = ClientBuilder::new(HttpConnector::new())
                .capabilities(capabilities.clone())
                .connect(&format!("http://127.0.0.1:{port}"))
                .await;
            match connected {
                Ok(client) => return Browser { driver, client },
                Err(error) => last = Some(error),
            }
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
        panic!("the browser does not start: {last:?}");
    }

    /// Opens a page and asks the engine about every element of it.
    ///
    /// # Panics
    /// Where the page does not open, or the engine does not answer.
    pub async fn ask(&self, url: &str, selectors: &[String]) -> EnginePage {
        self.client.goto(url).await.expect("the page opens");
        let answer = self
            .client
            .execute(include_str!("ask.js"), vec![json!(selectors)])
            .await
            .expect("the engine answers");
        let text = answer.as_str().expect("a string of JSON");
        serde_json::from_str(text).expect("the answer of ask.js")
    }

    /// Closes the browser.
    pub async fn close(mut self) {
        let _ = self.client.clone().close().await;
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.driver.kill();
    }
}
