//! Changes of pages that a server makes, proved by making the pages again: another program fills the templates, before and after.

use fingerpost::edit::{Change, Intent};
use fingerpost::markup::Document;
use fingerpost::site::{Fetch, Fetched, Site};
use fingerpost::text::{DecodeHint, Text};
use minijinja::{Environment, context};
use proptest::prelude::*;
use proptest::test_runner::TestRunner;
use serde_json::json;
use tempfile::TempDir;

use crate::cases::cases;

const URL: &str = "http://localhost/a";

/// What the templates are filled with.
#[derive(Clone, Debug)]
struct Data {
    texts: Vec<String>,
    yes: Vec<bool>,
    list: Vec<String>,
}

fn data() -> impl Strategy<Value = Data> {
    (
        prop::collection::vec("[a-z]{0,5}", 3),
        prop::collection::vec(any::<bool>(), 2),
        prop::collection::vec("[a-z]{1,4}", 0..4),
    )
        .prop_map(|(texts, yes, list)| Data { texts, yes, list })
}

fn value() -> impl Strategy<Value = String> {
    prop_oneof![
        3 => "[a-z]{1,4}( [a-z]{1,4})?",
        1 => (0..3).prop_map(|n| format!("{{{{ t[{n}] }}}}")),
        1 => (0..2, "[a-z]{1,4}").prop_map(|(n, word)| format!("{{% if b[{n}] %}} {word}{{% endif %}}")),
        1 => "[a-z]{1,4}".prop_map(|word| format!("{word} {{{{ t[0] }}}}")),
    ]
}

/// Markup with tags of a template language in it.
fn markup() -> impl Strategy<Value = String> {
    let leaf = prop_oneof![
        "[A-Z][a-z ]{1,8}",
        (0..3).prop_map(|n| format!("{{{{ t[{n}] }}}}"))
    ];
    let element = (
        prop::sample::select(vec!["b", "i", "span", "div"]),
        prop::option::of(value()),
        leaf,
    )
        .prop_map(|(tag, class, text)| {
            let class = class.map_or(String::new(), |class| format!(" class=\"{class}\""));
            format!("<{tag}{class}>{text}</{tag}>")
        });
    element.prop_recursive(3, 16, 3, |inner| {
        let several = prop::collection::vec(inner.clone(), 1..4).prop_map(|all| all.join("\n"));
        prop_oneof![
            (several.clone(), prop::option::of(value())).prop_map(|(all, class)| {
                let class = class.map_or(String::new(), |class| format!(" class=\"{class}\""));
                format!("<div{class}>\n{all}\n</div>")
            }),
            several.clone().prop_map(|all| format!(
                "{{% for x in list %}}<p>{{{{ x }}}}</p>{all}{{% endfor %}}"
            )),
            (several.clone(), inner).prop_map(|(one, other)| {
                format!("{{% if b[0] %}}{one}{{% else %}}{other}{{% endif %}}")
            }),
            several,
        ]
    })
}

/// The page that another program makes of a template.
fn made(template: &str, data: &Data) -> String {
    let mut environment = Environment::new();
    environment.set_keep_trailing_newline(true);
    environment.add_template("a.njk", template).unwrap();
    let template = environment.get_template("a.njk").unwrap();
    let filled = template.render(context! { t => data.texts, b => data.yes, list => data.list });
    filled.unwrap()
}

/// Makes a change on the page of a template: the page and the template after it, or the refusal.
fn changed(
    template: &str,
    page: &str,
    element: usize,
    change: Change,
) -> Result<(String, String), String> {
    changed_in(("a.njk", template), page, &format!("@{element}"), change)
}

