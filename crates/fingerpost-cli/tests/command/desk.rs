//! `fingerpost desk` prints where the desk is, and serves it until it is stopped.

use std::io::{BufRead, BufReader, Read};
use std::process::{Child, Command, Stdio};

use crate::schemas::Schema;
use crate::site::Site;
use serde_json::Value;

/// A running desk; it is stopped when this is dropped.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn started(site: &Site, words: &[&str]) -> (Running, BufReader<std::process::ChildStdout>) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_fingerpost"))
        .args(["desk", "--no-open"])
        .args(words)
        .current_dir(site.path(""))
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    let out = BufReader::new(child.stdout.take().unwrap());
    (Running(child), out)
}

/// Reads an object that is printed over several lines.
fn json(out: &mut impl BufRead) -> Value {
    let mut text = String::new();
    while !text.ends_with("}\n") || serde_json::from_str::<Value>(&text).is_err() {
        assert!(out.read_line(&mut text).unwrap() > 0, "{text}");
    }
    serde_json::from_str(&text).unwrap()
}

fn body(url: &str) -> String {
    ureq::get(url)
        .call()
        .unwrap()
        .body_mut()
        .read_to_string()
        .unwrap()
}

#[test]
fn the_address_is_printed_and_answers() {
    let site = Site::new();
    let (_running, mut out) = started(&site, &["pages/fares.html", "--json"]);
    let answer = json(&mut out);
    let schema = Schema::read(&site.good("schema desk"));
    assert_eq!(schema.faults(&answer), None);
    let address = answer["address"].as_str().unwrap();
    // The page that was asked for is the one that is shown.
    assert!(body(address).contains("data-page=\"pages/fares.html\""));
    let why = body(&format!(
        "{address}api/ask?question=why&element=.page-title&property=color"
    ));
    let why: Value = serde_json::from_str(&why).unwrap();
    assert_eq!(why["page"], "pages/fares.html");
    assert!(
        body(&format!(
            "{}pages/fares.html",
            answer["pages"].as_str().unwrap()
        ))
        .contains("agent.js")
    );
}

#[test]
fn the_demo_is_copied_and_opened() {
    let site = Site::new();
    let (_running, mut out) = started(&site, &["--demo"]);
    let mut text = String::new();
    for _ in 0..3 {
        out.read_line(&mut text).unwrap();
    }
    assert!(text.contains("skerry-line-"), "{text}");
    let address = text.lines().nth(1).unwrap();
    assert!(body(address).contains("Skerry Line on the desk"), "{text}");
    assert!(text.contains("kept in the draft"), "{text}");
}

#[test]
fn what_can_not_be_opened_is_said() {
    let site = Site::new();
    for (words, sentence) in [
        (
            &["desk", "--no-open", "pages/hom.html"][..],
            "do you mean pages/home.html?",
        ),
        (&["desk", "--no-open", "http://"][..], "http://"),
        (&["desk", "--no-open", "pages", "--demo"][..], "--demo"),
    ] {
        let (status, _, errors) = site.run(words);
        assert_eq!(status, 2, "{words:?}");
        assert!(errors.contains(sentence), "{words:?}: {errors}");
    }
    let empty = tempfile::tempdir().unwrap();
    let folder = empty.path().to_str().unwrap();
    let (status, _, errors) = site.run(&["desk", "--no-open", folder]);
    assert_eq!(status, 2);
    assert!(errors.contains("no page to show"), "{errors}");
}

#[test]
fn a_port_that_is_taken_is_said() {
    let site = Site::new();
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let (mut running, mut out) = started(&site, &["--port", &port]);
    let mut text = String::new();
    out.read_to_string(&mut text).unwrap();
    let status = running.0.wait().unwrap();
    assert_eq!(status.code(), Some(2), "{text}");
}
