//! The desk as a browser and as programs see it.

mod examples;
mod guard;
mod served;
mod showing;
mod support;
mod trying;
mod types;
mod window;
