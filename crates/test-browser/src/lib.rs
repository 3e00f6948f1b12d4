//! Headless Chromium over WebDriver, for tests: started, and killed with everything that it started.

mod files;

pub use files::{Files, Scripts};

use std::net::{TcpListener, TcpStream};
use std::os::unix::process::CommandExt;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fantoccini::wd::Capabilities;
use fantoccini::{Client, ClientBuilder};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::json;

/// How long the browser may take to start. It takes a second or two; one that hangs never does.
const LONGEST_START: Duration = Duration::from_secs(30);

/// How long the driver may take until it listens.
const LONGEST_WAIT_FOR_DRIVER: Duration = Duration::from_secs(10);

/// How long the browser may take to end.
const LONGEST_END: Duration = Duration::from_secs(20);

/// How often a browser is restarted before the machine is held unfit for the test.
const MOST_STARTS: usize = 4;

/// The environment that a browser is started in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct BrowserSettings {
    /// The window's size.
    pub window: (u32, u32),
    /// Whether dark colors are preferred.
    pub dark: bool,
}

/// A running browser. It ends when this is dropped.
#[derive(Debug)]
pub struct Browser {
    /// What it is asked through.
    pub client: Client,
    /// Kept so that the browser lives as long as this does.
    _driver: Driver,
}

/// A running driver, with the browser that it started.
#[derive(Debug)]
struct Driver {
    process: Child,
    port: u16,
}

impl Browser {
    /// Starts a browser; one that hangs while it starts is killed, with its driver, and restarted.
    ///
    /// # Panics
    /// Where it does not start: the machine is not fit for the test.
    pub async fn start(settings: BrowserSettings) -> Browser {
        let capabilities = capabilities(settings);
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
                        _driver: driver,
                    };
                }
                Ok(Err(error)) => failures.push(error.to_string()),
                Err(_) => failures.push(format!("no session within {LONGEST_START:?}")),
            }
        }
        panic!("the browser does not start: {failures:?}");
    }

    /// Closes the browser.
    pub async fn close(self) {
        let closing = self.client.clone().close();
        let _ = tokio::time::timeout(LONGEST_END, closing).await;
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
        // The driver leads its own process group: the browser goes with it. A driver that hangs
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
fn capabilities(settings: BrowserSettings) -> Capabilities {
    let (width, height) = settings.window;
    let scheme = if settings.dark { 0 } else { 1 };
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
