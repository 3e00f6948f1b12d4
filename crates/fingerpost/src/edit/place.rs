//! Where a change of a style goes: the declaration that wins, the rule that is named, and the patch
//! of the file that holds it.

use std::sync::Arc;

use super::{EditError, FileChange, Made};
use crate::cascade::{Origin, Rank};
use crate::page::{Arrival, DeclarationRef, PropertyName, SheetRef, Styles, Target, ValueSource};
use crate::question::ElementSummary;
use crate::sheet::{RuleId, RuleKind, Sheet};
use crate::text::{Patch, Text, TextRange};
use crate::value::PropertyId;

/// The property of a name.
pub(super) fn property(name: &str) -> Result<PropertyName, EditError> {
    PropertyName::parse(name).ok_or_else(|| EditError::NoProperty {
        name: name.to_owned(),
        nearest: PropertyId::nearest(name).map(str::to_owned),
    })
}

/// A rule of a listed sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct RuleAt {
    /// Which of the page's sheets.
    pub sheet: u32,
    pub rule: RuleId,
}

impl RuleAt {
    pub fn sheet<'a>(&self, styles: &Styles<'a>) -> &'a Sheet {
        styles.page().sheets()[self.sheet as usize].styles.sheet()
    }

    /// A change of the rule's file.
    pub fn change(&self, styles: &Styles<'_>, patch: Patch) -> Made {
        Made::of(self.sheet(styles).text().name(), patch)
    }
}

/// The style rule at a place of one of the page's sheets: `FILE:LINE` or `FILE:LINE:COLUMN`.
pub(super) fn rule_at(styles: &Styles<'_>, place: &str) -> Result<RuleAt, EditError> {
    let (file, line, column) = parsed(place).ok_or_else(|| EditError::NoPlace {
        given: place.to_owned(),
    })?;
    let sheets = styles.page().sheets().iter().enumerate();
    let here = sheets.filter(|(at, s)| {
        s.origin == Origin::Author
            && s.styles.sheet().text().name() == file
            && is_placed(styles, SheetRef::Listed(*at as u32))
    });
    let mut found = here.filter_map(|(at, page_sheet)| {
        let sheet = page_sheet.styles.sheet();
        let rule = match column {
            None => sheet.rule_at(line)?.0,
            Some(column) => {
                let offset = sheet.text().offset(line, column)?;
                let around = sheet
                    .rules()
                    .filter(|(_, r)| r.span.contains_inclusive(offset));
                let styles = around.filter(|(_, r)| r.kind == RuleKind::Style);
                styles.min_by_key(|(_, r)| r.span.len())?.0
            }
        };
        (sheet.rule(rule).kind == RuleKind::Style).then_some(RuleAt {
            sheet: at as u32,
            rule,
        })
    });
    found.next().ok_or_else(|| EditError::NotThere {
        place: place.to_owned(),
        why: "there is no rule of this page there".to_owned(),
    })
}

/// `css/custom.css:4` or `css/custom.css:4:7`.
fn parsed(place: &str) -> Option<(&str, u32, Option<u32>)> {
    let (rest, last) = place.rsplit_once(':')?;
    let last: u32 = last.parse().ok()?;
    match rest
        .rsplit_once(':')
        .and_then(|(file, line)| Some((file, line.parse().ok()?)))
    {
        Some((file, line)) => Some((file, line, Some(last))),
        None => Some((rest, last, None)),
    }
}

/// The strongest rule of the site's sheets that matches and applies; none where none does.
pub(super) fn strongest(styles: &Styles<'_>, target: &Target) -> Option<RuleAt> {
    let rows = styles.declarations(target);
    let own = rows.iter().filter(|(reference, rank, blocked)| {
        rank.origin == Origin::Author
            && blocked.is_none()
            && matches!(reference.sheet, SheetRef::Listed(_))
            && is_placed(styles, reference.sheet)
    });
    let plain = |rank: &Rank| Rank {
        important: false,
        ..*rank
    };
    let (reference, ..) = own.max_by(|(_, a, _), (_, b, _)| plain(a).compare(&plain(b)).0)?;
    let SheetRef::Listed(sheet) = reference.sheet else {
        return None;
    };
    let declared = styles.sheet(reference.sheet);
    Some(RuleAt {
        sheet,
        rule: declared.sheet().declaration(reference.id).rule,
    })
}

