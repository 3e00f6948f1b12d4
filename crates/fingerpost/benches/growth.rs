//! How the time for a whole page grows with its elements, and with the rules of its sheet, as a plot:
//! `cargo bench -p fingerpost --bench growth` writes `docs/figures/growth.svg`.

#[path = "large_page.rs"]
mod large_page;

use std::error::Error;
use std::fmt::Write as _;
use std::hint::black_box;
use std::path::Path;
use std::time::{Duration, Instant};

use fingerpost::page::{LoadError, Page};
use fingerpost::text::Text;
use plotters::prelude::*;

/// How often each size is measured; the median counts.
const ROUNDS: usize = 7;

/// Elements of one card of the page.
const CARD: usize = 19;

fn page(html: &str, css: &str) -> Page {
    let text = Text::new("page.html", html);
    let mut load = |request: &fingerpost::page::Request<'_>| match request.url {
        "bootstrap.css" => Ok(Text::new("bootstrap.css", css)),
        other => Err(LoadError::Missing {
            file: other.to_owned(),
        }),
    };
    Page::builder(text).loader(&mut load).build()
}

/// A sheet of so many rules; every tenth finds elements of the page.
fn sheet(rules: usize) -> String {
    let known = [
        "card",
        "card-body",
        "btn",
        "list-group-item",
        "badge",
        "h5",
        "row",
        "card-text",
    ];
    let mut css = String::new();
    for rule in 0..rules {
        let (name, other) = (known[rule % known.len()], known[(rule / 3) % known.len()]);
        let _ = match rule % 10 {
            0 => writeln!(
                css,
                ".{name} {{ margin-top: {rule}px; color: rgb({} 2 3) }}",
                rule % 256
            ),
            1 => writeln!(css, ".{other} > .{name}:hover {{ color: teal }}"),
            _ => writeln!(
                css,
                ".theme-{rule} .{name} {{ padding: {rule}px; color: navy }}"
            ),
        };
    }
    css
}

fn median(mut measured: impl FnMut() -> Duration) -> Duration {
    let mut times: Vec<Duration> = (0..ROUNDS).map(|_| measured()).collect();
    times.sort();
    times[ROUNDS / 2]
}

/// The time for everything of a page that is built already.
fn whole(html: &str, css: &str) -> (usize, Duration) {
    let elements = page(html, css).document().elements().len();
    let time = median(|| {
        let page = page(html, css);
        let begun = Instant::now();
        let _ = black_box(page.whole());
        begun.elapsed()
    });
    (elements, time)
}

fn main() -> Result<(), Box<dyn Error>> {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    let Ok(bootstrap) = std::fs::read_to_string(here.join("benches/fetched/bootstrap.css")) else {
        println!("skipped: benches/fetched/bootstrap.css is missing; run benches/fetch.sh");
        return Ok(());
    };
    let mut by_elements = Vec::new();
    for wanted in [1_000, 10_000, 50_000] {
        let (elements, time) = whole(&large_page::html_of(wanted / CARD), &bootstrap);
        println!("{elements:>6} elements: {time:.1?}");
        by_elements.push((elements as f64, time.as_secs_f64() * 1000.0));
    }
    let html = large_page::html();
    let mut by_rules = Vec::new();
    for rules in [300, 3_000, 30_000] {
        let (_, time) = whole(&html, &sheet(rules));
        println!("{rules:>6} rules: {time:.1?}");
        by_rules.push((f64::from(rules as u32), time.as_secs_f64() * 1000.0));
    }
    let folder = here.join("../../docs/figures");
    std::fs::create_dir_all(&folder)?;
    draw(&folder.join("growth.svg"), &by_elements, &by_rules)
}

/// Both curves, side by side, on logarithmic axes.
fn draw(
    file: &Path,
    by_elements: &[(f64, f64)],
    by_rules: &[(f64, f64)],
) -> Result<(), Box<dyn Error>> {
    let area = SVGBackend::new(file, (1000, 420)).into_drawing_area();
    area.fill(&WHITE)?;
    let (left, right) = area.split_horizontally(500);
    let plots = [
        (
            left,
            "elements, with a framework's sheet",
            by_elements,
            500.0..100_000.0,
        ),
        (
            right,
            "rules, on 9,500 elements",
            by_rules,
            100.0..100_000.0,
        ),
    ];
    for (area, words, points, range) in plots {
        let mut chart = ChartBuilder::on(&area)
            .margin(18)
            .x_label_area_size(44)
            .y_label_area_size(56)
            .build_cartesian_2d(range.log_scale(), (0.5..500.0f64).log_scale())?;
        chart
            .configure_mesh()
            .x_desc(words)
            .y_desc("ms for the whole page")
            .x_label_formatter(&|x| format!("{x:.0}"))
            .y_label_formatter(&|y| format!("{y}"))
            .bold_line_style(RGBColor(214, 220, 224))
            .light_line_style(RGBColor(240, 243, 244))
            .axis_style(RGBColor(120, 130, 136))
            .draw()?;
        let color = RGBColor(11, 94, 110);
        chart.draw_series(LineSeries::new(
            points.iter().copied(),
            color.stroke_width(2),
        ))?;
        let dots = points
            .iter()
            .map(|point| Circle::new(*point, 4, color.filled()));
        chart.draw_series(dots)?;
    }
    area.present()?;
    Ok(())
}
