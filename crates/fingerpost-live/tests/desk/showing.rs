//! How the desk shows a page, in a real browser: what is painted after a text, environment that are made real, a tab
//! of its own, distances, hiding, before and after.

use crate::support::{Seat, Theme};
use fantoccini::key::Key;
use serde_json::json;

fn style_is(element: &str, property: &str, value: &str) -> String {
    format!("getComputedStyle(document.querySelector('{element}')).{property} === '{value}'")
}

/// Chooses another value of one of the controls of the environment.
async fn surround(seat: &Seat, control: &str, value: &str) {
    seat.js(&format!(
        "(document.querySelector('{control}').value = '{value}', \
         document.querySelector('{control}').dispatchEvent(new Event('change')))"
    ))
    .await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn contrast_is_measured_against_what_is_painted() {
    // In each case the containers alone would say white.
    let html = "<!doctype html><link rel=stylesheet href=a.css>\n\
        <div class=place><i class=wall></i><p id=sibling>Over a sibling</p></div>\n\
        <p id=gradient>Over a gradient</p>\n\
        <p id=image>Over an image</p>\n\
        <div class=place><img src=wall.svg alt=''><p id=picture>Over a picture</p></div>\n\
        <div id=faded><p id=half>Half as strong</p></div>\n\
        <p id=plain>Plain</p>\n";
    let css = "p { position: relative; margin: 0; color: rgb(255, 255, 255) }\n\
        .place { position: relative; height: 30px }\n\
        .wall, img { position: absolute; inset: 0; width: 100%; height: 100%; background: rgb(0, 0, 128) }\n\
        #gradient { background-image: linear-gradient(black, white) }\n\
        #image { background-image: url(wall.svg) }\n\
        #faded { opacity: 0.5 }\n#half { color: black }\n#plain { color: black }\n";
    let wall = "<svg xmlns='http://www.w3.org/2000/svg' width='20' height='20'>\
        <rect width='20' height='20' fill='#800000'/></svg>";
    let theme = Theme::of(&[("index.html", html), ("a.css", css), ("wall.svg", wall)]);
    let seat = theme.seat().await;
    for (element, ratio) in [
        // White over #000080 and over #800000, as the formula of WCAG 2 has it.
        ("#sibling", "16.00"),
        ("#image", "10.94"),
        ("#picture", "10.94"),
        // Where the gradient is white, nothing can be read.
        ("#gradient", "1.00"),
        // Black at half its strength over white is #808080.
        ("#half", "3.94"),
        ("#plain", "21.00"),
    ] {
        seat.find(element).await;
        seat.click("#step-why").await;
        seat.until(&format!(
            "document.querySelector('.chosen h2').textContent.includes('{element}') && \
             document.querySelector('#contrast').dataset.ratio === '{ratio}'"
        ))
        .await;
    }
    seat.find("#gradient").await;
    seat.click("#step-why").await;
    seat.until("document.querySelector('#contrast').innerText.includes('at its highest 21.00')")
        .await;
    // It follows what is tried.
    seat.find("#plain").await;
    seat.open_line("color").await;
    seat.js("document.querySelector(\"details[data-property='color'] input.edits\").select()")
        .await;
    seat.click("details[data-property='color'] input.edits")
        .await;
    seat.js("document.activeElement.select()").await;
    seat.press("gray").await;
    seat.until("document.querySelector('#contrast').dataset.ratio === '3.94'")
        .await;
    seat.until("document.querySelector('#contrast').innerText.includes('fails AA')")
        .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn more_pixels_are_real_ones() {
    let html = "<!doctype html><link rel=stylesheet href=a.css><p>Boats</p>\
        <img srcset='one.svg 1x, two.svg 2x' alt=''>";
    let css = "@media (min-resolution: 2dppx) { p { color: rgb(2, 2, 2) } }";
    let svg = "<svg xmlns='http://www.w3.org/2000/svg' width='20' height='20'/>";
    let theme = Theme::of(&[
        ("index.html", html),
        ("a.css", css),
        ("one.svg", svg),
        ("two.svg", svg),
    ]);
    let seat = theme.seat().await;
    surround(&seat, "#width", "600").await;
    seat.until_in_page("document.querySelector('img').currentSrc.endsWith('one.svg')")
        .await;
    let shown = "(({ width, height }) => [width, height].map(Math.round))\
        (document.querySelector('#live').getBoundingClientRect())";
    let before = seat.js(shown).await;
    surround(&seat, "#pixels", "2x").await;
    seat.until_in_page("devicePixelRatio === 2 && innerWidth === 600")
        .await;
    seat.until_in_page("document.querySelector('img').currentSrc.endsWith('two.svg')")
        .await;
    seat.until_in_page(&style_is("p", "color", "rgb(2, 2, 2)"))
        .await;
    assert_eq!(
        seat.js(shown).await,
        before,
        "it takes the same room on the desk"
    );
    // The answer is about the same environment.
    seat.find("p").await;
    seat.open_line("color").await;
    seat.until("document.querySelector(\"details[data-property='color'] .rung[data-wins]\")")
        .await;
    // Side by side, too, and no larger than its place.
    seat.click("#strip").await;
    let frame = "#strip-of-widths figure:last-child iframe";
    seat.until_in_frame(frame, "devicePixelRatio === 2").await;
    seat.until(
        "[...document.querySelectorAll('#strip-of-widths figure')].every((figure) => Math.abs(figure.offsetWidth - \
         figure.querySelector('iframe').getBoundingClientRect().width) < 2)",
    )
    .await;
    seat.click("#strip").await;
    surround(&seat, "#pixels", "1x").await;
    seat.until_in_page("devicePixelRatio === 1").await;
    seat.until_in_page(&style_is("p", "color", "rgb(0, 0, 0)"))
        .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn dark_reaches_what_asks_for_the_color_scheme() {
    let html = "<!doctype html><meta name=color-scheme content='light dark'><link rel=stylesheet href=a.css>\
        <p>Boats</p><b>Fares</b>";
    let css = "p { color-scheme: light dark; color: light-dark(rgb(1, 1, 1), rgb(2, 2, 2)) }\n\
        b { color: light-dark(rgb(3, 3, 3), rgb(4, 4, 4)) }\n\
        @media (prefers-color-scheme: dark) { b { top: 4px } }\nb:hover { left: 5px }";
    let theme = Theme::of(&[("index.html", html), ("a.css", css)]);
    let desk = theme.desk();
    for dark in [false, true] {
        let seat = Seat::in_scheme(&desk.address(), dark).await;
        let (own, other) = match dark {
            false => (
                ("rgb(1, 1, 1)", "rgb(3, 3, 3)"),
                ("rgb(2, 2, 2)", "rgb(4, 4, 4)"),
            ),
            true => (
                ("rgb(2, 2, 2)", "rgb(4, 4, 4)"),
                ("rgb(1, 1, 1)", "rgb(3, 3, 3)"),
            ),
        };
        seat.until_in_page(&style_is("p", "color", own.0)).await;
        // Holding a state leaves the scheme as it is.
        seat.find("b").await;
        seat.click("#states summary").await;
        seat.click("input[name=state][value=hover]").await;
        seat.until_in_page(&style_is("b", "left", "5px")).await;
        for (element, color) in [("p", own.0), ("b", own.1)] {
            seat.until_in_page(&style_is(element, "color", color)).await;
        }
        let top = if dark { "4px" } else { "auto" };
        seat.until_in_page(&style_is("b", "top", top)).await;
        let opposite = if dark { "light" } else { "dark" };
        surround(
            &seat,
            "#scheme",
            &format!("prefers-color-scheme={opposite}"),
        )
        .await;
        for (element, color) in [("p", other.0), ("b", other.1)] {
            seat.until_in_page(&style_is(element, "color", color)).await;
        }
        seat.close().await;
    }
    assert_eq!(theme.read("index.html"), html);
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn the_page_in_a_tab_of_its_own() {
    let theme = Theme::copy();
    let seat = theme.seat().await;
    seat.click("#own-tab").await;
    seat.until("document.body.classList.contains('apart')")
        .await;
    let windows = seat.client().windows().await.unwrap();
    let [column, tab] = &windows[..] else {
        panic!("{} windows", windows.len());
    };
    // Point at something there.
    seat.click("#point").await;
    seat.client().switch_to_window(tab.clone()).await.unwrap();
    seat.until("document.querySelector('.fare-price, h2.today')")
        .await;
    seat.click("h2.today").await;
    seat.client()
        .switch_to_window(column.clone())
        .await
        .unwrap();
    seat.until("document.querySelector('.chosen h2').textContent === 'h2.panel-title.today'")
        .await;
    seat.open_line("color").await;
    seat.click("details[data-property='color'] input.edits")
        .await;
    seat.js("document.activeElement.select()").await;
    seat.press("rgb(7, 7, 7)").await;
    seat.count_unsaved(1).await;
    seat.client().switch_to_window(tab.clone()).await.unwrap();
    seat.until(&style_is("h2.today", "color", "rgb(7, 7, 7)"))
        .await;
    // The answers are about the tab's own width.
    let width = seat.js("innerWidth").await;
    seat.client()
        .switch_to_window(column.clone())
        .await
        .unwrap();
    let (_, asked) = (
        seat.js("performance.clearResourceTimings()").await,
        "performance.getEntriesByType('resource').some((one) => one.name.includes('environment='))",
    );
    seat.js("document.activeElement.blur()").await;
    seat.press_key(Key::Left).await;
    seat.until(asked).await;
    seat.until(&format!(
        "performance.getEntriesByType('resource').some((one) => one.name.includes('environment={width}x'))"
    ))
    .await;
    // Closed again, the page is back beside the column.
    seat.client().switch_to_window(tab.clone()).await.unwrap();
    seat.client().close_window().await.unwrap();
    seat.client()
        .switch_to_window(column.clone())
        .await
        .unwrap();
    seat.until("!document.body.classList.contains('apart')")
        .await;
    seat.find(".note").await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn distances_and_what_is_set_aside() {
    let html = "<!doctype html><link rel=stylesheet href=a.css><div id=one></div><div id=two></div><p>Boats";
    let css = "div { position: absolute; width: 50px; height: 50px; top: 20px; left: 10px }\n\
        #two { top: 110px; left: 91px }";
    let theme = Theme::of(&[("index.html", html), ("a.css", css)]);
    let seat = theme.seat().await;
    seat.find("#one").await;
    seat.js("document.activeElement.blur()").await;
    seat.press("c").await;
    seat.hover_in_page("#two").await;
    seat.until(
        "document.querySelector('#said').textContent === '31 px across, 40 px down to div#two'",
    )
    .await;
    seat.press_key(Key::Escape).await;

    // Hidden, alone, and back: never in the draft.
    let visible = |element: &str, property: &str, value: &str| style_is(element, property, value);
    seat.press("h").await;
    seat.until_in_page(&visible("#one", "display", "none"))
        .await;
    seat.press_key(Key::Escape).await;
    seat.until_in_page(&visible("#one", "display", "block"))
        .await;
    seat.press("H").await;
    seat.until_in_page(&visible("#two", "visibility", "hidden"))
        .await;
    seat.until_in_page(&visible("#one", "visibility", "visible"))
        .await;
    seat.press_key(Key::Escape).await;
    seat.until_in_page(&visible("#two", "visibility", "visible"))
        .await;
    assert_eq!(
        seat.in_page("document.adoptedStyleSheets.length").await,
        json!(0)
    );
    seat.count_unsaved(0).await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn before_and_after_at_a_key() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html><link rel=stylesheet href=a.css><p>Boats</p>",
        ),
        ("a.css", "p { top: 1px }"),
    ]);
    let seat = theme.seat().await;
    seat.find("p").await;
    seat.click("#step-try").await;
    seat.type_into("#new-class input", "later\u{e007}").await;
    seat.until_in_page("document.querySelector('p.later')")
        .await;
    seat.open_line("top").await;
    seat.click("details[data-property='top'] input.edits").await;
    seat.press_key(Key::Up).await;
    seat.until_in_page(&style_is("p", "top", "2px")).await;
    seat.count_unsaved(2).await;
    seat.js("document.activeElement.blur()").await;
    for _ in 0..2 {
        seat.press("b").await;
        seat.until_in_page(&style_is("p", "top", "1px")).await;
        seat.until_in_page("!document.querySelector('.later')")
            .await;
        seat.press("b").await;
        seat.until_in_page(&style_is("p", "top", "2px")).await;
        seat.until_in_page("document.querySelector('p.later')")
            .await;
    }
    seat.count_unsaved(2).await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn every_property_can_be_seen() {
    let theme = Theme::of(&[("index.html", "<!doctype html><p>Boats</p>")]);
    let seat = theme.seat().await;
    seat.find("p").await;
    seat.click("#step-why").await;
    seat.until("document.querySelector(\"[data-property='display']\")")
        .await;
    assert_eq!(
        seat.js("!!document.querySelector(\"[data-property='flex-grow']\")")
            .await,
        json!(false)
    );
    seat.click("#all").await;
    seat.until("document.querySelectorAll('#lines .line').length > 300")
        .await;
    seat.type_into("#filter", "flex-gr").await;
    seat.until("document.querySelectorAll('#lines .line').length === 1")
        .await;
    seat.open_line("flex-grow").await;
    seat.until(
        "document.querySelector(\"[data-property='flex-grow'] .ladder\").innerText.includes('initial value')",
    )
    .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_pseudo_element_is_worked_on_as_an_element_is() {
    let css = "p::before { content: \"Now \"; color: rgb(1, 1, 1) }\n.b::before { color: rgb(2, 2, 2) }\n";
    let html = "<!doctype html><link rel=stylesheet href=a.css><p class=b>Boats";
    let theme = Theme::of(&[("index.html", html), ("a.css", css)]);
    let seat = theme.seat().await;
    seat.find("p").await;
    seat.click("#step-why").await;
    seat.until("document.querySelector('button[data-pseudo]')")
        .await;
    seat.js("document.querySelector('button[data-pseudo]').closest('details').open = true")
        .await;
    seat.click("button[data-pseudo='::before']").await;
    seat.until("document.querySelector('.chosen h2').textContent === 'p.b::before'")
        .await;
    seat.open_line("color").await;
    seat.until("document.querySelectorAll(\"details[data-property='color'] .rung\").length === 2")
        .await;
    seat.click("details[data-property='color'] input.edits")
        .await;
    seat.js("document.activeElement.select()").await;
    seat.press("rgb(3, 3, 3)").await;
    seat.until_in_page(
        "getComputedStyle(document.querySelector('p'), '::before').color === 'rgb(3, 3, 3)'",
    )
    .await;
    seat.count_unsaved(1).await;
    // Out of it, to its element.
    seat.js("document.activeElement.blur()").await;
    seat.press_key(Key::Left).await;
    seat.until("document.querySelector('.chosen h2').textContent === 'p.b'")
        .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn the_width_follows_the_mouse() {
    let css = "@media (max-width: 600px) { p { top: 6px } }";
    let html = "<!doctype html><meta name=viewport content='width=device-width'><link rel=stylesheet href=a.css><p>Boats";
    let theme = Theme::of(&[("index.html", html), ("a.css", css)]);
    let seat = theme.seat().await;
    seat.find("p").await;
    surround(&seat, "#width", "700").await;
    seat.until_in_page("innerWidth === 700").await;
    seat.drag_by("#grip", (-60.0, 0.0)).await;
    // The page is in the middle: it gives way on both sides.
    seat.until_in_page("innerWidth === 580").await;
    seat.until_in_page(&style_is("p", "top", "6px")).await;
    seat.until("document.querySelector('#width').value === '580'")
        .await;
    seat.open_line("top").await;
    seat.until("document.querySelector(\"details[data-property='top'] .rung[data-wins]\")")
        .await;
    seat.close().await;
}
