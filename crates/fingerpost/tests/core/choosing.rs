//! What an edit chooses over a whole site: the selector of its rule, the sheet, the class.

use fingerpost::asking::{AnyAnswer, Asked, QuestionKind};
use fingerpost::edit::EditError;
use fingerpost::prelude::*;
use fingerpost::site::View;

/// A site of pages with bodies, which all link one sheet.
fn site(sheet: &str, bodies: &[&str]) -> View {
    let mut texts = vec![
        Text::new(
            "fingerpost.toml",
            "fingerpost = 2\noverride-sheet = \"own.css\"\n",
        ),
        Text::new("theme.css", sheet),
        Text::new("own.css", ""),
    ];
    for (at, body) in bodies.iter().enumerate() {
        let links = "<link rel=stylesheet href=theme.css><link rel=stylesheet href=own.css>";
        texts.push(Text::new(
            format!("{at}.html"),
            format!("<head>{links}</head><body>{body}"),
        ));
    }
    View::in_memory(texts).unwrap()
}

/// The rule that a change of an element of the first page writes into the override sheet, and what is said of it.
fn written(site: &View, element: &str, property: &str, value: &str) -> (String, Vec<String>) {
    let page = site.page("0.html", Environment::default()).unwrap();
    let mut intent = Intent::new("0.html", element, Change::set(property, value));
    intent.into = Destination::Overrides;
    let edit = site.make(&page, &intent).unwrap();
    let rule = edit.patch_of("own.css").unwrap().apply("").unwrap();
    (
        rule.split_whitespace().collect::<Vec<_>>().join(" "),
        edit.warnings,
    )
}

#[test]
fn a_selector_that_no_other_page_has_comes_first() {
    let panel = "<div class=panel><h2>Fares</h2></div>";
    let first = "<div class='panel booking'><h2>Booking</h2></div>";
    let site = site(".panel { top: 1px }", &[first, panel]);
    let (rule, warnings) = written(&site, ".panel", "top", "2px");
    assert_eq!((&*rule, &warnings[..]), (".booking { top: 2px; }", &[][..]));
    // The heading itself has no class; the panel around it has one that no other page uses.
    let (rule, _) = written(&site, "h2", "top", "2px");
    assert_eq!(rule, ".booking h2 { top: 2px; }");
    let page = site.page("0.html", Environment::default()).unwrap();
    let inventory = site.inventory();
    let ask = page.ask().beside(&inventory);
    let answer = ask.selectors(&[".booking".into()], false).unwrap();
    let listed: Vec<_> = answer
        .candidates
        .iter()
        .map(|c| (&*c.selector, c.site_reach))
        .collect();
    assert_eq!(listed[..2], [(".booking", 1), (".panel", 2)]);
}

#[test]
fn what_was_asked_for_comes_first_where_it_finds_just_that() {
    let site = site(
        ".card { top: 0 }",
        &[
            "<main class=page><p class='card wide'>Boats</p></main>",
            "<p class=card>Fares",
        ],
    );
    let (rule, _) = written(&site, "main .wide", "top", "2px");
    assert_eq!(rule, "main .wide { top: 2px; }");
    let (rule, _) = written(&site, "p.wide", "top", "2px");
    assert_eq!(rule, ".wide { top: 2px; }", "a needless tag is left out");
    let (rule, _) = written(&site, ".card", "top", "2px");
    assert_eq!(rule, ".wide { top: 2px; }", "it finds others elsewhere");
}

#[test]
fn looks_and_places_are_the_last_resort() {
    let sheet = ".mb-2 { margin-bottom: 2px } .card { top: 0 }";
    let body = "<section class=fares><p class='card mb-2'>Boats<p class='card'>Fares</section>";
    let site = site(sheet, &[body, "<p class=mb-2>Other"]);
    let (rule, _) = written(&site, ".mb-2", "top", "2px");
    assert_eq!(rule, ".card.mb-2 { top: 2px; }");
    let (rule, warnings) = written(&site, "'Fares'", "top", "2px");
    assert_eq!(rule, ".card:last-child { top: 2px; }");
    assert!(
        warnings
            .iter()
            .any(|w| w.contains("by its place among others")),
        "{warnings:?}"
    );
}

