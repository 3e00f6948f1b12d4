//! Where a change goes: the declaration or rule that it is about, another sheet, and the file that a
//! built sheet was made from.

pub(in crate::edit) mod choose;
pub(in crate::edit) mod opponent;
pub(in crate::edit) mod original;
pub(in crate::edit) mod rule_at;
pub(in crate::edit) mod sheet_rule;
pub(in crate::edit) mod sources;
pub(in crate::edit) mod winner;
