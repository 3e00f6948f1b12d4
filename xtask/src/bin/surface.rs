//! The public surface of the library, item by item, in a file: what breaks for those who use it is seen in its difference.
//!
//! `cargo surface` compares the library with `docs/surface.txt`; with `--write` it writes the file.

use std::env;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, ExitCode};

use public_api::Builder;

/// Says that this program stands in for rustdoc, which must be told that its JSON may be unstable.
const AS_RUSTDOC: &str = "SURFACE_AS_RUSTDOC";

/// The file that is committed.
const FILE: &str = "docs/surface.txt";

/// How many lines that differ are printed.
const MOST_SHOWN: usize = 40;

fn main() -> ExitCode {
    if let Some(code) = as_rustdoc() {
        return code;
    }
    let arguments: Vec<String> = env::args().skip(1).collect();
    let words: Vec<&str> = arguments.iter().map(String::as_str).collect();
    let result = match words[..] {
        [] => surface(false),
        ["--write"] => surface(true),
        _ => Err("usage: cargo surface [--write]".to_owned()),
    };
    match result {
        Ok(summary) => {
            println!("{summary}");
            ExitCode::SUCCESS
        }
        Err(message) => {
            eprintln!("surface: {message}");
            ExitCode::from(2)
        }
    }
}

/// Runs rustdoc, where this program stands in for it.
fn as_rustdoc() -> Option<ExitCode> {
    env::var_os(AS_RUSTDOC)?;
    let mut rustdoc = Command::new("rustdoc");
    rustdoc.args(env::args_os().skip(1));
    rustdoc.env("RUSTC_BOOTSTRAP", "1").env_remove(AS_RUSTDOC);
    let succeeded = rustdoc.status().is_ok_and(|status| status.success());
    Some(if succeeded {
        ExitCode::SUCCESS
    } else {
        ExitCode::FAILURE
    })
}

/// Writes the surface into its file, or compares it with what is there.
fn surface(write: bool) -> Result<String, String> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let now = described(&root)?;
    let file = root.join(FILE);
    let lines = now.lines().count();
    if write {
        fs::write(&file, &now).map_err(|error| format!("{FILE} can't be written: {error}"))?;
        return Ok(format!("{FILE}: {lines} items"));
    }
    let before = fs::read_to_string(&file).unwrap_or_default();
    let (gone, new) = (missing(&before, &now), missing(&now, &before));
    if gone.is_empty() && new.is_empty() {
        return Ok(format!(
            "the public surface is as {FILE} says: {lines} items"
        ));
    }
    let all = gone.iter().map(|line| format!("- {line}"));
    let all = all.chain(new.iter().map(|line| format!("+ {line}")));
    let shown: Vec<String> = all.take(MOST_SHOWN).collect();
    Err(format!(
        "the public surface changed: {} items are gone, {} are new. If that is meant, say so in CHANGELOG.md and run\n\
         cargo surface --write\n\n{}",
        gone.len(),
        new.len(),
        shown.join("\n")
    ))
}

/// The lines of a text that another does not have.
fn missing<'t>(of: &'t str, from: &str) -> Vec<&'t str> {
    let there: std::collections::HashSet<&str> = from.lines().collect();
    of.lines().filter(|line| !there.contains(line)).collect()
}

/// The surface with default features, a line an item.
fn described(root: &Path) -> Result<String, String> {
    let this = env::current_exe().map_err(|error| error.to_string())?;
    let mut cargo = Command::new(env::var_os("CARGO").unwrap_or_else(|| "cargo".into()));
    cargo.current_dir(root);
    cargo.args([
        "rustdoc",
        "--quiet",
        "--locked",
        "--package",
        "fingerpost",
        "--lib",
    ]);
    cargo.args(["--", "-Z", "unstable-options", "--output-format", "json"]);
    cargo
        .env("RUSTDOC", this)
        .env(AS_RUSTDOC, "1")
        .env_remove("RUSTDOCFLAGS");
    let status = cargo.status().map_err(|error| error.to_string())?;
    if !status.success() {
        return Err("rustdoc failed".to_owned());
    }
    let target = env::var_os("CARGO_TARGET_DIR").map_or_else(|| root.join("target"), PathBuf::from);
    let surface = Builder::from_rustdoc_json(target.join("doc/fingerpost.json"))
        .omit_auto_derived_impls(true)
        .omit_auto_trait_impls(true)
        .omit_blanket_impls(true)
        .build()
        .map_err(|error| {
            format!("{error}\nIf this Rust writes another JSON, raise public-api in Cargo.toml")
        })?;
    Ok(surface.to_string())
}
