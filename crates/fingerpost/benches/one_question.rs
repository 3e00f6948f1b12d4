//! One question, asked of sources that have not been read yet: parse, match, decide.
//!
//! Beside it, in the same run, what reading the same sources costs at the least: only tokenizing
//! them with `html5gum` and `cssparser`. The aim is to stay within 2.5 times of that.

#[path = "large_page.rs"]
mod large_page;

use std::hint::black_box;
use std::path::Path;
use std::sync::Arc;

use criterion::{Criterion, criterion_group, criterion_main};
use fingerpost::page::{LoadError, Page, PropertyName, Request};
use fingerpost::text::Text;

struct Sources {
    html: String,
    sheets: Vec<(String, String)>,
    element: &'static str,
    property: &'static str,
}

impl Sources {
    /// Parses everything and answers the question.
    fn answer(&self) -> String {
        let text = Text::new("pages/page.html", self.html.as_str());
        let page = Page::builder(text)
            .loader(|request: &Request<'_>| {
                let name = request.url.trim_start_matches('/');
                let found = self
                    .sheets
                    .iter()
                    .find(|(sheet, _)| sheet == name || sheet.ends_with(&format!("/{name}")));
                match found {
                    Some((name, css)) => Ok(Text::new(name.as_str(), css.as_str())),
                    None => Err(LoadError::Missing {
                        file: name.to_owned(),
                    }),
                }
            })
            .build();
        assert!(page.failures().is_empty(), "{:?}", page.failures());
        let target = page
            .ask()
            .find_one(self.element)
            .expect("the element is there");
        let property = PropertyName::named(self.property).expect("the property is known");
        let answer = page.ask().why(&target, &property);
        answer.contests[0].value.computed.clone()
    }

    /// Only tokenizes everything.
    fn tokenize(&self) -> usize {
        let mut count = html5gum::Tokenizer::new(&self.html).count();
        for (_, css) in &self.sheets {
            let mut parser = cssparser::Parser::new(css);
            count += tokens(&mut parser);
        }
        count
    }
}

fn tokens(parser: &mut cssparser::Parser<'_>) -> usize {
    let mut count = 0;
    while let Ok(token) = parser.next_including_whitespace_and_comments() {
        let opens = matches!(
            token,
            cssparser::Token::Function(_)
                | cssparser::Token::ParenthesisBlock
                | cssparser::Token::SquareBracketBlock
                | cssparser::Token::CurlyBracketBlock
        );
        count += 1;
        if opens {
            let inner: Result<usize, cssparser::ParseError<()>> =
                parser.parse_nested_block(|nested| Ok(tokens(nested)));
            count += inner.unwrap_or(0);
        }
    }
    count
}

fn demo_home() -> Sources {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let read = |name: &str| std::fs::read_to_string(root.join(name)).expect("the demo is there");
    let sheets = [
        "css/base.css",
        "css/skerry.css",
        "css/parts/panel.css",
        "css/parts/tags.css",
        "css/parts/print.css",
        "css/overrides.css",
    ];
    Sources {
        html: read("pages/home.html"),
        sheets: sheets.iter().map(|s| ((*s).to_owned(), read(s))).collect(),
        element: "h2.today",
        property: "color",
    }
}

fn large() -> Option<Sources> {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("benches/fetched/bootstrap.css");
    let css = std::fs::read_to_string(path).ok()?;
    Some(Sources {
        html: large_page::html(),
        sheets: vec![("bootstrap.css".to_owned(), css)],
        element: "#card-400 .btn-primary",
        property: "background-color",
    })
}

fn one_question(criterion: &mut Criterion) {
    let mut cases: Vec<(&str, Arc<Sources>)> = vec![("demo_home", Arc::new(demo_home()))];
    match large() {
        Some(sources) => cases.push(("large_page", Arc::new(sources))),
        None => println!(
            "skipped large_page: benches/fetched/bootstrap.css is missing; run benches/fetch.sh"
        ),
    }
    let mut group = criterion.benchmark_group("one_question");
    for (name, sources) in cases {
        group.bench_function(format!("{name}/why"), |b| {
            b.iter(|| black_box(sources.answer()));
        });
        group.bench_function(format!("{name}/only_tokenize"), |b| {
            b.iter(|| black_box(sources.tokenize()));
        });
    }
    group.finish();
}

criterion_group!(benches, one_question);
criterion_main!(benches);
