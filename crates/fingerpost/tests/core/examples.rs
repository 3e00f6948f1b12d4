//! The examples run to their end.

#[path = "../../examples/answer_an_editor.rs"]
mod answer_an_editor;
#[path = "../../examples/at_every_width.rs"]
mod at_every_width;
#[path = "../../examples/bulk_change.rs"]
mod bulk_change;
#[path = "../../examples/change_and_save.rs"]
mod change_and_save;
#[path = "../../examples/idle_rules.rs"]
mod idle_rules;
#[path = "../../examples/in_memory.rs"]
mod in_memory;
#[path = "../../examples/lint_a_site.rs"]
mod lint_a_site;
#[path = "../../examples/low_contrast.rs"]
mod low_contrast;
#[path = "../../examples/migrate_to_custom_properties.rs"]
mod migrate_to_custom_properties;
#[path = "../../examples/most_contested.rs"]
mod most_contested;
#[path = "../../examples/why_this_color.rs"]
mod why_this_color;

#[test]
fn a_property_at_every_width() {
    at_every_width::main().unwrap();
}

#[test]
fn bulk_change_changes_every_heading() {
    bulk_change::main().unwrap();
}

#[test]
fn change_and_save_saves() {
    change_and_save::main().unwrap();
}

#[test]
fn rules_that_match_nothing() {
    idle_rules::main().unwrap();
}

#[test]
fn a_page_without_files() {
    in_memory::main().unwrap();
}

#[test]
fn texts_of_low_contrast() {
    low_contrast::main().unwrap();
}

#[test]
fn the_properties_that_most_declarations_compete_for() {
    most_contested::main().unwrap();
}

#[test]
fn why_this_color_answers() {
    why_this_color::main().unwrap();
}

#[test]
fn a_linter_over_a_site() {
    lint_a_site::main().unwrap();
}

#[test]
fn a_migration_that_changes_no_element() {
    migrate_to_custom_properties::main().unwrap();
}

#[test]
fn an_editor_is_answered() {
    answer_an_editor::main().unwrap();
}
