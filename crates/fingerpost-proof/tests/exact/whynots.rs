//! `whynot` asked with the cause known: causes are planted on elements of the demo and of published themes;
//! the first obstacle must be the cause, and the best remedy, written to disk, must make the declaration win.

use std::path::Path;

use crate::cases::times;
use crate::folders::copy_folder;
use fingerpost::advice::Action;
use fingerpost::environment::Environment;
use fingerpost::impact::remedies::tried;
use fingerpost::markup::Written;
use fingerpost::page::PropertyName;
use fingerpost::question::element_states::ElementStates;
use fingerpost::question::whynot::Asked;
use fingerpost::session::Scope;
use fingerpost::site::Site;

struct Cause {
    /// What is in the way, as answers call it.
    kind: &'static str,
    /// The planted sheet.
    css: &'static str,
    /// Attributes of its `<style>`, and of the element.
    sheet: &'static str,
    element: &'static str,
    asked: &'static str,
    /// Whether a remedy must be offered, which makes the declaration win.
    helped: bool,
}

const fn cause(kind: &'static str, css: &'static str, asked: &'static str, helped: bool) -> Cause {
    Cause {
        kind,
        css,
        sheet: "",
        element: "",
        asked,
        helped,
    }
}

/// The declaration that is to win is `word-spacing: 7px`.
fn causes() -> Vec<Cause> {
    vec![
        cause(
            "not-matched",
            ".plantd { word-spacing: 7px }",
            ".plantd",
            false,
        ),
        cause(
            "not-matched",
            ".Planted { word-spacing: 7px }",
            ".Planted",
            false,
        ),
        cause(
            "not-matched",
            ".planted > .planted { word-spacing: 7px }",
            "word-spacing: 7px",
            false,
        ),
        cause(
            "beaten",
            ".planted { word-spacing: 7px } .planted.second { word-spacing: 3px }",
            ".planted",
            true,
        ),
        cause(
            "beaten",
            ".planted { word-spacing: 7px } body .planted { word-spacing: 3px }",
            "word-spacing: 7px",
            true,
        ),
        cause(
            "beaten",
            ".planted { word-spacing: 7px } .second { word-spacing: 3px }",
            ".planted",
            true,
        ),
        cause(
            "beaten",
            ".planted { word-spacing: 7px } .second { word-spacing: 3px !important }",
            ".planted",
            true,
        ),
        cause(
            "beaten",
            ".planted { word-spacing: 7px } [data-plant] { word-spacing: 3px }",
            "word-spacing 7px",
            true,
        ),
        cause(
            "beaten",
            ".planted { word-spacing: 7px } @media (min-width: 900px) { .second { word-spacing: 3px } }",
            ".planted",
            true,
        ),
        cause(
            "beaten",
            "@layer soft { .planted { word-spacing: 7px } } .second { word-spacing: 3px }",
            "word-spacing: 7px",
            true,
        ),
        cause(
            "beaten",
            "* { word-spacing: 7px } .second { word-spacing: 3px }",
            "word-spacing: 7px",
            true,
        ),
        Cause {
            element: " style=\"word-spacing: 3px\"",
            ..cause("beaten", ".planted { word-spacing: 7px }", ".planted", true)
        },
        cause(
            "condition",
            "@media (max-width: 100px) { .planted { word-spacing: 7px } }",
            ".planted",
            false,
        ),
        cause(
            "condition",
            ".elsewhere { word-spacing: 7px } @supports (no: such) { .planted { word-spacing: 7px } }",
            "word-spacing: 7px",
            false,
        ),
        Cause {
            sheet: " media=print",
            ..cause(
                "sheet-off",
                ".planted { word-spacing: 7px }",
                ".planted",
                false,
            )
        },
        cause(
            "invalid-value",
            ".planted { word-spacing: 7pxx }",
            ".planted",
            false,
        ),
        cause(
            "invalid-value",
            ".planted { word-spacing: var(--never-set) }",
            ".planted",
            false,
        ),
        cause(
            "unknown-property",
            ".planted { wordspacing: 7px }",
            ".planted",
            false,
        ),
        cause(
            "no-effect",
            ".planted::after { word-spacing: 7px }",
            "word-spacing: 7px",
            false,
        ),
        cause(
            "not-written",
            ".planted { word-spacing: 3px }",
            "word-spacing: 7px",
            true,
        ),
    ]
}

