//! `rule`: a new rule, after the strongest that matches, or in another sheet.

use serde::{Deserialize, Serialize};

use crate::cascade::Origin;
use crate::edit::error::EditError;
use crate::edit::expected::{Declared, StyleOp};
use crate::edit::given::{declarations, selectors};
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, NEW_RULE, named, required};
use crate::edit::kinds::{Kind, RuleRequest, SummaryContext};
use crate::edit::placement::Placement;
use crate::edit::plan::choose::{chosen, needed, on_other_pages};
use crate::edit::plan::rule_at::{RuleAt, is_placed, strongest};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::formatting::new_rule;
use crate::edit::rewrite::write::in_sheet;
use crate::page::{SheetRef, Styles, Target};
use crate::question::ElementSummary;
use crate::selector::Matcher;

/// A new rule.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Rule {
    /// Its selectors; chosen for the element without them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub selector: Option<String>,
    /// Its declarations, as in a sheet: `color: navy; top: 0`.
    pub declarations: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "rule",
    does: "Write a new rule for an element",
    more: "It comes after the strongest rule that matches.",
    about: About::MaybeElement,
    destinations: NEW_RULE,
    fields: &[
        required("declarations", "Its declarations", Holds::Css),
        named(
            "selector",
            "Its selector; default: the shortest one that wins",
            Holds::Selector,
        ),
    ],
    example: Example {
        before: "<style>\nh2 { color: teal }\n</style><h2 class=today>Boats</h2>",
        element: "h2",
        change: r#"{"declarations":"top: 0","selector":".today"}"#,
        after: "<style>\nh2 { color: teal }\n\n.today { top: 0 }\n</style><h2 class=today>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"rule":{"declarations":"color: navy; top: 0"}}}"#,
};

impl Kind for Rule {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let targets: Vec<Target> = target.cloned().into_iter().collect();
        let wanted = declarations(&self.declarations)?;
        new_rule_for(at, &targets, self.selector.as_deref(), &wanted)
    }

    fn make_all(&self, at: &At<'_, '_>, targets: &[Target]) -> Option<Result<Proposal, EditError>> {
        // One rule that matches them all.
        let wanted = declarations(&self.declarations);
        Some(wanted.and_then(|w| new_rule_for(at, targets, self.selector.as_deref(), &w)))
    }

    fn elsewhere(&self, _at: &At<'_, '_>, targets: &[Target]) -> Result<RuleRequest, EditError> {
        Ok(RuleRequest {
            targets: targets.to_vec(),
            declared: declarations(&self.declarations)?,
            selector: self.selector.clone(),
        })
    }

    fn shown(&self) -> String {
        self.declarations.trim().to_owned()
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let selector = self.selector.as_deref().unwrap_or(told.was);
        format!("a new rule {selector} {{ {} }}", self.declarations.trim())
    }

    fn properties(&self) -> Vec<String> {
        let declared = crate::edit::declared(&self.declarations).into_iter();
        declared.map(|(name, _)| name).collect()
    }
}

/// Where a new rule goes.
#[derive(Clone, Copy, Debug)]
enum Spot {
    /// Behind a rule, on its level.
    Behind(RuleAt),
    /// At the end of a sheet of the page.
    End(u32),
}

/// A new rule for some elements, under a selector that is given or one that is strong enough to win.
pub(super) fn new_rule_for(
    at: &At<'_, '_>,
    targets: &[Target],
    selector: Option<&str>,
    wanted: &[Declared],
) -> Result<Proposal, EditError> {
    let mut warnings = Vec::new();
    let selector = match selector {
        Some(given) => {
            let list = selectors(given)?;
            let matcher = Matcher::new(at.page().document(), at.page().states());
            let missed = targets
                .iter()
                // What matches in a state that it names is what was meant.
                .find(|t| !matcher.matches_list(&list.in_any_state(), t.element));
            if let Some(target) = missed {
                let who = ElementSummary::of_target(at.page(), target).label();
                warnings.push(format!("{} does not match {who}", given.trim()));
            }
            given.trim().to_owned()
        }
        None => {
            if targets.is_empty() {
                return Err(EditError::NoElement);
            }
            let found = chosen(at, targets, needed(at.styles, targets, wanted))?;
            warnings.extend(found.warnings());
            warnings.extend(on_other_pages(at, &found.selector));
            found.selector
        }
    };
    let spot = spot(at.styles, targets).ok_or_else(|| EditError::NoRule {
        place: at.page().document().text().name().to_owned(),
    })?;
    let (sheet_at, near) = match spot {
        Spot::Behind(rule) => (rule.sheet, Some(rule.rule)),
        Spot::End(sheet) => (sheet, None),
    };
    let sheet = at.page().sheet(sheet_at).styles.sheet();
    let new = new_rule(sheet, near, &selector, wanted)?;
    let op = StyleOp::Rules(None, new.source.clone());
    Ok(Proposal {
        was: Some(selector),
        warnings,
        ..in_sheet(
            at.styles,
            SheetRef::Listed(sheet_at),
            vec![Placement::Elsewhere.at(new.at, new.text)],
            [op],
        )
    })
}

/// Where a rule for some targets goes: after the strongest of the site's rules that match them, so
/// that it comes later; at the end of the site's last sheet where none does.
fn spot(styles: &Styles<'_>, targets: &[Target]) -> Option<Spot> {
    let found = targets.iter().filter_map(|t| strongest(styles, t));
    let tops = found.map(|rule| top(styles, rule));
    if let Some(last) = tops.max_by_key(|rule| (rule.sheet, rule.rule)) {
        return Some(Spot::Behind(last));
    }
    let sheets = styles.page().sheets().iter().enumerate();
    let usable = sheets.filter(|(at, s)| {
        s.origin == Origin::Author
            && s.closed_gate().is_none()
            && s.host.is_none()
            && is_placed(styles, SheetRef::Listed(*at as u32))
    });
    usable.map(|(at, _)| Spot::End(at as u32)).last()
}

/// The rule at the top of the sheet that a rule is, or is in.
fn top(styles: &Styles<'_>, at: RuleAt) -> RuleAt {
    let sheet = at.sheet(styles);
    let above = std::iter::successors(Some(at.rule), |id| sheet.rule(*id).parent);
    RuleAt {
        rule: above.last().unwrap_or(at.rule),
        ..at
    }
}