/// The same with the template in a file of any name.
fn changed_in(
    (file, template): (&str, &str),
    page: &str,
    element: &str,
    change: Change,
) -> Result<(String, String), String> {
    let folder = TempDir::new().unwrap();
    let path = folder.path().join(file);
    std::fs::create_dir_all(path.parent().unwrap()).unwrap();
    std::fs::write(path, template).unwrap();
    std::fs::write(folder.path().join("boats.json"), "[{\"name\": \"Tern\"}]").unwrap();
    std::fs::write(folder.path().join("fingerpost.toml"), "").unwrap();
    let mut site = Site::of_url(folder.path()).unwrap();
    let sent = page.to_owned().into_bytes();
    let answer = move |url: &str| Ok(Fetched::new(url, sent.clone(), Some("utf-8")));
    site.set_fetch(Fetch(Box::new(answer)));
    let intent = Intent::new(URL, element, change);
    let mut session = site.session().unwrap();
    session
        .try_edit(&intent)
        .map_err(|error| error.to_string())?;
    let text = |name: &str| {
        let text = session.site().text(name, DecodeHint::Html);
        text.unwrap().source().to_owned()
    };
    Ok((text(URL), text(file)))
}

fn changes() -> impl Strategy<Value = Change> {
    let all = vec![
        json!({"class": {"changes": ["+added"]}}),
        json!({"attribute": {"name": "title", "value": "Quay"}}),
        json!({"text": {"text": "New words"}}),
        json!({"tag": {"name": "section"}}),
        json!({"remove-element": {}}),
    ];
    prop::sample::select(all).prop_map(|change| serde_json::from_value(change).unwrap())
}

/// What is tried is what the server sends after the save; all else is refused. Of what is asked at random most can be done.
#[test]
fn what_is_tried_is_what_the_server_makes_of_the_changed_template() {
    let cases = cases(300) as u32;
    let mut runner = TestRunner::new(ProptestConfig {
        cases,
        failure_persistence: None,
        ..ProptestConfig::default()
    });
    let made_there = std::cell::Cell::new(0);
    let asked = (markup(), data(), any::<usize>(), changes());
    let outcome = runner.run(&asked, |(markup, data, element, change)| {
        let template = format!("<!doctype html>\n<title>Boats</title>\n<body>\n{markup}\n");
        let page = made(&template, &data);
        let document = Document::parse(Text::new("a.html", &*page));
        let element = element % document.elements().len();
        if let Ok((tried, after)) = changed(&template, &page, element, change) {
            prop_assert_eq!(tried, made(&after, &data), "{}", after);
            made_there.set(made_there.get() + 1);
        }
        Ok(())
    });
    outcome.unwrap_or_else(|error| panic!("{error}"));
    println!("{} of {cases} were made", made_there.get());
    assert!(made_there.get() * 3 > cases);
}

