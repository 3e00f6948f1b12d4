//! The sheets of a page.

use fingerpost::question::codes::{ArrivalKind, RoleKind};
use fingerpost::question::sheets::{SheetAnswer, SheetsAnswer};

use super::{BAD, FAINT, HEAD, LOST, counted, painted, place};

/// The sheets; those whose file has changes that are not saved are marked.
pub fn sheets(answer: &SheetsAnswer, unsaved: &[String]) -> String {
    let mut text = format!(
        "Sheets of {}, the weakest first\n",
        painted(HEAD, &answer.page)
    );
    for (at, sheet) in answer.sheets.iter().enumerate() {
        self::sheet(sheet, at, unsaved.contains(&sheet.file), &mut text);
    }
    for failure in &answer.failures {
        text.push_str(&format!(
            "\n  {} {}  named at {}\n      {}\n",
            painted(BAD, "✗ not loaded:"),
            painted(HEAD, &failure.url),
            place(&failure.place),
            failure.reason
        ));
    }
    text
}

/// How a sheet came to the page.
fn how(sheet: &SheetAnswer) -> String {
    match sheet.arrival {
        ArrivalKind::UserAgent => "the browser's own".to_owned(),
        ArrivalKind::User => "the reader's own".to_owned(),
        other => {
            let how = match other {
                ArrivalKind::Link => "linked",
                ArrivalKind::Style => "embedded",
                _ => "imported",
            };
            match &sheet.named_at {
                Some(at) => format!("{how} at {}", place(at)),
                None => how.to_owned(),
            }
        }
    }
}

fn sheet(sheet: &SheetAnswer, at: usize, unsaved: bool, text: &mut String) {
    let mut name = sheet.file.clone();
    if sheet.line > 1 {
        name.push_str(&format!(":{}", sheet.line));
    }
    text.push_str(&format!("\n{at:>3} {}", painted(HEAD, name)));
    let mark = if unsaved { "  changes not saved" } else { "" };
    text.push_str(&format!("  {}{}\n", how(sheet), painted(LOST, mark)));
    let mut parts = vec![
        size(sheet.bytes),
        counted(sheet.rules, "rule"),
        format!("{} match here", sheet.rules_matching),
    ];
    if let Some(layer) = &sheet.layer {
        let name = if layer.is_empty() {
            "(anonymous)"
        } else {
            layer
        };
        parts.push(format!("in layer {name}"));
    }
    if sheet.problems > 0 {
        parts.push(painted(
            BAD,
            format!("{} not read", counted(sheet.problems, "place")),
        ));
    }
    text.push_str(&format!("      {}\n", parts.join(", ")));
    if !sheet.at_rules.is_empty() && sheet.arrival != ArrivalKind::UserAgent {
        let listed: Vec<String> = sheet
            .at_rules
            .iter()
            .map(|(name, count)| format!("{count} {name}"))
            .collect();
        text.push_str(&format!("      {}\n", painted(FAINT, listed.join(", "))));
    }
    for gate in &sheet.conditions {
        let why = gate.because.join("; ");
        let line = if gate.holds {
            painted(FAINT, format!("{} is true: {why}", gate.condition))
        } else {
            painted(BAD, format!("off: {}: {why}", gate.condition))
        };
        text.push_str(&format!("      {line}\n"));
    }
    role(sheet, text);
    built(sheet, text);
}

/// How many parts of a bundle are listed, and of each how many rules that differ.
const MOST_PARTS: usize = 4;
const MOST_CHANGED: usize = 2;

/// What the file is, where a change of it would be overwritten and nothing else here says so.
fn role(sheet: &SheetAnswer, text: &mut String) {
    let Some(role) = &sheet.role else { return };
    let what = match role.kind {
        RoleKind::Vendor => "vendor:",
        RoleKind::Built if sheet.bundle.is_none() => "built:",
        _ => return,
    };
    let evidence = role.evidence.join("; ");
    text.push_str(&format!("      {} {evidence}\n", painted(LOST, what)));
}

/// What a sheet that looks built has from other files.
fn built(sheet: &SheetAnswer, text: &mut String) {
    let Some(bundle) = &sheet.bundle else { return };
    text.push_str(&format!(
        "      {} {}\n",
        painted(LOST, "looks built:"),
        bundle.signs.join("; ")
    ));
    for part in bundle.parts.iter().take(MOST_PARTS) {
        text.push_str(&format!(
            "        {} of {} rules of {} are in it unchanged",
            part.same, part.rules, part.file
        ));
        if part.missing > 0 {
            text.push_str(&format!(", {} are not", part.missing));
        }
        text.push('\n');
        for changed in part.changed.iter().take(MOST_CHANGED) {
            text.push_str(&format!(
                "        {} {}\n",
                painted(BAD, "other values here:"),
                place(changed)
            ));
        }
    }
    if let Some(more @ 1..) = bundle.parts.len().checked_sub(MOST_PARTS) {
        text.push_str(&format!("        and {}\n", counted(more, "more file")));
    }
}

fn size(bytes: usize) -> String {
    if bytes < 10_000 {
        format!("{bytes} bytes")
    } else {
        format!("{:.0} kB", bytes as f64 / 1000.0)
    }
}
