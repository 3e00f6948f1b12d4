//! The rules that reach an element.

use fingerpost::question::codes::{DeclarationStanding, IdleReason};
use fingerpost::question::trace::{
    IdleGroup, InheritedAnswer, RuleAnswer, TraceAnswer, TracedDeclaration, UnreadAnswer,
};

use super::{
    BAD, FAINT, GOOD, HEAD, LOST, PLACE, counted, painted, place, provenance, selector, trail,
};

pub fn trace(answer: &TraceAnswer) -> String {
    let element = &answer.element;
    let mut text = format!(
        "{}  {}\n",
        painted(HEAD, element.label()),
        place(&element.place)
    );
    if !answer.trail.is_empty() {
        text.push_str(&format!("in {}\n", trail(&answer.trail)));
    }
    if let Some(contrast) = &answer.contrast {
        text.push_str(&super::contrast::contrast(contrast));
    }
    if answer.rules.is_empty() {
        text.push_str("\nNo rule matches it.\n");
    } else {
        text.push_str("\nRules that match it, strongest first\n");
    }
    let mut number = 1;
    for rule in &answer.rules {
        let mut said = String::new();
        if self::rule(rule, &format!("{number:>3}  "), &mut said) {
            text.push_str(&said);
            number += 1;
        }
    }
    if !answer.idle.is_empty() {
        text.push_str("\nWhat does nothing here\n");
    }
    for group in &answer.idle {
        idle(group, &mut text);
    }
    if !answer.inherited.is_empty() {
        text.push_str("\nWhat it inherits, nearest ancestor first\n");
    }
    for inherited in &answer.inherited {
        inherited_from(inherited, &mut text);
    }
    beside(answer, &mut text);
    text
}

/// The rules whose declarations an element inherits from one of its ancestors.
fn inherited_from(inherited: &InheritedAnswer, text: &mut String) {
    text.push_str(&format!(
        "\n     from {}  {}\n",
        painted(HEAD, inherited.from.label()),
        place(&inherited.from.place)
    ));
    for rule in &inherited.rules {
        self::rule(rule, "     ", text);
    }
    let unused = inherited.unused_custom_properties;
    if unused > 0 {
        let (properties, is) = if unused == 1 {
            ("property", "is")
        } else {
            ("properties", "are")
        };
        let line = format!("{unused} custom {properties} that {is} not used here");
        text.push_str(&format!("\n       {}\n", painted(FAINT, line)));
    }
}

/// What is not about the element itself: its pseudo-elements, and what could not be read.
fn beside(answer: &TraceAnswer, text: &mut String) {
    if !answer.pseudo_elements.is_empty() {
        let base = answer.element.label();
        let asked: Vec<String> = answer
            .pseudo_elements
            .iter()
            .map(|pseudo| format!("{base}{pseudo}"))
            .collect();
        text.push_str(&format!(
            "\nRules match its pseudo-elements too; ask about {}\n",
            asked.join(", ")
        ));
    }
    for problem in &answer.problems {
        text.push_str(&format!(
            "\n{} {}: {}\n",
            painted(BAD, "Not read:"),
            place(&problem.place),
            problem.message
        ));
    }
    if !answer.unread.is_empty() {
        text.push_str("\nRules that no element can be matched against\n");
        let is_foreign = |unread: &&UnreadAnswer| {
            OTHER_BROWSERS
                .iter()
                .any(|prefix| unread.selector.contains(prefix))
        };
        let foreign = answer.unread.iter().filter(is_foreign).count();
        if foreign > 0 {
            let rules = counted(foreign, "rule");
            text.push_str(&format!("     {rules} for other browsers (-moz-, -ms-)\n"));
        }
        for unread in answer.unread.iter().filter(|unread| !is_foreign(unread)) {
            text.push_str(&format!(
                "     {}  {}  {}\n",
                unread.selector,
                place(&unread.place),
                unread.reason
            ));
        }
    }
}

/// Prefixes of what only other browsers have.
const OTHER_BROWSERS: [&str; 2] = [":-moz-", ":-ms-"];

/// Declarations that do nothing, under their reason.
fn idle(group: &IdleGroup, text: &mut String) {
    let head = match (group.reason, &group.condition) {
        (IdleReason::Condition, Some(condition)) => condition.clone(),
        (IdleReason::UnknownProperty, _) => "unknown property".to_owned(),
        (IdleReason::InvalidValue, _) => "invalid value".to_owned(),
        _ => "beaten".to_owned(),
    };
    text.push_str(&format!("\n     {}\n", painted(HEAD, head)));
    let mut last: Option<&str> = None;
    for idle in &group.declarations {
        if last != Some(idle.selector.as_str()) {
            text.push_str(&format!("       {}\n", idle.selector));
            last = Some(&idle.selector);
        }
        declaration(&idle.declaration, None, text);
    }
}

/// A rule with what of it applies; says whether anything does.
fn rule(answer: &RuleAnswer, lead: &str, text: &mut String) -> bool {
    text.push_str(&format!(
        "\n{lead}{}  {}  {}\n",
        selector(&answer.rule),
        place(&answer.rule.place),
        painted(FAINT, provenance(&answer.rule)),
    ));
    let mut any = false;
    for declaration in &answer.declarations {
        if declaration.standing.wins() {
            any = true;
            self::declaration(declaration, Some(answer), text);
        }
    }
    any
}

fn declaration(declaration: &TracedDeclaration, rule: Option<&RuleAnswer>, text: &mut String) {
    let important = if declaration.important {
        " !important"
    } else {
        ""
    };
    let written = format!("{}: {}{important}", declaration.property, declaration.value);
    let at = declaration
        .place
        .authored
        .as_deref()
        .unwrap_or(&declaration.place);
    let beside = rule.is_some_and(|rule| {
        let head = &rule.rule.place;
        at.file == head.authored.as_deref().unwrap_or(head).file
    });
    let line = if beside {
        format!(":{}", at.line)
    } else {
        at.brief().to_string()
    };
    let (mark, style) = match declaration.standing {
        DeclarationStanding::Wins => ("●", GOOD),
        DeclarationStanding::WinsInPart => ("◐", GOOD),
        DeclarationStanding::Beaten => ("○", LOST),
        DeclarationStanding::Blocked => ("–", FAINT),
        _ => ("✗", BAD),
    };
    text.push_str(&format!(
        "       {style}{mark}{style:#} {written}  {PLACE}{line}{PLACE:#}\n"
    ));
    for beaten in &declaration.beaten_by {
        let which = if declaration.standing == DeclarationStanding::WinsInPart {
            format!("{}: ", beaten.properties.join(", "))
        } else {
            String::new()
        };
        text.push_str(&format!(
            "           {LOST}{which}{}{LOST:#}  to {} {}\n",
            beaten.sentence,
            beaten.selector,
            place(&beaten.place)
        ));
    }
    if let Some(remark) = &declaration.remark {
        text.push_str(&format!("           {}\n", painted(BAD, remark)));
    }
}
