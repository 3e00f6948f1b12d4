//! The font families of a page.

use fingerpost::question::fonts::{FaceAnswer, FamilyAnswer, FamilyDeclaration, FontsAnswer};

use super::{BAD, FAINT, HEAD, counted, painted, place};

/// How many declarations of a family are shown.
const MOST_DECLARED: usize = 4;

pub fn fonts(answer: &FontsAnswer) -> String {
    let mut text = format!("{}\n", painted(HEAD, &answer.page));
    let mut was_first = true;
    for family in &answer.families {
        // Families that are only fallbacks are a list.
        let is_first = family.first > 0;
        if is_first || was_first {
            text.push('\n');
        }
        was_first = is_first;
        text.push_str(&format!(
            "{}  {}\n",
            painted(HEAD, &family.family),
            asked_by(family)
        ));
        // Where a fallback is declared, its first choice is.
        if is_first {
            declared(&family.declared, &mut text);
        }
        for face in &family.faces {
            text.push_str(&format!("    {}\n", loaded_by(face)));
        }
    }
    text
}

fn declared(all: &[FamilyDeclaration], text: &mut String) {
    for one in all.iter().take(MOST_DECLARED) {
        text.push_str(&format!(
            "    {}  {}  {}\n",
            one.selector,
            place(&one.place),
            painted(FAINT, counted(one.elements, "element"))
        ));
    }
    match all.len().saturating_sub(MOST_DECLARED) {
        0 => {}
        1 => text.push_str("    and 1 more declaration\n"),
        more => text.push_str(&format!("    and {more} more declarations\n")),
    }
}

fn asked_by(family: &FamilyAnswer) -> String {
    let what = match (
        family.generic,
        family.faces.iter().any(|face| !face.blocked),
    ) {
        (true, _) => painted(FAINT, ", generic"),
        (false, true) => String::new(),
        (false, false) => painted(
            FAINT,
            ", only if the reader has it: no loaded sheet has an @font-face for it",
        ),
    };
    match family.elements - family.first {
        0 => format!("first choice of {}{what}", counted(family.first, "element")),
        after if family.first == 0 => format!("fallback of {}{what}", counted(after, "element")),
        after => format!(
            "first choice of {}, fallback of {after}{what}",
            counted(family.first, "element")
        ),
    }
}

fn loaded_by(face: &FaceAnswer) -> String {
    let parts = [("weight", &face.weight), ("style", &face.style)];
    let parts: Vec<String> = parts
        .into_iter()
        .filter_map(|(name, value)| value.as_ref().map(|value| format!("{name} {value}")))
        .collect();
    let blocked = match face.blocked {
        true => painted(BAD, "  does not apply here"),
        false => String::new(),
    };
    format!(
        "@font-face  {}  {}{blocked}",
        place(&face.place),
        painted(FAINT, parts.join(", "))
    )
}
