//! The rules that reach an element.

use fingerpost::question::trace::{RuleAnswer, TraceAnswer, TracedDeclaration};

use super::{BAD, FAINT, GOOD, HEAD, LOST, PLACE, painted, place, provenance, selector, trail};

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
    if answer.rules.is_empty() {
        text.push_str("\nNo rule reaches it.\n");
    } else {
        text.push_str("\nRules that reach it, strongest first\n");
    }
    for (at, rule) in answer.rules.iter().enumerate() {
        self::rule(rule, &format!("{:>3}  ", at + 1), &mut text);
    }
    if !answer.inherited.is_empty() {
        text.push_str("\nWhat it inherits, nearest ancestor first\n");
    }
    for inherited in &answer.inherited {
        text.push_str(&format!(
            "\n     from {}  {}\n",
            painted(HEAD, inherited.from.label()),
            place(&inherited.from.place)
        ));
        for rule in &inherited.rules {
            self::rule(rule, "     ", &mut text);
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
    if !answer.pseudo_elements.is_empty() {
        let base = element.label();
        let asked: Vec<String> = answer
            .pseudo_elements
            .iter()
            .map(|pseudo| format!("{base}{pseudo}"))
            .collect();
        text.push_str(&format!(
            "\nRules speak of its pseudo-elements too; ask for {}\n",
            asked.join(", ")
        ));
    }
    for failure in &answer.failures {
        text.push_str(&format!(
            "\n{} {} at {}: {}\n",
            painted(BAD, "Not loaded:"),
            failure.url,
            place(&failure.place),
            failure.reason
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
        for unread in &answer.unread {
            text.push_str(&format!(
                "     {}  {}  {}\n",
                unread.selector,
                place(&unread.place),
                unread.reason
            ));
        }
    }
    text
}

fn rule(answer: &RuleAnswer, lead: &str, text: &mut String) {
    text.push_str(&format!(
        "\n{lead}{}  {PLACE}{}{PLACE:#}  {}\n",
        selector(&answer.rule),
        answer.rule.place,
        painted(FAINT, provenance(&answer.rule)),
    ));
    if let Some(blocked) = &answer.blocked {
        text.push_str(&format!(
            "       {}\n",
            painted(LOST, format!("does not apply: {blocked}"))
        ));
    }
    for declaration in &answer.declarations {
        self::declaration(declaration, answer, text);
    }
}

fn declaration(declaration: &TracedDeclaration, rule: &RuleAnswer, text: &mut String) {
    let important = if declaration.important {
        " !important"
    } else {
        ""
    };
    let written = format!("{}: {}{important}", declaration.property, declaration.value);
    let line = if declaration.place.file == rule.rule.place.file {
        format!(":{}", declaration.place.line)
    } else {
        declaration.place.to_string()
    };
    let (mark, style) = match declaration.standing {
        "wins" => ("●", GOOD),
        "wins-in-part" => ("◐", GOOD),
        "beaten" => ("○", LOST),
        "blocked" => ("–", FAINT),
        _ => ("✗", BAD),
    };
    text.push_str(&format!(
        "       {style}{mark}{style:#} {written}  {PLACE}{line}{PLACE:#}\n"
    ));
    for beaten in &declaration.beaten_by {
        let which = if declaration.standing == "wins-in-part" {
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
