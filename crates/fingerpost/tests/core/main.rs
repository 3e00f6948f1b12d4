//! The core by its public interface, one file for each thing that it does.

#![allow(
    clippy::duplicate_mod,
    reason = "several examples copy the demo with the same few lines"
)]

mod any_state;
mod asking;
mod authored;
mod cascade;
mod cases;
mod choosing;
mod contrast;
mod destinations;
mod draft;
mod edit;
mod edits;
mod effect;
mod elements;
mod encodings;
mod everywhere;
mod examples;
mod grammars;
mod kinds;
mod markup;
mod names;
mod properties;
mod questions;
mod read_back;
mod recipes;
mod roles;
mod rules;
mod scopes;
mod selecting;
mod selectors;
mod serialised;
mod sheets;
mod site;
mod support;
#[cfg(not(target_family = "wasm"))]
mod templates;
mod values;
mod whole_page;
mod whynot;
mod words;
