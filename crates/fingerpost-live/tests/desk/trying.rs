//! What can be tried on the desk, in a real browser: rules, colors by the palette and from the screen, values by
//! their parts, moving by drag, and what is done with a change that no longer fits.

use crate::support::{Seat, Theme};
use fantoccini::key::Key;
use serde_json::json;

const ISLES: &str = "<!doctype html><title>Isles</title><link rel=stylesheet href=a.css>\n\
    <ul>\n  <li id=north>North</li>\n  <li id=south>South</li>\n  <li id=west>West</li>\n</ul>\n<p>Boats\n";

fn style_is(element: &str, property: &str, value: &str) -> String {
    format!("getComputedStyle(document.querySelector('{element}')).{property} === '{value}'")
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_rule_goes_where_it_is_wanted_and_leaves_again() {
    let theme = Theme::copy();
    let before = theme.read("css/overrides.css");
    let desk = theme.desk();
    let seat = Seat::at(&desk.address()).await;
    seat.find("h2.today").await;
    seat.click("#step-try").await;
    seat.click("#into option[value=overrides]").await;
    seat.type_into("#new-rule input[name=selector]", ".panel .today")
        .await;
    seat.type_into(
        "#new-rule [name=declarations]",
        "letter-spacing: 5px; top: 0",
    )
    .await;
    seat.click("#new-rule button").await;
    seat.until_in_page(&style_is("h2.today", "letterSpacing", "5px"))
        .await;
    seat.count_unsaved(1).await;
    seat.click("#step-save").await;
    seat.until("document.querySelector('.diff').innerText.includes('.panel .today {')")
        .await;
    seat.until("document.querySelector('.changes').innerText.includes('css/overrides.css')")
        .await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    let after = theme.read("css/overrides.css");
    assert!(after.starts_with(&before), "what was there stays");
    let words: Vec<&str> = after[before.len()..].split_whitespace().collect();
    assert_eq!(
        words.join(" "),
        ".panel .today { letter-spacing: 5px; top: 0; }"
    );
    seat.click("[data-do=unsave]").await;
    // The change is in the draft again, and shown.
    seat.count_unsaved(1).await;
    seat.until_in_page(&style_is("h2.today", "letterSpacing", "5px"))
        .await;
    assert_eq!(theme.read("css/overrides.css"), before);
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_color_by_the_palette_by_its_alpha_and_from_the_screen() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html><link rel=stylesheet href=a.css><p>Boats",
        ),
        (
            "a.css",
            ":root { --sea: rgb(0, 64, 128); }\np { color: rgb(1, 2, 3); }\nb { color: #abcdef; }\n",
        ),
    ]);
    let seat = theme.seat().await;
    // What a browser with a window would pick.
    seat.js(
        "window.EyeDropper = class { open() { return Promise.resolve({ sRGBHex: '#102030' }) } }",
    )
    .await;
    seat.find("p").await;
    seat.open_line("color").await;
    let field = "details[data-property='color'] input.edits";
    seat.click(field).await;
    // The theme's own variables stand before its other colors.
    seat.until("document.querySelector('.helps [data-value]').dataset.value === 'var(--sea)'")
        .await;
    seat.click(".helps [data-value='var(--sea)']").await;
    seat.until_in_page(&style_is("p", "color", "rgb(0, 64, 128)"))
        .await;
    seat.click(".helps [data-value='#abcdef']").await;
    seat.until_in_page(&style_is("p", "color", "rgb(171, 205, 239)"))
        .await;
    seat.js(&format!(
        "(document.querySelector(\"{field}\").value = 'rgb(1, 2, 3)', \
         document.querySelector(\"{field}\").dispatchEvent(new Event('input', {{ bubbles: true }})))"
    ))
    .await;
    seat.until_in_page(&style_is("p", "color", "rgb(1, 2, 3)"))
        .await;
    seat.click(".helps button:not([data-value])").await;
    seat.until_in_page(&style_is("p", "color", "rgb(16, 32, 48)"))
        .await;
    seat.js(
        "(document.querySelector('.alpha input').value = 0.5, \
         document.querySelector('.alpha input').dispatchEvent(new Event('input', { bubbles: true })))",
    )
    .await;
    seat.until_in_page(&style_is("p", "color", "rgba(16, 32, 48, 0.5)"))
        .await;
    seat.count_unsaved(1).await;
    seat.js("document.activeElement.blur()").await;
    seat.click("#step-save").await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    // The notation is the one that was there.
    assert!(
        theme
            .read("a.css")
            .contains("p { color: rgba(16, 32, 48, 0.5); }")
    );
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_shadow_by_its_parts() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html><link rel=stylesheet href=a.css><p>Boats",
        ),
        (
            "a.css",
            "p { box-shadow: 0 1px 2px teal, inset 0 0 4px red; }\n",
        ),
    ]);
    let seat = theme.seat().await;
    seat.find("p").await;
    seat.open_line("box-shadow").await;
    seat.click("details[data-property='box-shadow'] input.edits")
        .await;
    seat.until("document.querySelectorAll('.parts .one-part').length === 9")
        .await;
    // The third part, by two steps of the keyboard.
    seat.click(".parts .one-part:nth-of-type(3)").await;
    for _ in 0..2 {
        seat.press_key(Key::Up).await;
    }
    seat.until_in_page("getComputedStyle(document.querySelector('p')).boxShadow.startsWith('rgb(0, 128, 128) 0px 1px 4px')").await;
    seat.count_unsaved(1).await;
    seat.js("document.activeElement.blur()").await;
    seat.click("#step-save").await;
    seat.until("document.querySelector('.diff').innerText.includes('box-shadow: 0 1px 4px teal, inset 0 0 4px red;')").await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn an_element_is_moved_by_drag() {
    let theme = Theme::of(&[("index.html", ISLES), ("a.css", "")]);
    let seat = theme.seat().await;
    seat.find("ul").await;
    seat.click("#step-find").await;
    seat.until("document.querySelectorAll('.movable .hit').length === 3")
        .await;
    seat.drag(
        ".movable li:nth-child(1) .hit",
        ".movable li:nth-child(3) .hit",
        0.8,
    )
    .await;
    seat.until_in_page(
        "[...document.querySelectorAll('li')].map((li) => li.id).join() === 'south,west,north'",
    )
    .await;
    // In front of another one, when it is let go over its upper half.
    seat.until("document.querySelector('.movable .hit').textContent.includes('south')")
        .await;
    seat.drag(
        ".movable li:nth-child(2) .hit",
        ".movable li:nth-child(1) .hit",
        0.2,
    )
    .await;
    seat.until_in_page(
        "[...document.querySelectorAll('li')].map((li) => li.id).join() === 'west,south,north'",
    )
    .await;
    seat.click("#step-save").await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    assert!(theme.read("index.html").contains(
        "<ul>\n  <li id=west>West</li>\n  <li id=south>South</li>\n  <li id=north>North</li>\n</ul>"
    ));
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn several_elements_at_once_and_an_element_that_is_pasted() {
    let theme = Theme::of(&[("index.html", ISLES), ("a.css", "")]);
    let seat = theme.seat().await;
    seat.find("#north").await;
    seat.click("#step-try").await;
    seat.type_into("#each", "li").await;
    seat.type_into("#new-class input", "isle\u{e007}").await;
    seat.until_in_page("document.querySelectorAll('li.isle').length === 3")
        .await;
    seat.count_unsaved(1).await;
    seat.js("document.querySelector('#each').value = ''").await;
    seat.js("document.querySelector('#paste').closest('details').open = true")
        .await;
    seat.type_into("#paste textarea", "<li id=east>East</li>")
        .await;
    seat.click("#paste button").await;
    seat.until_in_page("document.querySelector('#north').nextElementSibling.id === 'east'")
        .await;
    // What can't be one is refused, and nothing is changed.
    seat.js("document.querySelector('#paste textarea').value = ''")
        .await;
    seat.type_into("#paste textarea", "<li>Open <b").await;
    seat.click("#paste button").await;
    seat.until("document.querySelector('#said').classList.contains('bad')")
        .await;
    seat.count_unsaved(2).await;
    // The chosen element stays chosen, whatever is put in before it or removed; gone, it gives way to its container.
    let chosen =
        |label: &str| format!("document.querySelector('.chosen h2').textContent === '{label}'");
    seat.find("#south").await;
    seat.until(&chosen("li#south.isle")).await;
    seat.click("#step-try").await;
    seat.click("[data-do=move][data-side=before]").await;
    seat.until_in_page("document.querySelector('#south').nextElementSibling.id === 'east'")
        .await;
    seat.until(&chosen("li#south.isle")).await;
    // By the keyboard, too; and it is the same element that is moved.
    seat.in_page("window.south = document.querySelector('#south')")
        .await;
    seat.js("document.activeElement.blur()").await;
    seat.press("\u{e008}\u{e015}\u{e008}").await;
    seat.until_in_page("document.querySelector('#south').previousElementSibling.id === 'east'")
        .await;
    seat.until(&chosen("li#south.isle")).await;
    seat.press("\u{e008}\u{e012}\u{e008}").await;
    seat.until_in_page("document.querySelector('ul').nextElementSibling.id === 'south'")
        .await;
    seat.until(&chosen("li#south.isle")).await;
    assert_eq!(
        seat.in_page("window.south === document.querySelector('#south')")
            .await,
        json!(true)
    );
    seat.press("u").await;
    seat.until_in_page("document.querySelector('#south').previousElementSibling.id === 'east'")
        .await;
    seat.until(&chosen("li#south.isle")).await;
    seat.click("[data-do=remove-element]").await;
    seat.until_in_page("!document.querySelector('#south')")
        .await;
    seat.until(&chosen("ul")).await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_change_that_no_longer_fits_is_made_again_or_left() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html><link rel=stylesheet href=a.css><p>Boats",
        ),
        ("a.css", "p {\n  top: 1px;\n  left: 1px;\n}\n"),
    ]);
    let seat = theme.seat().await;
    seat.find("p").await;
    for property in ["top", "left"] {
        seat.open_line(property).await;
        seat.click(&format!("details[data-property='{property}'] input.edits"))
            .await;
        seat.press_key(Key::Up).await;
    }
    seat.count_unsaved(2).await;
    seat.js("document.activeElement.blur()").await;
    theme.write("a.css", "p {\n  top: 50px;\n  left: 60px;\n}\n");
    seat.click("#step-save").await;
    seat.until("document.querySelectorAll('.changes .problem').length === 2")
        .await;
    // Both sides are shown, and each can be taken.
    seat.until("document.querySelector('.changes pre.diff').innerText.includes('2px') && document.querySelector('.changes').innerText.includes('50px')")
        .await;
    seat.click(".changes li:first-child [data-do=reapply]")
        .await;
    seat.until_in_page(&style_is("p", "top", "2px")).await;
    seat.until("document.querySelectorAll('.changes .problem').length === 1")
        .await;
    seat.click("[data-do=discard-edit]").await;
    seat.until("document.querySelectorAll('.changes .problem').length === 0")
        .await;
    seat.until_in_page(&style_is("p", "left", "60px")).await;
    seat.count_unsaved(1).await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    assert_eq!(theme.read("a.css"), "p {\n  top: 2px;\n  left: 60px;\n}\n");
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_value_is_tried_while_the_element_is_held_and_seen_at_every_width() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html><link rel=stylesheet href=a.css><a href=#>Boats</a>",
        ),
        (
            "a.css",
            "a { top: 1px }\na:hover { left: 1px }\n@media (max-width: 400px) { a { right: 1px } }\n",
        ),
    ]);
    let seat = theme.seat().await;
    seat.find("a").await;
    seat.click("#states summary").await;
    seat.click("input[name=state][value=hover]").await;
    seat.until_in_page(&style_is("a", "left", "1px")).await;
    for property in ["left", "top"] {
        seat.open_line(property).await;
        seat.click(&format!("details[data-property='{property}'] input.edits"))
            .await;
        seat.press_key(Key::Up).await;
        seat.until_in_page(&style_is("a", property, "2px")).await;
    }
    assert_eq!(
        seat.in_page("document.querySelector('a').matches(':hover')")
            .await,
        json!(false),
        "it is only held"
    );
    seat.click("input[name=state][value=hover]").await;
    seat.js("document.activeElement.blur()").await;

    // Side by side, every frame follows.
    seat.click("#strip").await;
    seat.until("document.querySelectorAll('#strip-of-widths iframe').length > 1")
        .await;
    seat.open_line("top").await;
    seat.js("document.querySelector(\"details[data-property='top'] input.edits\").focus()")
        .await;
    seat.press_key(Key::Up).await;
    let count = seat
        .js("document.querySelectorAll('#strip-of-widths iframe').length")
        .await;
    let mut narrow = 0;
    for number in 1..=count.as_u64().unwrap() {
        let frame = format!("#strip-of-widths figure:nth-child({number}) iframe");
        seat.until_in_frame(&frame, &style_is("a", "top", "3px"))
            .await;
        let width = seat.in_frame(&frame, "innerWidth").await.as_u64().unwrap();
        let wanted = if width <= 400 { "1px" } else { "auto" };
        seat.until_in_frame(&frame, &style_is("a", "right", wanted))
            .await;
        narrow += usize::from(width <= 400);
    }
    assert!(narrow > 0, "one of the widths is a narrow one");
    seat.close().await;
}

