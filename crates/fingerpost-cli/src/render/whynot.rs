//! Why something does nothing.

use fingerpost::advice::Advice;
use fingerpost::question::whynot::{Finding, Obstacle, Trial, WhyNotAnswer};

use crate::advised;

use super::{BAD, FAINT, GOOD, HEAD, LOST, counted, painted, place};

pub fn whynot(answer: &WhyNotAnswer, advice: &[Advice]) -> String {
    let mut text = format!(
        "{} for {}  {}\n",
        painted(HEAD, &answer.asked),
        painted(HEAD, answer.element.label()),
        place(&answer.element.place)
    );
    let style = if answer.holds { GOOD } else { BAD };
    text.push_str(&format!("\n{}\n", painted(style, &answer.verdict)));
    for (at, finding) in answer.findings.iter().enumerate() {
        self::finding(finding, answer, at == 0, advice, &mut text);
    }
    let states = advice.iter().filter(|one| one.code == "in-state");
    for (advice, line) in states.filter_map(|one| Some((one, advised::line(one)?))) {
        text.push_str(&format!("\n  To {}\n    {line}\n", advice.label));
    }
    let of_remedies = |one: &&Advice| {
        let remedies = answer.findings.iter().flat_map(|f| &f.remedies);
        remedies
            .into_iter()
            .any(|remedy| remedy.sentence == one.label)
    };
    let rest = advice
        .iter()
        .filter(|one| one.code != "in-state" && !of_remedies(one));
    let rest: Vec<Advice> = rest.cloned().collect();
    if !rest.is_empty() {
        text.push_str(&format!("\n{}", advised::listed(&rest)));
    }
    if !answer.others.is_empty() {
        text.push_str("\n  Also\n");
    }
    for other in &answer.others {
        let rule = other.rule.as_deref().unwrap_or("");
        let at = other.place.as_ref().map(place).unwrap_or_default();
        text.push_str(&format!("    {}  {at}\n", painted(HEAD, rule)));
        text.push_str(&format!("      {}\n", painted(FAINT, &other.verdict)));
    }
    if answer.more > 0 {
        text.push_str(&format!("    and {}\n", counted(answer.more, "other rule")));
    }
    text
}

fn finding(
    finding: &Finding,
    answer: &WhyNotAnswer,
    first: bool,
    advice: &[Advice],
    text: &mut String,
) {
    if let Some(rule) = &finding.rule {
        text.push_str(&format!("\n  {}", painted(HEAD, rule)));
        if let Some(at) = &finding.place {
            text.push_str(&format!("  {}", place(at)));
        }
        text.push('\n');
    }
    for (at, obstacle) in finding.obstacles.iter().enumerate() {
        // The verdict is the first one's sentence, and is not said twice.
        let told = first && at == 0 && answer.verdict.ends_with(&obstacle.sentence);
        self::obstacle(obstacle, told, text);
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
        if let Some(trial) = &remedy.trial {
            text.push_str(&format!("      {}\n", painted(FAINT, self::trial(trial))));
        }
        let own = advice.iter().find(|one| one.label == remedy.sentence);
        if let Some(line) = own.and_then(advised::line) {
            text.push_str(&format!("      {line}\n"));
        }
    }
}

/// What trying a remedy showed.
fn trial(trial: &Trial) -> String {
    let mut text = match &trial.others {
        Some(others) => format!("tried: it wins; also changes {others}"),
        None => "tried: it wins, and nothing else changes".to_owned(),
    };
    if !trial.untouched.is_empty() {
        text.push_str(&format!("; no change {}", trial.untouched.join(", ")));
    }
    text
}

fn obstacle(obstacle: &Obstacle, told: bool, text: &mut String) {
    let about = match &obstacle.declaration {
        Some(declaration) if !obstacle.sentence.contains(declaration) => format!("{declaration}: "),
        _ => String::new(),
    };
    if !told {
        text.push_str(&format!("    {BAD}✗{BAD:#} {about}{}\n", obstacle.sentence));
    }
    for hint in &obstacle.hints {
        text.push_str(&format!("      {}\n", painted(FAINT, hint)));
    }
}
