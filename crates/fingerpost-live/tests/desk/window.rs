//! The story on the demo theme, in a real browser, by real clicks and keys.

use crate::support::{Seat, Theme};
use fantoccini::key::Key;
use fingerpost_live::Settings;
use serde_json::json;
use test_browser::{Files, Scripts};

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn point_why_step_save() {
    let theme = Theme::copy();
    let seat = theme.seat().await;

    // Point at the heading: it is named, and its properties are there.
    seat.point_at("h2.today").await;
    seat.until("document.querySelector('.chosen h2').textContent === 'h2.panel-title.today'")
        .await;
    seat.until("document.querySelector('#contrast').dataset.ratio === '5.92'")
        .await;

    // Why is it brown? The ladder says it, with the reasons of those that lost.
    seat.open_line("color").await;
    let ladder = seat
        .js("document.querySelector(\"details[data-property='color'] .ladder\").innerText")
        .await;
    let ladder = ladder.as_str().unwrap();
    assert!(
        ladder.contains("css/skerry.css:256") && ladder.contains("wins"),
        "{ladder}"
    );
    assert!(
        ladder.contains("declared earlier (line 242; the winner is on line 256)"),
        "{ladder}"
    );

    // A value by the keyboard: three steps are one change, and the page follows.
    seat.open_line("font-size").await;
    seat.click("details[data-property='font-size'] input.edits")
        .await;
    for _ in 0..3 {
        seat.press_key(Key::Up).await;
    }
    seat.until_in_page(
        "getComputedStyle(document.querySelector('h2.today')).fontSize === '24.8px'",
    )
    .await;
    seat.count_unsaved(1).await;
    assert!(
        theme
            .read("css/parts/panel.css")
            .contains("font-size: 1.25rem"),
        "nothing is saved yet"
    );

    // What else it changes.
    seat.until("document.querySelector('#moved').textContent.includes('Also changes')")
        .await;
    seat.until("document.querySelector('#moved').textContent.includes('pages/fares.html')")
        .await;

    // Stepping back to the first value leaves no change.
    for _ in 0..3 {
        seat.press_key(Key::Down).await;
    }
    seat.count_unsaved(0).await;
    seat.until_in_page("getComputedStyle(document.querySelector('h2.today')).fontSize === '20px'")
        .await;
    seat.press_key(Key::Up).await;
    seat.count_unsaved(1).await;

    // Save, and read the file: only that value is another one.
    let before = theme.read("css/parts/panel.css");
    seat.click("#step-save").await;
    seat.until("document.querySelector('.diff').innerText.includes('font-size: 1.35rem')")
        .await;
    seat.click("#save-all").await;
    seat.count_unsaved(0).await;
    assert_eq!(
        theme.read("css/parts/panel.css"),
        before.replace("font-size: 1.25rem", "font-size: 1.35rem")
    );
    // And the save can be undone.
    seat.click("[data-do=unsave]").await;
    seat.until(
        "document.querySelector('#said').textContent.toLowerCase().includes('undid the last save')",
    )
    .await;
    assert_eq!(theme.read("css/parts/panel.css"), before);
    seat.close().await;
}

