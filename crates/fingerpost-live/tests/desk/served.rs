//! A site that a server makes, shown through the desk.

use crate::support::Seat;
use crate::support::Theme;
use fingerpost::site::Site;
use fingerpost_live::{Desk, ServerAccess, Settings, SiteServer};
use serde_json::json;
use skerry_server::{Options, PASSWORD, Server};
use std::sync::Arc;

/// A desk on a page of a server.
fn desk(theme: &Theme, page: &str) -> Desk {
    let server = SiteServer::of(page.parse().unwrap(), ServerAccess::default());
    let server = Arc::new(server);
    let mut site = Site::of_url(&theme.path("")).unwrap();
    site.set_fetch(server.fetch());
    let page = site.page_url(page).unwrap();
    let settings = Settings {
        page: Some(page),
        server: Some(server),
        ..Settings::default()
    };
    Desk::start(site, settings).unwrap()
}

/// The server of the theme. It brings its own runtime, which must not begin in the test's.
fn server(theme: &Theme, options: Options) -> Server {
    let root = theme.path("");
    let starting = std::thread::spawn(move || Server::start(&root, options).unwrap());
    starting.join().unwrap()
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_running_site_is_shown_and_its_sheets_are_edited_in_their_files() {
    let theme = Theme::served();
    let server = server(&theme, Options::default());
    let desk = desk(&theme, &server.url("/crossings"));
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
    // A change of markup is shown before the server has it, goes to the template, and is what the server sends after the save.
    seat.find("h1").await;
    seat.click("#step-try").await;
    let of_text = "#new-text";
    seat.until(&format!(
        "document.querySelector('{of_text} input').value === 'Crossings'"
    ))
    .await;
    seat.js(&format!(
        "document.querySelector('{of_text} input').value = ''"
    ))
    .await;
    seat.type_into(&format!("{of_text} input"), "Six islands\u{e007}")
        .await;
    seat.count_unsaved(1).await;
    seat.until_in_page("document.querySelector('h1').textContent === 'Six islands'")
        .await;
    seat.click("#step-save").await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    assert!(
        theme
            .read("templates/pages/crossings.html")
            .contains(">Six islands<")
    );
    seat.in_page("location.reload()").await;
    seat.until_in_page("document.querySelector('h1')?.textContent === 'Six islands'")
        .await;
    assert_eq!(seat.in_page("location.pathname").await, json!("/crossings"));
    seat.close().await;
}

/// The form of the login, the cookie that it sets, a redirect and a reload: all as without the desk.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_preview_behind_a_login_is_worked_on_after_signing_in() {
    let theme = Theme::served();
    let options = Options {
        login: true,
        tls: true,
        ..Options::default()
    };
    let server = server(&theme, options);
    let desk = desk(&theme, &server.url("/crossings"));
    let seat = Seat::at(&desk.address()).await;
    seat.until_in_page("document.querySelector('input[name=password]')")
        .await;
    assert_eq!(seat.in_page("location.pathname").await, json!("/login"));
    let sign_in = |password: &str| {
        format!(
            "document.querySelector('input').value = '{password}', document.querySelector('form').requestSubmit()"
        )
    };
    // What is said of a wrong password comes without a redirect, with status 422; it is a page to work in too.
    seat.in_page(&sign_in("oar")).await;
    seat.until_in_page("document.querySelector('.wrong')").await;
    seat.find(".wrong").await;
    seat.click("#step-try").await;
    seat.type_into("#new-declaration input", "letter-spacing: 3px\u{e007}")
        .await;
    seat.count_unsaved(1).await;
    seat.until_in_page(
        "getComputedStyle(document.querySelector('.wrong')).letterSpacing === '3px'",
    )
    .await;
    seat.in_page(&sign_in(PASSWORD)).await;
    seat.until_in_page("document.querySelector('.page-title, h1') && location.pathname === '/'")
        .await;
    // The other page, by a link of the page itself, or by its address.
    seat.in_page("location.assign('/crossings')").await;
    seat.until_in_page("document.querySelector('.is-late')")
        .await;
    seat.find(".is-late").await;
    seat.click("#step-try").await;
    seat.type_into("#new-declaration input", "letter-spacing: 4px\u{e007}")
        .await;
    seat.count_unsaved(2).await;
    let spaced = "getComputedStyle(document.querySelector('.is-late')).letterSpacing === '4px'";
    seat.until_in_page(spaced).await;
    // The page loads itself again: it is still signed in, and as the draft leaves it.
    seat.in_page("document.querySelector('.is-late').dataset.old = '1', location.reload()")
        .await;
    seat.until_in_page(&format!(
        "!document.querySelector('[data-old]') && {spaced}"
    ))
    .await;
    // The session is the browser's, and in no file of the site.
    let state = std::fs::read_to_string(theme.path(".fingerpost/draft.json")).unwrap();
    assert!(!state.contains("on-board"));
    seat.close().await;
}
