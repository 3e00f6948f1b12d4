//! The element tree.

use fingerpost::markup::Written;
use fingerpost::question::tree::{Branch, TreeAnswer};

use super::{BAD, FAINT, HEAD, PLACE, painted};

pub fn tree(answer: &TreeAnswer) -> String {
    let mut text = painted(HEAD, &answer.page);
    if answer.quirks {
        text.push_str("  (quirks mode: the page has no doctype, or an old one)");
    }
    text.push('\n');
    branch(&answer.tree, 0, &mut text);
    for problem in &answer.problems {
        text.push_str(&format!("{}\n", painted(BAD, problem)));
    }
    text
}

/// How many levels are set in; deeper ones show their depth as a number instead.
const MOST_SET_IN: usize = 30;

fn branch(branch: &Branch, depth: usize, text: &mut String) {
    let element = &branch.element;
    let line = match element.written {
        Written::Tag => format!("{PLACE}{:>5}{PLACE:#}", element.place.line),
        Written::Implied | Written::Repeated => format!("{:>5}", "·"),
    };
    let space = "  ".repeat(depth.min(MOST_SET_IN));
    text.push_str(&format!("{line}  {space}{}", element.label()));
    if depth > MOST_SET_IN {
        text.push_str(&painted(FAINT, format!("  level {depth}")));
    }
    match element.written {
        Written::Tag => {}
        Written::Implied => text.push_str(&painted(FAINT, "  implied by the parser")),
        Written::Repeated => text.push_str(&painted(FAINT, "  repeated by the parser")),
    }
    if !branch.text.is_empty() {
        text.push_str(&painted(FAINT, format!("  “{}”", branch.text)));
    }
    if branch.more > 0 {
        text.push_str(&painted(FAINT, format!("  and {} below", branch.more)));
    }
    text.push('\n');
    for child in &branch.children {
        self::branch(child, depth + 1, text);
    }
}
