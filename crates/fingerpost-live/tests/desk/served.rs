//! A site that a server makes, shown through the desk.

use crate::support::Seat;
use fingerpost::site::{Fetch, Fetched, Site};
use fingerpost_live::{Desk, Settings};
use serde_json::json;

/// Asks the server of the demo.
fn fetch() -> Fetch {
    Fetch(Box::new(|url| {
        let mut answer = ureq::get(url).call().map_err(|error| error.to_string())?;
        let bytes = answer
            .body_mut()
            .read_to_vec()
            .map_err(|error| error.to_string())?;
        Ok(Fetched::new(url, bytes, Some("utf-8")))
    }))
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_running_site_is_shown_and_its_sheets_are_edited_in_their_files() {
    let theme = crate::support::Theme::served();
    let root = theme.path("");
    // It brings its own runtime, which must not begin in this one.
    let folder = root.clone();
    let starting = std::thread::spawn(move || skerry_server::Server::start(&folder, 0).unwrap());
    let server = starting.join().unwrap();
    let address = server.url("/crossings");
    let url = url::Url::parse(&address).unwrap();
    let settings = Settings {
        page: Some(address.clone()),
        server: Some(url),
        ..Settings::default()
    };
    let desk = Desk::start(Site::of_url(&root, fetch()).unwrap(), settings).unwrap();
    let seat = Seat::at(&desk.address()).await;
    seat.until_in_page("document.querySelector('.is-late')")
        .await;
    seat.find(".is-late").await;
    seat.click("#step-try").await;
    seat.type_into("#new-declaration input", "letter-spacing: 4px\u{e007}")
        .await;
    seat.count_unsaved(1).await;
    seat.until_in_page(
        "getComputedStyle(document.querySelector('.is-late')).letterSpacing === '4px'",
    )
    .await;
    seat.click("#step-save").await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    let changed = ["harbour.css", "overrides.css", "parts/list.css"]
        .iter()
        .any(|name| {
            theme
                .read(&format!("theme/assets/css/{name}"))
                .contains("letter-spacing: 4px")
        });
    assert!(changed, "the sheet of the mount has it");
    assert_eq!(seat.in_page("location.pathname").await, json!("/crossings"));
    seat.close().await;
}
