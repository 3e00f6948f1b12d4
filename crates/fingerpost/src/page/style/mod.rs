//! Styles, one step a file: from the rules that match an element to its declarations with ranks, contests, and computed values.

pub(in crate::page) mod collected;
pub(in crate::page) mod containers;
pub(in crate::page) mod contests;
pub(in crate::page) mod declarations;
mod defaults;
pub(in crate::page) mod font_size;
pub(in crate::page) mod font_state;
pub(in crate::page) mod hints;
pub(in crate::page) mod measures;
pub(in crate::page) mod resolved;
pub(in crate::page) mod styles;
pub(in crate::page) mod substituted;
pub(in crate::page) mod value;
pub(in crate::page) mod values;
pub(in crate::page) mod variables;
