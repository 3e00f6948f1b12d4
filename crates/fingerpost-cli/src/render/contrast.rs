//! How a text stands out from its background, in a line.

use fingerpost::question::contrast::ContrastAnswer;

use super::{BAD, FAINT, GOOD, painted, swatch};

pub fn contrast(answer: &ContrastAnswer) -> String {
    let (passes, style) = match (answer.passes_aa(), answer.passes_aaa()) {
        (_, true) => ("passes AA and AAA".to_owned(), GOOD),
        (true, false) => (
            format!("passes AA; AAA requires {}:1", answer.needed_aaa),
            GOOD,
        ),
        (false, _) => (
            format!("fails AA, which requires {}:1", answer.needed_aa),
            BAD,
        ),
    };
    let large = if answer.large { ", large text" } else { "" };
    let mut text = format!(
        "Contrast {}:1  {}  {}{} on {}{}{large}\n",
        answer.ratio,
        painted(style, passes),
        swatch(&answer.color),
        answer.color,
        swatch(&answer.background),
        answer.background,
    );
    if !answer.not_counted.is_empty() {
        let line = format!("    not counted: {}", answer.not_counted.join(", "));
        text.push_str(&format!("{}\n", painted(FAINT, line)));
    }
    text
}
