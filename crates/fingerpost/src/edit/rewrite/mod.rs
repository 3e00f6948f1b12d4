//! Writing in the file's own habits: declarations, rules and elements as their neighbors are written.

pub(in crate::edit) mod formatting;
pub(in crate::edit) mod lines;
pub(in crate::edit) mod longhand;
pub(in crate::edit) mod source_layout;
pub(in crate::edit) mod write;
