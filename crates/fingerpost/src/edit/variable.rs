//! `variable`: a custom property gets a value where it is defined for an element.

use super::place::winner;
use super::set::set;
use super::{EditError, Made};
use crate::page::{PropertyName, Styles, Target};
use crate::question::ElementSummary;

/// Sets a custom property in the declaration that gives it its value: the element's own, or that of
/// the nearest one above from which it is inherited.
pub(super) fn variable(
    styles: &Styles<'_>,
    target: &Target,
    name: &str,
    value: &str,
) -> Result<Made, EditError> {
    let (candidate, property) = defined(styles, target, name)?;
    let label = ElementSummary::of_target(styles.page(), &candidate).label();
    winner(styles, &candidate, &property, &label)?;
    set(styles, &candidate, &property, value)
}

/// The element that defines a custom property for another one: itself, or the nearest above.
pub(super) fn defined(
    styles: &Styles<'_>,
    target: &Target,
    name: &str,
) -> Result<(Target, PropertyName), EditError> {
    let Some(property @ PropertyName::Custom(_)) = PropertyName::parse(name) else {
        return Err(EditError::NoName {
            what: "a custom property, such as --brand",
            name: name.to_owned(),
        });
    };
    let above = styles.page().document().flat_trail(target.element);
    let mut candidates = vec![target.clone()];
    if styles.inherits(&property) {
        let own = target.pseudo.is_some();
        let rest = above.into_iter().rev().skip(usize::from(!own));
        candidates.extend(rest.map(Target::from));
    }
    for candidate in candidates {
        if styles
            .contest(&candidate, &property)
            .contest
            .winning()
            .is_some()
        {
            return Ok((candidate, property));
        }
    }
    Err(EditError::NothingToChange {
        property: name.to_owned(),
        element: ElementSummary::of_target(styles.page(), target).label(),
        whence: "no rule defines it here or above; add it to a rule, such as the one of :root"
            .to_owned(),
    })
}
