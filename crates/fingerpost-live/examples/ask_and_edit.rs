//! What an editor does with a desk: it asks why a heading is brown, tries another color, sees what else
//! that changes, and undoes it. All of it over HTTP (`docs/api.md`), on a copy of the demo theme.
//!
//!     cargo run -p fingerpost-live --example ask_and_edit

#[path = "shared/mod.rs"]
mod shared;

use std::path::Path;

use fingerpost::site::Site;
use fingerpost_live::{Desk, Settings};
use serde_json::{Value, json};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    // An editor starts `fingerpost desk --no-open --json` and reads the address and the token from it.
    let theme = tempfile::tempdir()?;
    shared::copy(
        &Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line"),
        theme.path(),
    )?;
    let desk = Desk::start(Site::of_folder(theme.path())?, Settings::default())?;
    let server = Server {
        address: desk.address(),
        token: desk.token().to_owned(),
    };

    let on = "page=pages/home.html&element=h2.today";
    let why = server.get(&format!("api/ask?question=why&property=color&{on}"))?;
    let winner = &why["contests"][0]["contenders"][0];
    println!(
        "{} wins: {} at line {}",
        winner["rule"]["selector"], winner["value"], winner["place"]["line"]
    );

    let made = server.post(
        "api/edit",
        &json!({ "intent": {
            "page": "pages/home.html",
            "element": "h2.today",
            "change": { "set": { "property": "color", "value": "var(--rust)" } },
        } }),
    )?;
    println!("{}", made["summary"]);

    let effect = server.get(&format!("api/effect?edits={}", made["change"]))?;
    let moved = effect["groups"].as_array().map_or(0, Vec::len);
    println!("groups of elements that change alike: {moved}");

    let back = server.post("api/draft", &json!({ "do": "undo" }))?;
    println!("{}", back["summary"]);
    Ok(())
}

struct Server {
    address: String,
    token: String,
}

type Answer = Result<Value, Box<dyn std::error::Error>>;

impl Server {
    fn get(&self, path: &str) -> Answer {
        let text = ureq::get(format!("{}{path}", self.address))
            .call()?
            .body_mut()
            .read_to_string()?;
        Ok(serde_json::from_str(&text)?)
    }

    fn post(&self, path: &str, body: &Value) -> Answer {
        let text = ureq::post(format!("{}{path}", self.address))
            .header("Fingerpost-Token", &self.token)
            .header("Content-Type", "application/json")
            .send(body.to_string())?
            .body_mut()
            .read_to_string()?;
        Ok(serde_json::from_str(&text)?)
    }
}