/// Fills the fields of a form and sends it.
async fn send(seat: &Seat, form: &str, fields: &[(&str, &str)]) {
    seat.until(&format!("document.querySelector({form:?})"))
        .await;
    seat.js(&format!(
        "document.querySelector({form:?}).closest('details.further')?.setAttribute('open', '')"
    ))
    .await;
    for (name, value) in fields {
        seat.js(&format!(
            "document.querySelector({form:?}).elements.{name}.value = {value:?}"
        ))
        .await;
    }
    seat.click(&format!("{form} button")).await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn the_rule_around_a_declaration_and_the_theme_around_the_rule() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html>\n<title>Pier</title>\n<link rel=stylesheet href=a.css>\n<p class=note>Boats</p>\n",
        ),
        (
            "a.css",
            ".note, b {\n  color: #ff0000;\n  /* top: 4px; */\n}\n\n@media (width > 100px) {\n  .note {\n    left: 3px;\n  }\n}\n",
        ),
    ]);
    let seat = theme.seat().await;
    seat.find(".note").await;
    let with = |change: &str| format!("form[data-change*='\"{change}\"']");
    let in_color = |change: &str| format!("details[data-property='color'] {}", with(change));
    let saved = |wanted: &'static str| {
        let seat = &seat;
        let theme = &theme;
        async move {
            seat.count_unsaved(1).await;
            seat.click("#step-save").await;
            seat.click("#save-all").await;
            seat.count_unsaved(0).await;
            let sheet = theme.read("a.css");
            assert!(sheet.contains(wanted), "{wanted}: {sheet}");
        }
    };

    // The declaration: its mark, its notation, its property.
    seat.open_line("color").await;
    seat.js("document.querySelector('details.further').open = true")
        .await;
    seat.click("details[data-property='color'] button[data-change*=important]")
        .await;
    saved("color: #ff0000 !important;").await;
    seat.open_line("color").await;
    send(&seat, &in_color("convert-color"), &[("to", "hsl")]).await;
    saved("color: hsl(0 100% 50%) !important;").await;
    seat.open_line("color").await;
    send(
        &seat,
        &in_color("change-property"),
        &[("to", "outline-color")],
    )
    .await;
    saved("outline-color: hsl(0 100% 50%) !important;").await;

    // Its rule: the condition around it, its selectors, one of them by itself, a group around it.
    seat.open_line("left").await;
    send(
        &seat,
        &format!("details[data-property='left'] {}", with("condition")),
        &[("to", "(width > 120px)")],
    )
    .await;
    saved("@media (width > 120px) {").await;
    seat.open_line("outline-color").await;
    seat.js("document.querySelector(\"details[data-property='outline-color'] details.further\").open = true")
        .await;
    seat.click("details[data-property='outline-color'] button[data-change*=split]")
        .await;
    seat.until_in_page("document.styleSheets[0].cssRules.length === 3")
        .await;
    saved(".note {\n  outline-color").await;
    seat.open_line("outline-color").await;
    send(
        &seat,
        &format!(
            "details[data-property='outline-color'] {}",
            with("selector")
        ),
        &[("to", "p.note")],
    )
    .await;
    saved("p.note {").await;
    seat.open_line("outline-color").await;
    send(
        &seat,
        &format!("details[data-property='outline-color'] {}", with("enclose")),
        &[("within", "@layer base")],
    )
    .await;
    saved("@layer base {").await;

    // The theme: a comment, a name, an at-rule, a sheet, a tag.
    seat.click("#step-try").await;
    send(&seat, &with("enable"), &[("property", "top")]).await;
    saved("\n    top: 4px;").await;
    seat.click("#step-try").await;
    send(
        &seat,
        &with("rename"),
        &[("what", "class"), ("from", "note"), ("to", "hint")],
    )
    .await;
    seat.until_in_page("document.querySelector('p.hint')").await;
    saved("p.hint {").await;
    seat.click("#step-try").await;
    send(
        &seat,
        &with("at-rule"),
        &[("source", "@keyframes fade { to { opacity: 0 } }")],
    )
    .await;
    seat.count_unsaved(1).await;
    seat.click("#step-try").await;
    send(&seat, &with("new-sheet"), &[("file", "season.css")]).await;
    seat.until_in_page("document.querySelector('link[href=\"season.css\"]')")
        .await;
    send(&seat, &with("tag"), &[("name", "section")]).await;
    seat.until_in_page("document.querySelector('section.hint')")
        .await;
    seat.count_unsaved(3).await;
    seat.click("#step-save").await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    let page = theme.read("index.html");
    assert!(
        page.contains("<section class=hint>Boats</section>") && page.contains("season.css"),
        "{page}"
    );
    assert!(theme.path("season.css").is_file());
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_custom_property_in_its_line_and_one_change_saved_alone() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html><link rel=stylesheet href=a.css><p class=panel>Boats",
        ),
        (
            "a.css",
            ":root { --sea: rgb(0, 64, 128); }\n.panel { color: var(--sea); top: 1px; }\n",
        ),
    ]);
    let seat = theme.seat().await;
    seat.find(":root").await;
    seat.open_line("--sea").await;
    seat.js(
        "(field => { field.value = 'rgb(1, 2, 3)'; field.dispatchEvent(new Event('input', { bubbles: true })) })\
         (document.querySelector(\"details[data-property='--sea'] input.edits\"))",
    )
    .await;
    seat.until_in_page(&style_is("p", "color", "rgb(1, 2, 3)"))
        .await;
    seat.count_unsaved(1).await;
    seat.find("p").await;
    seat.click("#step-try").await;
    // The classes of the theme are offered.
    seat.type_into("#new-class input", "pan").await;
    seat.until("document.querySelector('#classes option[value=panel]')")
        .await;
    seat.type_into("#new-declaration input", "left: 4px\u{e007}")
        .await;
    seat.count_unsaved(2).await;
    seat.click("#step-save").await;
    seat.click("[data-do=save-edit][data-id='1']").await;
    seat.count_unsaved(1).await;
    assert_eq!(
        theme.read("a.css"),
        ":root { --sea: rgb(1, 2, 3); }\n.panel { color: var(--sea); top: 1px; }\n"
    );
    seat.close().await;
}