/// The one declaration of the site's sources that gives the property its value.
pub(super) fn winner(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    element: &str,
) -> Result<DeclarationRef, EditError> {
    let longhands: Vec<PropertyName> = match property {
        PropertyName::Known(id) => id
            .longhands()
            .iter()
            .copied()
            .map(PropertyName::Known)
            .collect(),
        PropertyName::Custom(_) => vec![property.clone()],
    };
    let mut winners: Vec<(PropertyName, Option<DeclarationRef>)> = Vec::new();
    for longhand in longhands {
        let contest = styles.contest(target, &longhand).contest;
        let found = contest.winning().map(|w| w.declaration);
        winners.push((longhand, found));
    }
    let first = winners[0].1;
    if winners.iter().any(|(_, reference)| *reference != first) {
        let mut parts = String::new();
        for (longhand, reference) in &winners {
            if let Some(reference) = reference {
                let style_sheet = styles.sheet(reference.sheet);
                let sheet = style_sheet.sheet();
                let span = sheet.declaration(reference.id).span;
                let place = sheet.text().place(span.start());
                parts.push_str(&format!("\n  {longhand}  ({place})"));
            }
        }
        return Err(EditError::Several {
            property: property.to_string(),
            element: element.to_owned(),
            parts,
        });
    }
    let nothing = |whence: String| EditError::NothingToChange {
        property: property.to_string(),
        element: element.to_owned(),
        whence,
    };
    let Some(reference) = first else {
        let longhand = &winners[0].0;
        return Err(nothing(match &styles.value(target, longhand).source {
            ValueSource::Inherited { from } => {
                let above = ElementSummary::new(styles.page(), *from);
                format!(
                    "it inherits from {} at {}, where it can be set",
                    above.label(),
                    above.place
                )
            }
            _ => "it has its initial value".to_owned(),
        }));
    };
    if let SheetRef::Hints(_) = reference.sheet {
        return Err(nothing(
            "its value comes from an attribute of the markup, not from a declaration".to_owned(),
        ));
    }
    if !is_placed(styles, reference.sheet) {
        return Err(nothing(
            "its embedded sheet has characters that the parser changed, so it can't be patched in \
             the page"
                .to_owned(),
        ));
    }
    if let SheetRef::Listed(at) = reference.sheet
        && styles.page().sheets()[at as usize].origin == Origin::UserAgent
    {
        return Err(nothing(
            "its value comes from the browser's own sheet, which is no file of the site".to_owned(),
        ));
    }
    Ok(reference)
}

/// Whether a sheet's spans are spans of the file that it is named after.
pub(super) fn is_placed(styles: &Styles<'_>, sheet: SheetRef) -> bool {
    let SheetRef::Listed(at) = sheet else {
        return true;
    };
    let page_sheet = &styles.page().sheets()[at as usize];
    let text = page_sheet.styles.sheet().text();
    !matches!(page_sheet.arrival, Arrival::Style(_))
        || Arc::ptr_eq(text, styles.page().document().text())
}

/// The change of the file: in a style attribute the value is written as its quotes ask for.
pub(super) fn place(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    range: TextRange,
    with: &str,
) -> Made {
    let text = styles.sheet(reference.sheet).sheet().text().clone();
    Made {
        changes: vec![FileChange {
            file: text.name().to_owned(),
            patch: placed_patch(styles, reference, &text, range, with),
        }],
        ..Made::default()
    }
}

fn placed_patch(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    text: &Arc<Text>,
    range: TextRange,
    with: &str,
) -> Patch {
    let SheetRef::Attribute(element) = reference.sheet else {
        return Patch::single(range, with);
    };
    let document = styles.page().document();
    let source = document.text().source();
    let attribute = document
        .expect_element(element)
        .attribute_node("style")
        .expect("the declaration stands in it");
    let before = usize::from(attribute.value_span.start()).checked_sub(1);
    let quote = before
        .and_then(|at| source[at..].chars().next())
        .filter(|c| matches!(c, '"' | '\''));
    let escape = |value: &str| {
        let value = value.replace('&', "&amp;");
        match quote {
            Some('\'') => value.replace('\'', "&#39;"),
            Some(_) => value.replace('"', "&quot;"),
            None => value.replace('"', "&quot;").replace(' ', "&#32;"),
        }
    };
    if Arc::ptr_eq(text, document.text()) {
        return Patch::single(range, escape(with));
    }
    // The value has character references: the whole of it is written anew.
    let changed = Patch::single(range, with).apply(text.source());
    Patch::single(attribute.value_span, escape(&changed))
}
