//! A thousand saves that are cut off, of which the tests take a sample.

#[path = "../tests/command/crash.rs"]
mod crash;

fn main() {
    crash::cut_off(1000);
}