/// In a theme that has only a vendor sheet, the refusal offers a button that makes an override sheet.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_change_that_would_not_last_has_its_way_out_beside_it() {
    let page = "<!doctype html><title>Boats</title>\n<link rel=\"stylesheet\" href=\"vendor/kit.css\">\n<h1 class=head>Boats</h1>\n";
    let kit = ".head { letter-spacing: 1px }\n";
    let theme = Theme::of(&[
        ("index.html", page),
        ("fares.html", page),
        ("vendor/kit.css", kit),
    ]);
    let seat = theme.seat().await;
    seat.find("h1").await;
    seat.click("#step-try").await;
    seat.open_line("letter-spacing").await;
    let field = "details[data-property='letter-spacing'] input.edits";
    seat.js(&format!("document.querySelector(\"{field}\").select()"))
        .await;
    seat.type_into(field, "5px\u{e007}").await;
    seat.until(
        "document.querySelector('#said').innerText.includes('vendor/kit.css is a vendor sheet')",
    )
    .await;
    assert_eq!(theme.read("vendor/kit.css"), kit);
    seat.count_unsaved(0).await;
    seat.click("#said button").await;
    seat.count_unsaved(2).await;
    seat.until_in_page(&style_is("h1", "letterSpacing", "5px"))
        .await;
    seat.click("#step-save").await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    assert_eq!(theme.read("vendor/kit.css"), kit);
    let own = theme.read("overrides.css");
    assert!(own.contains("letter-spacing: 5px"), "{own}");
    assert!(theme.read("fares.html").contains("overrides.css"));
    seat.close().await;
}
