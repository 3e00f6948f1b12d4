//! The command as people and programs call it.

mod advised;
mod completing;
mod crash;
mod desk;
mod documents;
mod editing;
mod first_call;
mod hostile;
mod large;
mod lasting;
mod odd_files;
mod output;
mod questions;
mod saving;
mod schemas;
mod served;
mod site;
mod story;
mod together;
mod wording;
mod words;
