//! A whole page: every element, every contest decided and every set value computed, with where it
//! comes from kept. Beside it one more question on a page that is warm, and the grammar engine over
//! every declaration of a framework's sheet beside tokenizing that sheet.

#[path = "large_page.rs"]
mod large_page;

use std::hint::black_box;
use std::path::Path;

use criterion::{Criterion, criterion_group, criterion_main};
use fingerpost::condition::Conditions;
use fingerpost::page::{LoadError, Page, PropertyName, Target};
use fingerpost::question::find::{What, one};
use fingerpost::question::values::each;
use fingerpost::question::why::why;
use fingerpost::sheet::Sheet;
use fingerpost::text::Text;
use fingerpost::value::declared::{self, Meaning, Name};

fn page(css: &str) -> Page {
    let text = Text::new("page.html", large_page::html());
    Page::build(
        text,
        Conditions::default(),
        &mut |request| match request.url {
            "bootstrap.css" => Ok(Text::new("bootstrap.css", css)),
            other => Err(LoadError::Missing {
                file: other.to_owned(),
            }),
        },
    )
}

/// Works out every set value of every element, and counts them.
fn everything(page: &Page) -> usize {
    let mut count = 0;
    each(page, page.document().elements(), false, |element| {
        count += element.values.len();
    });
    count
}

fn whole_page(criterion: &mut Criterion) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("benches/fetched/bootstrap.css");
    let Ok(css) = std::fs::read_to_string(path) else {
        println!("skipped: benches/fetched/bootstrap.css is missing; run benches/fetch.sh");
        return;
    };
    let page = page(&css);
    println!(
        "whole page: {} values of {} elements",
        everything(&page),
        page.document().elements().len()
    );
    let mut group = criterion.benchmark_group("whole_page");
    group.sample_size(10);
    group.bench_function("every_value", |b| b.iter(|| black_box(everything(&page))));
    group.finish();

    let styles = page.styles();
    let warm = one(&page, &What::parse("#card-400 .btn-primary")).expect("it is there");
    let property = PropertyName::parse("background-color").expect("it is known");
    let _ = why(&styles, &warm, &property);
    let mut group = criterion.benchmark_group("warm_page");
    group.bench_function("one_more_question", |b| {
        // Another element each time, so that nothing of the answer is known.
        let elements = page.document().elements();
        let mut at = 0;
        b.iter(|| {
            at = (at + 17) % elements.len();
            black_box(why(&styles, &Target::from(elements[at]), &property))
        });
    });
    group.finish();

    let text = Text::new("bootstrap.css", css.as_str());
    let span = text.span();
    let sheet = Sheet::parse(text, span);
    println!("grammar: {} declarations", sheet.declaration_count());
    let mut group = criterion.benchmark_group("grammar");
    group.bench_function("every_declaration", |b| {
        b.iter(|| black_box(validate(&sheet)));
    });
    group.bench_function("only_tokenize", |b| {
        b.iter(|| black_box(fingerpost::sheet::tokenize(&css, span).len()));
    });
    group.finish();
}

fn validate(sheet: &Sheet) -> usize {
    let source = sheet.text().source();
    sheet
        .declarations()
        .filter(|(_, declaration)| {
            let Name::Property(property) = declared::name(sheet, declaration) else {
                return true;
            };
            let tokens = sheet.value_tokens(declaration);
            !matches!(
                declared::meaning(property, source, tokens),
                Meaning::Misfit(_)
            )
        })
        .count()
}

criterion_group!(benches, whole_page);
criterion_main!(benches);
