//! The answer to what matches an element.

use crate::cascade::Criterion;
use crate::question::codes::{DeclarationStanding, IdleReason};
use crate::question::contrast::ContrastAnswer;
use crate::question::describe::{ElementSummary, RuleSummary};
use crate::text::Place;
use serde::{Deserialize, Serialize};

/// Everything that matches an element.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct TraceAnswer {
    /// The page.
    pub page: String,
    /// The element.
    pub element: ElementSummary,
    /// The way from the root element down to it, itself left out.
    pub trail: Vec<ElementSummary>,
    /// The rules that match it, strongest first.
    pub rules: Vec<RuleAnswer>,
    /// What of the rules does nothing here, under its reason.
    pub idle: Vec<IdleGroup>,
    /// What it inherits, nearest ancestor first.
    pub inherited: Vec<InheritedAnswer>,
    /// The pseudo-elements of it that rules speak of.
    pub pseudo_elements: Vec<String>,
    /// Sheets of the page that did not load.
    pub failures: Vec<FailureAnswer>,
    /// Rules whose selector is not matched yet, or is none; they may or may not be about it.
    pub unread: Vec<UnreadAnswer>,
    /// How its text stands out from its background, where it has text.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub contrast: Option<ContrastAnswer>,
    /// What could not be read in the page and its sheets.
    pub problems: Vec<ProblemAnswer>,
}

/// Declarations that do nothing for the element, all for one reason.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct IdleGroup {
    /// The reason.
    pub reason: IdleReason,
    /// The condition that does not hold, where that is the reason.
    pub condition: Option<String>,
    /// The declarations, strongest rule first.
    pub declarations: Vec<IdleDeclaration>,
}

/// A declaration that does nothing.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct IdleDeclaration {
    /// The selector of its rule.
    pub selector: String,
    /// The declaration.
    #[serde(flatten)]
    pub declaration: TracedDeclaration,
}

/// A rule that matches.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct RuleAnswer {
    /// The rule.
    #[serde(flatten)]
    pub rule: RuleSummary,
    /// Why none of it applies, if so.
    pub blocked: Option<String>,
    /// Its declarations in order.
    pub declarations: Vec<TracedDeclaration>,
}

/// A declaration of a rule that matches.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct TracedDeclaration {
    /// The property as written.
    pub property: String,
    /// The value as written.
    pub value: String,
    /// Whether it is `!important`.
    pub important: bool,
    /// Where it stands.
    pub place: Place,
    /// Whether it wins, and if not, why.
    pub standing: DeclarationStanding,
    /// The longhands on which it was beaten, and by what.
    pub beaten_by: Vec<BeatenAnswer>,
    /// What is wrong with it, if anything.
    pub remark: Option<String>,
}

/// What beat a declaration on one longhand.
#[derive(Debug, Clone, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct BeatenAnswer {
    /// The longhands.
    pub properties: Vec<String>,
    /// Where the winner stands.
    pub place: Place,
    /// The winner's selector.
    pub selector: String,
    /// The criterion.
    pub criterion: Criterion,
    /// The reason, in a sentence.
    pub sentence: String,
}

/// What an ancestor passes down.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct InheritedAnswer {
    /// The ancestor.
    pub from: ElementSummary,
    /// Its rules, with only those declarations that win there and are inherited to the end. Custom
    /// properties are there only where a value of the element goes through them.
    pub rules: Vec<RuleAnswer>,
    /// How many custom properties it passes down that no value of the element goes through.
    pub unused_custom_properties: usize,
}

/// A sheet that did not load.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FailureAnswer {
    /// The URL as written.
    pub url: String,
    /// Where it is written.
    pub place: Place,
    /// Why it did not load.
    pub reason: String,
}

/// A rule that could not be asked whether it matches.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct UnreadAnswer {
    /// Its selector list as written.
    pub selector: String,
    /// Where it stands.
    pub place: Place,
    /// Why.
    pub reason: String,
}

/// Something in a source that could not be read.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ProblemAnswer {
    /// Where.
    pub place: Place,
    /// What is wrong and what was expected.
    pub message: String,
}