/// The same page from templates of many languages.
#[test]
fn a_class_is_added_in_the_template_of_each_language() {
    let page = "<ul class=\"boats\">\n  <li class=\"boat late\">Tern\n  <li class=\"boat\">Auk\n</ul>\n<h1 title=\"Today\">Quay 4</h1>\n";
    for (file, template) in [
        (
            "a.njk",
            "<ul class=\"boats\">{% for b in boats %}\n  <li class=\"boat{% if b.late %} late{% endif %}\">{{ b.name }}{% endfor %}\n</ul>\n<h1 title=\"Today\">Quay {{ n }}</h1>\n",
        ),
        (
            "a.hbs",
            "<ul class=\"boats\">{{#each boats}}\n  <li class=\"boat{{#if late}} late{{/if}}\">{{name}}{{/each}}\n</ul>\n<h1 title=\"Today\">Quay {{n}}</h1>\n",
        ),
        (
            "a.ejs",
            "<ul class=\"boats\"><% for (const b of boats) { %>\n  <li class=\"boat<% if (b.late) { %> late<% } %>\"><%= b.name %><% } %>\n</ul>\n<h1 title=\"Today\">Quay <%= n %></h1>\n",
        ),
        (
            "a.erb",
            "<ul class=\"boats\"><% boats.each do |b| %>\n  <li class=\"boat<% if b.late %> late<% end %>\"><%= b.name %><% end %>\n</ul>\n<h1 title=\"Today\">Quay <%= n %></h1>\n",
        ),
        (
            "a.php",
            "<ul class=\"boats\"><?php foreach ($boats as $b): ?>\n  <li class=\"boat<?php if ($b->late): ?> late<?php endif; ?>\"><?= $b->name ?><?php endforeach; ?>\n</ul>\n<h1 title=\"Today\">Quay <?= $n ?></h1>\n",
        ),
        (
            "a.liquid",
            "<ul class=\"boats\">{% for b in boats %}\n  <li class=\"boat{% if b.late %} late{% endif %}\">{{ b.name }}{% endfor %}\n</ul>\n<h1 title=\"Today\">Quay {{ n }}</h1>\n",
        ),
        (
            "templates/a.html",
            "<ul class=\"boats\">{{ range .Boats }}\n  <li class=\"boat{{ if .Late }} late{{ end }}\">{{ .Name }}{{ end }}\n</ul>\n<h1 title=\"Today\">Quay {{ .N }}</h1>\n",
        ),
    ] {
        let class = || serde_json::from_value(json!({"class": {"changes": ["+kept"]}})).unwrap();
        // Both of the list are made by one part of the template, and both change.
        let (tried, after) = changed_in((file, template), page, "li.late", class()).unwrap();
        assert_eq!(tried.matches(" kept\"").count(), 2, "{file}: {tried}");
        assert_eq!(after.matches(" kept\"").count(), 1, "{file}: {after}");
        let expected = template.split_once("late").unwrap().1;
        assert!(
            after.contains(&expected[..expected.find('"').unwrap()].to_owned()),
            "{file}"
        );
        // What the server prints comes from data.
        let text = serde_json::from_value(json!({"text": {"text": "Puffin"}})).unwrap();
        let refused = changed_in((file, template), page, "li.late", text).unwrap_err();
        assert!(
            refused.contains("prints this, so it comes from data"),
            "{file}: {refused}"
        );
        assert!(
            refused.contains("boats.json:1:12 has it"),
            "{file}: {refused}"
        );
        let attribute = json!({"attribute": {"name": "title", "value": "Tomorrow"}});
        let attribute = serde_json::from_value(attribute).unwrap();
        let (_, after) = changed_in((file, template), page, "h1", attribute).unwrap();
        assert_eq!(after, template.replace("Today", "Tomorrow"), "{file}");
    }
    // Where elements are written by indentation, a text and the value of an attribute are found.
    let pug = (
        "views/a.pug",
        "ul.boats\n  each b in boats\n    li.boat= b.name\nh1(title=\"Today\") Quay 4\n",
    );
    let text = serde_json::from_value(json!({"text": {"text": "Quay 5"}})).unwrap();
    let (_, after) = changed_in(pug, page, "h1", text).unwrap();
    assert_eq!(after, pug.1.replace("Quay 4", "Quay 5"));
}

/// What the server would run is not written into a template.
#[test]
fn a_text_that_the_server_would_run_is_refused() {
    let text = serde_json::from_value(json!({"text": {"text": "{{ secret }}"}})).unwrap();
    let refused = changed_in(("a.njk", "<p>Boats</p>"), "<p>Boats</p>", "p", text).unwrap_err();
    assert!(
        refused.contains("a.njk would run what is written in {{"),
        "{refused}"
    );
}

#[test]
fn a_page_without_templates_says_what_to_add() {
    let class = serde_json::from_value(json!({"class": {"changes": ["+kept"]}})).unwrap();
    let refused = changed_in(
        ("made-from/a.html", "<p>Boats</p>"),
        "<p>Boats</p>",
        "p",
        class,
    );
    let refused = refused.unwrap_err();
    assert!(
        refused.contains("such as templates = [\"templates/**/*.html\"]"),
        "{refused}"
    );
}
