//! Takes the pictures of the desk for `docs/screenshots/`, from a copy of the demo theme. Needs Chromium
//! and its driver.
//!
//!     cargo run --release -p fingerpost-live --example pictures

#[path = "shared/mod.rs"]
mod shared;

use std::path::{Path, PathBuf};
use std::time::Duration;

use fantoccini::Client;
use fingerpost::site::Site;
use fingerpost_live::{Desk, Settings};
use test_browser::{Browser, BrowserSettings};

type Done = Result<(), Box<dyn std::error::Error>>;

#[tokio::main(flavor = "current_thread")]
async fn main() -> Done {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    let theme = tempfile::tempdir()?;
    shared::copy(&here.join("../../demo/skerry-line"), theme.path())?;
    let into = here.join("../../docs/screenshots");
    let desk = Desk::start(Site::of_folder(theme.path())?, Settings::default())?;

    let light = Pictures::new(&desk, &into, (1280, 800), false).await?;
    light.choose("h2.today").await?;
    light
        .run("document.querySelector('#step-find').click()")
        .await?;
    light
        .run("document.querySelector('#point').click()")
        .await?;
    light.point(320.0, 420.0).await?;
    light.take("desk-find").await?;
    light
        .run("document.querySelector('#point').click()")
        .await?;
    light
        .run("document.querySelector('#step-why').click()")
        .await?;
    light.open("color").await?;
    light.take("desk-why").await?;

    light.choose(".sailings").await?;
    light
        .run("document.querySelector('#step-why').click()")
        .await?;
    light
        .run("document.querySelector('[data-look=space]').click()")
        .await?;
    light.take("desk-space").await?;

    light
        .run("document.querySelector('[data-look=properties]').click()")
        .await?;
    light.choose("h2.today").await?;
    light
        .run("document.querySelector('#step-why').click()")
        .await?;
    light.open("color").await?;
    let field = "const field = document.querySelector(\"details[data-property='color'] .rung input.edits\");";
    light
        .run(&format!(
            "{field} field.focus(); field.value = 'var(--rust)'; \
        field.dispatchEvent(new Event('input', {{ bubbles: true }}))"
        ))
        .await?;
    light.take("desk-try").await?;

    light.choose(".sailings").await?;
    light
        .run("document.querySelector('#step-try').click()")
        .await?;
    light.run("const field = document.querySelector('#new-declaration input'); field.value = 'padding: 36px'; \
        field.form.requestSubmit()").await?;
    light
        .run("document.querySelector('#step-save').click()")
        .await?;
    light.take("desk-save").await?;
    light
        .run("document.querySelector('#strip').click()")
        .await?;
    tokio::time::sleep(Duration::from_millis(1200)).await;
    light.take("desk-strip").await?;
    light.close().await;

    let dark = Pictures::new(&desk, &into, (1024, 768), true).await?;
    dark.choose("h2.today").await?;
    dark.run("document.querySelector('#step-why').click()")
        .await?;
    dark.open("color").await?;
    dark.take("desk-dark").await?;
    dark.close().await;
    Ok(())
}

struct Pictures {
    browser: Browser,
    into: PathBuf,
}

impl Pictures {
    async fn new(
        desk: &Desk,
        into: &Path,
        size: (u32, u32),
        dark: bool,
    ) -> Result<Pictures, Box<dyn std::error::Error>> {
        let browser = Browser::start(BrowserSettings { window: size, dark }).await;
        let client = browser.client.clone();
        client.set_window_size(size.0, size.1).await?;
        let inner = client
            .execute(
                "return [outerWidth - innerWidth, outerHeight - innerHeight]",
                vec![],
            )
            .await?;
        let extra = |at: usize| inner[at].as_u64().unwrap_or(0) as u32;
        client
            .set_window_size(size.0 + extra(0), size.1 + extra(1))
            .await?;
        client.goto(&desk.address()).await?;
        let pictures = Pictures {
            browser,
            into: into.to_owned(),
        };
        pictures.settle().await;
        Ok(pictures)
    }

    fn client(&self) -> &Client {
        &self.browser.client
    }

    /// What is shown results in rest.
    async fn settle(&self) {
        tokio::time::sleep(Duration::from_millis(900)).await;
    }

    async fn run(&self, script: &str) -> Done {
        self.client().execute(script, vec![]).await?;
        self.settle().await;
        Ok(())
    }

    async fn choose(&self, selector: &str) -> Done {
        self.run(&format!(
            "const box = document.querySelector('#ask'); box.value = {selector:?}; \
             box.dispatchEvent(new Event('input', {{ bubbles: true }}))"
        ))
        .await?;
        self.run("document.querySelector('#results .hit').click()")
            .await?;
        self.run(
            "const box = document.querySelector('#ask'); box.value = ''; \
            box.dispatchEvent(new Event('input', { bubbles: true })); box.blur()",
        )
        .await
    }

    async fn open(&self, property: &str) -> Done {
        self.run(&format!(
            "const line = document.querySelector(\"details[data-property='{property}']\"); \
             line.open = true; line.scrollIntoView({{ block: 'center' }})"
        ))
        .await
    }

    async fn point(&self, x: f64, y: f64) -> Done {
        use fantoccini::actions::{InputSource, MouseActions, PointerAction};
        let to = PointerAction::MoveTo {
            duration: None,
            x,
            y,
        };
        let moved = MouseActions::new("mouse".to_owned()).then(to);
        self.client().perform_actions(moved).await?;
        self.settle().await;
        Ok(())
    }

    async fn take(&self, name: &str) -> Done {
        let picture = self.client().screenshot().await?;
        std::fs::write(self.into.join(format!("{name}.png")), picture)?;
        println!("{name}.png");
        Ok(())
    }

    async fn close(self) {
        self.browser.close().await;
    }
}
