//! The examples run to their end.

#[path = "../examples/change_and_save.rs"]
mod change_and_save;
#[path = "../examples/why_this_colour.rs"]
mod why_this_colour;

#[test]
fn why_this_colour_answers() {
    why_this_colour::main().unwrap();
}

#[test]
fn change_and_save_saves() {
    change_and_save::main().unwrap();
}