#[test]
fn an_override_sheet_is_made_named_and_linked_in_one_entry() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| {
        let path = folder.path().join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    };
    let read = |name: &str| std::fs::read_to_string(folder.path().join(name)).unwrap();
    write(
        "fingerpost.toml",
        "fingerpost = 2\n\n[[size]]\nname = \"x\"\nwidth = 3\n",
    );
    write("css/theme.css", "p { color: teal }\n");
    let html = "<head>\n<link rel=stylesheet href=css/theme.css>\n</head>\n<p>Boats\n<p>Fares\n";
    write("a.html", html);
    write("b.html", html);
    let mut site = Site::of_folder(folder.path()).unwrap();
    let mut session = site.session().unwrap();
    // The link moves the line that was named.
    let mut intent = Intent::new("a.html", "a.html:5", Change::set("color", "navy"));
    intent.into = Destination::Overrides;
    let outcome = session.try_edit(&intent).unwrap();
    assert_eq!(outcome.edits.len(), 2, "{}", outcome.summary);
    assert_eq!(session.site().draft().edits().count(), 2);
    let effect = outcome.effect.unwrap();
    assert_eq!(
        effect.side_effects().count(),
        1,
        "the second paragraph of the other page"
    );
    session.save_all().unwrap();
    assert!(read("css/overrides.css").contains("p:last-child {\n  color: navy;\n}"));
    for page in ["a.html", "b.html"] {
        assert!(read(page).contains("<link rel=\"stylesheet\" href=\"css/overrides.css\">"));
    }
    assert_eq!(
        read("fingerpost.toml"),
        "fingerpost = 2\noverride-sheet = \"css/overrides.css\"\n\n[[size]]\nname = \"x\"\nwidth = 3\n"
    );
    // The next one goes there without more.
    drop(session);
    site.refresh().unwrap();
    let mut session = site.session().unwrap();
    intent.element = Some("a.html:6".parse().unwrap());
    assert_eq!(session.try_edit(&intent).unwrap_err().code(), "nothing");
    intent.element = Some("a.html:5".parse().unwrap());
    assert_eq!(session.try_edit(&intent).unwrap().edits.len(), 1);
    session.undo().unwrap();
    session.unsave().unwrap();
    assert_eq!(read("a.html"), html);
    assert!(!folder.path().join("css/overrides.css").exists());
}

#[test]
fn what_can_not_be_written_makes_no_sheet() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n").unwrap();
    let html = "<style>p { color: teal }</style><p>Boats";
    std::fs::write(folder.path().join("a.html"), html).unwrap();
    let mut site = Site::of_folder(folder.path()).unwrap();
    let mut session = site.session().unwrap();
    let mut intent = Intent::new("a.html", "p", Change::set("color", "nayv"));
    intent.into = Destination::Overrides;
    assert_eq!(session.try_edit(&intent).unwrap_err().code(), "invalid");
    assert!(session.site().draft().is_empty());
}

const UTILITIES: &str = ".mb-0 { margin-bottom: 0 !important }
.mb-2 { margin-bottom: 2px !important }
.mb-4 { margin-bottom: 4px !important }
.card { margin-bottom: 9px; top: 0; left: 0 }
";

