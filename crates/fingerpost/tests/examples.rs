//! The examples run to their end.

#[path = "../examples/bulk_change.rs"]
mod bulk_change;
#[path = "../examples/change_and_save.rs"]
mod change_and_save;
#[path = "../examples/most_contested.rs"]
mod most_contested;
#[path = "../examples/why_this_color.rs"]
mod why_this_color;

#[test]
fn why_this_color_answers() {
    why_this_color::main().unwrap();
}

#[test]
fn change_and_save_saves() {
    change_and_save::main().unwrap();
}

#[test]
fn bulk_change_changes_every_heading() {
    bulk_change::main().unwrap();
}

#[test]
fn the_properties_that_most_declarations_compete_for() {
    most_contested::main().unwrap();
}
