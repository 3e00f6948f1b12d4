//! A whole page, as ratios of what `html5ever` alone takes to parse its HTML, all from one run; then, with
//! criterion, every element, every contest decided and every set value computed, with where it
//! comes from kept. Beside it one more question on a page that is warm, and the grammar engine over
//! every declaration of a framework's sheet beside tokenizing that sheet.

#[path = "large_page.rs"]
mod large_page;

use std::hint::black_box;
use std::path::Path;
use std::time::{Duration, Instant};

use criterion::{Criterion, criterion_group};
use fingerpost::environment::Environment;
use fingerpost::page::{LoadError, Page, PropertyName, Request, Target};
use fingerpost::sheet::Sheet;
use fingerpost::text::Text;
use fingerpost::value::{Meaning, Name, meaning};
use html5ever::tendril::TendrilSink;

fn page(css: &str) -> Page {
    let text = Text::new("page.html", large_page::html());
    Page::builder(text)
        .loader(|request: &Request<'_>| match request.url {
            "bootstrap.css" => Ok(Text::new("bootstrap.css", css)),
            other => Err(LoadError::Missing {
                file: other.to_owned(),
            }),
        })
        .build()
}

/// Works out every set value of every element, and counts them.
fn everything(page: &Page) -> usize {
    let mut count = 0;
    page.ask()
        .values_of_each(page.document().elements(), false, |element| {
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

    let ask = page.ask();
    let warm = page
        .ask()
        .find_one("#card-400 .btn-primary")
        .expect("it is there");
    let property = PropertyName::named("background-color").expect("it is known");
    let _ = ask.why(&warm, &property);
    let mut group = criterion.benchmark_group("warm_page");
    group.bench_function("one_more_question", |b| {
        // Another element each time, so that nothing of the answer is known.
        let elements = page.document().elements();
        let mut at = 0;
        b.iter(|| {
            at = (at + 17) % elements.len();
            black_box(ask.why(Target::from(elements[at]), &property))
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
            let Name::Property(property) = Name::of(sheet, declaration) else {
                return true;
            };
            let tokens = sheet.value_tokens(declaration);
            !matches!(meaning(property, source, &tokens), Meaning::Misfit(_))
        })
        .count()
}

/// How often each stage is measured; the median counts.
const ROUNDS: usize = 15;

fn timed<T>(work: impl FnOnce() -> T) -> Duration {
    let begun = Instant::now();
    black_box(work());
    begun.elapsed()
}

/// The stages that are measured, each as a ratio of what `html5ever` takes.
struct Stages {
    html: String,
    /// Only stages with this in their name: `cargo bench -- --stages selector`.
    only: Option<String>,
}

impl Stages {
    fn parse(&self) -> Duration {
        timed(|| {
            let sink = markup5ever_rcdom::RcDom::default();
            html5ever::parse_document(sink, html5ever::ParseOpts::default()).one(self.html.as_str())
        })
    }

    /// Measures a stage and a parse in turns: both meet the same machine.
    fn measure(&self, stage: &str, mut measured: impl FnMut() -> Duration) {
        if self.only.as_ref().is_some_and(|only| !stage.contains(only)) {
            return;
        }
        let mut rounds: Vec<(Duration, Duration)> =
            (0..ROUNDS).map(|_| (self.parse(), measured())).collect();
        let mut median = |which: fn(&(Duration, Duration)) -> Duration| {
            rounds.sort_by_key(which);
            which(&rounds[ROUNDS / 2])
        };
        let (parse, time) = (median(|round| round.0), median(|round| round.1));
        let ratio = time.as_secs_f64() / parse.as_secs_f64();
        println!("{stage:<34} {time:>9.1?}  {ratio:>6.2} of a parse of {parse:.1?}");
    }
}

/// The memory that this process holds, in bytes; none where the system does not say.
fn resident() -> Option<usize> {
    /// What Linux counts in.
    const PAGE: usize = 4096;
    let told = std::fs::read_to_string("/proc/self/statm").ok()?;
    Some(told.split(' ').nth(1)?.parse::<usize>().ok()? * PAGE)
}

/// What a page holds in memory, and its content more once it is worked out.
fn memory(css: &str) {
    let Some(before) = resident() else { return };
    let page = page(css);
    let read = resident().unwrap_or(before);
    let whole = page.whole();
    let worked_out = resident().unwrap_or(read);
    let elements = page.document().elements().len();
    let megabytes = |bytes: usize| bytes as f64 / 1_000_000.0;
    println!(
        "memory: the page read {:.1} MB, worked out {:.1} MB more, {} bytes an element; {} styles",
        megabytes(read.saturating_sub(before)),
        megabytes(worked_out.saturating_sub(read)),
        worked_out.saturating_sub(before) / elements,
        whole.style_count(),
    );
}

/// Every stage of a whole page beside parsing its HTML.
fn ratios(only: Option<String>) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("benches/fetched/bootstrap.css");
    let Ok(css) = std::fs::read_to_string(path) else {
        return;
    };
    memory(&css);
    let html = large_page::html();
    let example = page(&css);
    println!(
        "{} elements, {} rules",
        example.document().elements().len(),
        example.rules().len(),
    );
    let stages = Stages { html, only };
    let one = rayon::ThreadPoolBuilder::new().num_threads(1).build();
    let one = one.expect("a pool of one thread");
    stages.measure("reading the page and its sheet", || timed(|| page(&css)));
    for (cores, pool) in [("one core", Some(&one)), ("all cores", None)] {
        let run = |work: &(dyn Fn() + Sync)| match pool {
            Some(pool) => pool.install(work),
            None => work(),
        };
        stages.measure(&format!("matching, {cores}"), || {
            let page = page(&css);
            timed(|| run(&|| page.match_all()))
        });
        stages.measure(&format!("styles, {cores}"), || {
            let page = page(&css);
            page.match_all();
            timed(|| {
                run(&|| {
                    let _ = black_box(page.whole());
                });
            })
        });
        stages.measure(&format!("the whole page, {cores}"), || {
            let page = page(&css);
            timed(|| {
                run(&|| {
                    let _ = black_box(page.whole());
                });
            })
        });
    }
    after_a_change(&css, &stages.html, &stages);
}

/// The whole page right again: in another environment, and after an edit.
fn after_a_change(css: &str, html: &str, stages: &Stages) {
    let warm = page(css);
    let _ = black_box(warm.whole());
    let mut narrow = Environment::default();
    narrow.viewport.width = 500.0;
    let mut dark = Environment::default();
    let scheme = "prefers-color-scheme".to_owned();
    dark.features.insert(scheme, "dark".to_owned());
    let print = Environment {
        media: "print".to_owned(),
        ..Environment::default()
    };
    for (stage, environment) in [("500px wide", narrow), ("dark", dark), ("print", print)] {
        stages.measure(stage, || {
            timed(|| {
                let page = warm.under(&environment);
                let _ = black_box(page.whole());
            })
        });
    }
    let again = |css: &str, html: Option<&str>| {
        let css = Text::new("bootstrap.css", css);
        // A file that did not change is not read again.
        let same = || warm.document().text().clone();
        let html = html.map_or_else(same, |html| Text::new("page.html", html));
        let mut load = |_: &Request<'_>| Ok(css.clone());
        let page = Page::builder(html)
            .after(&warm)
            .environment(Environment::default())
            .loader(&mut load)
            .build();
        let _ = black_box(page.whole());
    };
    let edits = [
        (
            "after an edit of a value",
            "--bs-btn-padding-x: 0.75rem",
            "--bs-btn-padding-x: 0.8rem",
        ),
        (
            "after an edit of a selector",
            ".card-title {",
            ".card-text {",
        ),
    ];
    for (stage, from, to) in edits {
        assert!(css.contains(from), "{from}");
        let edited = css.replacen(from, to, 1);
        stages.measure(stage, || timed(|| again(&edited, None)));
    }
    let edited = html.replacen("class=\"card-title h5\"", "class=\"card-title h4\"", 1);
    stages.measure("after an edit of a class", || {
        timed(|| again(css, Some(&edited)))
    });
}

criterion_group!(benches, whole_page);

fn main() {
    // `cargo bench -- --stages` stops after the ratios.
    let mut arguments = std::env::args().skip_while(|argument| argument != "--stages");
    let only_ratios = arguments.next().is_some();
    ratios(arguments.next());
    if !only_ratios {
        benches();
        Criterion::default().configure_from_args().final_summary();
    }
}
