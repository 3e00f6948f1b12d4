//! From an edit to the new answer, on the page of 10,000 elements with a framework's sheet; and the
//! replay of a long draft.
//!
//! Beside each, in the same run, what it costs to read everything again. The aim is an answer within
//! 5 ms after a value, and within 30 ms after a change of markup.

#[path = "large_page.rs"]
mod large_page;

use std::hint::black_box;
use std::path::Path;
use std::sync::Arc;

use criterion::{Criterion, criterion_group, criterion_main};
use fingerpost::draft::{Bases, Draft};
use fingerpost::edit::{Change, Destination, Intent, kinds, make};
use fingerpost::environment::Environment;
use fingerpost::page::{LoadError, Page, PropertyName, Request};
use fingerpost::text::Text;

const PAGE: &str = "page.html";

fn sheet_of(texts: &Bases, url: &str) -> Result<Arc<Text>, LoadError> {
    let found = texts.get(url);
    found.cloned().ok_or_else(|| LoadError::Missing {
        file: url.to_owned(),
    })
}

fn built(texts: &Bases) -> Page {
    let text = texts[PAGE].clone();
    Page::builder(text)
        .loader(|r: &Request<'_>| sheet_of(texts, r.url))
        .build()
}

fn again(before: &Page, texts: &Bases) -> Page {
    let text = texts[PAGE].clone();
    Page::builder(text)
        .after(before)
        .environment(Environment::default())
        .loader(|r: &Request<'_>| sheet_of(texts, r.url))
        .build()
}

fn answer(page: &Page, element: &str, property: &str) -> String {
    let target = page.ask().find_one(element).expect("the element is there");
    let property = PropertyName::named(property).expect("the property is known");
    let answer = page.ask().why(&target, &property);
    answer.contests[0].value.computed.clone()
}

fn drafted(draft: &Draft, bases: &Bases) -> Bases {
    let mut texts = bases.clone();
    texts.extend(draft.replay(bases).expect("the draft fits").texts);
    texts
}

fn edit_answer(criterion: &mut Criterion) {
    let sheet = Path::new(env!("CARGO_MANIFEST_DIR")).join("benches/fetched/bootstrap.css");
    let Ok(css) = std::fs::read_to_string(&sheet) else {
        println!(
            "skipped: {} is missing; run benches/fetch.sh",
            sheet.display()
        );
        return;
    };
    let bases = Bases::from([
        (PAGE.to_owned(), Text::new(PAGE, large_page::html())),
        ("bootstrap.css".to_owned(), Text::new("bootstrap.css", css)),
    ]);
    let page = built(&bases);
    assert!(page.failures().is_empty());
    let element = "#card-304 .btn-primary";
    answer(&page, element, "color");

    let edits = [
        ("value", Change::set("padding-top", "9px"), "padding-top"),
        (
            "markup",
            Change::Class(kinds::Class {
                changes: vec!["+disabled".to_owned()],
            }),
            "pointer-events",
        ),
        (
            "text",
            Change::Text(kinds::Text {
                text: "Book now".to_owned(),
                from: None,
            }),
            "color",
        ),
    ];
    for (name, change, property) in edits {
        let mut group = criterion.benchmark_group(format!("edit to answer, {name}"));
        group.sample_size(20);
        let intent = Intent::new(PAGE, element, change);
        // All of it: the intent made into a patch, the draft replayed, the page asked.
        group.bench_function("again", |bencher| {
            bencher.iter(|| {
                let edit = make(&page, &intent).expect("it can be made");
                let mut draft = Draft::default();
                draft.push(edit, &bases).expect("it fits");
                let texts = drafted(&draft, &bases);
                black_box(answer(&again(&page, &texts), element, property))
            });
        });
        let edit = make(&page, &intent).expect("it can be made");
        let mut draft = Draft::default();
        draft.push(edit, &bases).expect("it fits");
        let texts = drafted(&draft, &bases);
        group.bench_function("read anew", |bencher| {
            bencher.iter(|| black_box(answer(&built(&texts), element, property)));
        });
        group.finish();
    }

    let mut draft = Draft::default();
    let mut now = again(&page, &bases);
    for card in 0..100 {
        for change in [
            (
                Change::Class(kinds::Class {
                    changes: vec![format!("+tried-{card}")],
                }),
                Destination::Sources,
            ),
            (
                Change::set("padding-top", &format!("{card}px")),
                Destination::Inline,
            ),
        ] {
            let (change, into) = change;
            let intent = Intent {
                into,
                ..Intent::new(PAGE, &format!("#card-{card} h2"), change)
            };
            let edit = make(&now, &intent).expect("it can be made");
            draft.push(edit, &bases).expect("it fits");
            now = again(&now, &drafted(&draft, &bases));
        }
    }
    assert_eq!(draft.edits().count(), 200);
    let mut group = criterion.benchmark_group("a draft of 200 edits");
    group.sample_size(20);
    group.bench_function("replay", |bencher| {
        bencher.iter(|| black_box(drafted(&draft, &bases)));
    });
    group.bench_function("read its file", |bencher| {
        let json = draft.to_json();
        bencher.iter(|| black_box(Draft::from_json(&json).expect("it is one")));
    });
    group.finish();
}

criterion_group!(benches, edit_answer);
criterion_main!(benches);