/// Asks about the causes on some elements of a page, one in four on each element or, with `FINGERPOST_CASES=4`, all of them; gives how many questions were asked and remedies tried.
fn run(root: &Path, page: &str, elements: usize) -> (usize, usize) {
    let (mut asked, mut helped) = (0, 0);
    let source = std::fs::read_to_string(root.join(page)).unwrap();
    let folder = tempfile::tempdir().unwrap();
    copy_folder(root, folder.path());
    let plain = Site::of_folder(folder.path()).unwrap();
    let document = plain.page(page, Environment::default()).unwrap();
    let document = document.document();
    let bodies: Vec<_> = document
        .elements()
        .iter()
        .map(|id| document.element(*id))
        .filter(|e| {
            e.written == Written::Tag
                && e.attribute("class").is_none()
                && e.attribute("style").is_none()
        })
        .filter(|e| {
            matches!(
                &*e.name,
                "p" | "li" | "td" | "a" | "span" | "div" | "h1" | "h2"
            )
        })
        .collect();
    let step = (bodies.len() / elements).max(1);
    let every = (4 / times()).max(1);
    for (at, element) in bodies.iter().step_by(step).take(elements).enumerate() {
        for cause in causes().into_iter().skip(at % every).step_by(every) {
            let mut html = source.clone();
            let at = usize::from(element.start_tag.start()) + 1 + element.name.len();
            html.insert_str(
                at,
                &format!(
                    " id=plant data-plant class=\"planted second\"{}",
                    cause.element
                ),
            );
            let head = html.find("</head>").expect("the page has a head");
            html.insert_str(
                head,
                &format!("<style{}>{}</style>", cause.sheet, cause.css),
            );
            std::fs::write(folder.path().join(page), &html).unwrap();
            let mut site = Site::of_folder(folder.path()).unwrap();
            let what = match cause.css.contains("::after") {
                true => "#plant::after",
                false => "#plant",
            };
            let before = site.page(page, Environment::default()).unwrap();
            let target = before.ask().find_one(what).unwrap();
            let element_states = ElementStates::default();
            let question = Asked::parse(cause.asked);
            let answer = tried(
                &site,
                &before,
                &target,
                &question,
                cause.asked,
                &element_states,
            )
            .unwrap();
            asked += 1;
            let about = format!(
                "{page} <{}>: {} asked {}",
                element.name, cause.css, cause.asked
            );
            let finding = &answer.answer.findings[0];
            let first = finding
                .obstacles
                .first()
                .unwrap_or_else(|| panic!("{about}: nothing in the way"));
            assert_eq!(
                first.kind.as_str(),
                cause.kind,
                "{about}\n{}",
                answer.answer.verdict
            );
            assert!(!answer.answer.holds, "{about}");
            if !cause.helped {
                continue;
            }
            let best = finding
                .remedies
                .first()
                .unwrap_or_else(|| panic!("{about}: no remedy"));
            assert!(!best.test_only, "{about}: only a test is offered");
            let advice = answer.advice.iter().find(|one| one.tried);
            let advice =
                advice.unwrap_or_else(|| panic!("{about}: {} was not tried", best.sentence));
            assert_eq!(advice.label, best.sentence, "{about}");
            let Action::Edit { edits } = &advice.action else {
                panic!("{about}: {advice:?}");
            };
            let mut session = site.session().unwrap().with_effects(Scope::Nothing);
            session.script("a remedy", edits).unwrap();
            session.save_all().unwrap();
            drop(session);
            // The theme as it is on disk now, read from scratch.
            let saved = Site::of_folder(folder.path()).unwrap();
            let after = saved.page(page, Environment::default()).unwrap();
            let target = after.ask().find_one("#plant").unwrap();
            let spacing = PropertyName::named("word-spacing").unwrap();
            assert_eq!(
                after.styles().value(&target, &spacing).computed,
                "7px",
                "{about}: {}",
                best.sentence
            );
            helped += 1;
            // The next question is about the theme as it was.
            copy_folder(root, folder.path());
        }
    }
    (asked, helped)
}

#[test]
fn the_first_obstacle_is_the_cause_on_the_demo() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let mut all = (0, 0);
    for page in ["pages/home.html", "pages/fares.html"] {
        let (asked, helped) = run(&demo, page, 2);
        all = (all.0 + asked, all.1 + helped);
    }
    println!("demo: {} questions, {} remedies that work", all.0, all.1);
    assert!(all.0 >= 15 * times().min(4));
}

#[test]
fn the_first_obstacle_is_the_cause_on_a_published_theme() {
    let package = match crate::themes::fetched("startbootstrap-sb-admin@7") {
        Ok(folder) => folder,
        Err(reason) => {
            println!("skipped: {reason}");
            return;
        }
    };
    let folder = tempfile::tempdir().unwrap();
    copy_folder(&package.join("dist"), folder.path());
    std::fs::write(folder.path().join("fingerpost.toml"), "").unwrap();
    let (asked, helped) = run(folder.path(), "index.html", 1);
    println!("sb-admin: {asked} questions, {helped} remedies that work");
    assert!(asked >= 5 * times().min(4));
}
