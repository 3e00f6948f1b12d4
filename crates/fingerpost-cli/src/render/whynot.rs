//! Why something does nothing.

use fingerpost::question::whynot::{Finding, Obstacle, WhyNotAnswer};

use super::{BAD, FAINT, GOOD, HEAD, LOST, painted, place};

pub fn whynot(answer: &WhyNotAnswer) -> String {
    let mut text = format!(
        "{} for {}  {}\n",
        painted(HEAD, &answer.asked),
        painted(HEAD, answer.element.label()),
        place(&answer.element.place)
    );
    let style = if answer.holds { GOOD } else { BAD };
    text.push_str(&format!("\n{}\n", painted(style, &answer.verdict)));
    for (at, finding) in answer.findings.iter().enumerate() {
        self::finding(finding, answer, at == 0, &mut text);
    }
    if answer.more > 0 {
        let line = format!("and {} more that say the same", answer.more);
        text.push_str(&format!("\n{}\n", painted(FAINT, line)));
    }
    text
}

fn finding(finding: &Finding, answer: &WhyNotAnswer, first: bool, text: &mut String) {
    if let Some(rule) = &finding.rule {
        text.push_str(&format!("\n  {}", painted(HEAD, rule)));
        if let Some(at) = &finding.place {
            text.push_str(&format!("  {}", place(at)));
        }
        text.push('\n');
    }
    // The sentence of the verdict is not said twice.
    let told = first && finding.obstacles.len() == 1 && finding.obstacles[0].hints.is_empty();
    if !(told && finding.obstacles[0].sentence == answer.verdict) {
        for (at, obstacle) in finding.obstacles.iter().enumerate() {
            self::obstacle(obstacle, at + 1, text);
        }
    }
    for declaration in &finding.effective {
        text.push_str(&format!("    {GOOD}●{GOOD:#} {declaration}\n"));
    }
    if finding.remedies.is_empty() {
        return;
    }
    text.push_str("\n  What would win, the best first\n");
    for remedy in &finding.remedies {
        let (mark, style) = if remedy.test_only {
            ("?", LOST)
        } else {
            ("→", GOOD)
        };
        let test = if remedy.test_only { "a test: " } else { "" };
        text.push_str(&format!(
            "    {style}{mark}{style:#} {test}{}\n",
            remedy.sentence
        ));
    }
}

fn obstacle(obstacle: &Obstacle, number: usize, text: &mut String) {
    let about = match &obstacle.declaration {
        Some(declaration) if !obstacle.sentence.contains(declaration) => format!("{declaration}: "),
        _ => String::new(),
    };
    text.push_str(&format!(
        "    {BAD}{number}{BAD:#} {about}{}\n",
        obstacle.sentence
    ));
    for hint in &obstacle.hints {
        text.push_str(&format!("      {}\n", painted(FAINT, hint)));
    }
}
