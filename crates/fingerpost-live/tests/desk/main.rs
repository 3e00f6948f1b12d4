//! The desk as a browser and as programs see it.

mod examples;
mod guard;
mod served;
mod showing;
mod support;
mod trying;
mod types;
mod window;

#[test]
fn continuous_integration_has_a_browser() {
    let there = cfg!(browser) || std::env::var_os("CI").is_none();
    assert!(there, "install chromium and chromium-driver");
}