#[test]
fn a_class_of_looks_is_swapped_for_its_sibling() {
    let body = "<p class='card mb-0'>Boats<p class=mb-0>Fares";
    let site = site(UTILITIES, &[body, body]);
    let page = site.shared_page("0.html", &Environment::default()).unwrap();
    let ask = |name: &str, parts: &[(&str, &str)]| {
        let mut asked = Asked::new(&site, page.clone(), ".card");
        for (part, text) in parts {
            asked.parts.give(part, *text);
        }
        QuestionKind::named(name).unwrap().ask(&asked).unwrap()
    };
    let swap = ("swap the class mb-0 for mb-4".to_owned(), None);
    let told =
        |advice: &fingerpost::advice::Advice| (advice.label.clone(), advice.side_effects.clone());
    let set = [("property", "margin-bottom"), ("value", "4px")];
    let classes = ask("suggest class", &[("beginning", ".card"), set[0], set[1]]);
    let AnyAnswer::Classes(answer) = &classes.answer else {
        panic!()
    };
    assert_eq!(answer.classes.len(), 1);
    assert_eq!(
        answer.classes[0].sets.as_deref(),
        Some("margin-bottom: 4px !important")
    );
    assert_eq!(told(&classes.advice[0]), swap);
    // A declaration that is beaten by it: without the class it would win.
    let whynot = ask("whynot", &[("what", "margin-bottom: 9px")]);
    let labels: Vec<_> = whynot.advice.iter().map(told).collect();
    assert!(
        labels.contains(&("take the class mb-0 off the element".to_owned(), None)),
        "{labels:?}"
    );
    // One that is written nowhere on the element.
    let whynot = ask("whynot", &[("what", "margin-bottom: 4px")]);
    assert!(whynot.advice.iter().map(told).any(|one| one == swap));
}

#[test]
fn destinations_are_tried_and_the_best_comes_first() {
    let sheet = ".panel { color: teal }";
    let body = "<p class='panel wide' style='top: 0'>Boats<p class=panel>Fares";
    let site = site(sheet, &[body, "<p class=panel>Other"]);
    let page = site.shared_page("0.html", &Environment::default()).unwrap();
    let asked = Asked::new(&site, page.clone(), ".wide")
        .with("property", "color")
        .with("value", "navy");
    let answered = QuestionKind::named("suggest destination")
        .unwrap()
        .ask(&asked)
        .unwrap();
    let AnyAnswer::Destinations(answer) = &answered.answer else {
        panic!()
    };
    let all = answer.destinations.iter();
    let all: Vec<_> = all
        .map(|one| (one.into.to_string(), one.wins, one.others))
        .collect();
    let wanted = [
        ("overrides", true, 0),
        ("inline", true, 0),
        ("sources", true, 2),
    ];
    assert_eq!(
        all,
        wanted.map(|(into, wins, others)| (into.to_owned(), wins, others))
    );
    assert_eq!(answer.destinations[0].selector.as_deref(), Some(".wide"));
    assert_eq!(answer.refused.len(), 1, "the page has no embedded sheet");
    // Each can be followed.
    for advice in &answered.advice {
        let fingerpost::advice::Action::Edit { edits } = &advice.action else {
            panic!()
        };
        let made: Result<_, EditError> = site.make(&page, &edits[0]);
        assert!(made.is_ok(), "{advice:?}");
    }
}

#[test]
fn a_framework_full_of_rules_is_no_answer() {
    let mut sheet = String::from(".card { top: 9px; left: 0; right: 0 }\n");
    for at in 0..12 {
        sheet.push_str(&format!(".other-{at} {{ top: 1px; left: 0; right: 0 }}\n"));
    }
    let site = site(&sheet, &["<p class=card>Boats"]);
    let page = site.shared_page("0.html", &Environment::default()).unwrap();
    let asked = Asked::new(&site, page, ".card").with("what", "top: 1px");
    let answered = QuestionKind::named("whynot").unwrap().ask(&asked).unwrap();
    let AnyAnswer::WhyNot(answer) = &answered.answer else {
        panic!()
    };
    assert_eq!(answer.verdict, "no rule that matches p.card says top: 1px");
    let [finding] = &answer.findings[..] else {
        panic!("{answer:#?}")
    };
    // What sets it now, and what would win, each tried.
    assert!(finding.obstacles[0].hints[0].contains("top: 9px of .card, theme.css:1"));
    assert!(
        finding
            .remedies
            .iter()
            .any(|remedy| remedy.selector.as_deref() == Some(".card"))
    );
    assert!(answered.advice.iter().any(|advice| advice.tried));
    assert_eq!((answer.others.len(), answer.more), (6, 6));
}
