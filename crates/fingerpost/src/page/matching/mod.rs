//! Matching: the rules of all sheets, flat, with their layers and conditions, and which of them match an element.

pub(in crate::page) mod at_rules;
pub(in crate::page) mod index;
mod layers;
pub(in crate::page) mod matched;
pub(in crate::page) mod of_target;
pub(in crate::page) mod reach;
pub(in crate::page) mod registrations;
pub(in crate::page) mod rules;