/// A press is a click, though the panel is made again between the press and the release.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn what_is_pressed_stays_until_it_is_released() {
    let theme = Theme::copy();
    let seat = theme.seat().await;
    seat.point_at("h2.today").await;
    seat.open_line("font-size").await;
    seat.click("details[data-property='font-size'] input.edits")
        .await;
    seat.press_key(Key::Up).await;
    seat.count_unsaved(1).await;
    seat.click("#step-save").await;
    seat.until("document.querySelector('.diff').innerText.includes('font-size: 1.35rem')")
        .await;
    seat.js(
        "addEventListener('pointerdown', () => import('/desk/column.js').then((column) => column.showSave()))",
    )
    .await;
    seat.drag_by("#save-all", (0.0, 0.0)).await;
    seat.count_unsaved(0).await;
    let sheet = theme.read("css/parts/panel.css");
    assert!(sheet.contains("font-size: 1.35rem"), "{sheet}");
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn states_widths_and_environments_are_made_real() {
    let css = "a { color: rgb(1, 1, 1) } a:hover { color: rgb(2, 2, 2) } nav:hover a { top: 7px }
        @media (prefers-color-scheme: dark) { p { color: rgb(3, 3, 3) } }
        @media print { p { left: 9px } }
        @media (max-width: 500px) { p { right: 5px } }";
    let html = "<!doctype html><link rel=stylesheet href=a.css><style>p:hover { bottom: 4px }</style>\
        <nav><a href=#>Boats</a></nav><p>Fares";
    let theme = Theme::of(&[("index.html", html), ("a.css", css)]);
    let seat = theme.seat().await;
    let is = |element: &str, property: &str, value: &str| {
        format!("getComputedStyle(document.querySelector('{element}')).{property} === '{value}'")
    };

    seat.find("a").await;
    seat.click("#states summary").await;
    seat.click("input[name=state][value=hover]").await;
    seat.until_in_page(&is("a", "color", "rgb(2, 2, 2)")).await;
    // Its container is hovered, too.
    seat.until_in_page(&is("a", "top", "7px")).await;
    // The answer is about the state that is held.
    seat.open_line("color").await;
    seat.until("document.querySelector(\"details[data-property='color'] .rung[data-wins]\").innerText.includes('a:hover')").await;
    seat.click("input[name=state][value=hover]").await;
    seat.until_in_page(&is("a", "color", "rgb(1, 1, 1)")).await;

    seat.js(
        "(document.querySelector('#scheme').value = 'prefers-color-scheme=dark', \
        document.querySelector('#scheme').dispatchEvent(new Event('change')))",
    )
    .await;
    seat.until_in_page(&is("p", "color", "rgb(3, 3, 3)")).await;
    seat.js("(document.querySelector('#medium').value = 'print', \
        document.querySelector('#medium').dispatchEvent(new Event('change')))")
        .await;
    seat.until_in_page(&is("p", "left", "9px")).await;

    // The width by the grip, with the keyboard.
    seat.js("(document.querySelector('#width').value = 505, \
        document.querySelector('#width').dispatchEvent(new Event('change')))")
        .await;
    seat.until_in_page("innerWidth === 505").await;
    seat.js("document.querySelector('#grip').focus()").await;
    seat.press_key(Key::Left).await;
    seat.until_in_page("innerWidth === 495").await;
    seat.until_in_page(&is("p", "right", "5px")).await;
    assert_eq!(theme.read("a.css"), css, "what is assumed is in no file");
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn markup_is_patched_in_place() {
    let html = "<!doctype html><title>Pier</title><link rel=stylesheet href=a.css>\n<form><input id=name></form>\n\
        <ul>\n<li>North\n<li class=b>South\n</ul>\n<p id=last>End</p>\n\
        <script>const made = document.createElement('aside'); made.className = 'made'; made.textContent = 'script'; \
        document.body.append(made); window.runs = (window.runs ?? 0) + 1; window.mark = {}</script>";
    let theme = Theme::of(&[
        ("index.html", html),
        (
            "a.css",
            ".made { color: rgb(9, 9, 9) } .wide { width: 300px }",
        ),
    ]);
    let seat = theme.seat().await;
    seat.in_page("document.querySelector('#name').value = 'Ada'")
        .await;
    seat.in_page("window.kept = document.querySelector('#last')")
        .await;

    // No handle is left in the page, and a script saw none.
    assert_eq!(
        seat.in_page("document.documentElement.outerHTML.includes('data-fingerpost')")
            .await,
        json!(false)
    );

    seat.find("li.b").await;
    seat.click("#step-try").await;
    seat.type_into("#new-class input", "wide").await;
    seat.press_key(Key::Enter).await;
    seat.until_in_page("document.querySelector('li.b.wide')")
        .await;
    seat.click("[data-do=duplicate]").await;
    seat.until_in_page("document.querySelectorAll('li').length === 3")
        .await;
    seat.click("[data-do=move][data-side=before]").await;
    seat.until_in_page("document.querySelector('li').className === 'b wide'")
        .await;
    seat.find("#last").await;
    seat.click("#step-try").await;
    seat.until("document.querySelector('#new-text input').value === 'End'")
        .await;
    seat.js("document.querySelector('#new-text input').select()")
        .await;
    seat.type_into("#new-text input", "Fin\u{e007}").await;
    seat.until_in_page("document.querySelector('#last').textContent.trim() === 'Fin'")
        .await;

    // It is the same page: the form, the script's own element, and the elements that did not change.
    assert_eq!(
        seat.in_page("document.querySelector('#name').value").await,
        json!("Ada")
    );
    assert_eq!(seat.in_page("window.runs").await, json!(1));
    assert_eq!(
        seat.in_page("window.kept === document.querySelector('#last')")
            .await,
        json!(true)
    );
    assert_eq!(
        seat.in_page("document.querySelectorAll('.made').length")
            .await,
        json!(1)
    );

    // What a script made is shown as such, with the theme's rules, and its markup is not edited.
    seat.point_at(".made").await;
    seat.until("document.querySelector('[data-made]').innerText.includes('made by a script')")
        .await;
    seat.until("document.querySelector('#lines').innerText.includes('rgb(9, 9, 9)')")
        .await;

    // Undo, all of it, from the keyboard.
    for left in (0..4).rev() {
        seat.js("document.activeElement.blur()").await;
        seat.press("u").await;
        seat.count_unsaved(left).await;
    }
    seat.until_in_page(
        "document.querySelectorAll('li').length === 2 && !document.querySelector('.wide')",
    )
    .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn the_text_is_written_on_the_page() {
    let theme = Theme::copy();
    let seat = theme.seat().await;
    seat.find("h2.today").await;
    seat.click("#step-try").await;
    seat.click("#on-page").await;
    seat.until_in_page("document.querySelector('h2.today').isContentEditable")
        .await;
    let frame = seat
        .client()
        .find(fantoccini::Locator::Css("#live"))
        .await
        .unwrap();
    frame.enter_frame().await.unwrap();
    let active = seat.client().active_element().await.unwrap();
    active.send_keys("Boats today").await.unwrap();
    seat.client().clone().enter_parent_frame().await.unwrap();
    seat.count_unsaved(1).await;
    seat.click("#step-save").await;
    seat.until("document.querySelector('.diff').innerText.includes('Boats today</h2>')")
        .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_file_that_changes_on_disk_is_taken_up() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html><link rel=stylesheet href=a.css><p>Boats",
        ),
        ("a.css", "p {\n  color: rgb(1, 1, 1);\n  top: 1px;\n}\n"),
    ]);
    let seat = theme.seat().await;
    seat.find("p").await;
    seat.open_line("top").await;
    seat.click("details[data-property='top'] input.edits").await;
    seat.press_key(Key::Up).await;
    seat.count_unsaved(1).await;
    // Another editor saves the file: the draft stands over it.
    theme.write(
        "a.css",
        "/* new */\np {\n  color: rgb(2, 2, 2);\n  top: 1px;\n}\n",
    );
    seat.until_in_page("getComputedStyle(document.querySelector('p')).color === 'rgb(2, 2, 2)'")
        .await;
    seat.until_in_page("getComputedStyle(document.querySelector('p')).top === '2px'")
        .await;
    // What no longer fits is shown, and nothing is lost.
    theme.write("a.css", "p {\n  color: rgb(3, 3, 3);\n}\n");
    seat.until_in_page("getComputedStyle(document.querySelector('p')).color === 'rgb(3, 3, 3)'")
        .await;
    seat.click("#step-save").await;
    seat.until("document.querySelector('.changes').innerText.includes('does not fit')")
        .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn two_desks_see_each_other_and_the_draft_outlives_the_server() {
    let theme = Theme::copy();
    let desk = theme.desk();
    let one = Seat::at(&desk.address()).await;
    let other = Seat::at(&desk.address()).await;
    one.find("h2.today").await;
    one.click("#step-try").await;
    one.type_into("#new-declaration input", "letter-spacing: 3px\u{e007}")
        .await;
    one.count_unsaved(1).await;
    other.count_unsaved(1).await;
    other
        .until_in_page(
            "getComputedStyle(document.querySelector('h2.today')).letterSpacing === '3px'",
        )
        .await;
    one.close().await;
    other.close().await;
    drop(desk);

    let again = theme.desk();
    let seat = Seat::at(&again.address()).await;
    seat.count_unsaved(1).await;
    seat.until_in_page(
        "getComputedStyle(document.querySelector('h2.today')).letterSpacing === '3px'",
    )
    .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_page_with_nothing_held_looks_as_without_the_desk() {
    let theme = Theme::copy();
    let desk = theme.desk();
    let window = (900, 1200);
    let browser = test_browser::Browser::start(test_browser::BrowserSettings {
        window,
        dark: false,
    })
    .await;
    // The plain server gives the same files without handles and agent.
    let plain = Files::of(&theme.path(""), Scripts::Run);
    // What moves by itself is made to stand still.
    let still = "for (const one of document.getAnimations()) one.cancel(); return true";
    for page in ["home", "fares", "timetable", "notices"] {
        // Fonts, images and frames come when they come; what stays different is different.
        let mut same = false;
        for wait in [300, 1000, 3000] {
            let mut shots = Vec::new();
            for base in [desk.page_address(), plain.url("")] {
                let url = format!("{base}pages/{page}.html");
                browser.client.goto(&url).await.unwrap();
                tokio::time::sleep(std::time::Duration::from_millis(wait)).await;
                browser.client.execute(still, Vec::new()).await.unwrap();
                shots.push(browser.client.screenshot().await.unwrap());
            }
            same = shots[0] == shots[1];
            if same {
                break;
            }
        }
        assert!(same, "{page} looks another way on the desk");
    }
    browser.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn keyboard_only_from_start_to_save() {
    let theme = Theme::copy();
    let desk = theme.desk_with(Settings::default());
    let seat = Seat::at(&desk.address()).await;
    seat.press("/").await;
    seat.press("h2.today").await;
    seat.until("document.querySelector('#results .hit[data-handle]')")
        .await;
    seat.press_key(Key::Enter).await;
    seat.until("document.querySelector('.chosen h2').textContent === 'h2.panel-title.today'")
        .await;
    seat.js("document.activeElement.blur()").await;
    // Out to the container, and in again.
    seat.press_key(Key::Left).await;
    seat.until("document.querySelector('.chosen h2').textContent === 'article.panel-body'")
        .await;
    seat.press_key(Key::Right).await;
    seat.until("document.querySelector('.chosen h2').textContent === 'h2.panel-title.today'")
        .await;
    seat.press("3").await;
    seat.until("document.querySelector('#new-declaration')")
        .await;
    for _ in 0..60 {
        seat.press_key(Key::Tab).await;
        if seat
            .js("document.activeElement.name === 'declaration'")
            .await
            == json!(true)
        {
            break;
        }
    }
    seat.press("color: rgb(7, 7, 7)").await;
    seat.press_key(Key::Enter).await;
    seat.until_in_page(
        "getComputedStyle(document.querySelector('h2.today')).color === 'rgb(7, 7, 7)'",
    )
    .await;
    seat.count_unsaved(1).await;
    seat.press(&format!("{}s", char::from(Key::Control))).await;
    seat.count_unsaved(0).await;
    assert!(theme.read("css/skerry.css").contains("color: rgb(7, 7, 7)"));
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_frame_of_the_page_is_a_page_to_work_in() {
    let theme = Theme::of(&[
        (
            "index.html",
            "<!doctype html><p>Outside</p><iframe src=inner.html width=300 height=200></iframe>",
        ),
        (
            "inner.html",
            "<!doctype html><link rel=stylesheet href=a.css><h2>Pier</h2>",
        ),
        (
            "a.css",
            "h2 { color: rgb(4, 5, 6); margin: 0; width: 200px; padding: 10px }",
        ),
    ]);
    let seat = theme.seat().await;
    seat.click("#point").await;
    // The click goes through the frame to what is in it, once that page is loaded.
    seat.click_in_page_until(
        "iframe",
        "document.querySelector('.chosen .place').textContent.startsWith('inner.html')",
    )
    .await;
    seat.find("h2").await;
    seat.open_line("color").await;
    seat.until("document.querySelector('.ladder').innerText.includes('a.css:1')")
        .await;
    // A width that is not what was written is explained.
    seat.click("[data-look=space]").await;
    seat.until(
        "document.querySelector('#space').innerText.includes(\
         'width: 200 set, 220 measured: padding 10 + 10 is added because box-sizing is content-box')",
    )
    .await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn whynot_is_answered_and_its_remedy_is_tried() {
    let theme = Theme::copy();
    let settings = Settings {
        page: Some("pages/fares.html".to_owned()),
        ..Settings::default()
    };
    let desk = theme.desk_with(settings);
    let seat = Seat::at(&desk.address()).await;
    seat.find(".fare-best .fare-price").await;
    seat.click("#step-why").await;
    seat.click("[data-look=whynot]").await;
    seat.type_into("#whynot-form input", "css/overrides.css:8\u{e007}")
        .await;
    seat.until(
        "document.querySelector('#whynot-answer').innerText.includes('loses on specificity')",
    )
    .await;
    seat.click("#whynot-answer [data-do=script]").await;
    seat.count_unsaved(1).await;
    seat.until("document.querySelector('#whynot-answer')").await;
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn every_control_has_a_name_for_screen_readers() {
    let theme = Theme::copy();
    let seat = theme.seat().await;
    seat.find("h2.today").await;
    for step in ["find", "why", "try", "save"] {
        seat.click(&format!("#step-{step}")).await;
        seat.until(&format!("!document.querySelector('#{step}').hidden"))
            .await;
        if step == "why" {
            seat.open_line("color").await;
        }
        let tree = seat.accessibility_tree().await;
        let nodes = tree["nodes"].as_array().unwrap();
        let mut named = 0;
        for node in nodes {
            let role = node["role"]["value"].as_str().unwrap_or_default();
            let controls = [
                "button",
                "textbox",
                "searchbox",
                "combobox",
                "checkbox",
                "spinbutton",
                "link",
                "splitter",
            ];
            if !controls.contains(&role) || node["ignored"] == json!(true) {
                continue;
            }
            let name = node["name"]["value"].as_str().unwrap_or_default();
            assert!(
                !name.trim().is_empty(),
                "a {role} has no name in {step}: {node}"
            );
            named += 1;
        }
        assert!(named > 20, "{named} controls in {step}");
    }
    seat.close().await;
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn values_keep_their_notation_and_step_in_their_unit() {
    let theme = Theme::of(&[("index.html", "<!doctype html><p>Boats")]);
    let seat = theme.seat().await;
    let script = "const done = arguments[0]; Promise.all([import('/desk/values.js'), import('/desk/trying.js')])
        .then(([values, trying]) => {
            const step = (text, at, up, event = {}) => trying.stepped(text, at, up, event)?.text ?? null;
            done({
                picked: ['teal', '#abc', '#11223380', 'rgb(1, 2, 3)', 'rgba(1, 2, 3, 0.5)', 'rgb(1 2 3 / 50%)',
                    'hsl(10 20% 30%)'].map((before) => values.likeBefore('#ff0000', before)),
                alpha: values.likeBefore('#ff0000', 'rgb(1, 2, 3)', 0.25),
                parts: values.cut('0 1px 2px rgba(0, 0, 0, .5), inset 0 0 red').filter((one) => one.part)
                    .map((one) => one.text),
                gradient: values.cut('linear-gradient(to right, red, #00f 40%)').map((one) => one.text).join('|'),
                whole: values.cut('linear-gradient(to right, red)').map((one) => one.text).join(''),
                steps: [step('10px', 1, true), step('1.25rem', 2, true), step('1.25rem', 2, false, { shiftKey: true }),
                    step('0 4px', 3, true), step('#123456', 2, true), step('auto', 1, true), step('-1px', 1, true),
                    step('400', 1, true), step('.5em', 1, true, { altKey: true })],
            });
        })";
    let found = seat
        .client()
        .execute_async(script, Vec::new())
        .await
        .unwrap();
    assert_eq!(
        found["picked"],
        json!([
            "#ff0000",
            "#ff0000",
            "#ff000080",
            "rgb(255, 0, 0)",
            "rgba(255, 0, 0, 0.5)",
            "rgb(255 0 0 / 0.5)",
            "hsl(0 100% 50%)"
        ])
    );
    assert_eq!(found["alpha"], json!("rgba(255, 0, 0, 0.25)"));
    assert_eq!(
        found["parts"],
        json!([
            "0",
            "1px",
            "2px",
            "rgba(0, 0, 0, .5)",
            "inset",
            "0",
            "0",
            "red"
        ])
    );
    assert_eq!(
        found["gradient"],
        json!("linear-gradient(|to| |right|,| |red|,| |#00f| |40%|)")
    );
    assert_eq!(found["whole"], json!("linear-gradient(to right, red)"));
    assert_eq!(
        found["steps"],
        json!([
            "11px", "1.35rem", "0.25rem", "0 5px", null, null, "0px", "401", "0.51em"
        ])
    );
    seat.close().await;
}
