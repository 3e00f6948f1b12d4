//! How long the engine takes to restyle the large page of the benches, next to how long the whole page takes here.
//!
//! Only printed, never asserted. In a release build the two can be compared:
//! `cargo test --release --workspace --test engine recalculation -- --nocapture`.

use std::time::{Duration, Instant};

use fingerpost::page::{LoadError, Page, PropertyName, Request};
use fingerpost::text::Text;
use fingerpost::value::PropertyId;

use crate::browser::Browser;
use crate::{MOST_TRIES, WIDE, theme};
use test_browser::{Files, Scripts};

#[path = "../../../fingerpost/benches/large_page.rs"]
mod large_page;

/// How often each is measured; the median counts.
const ROUNDS: usize = 15;

fn median(mut times: Vec<Duration>) -> Duration {
    times.sort();
    times[times.len() / 2]
}

#[ignore = "measures; see CONTRIBUTING.md"]
#[tokio::test]
async fn recalculation_of_the_large_page() {
    let Some(package) = theme("bootstrap@5") else {
        return;
    };
    let css = std::fs::read_to_string(package.join("dist/css/bootstrap.css")).unwrap();
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path().canonicalize().unwrap();
    // Hundreds of pictures that are not there would keep the browser waiting.
    let html = large_page::html().replace(" src=\"images/", " data-src=\"images/");
    std::fs::write(root.join("large.html"), &html).unwrap();
    std::fs::write(root.join("bootstrap.css"), &css).unwrap();

    let files = Files::of(&root, Scripts::Forbidden);
    let mut tries = 0;
    // An element whose color does not change in a transition.
    let element = "#card-400 .badge";
    let (color, times) = loop {
        let browser = Browser::start(WIDE).await;
        let url = files.url("large.html");
        let answer = browser.recalculate(&url, element, ROUNDS).await;
        browser.close().await;
        tries += 1;
        match answer {
            Ok(answer) => break answer,
            Err(error) => assert!(tries < MOST_TRIES, "{error}"),
        }
    };
    let engine = median(times);

    let build = || {
        Page::builder(Text::new("large.html", html.as_str()))
            .loader(|request: &Request<'_>| match request.url {
                "bootstrap.css" => Ok(Text::new("bootstrap.css", css.as_str())),
                other => Err(LoadError::Missing {
                    file: other.to_owned(),
                }),
            })
            .build()
    };
    let ours = median(
        (0..ROUNDS)
            .map(|_| {
                let page = build();
                let begun = Instant::now();
                let _ = page.whole();
                begun.elapsed()
            })
            .collect(),
    );
    println!(
        "the large page: the engine's full recalculation {engine:.1?}, ours with every winner kept {ours:.1?}: {:.2}",
        ours.as_secs_f64() / engine.as_secs_f64()
    );

    // What was measured is the page that we mean.
    let page = build();
    let whole = page.whole();
    let property = PropertyName::Known(PropertyId::COLOR);
    let colors = whole.elements().filter(|element| {
        let value = element.value(&property);
        value.is_some_and(|value| value.computed == color.as_str())
    });
    assert!(colors.count() > 0, "{color}");
}
