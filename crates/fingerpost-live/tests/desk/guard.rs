//! Who may ask, what is served, and what is refused.

use std::io::{Read, Write};
use std::net::TcpStream;

use crate::support::Theme;
use fingerpost::asking::QuestionKind;
use fingerpost_live::{Desk, Settings};
use serde_json::{Value, json};

/// What a server answered: the status, the head, the body.
struct Answer {
    status: u16,
    head: String,
    body: String,
}

/// Sends a request as it is written, so that nothing tidies it up.
fn raw(address: &str, line: &str, headers: &[(&str, &str)], body: &str) -> Answer {
    let host = address.trim_start_matches("http://").trim_end_matches('/');
    let port = host.rsplit(':').next().unwrap();
    let mut stream = TcpStream::connect(format!("127.0.0.1:{port}")).unwrap();
    let mut request = format!(
        "{line} HTTP/1.1\r\nConnection: close\r\nContent-Length: {}\r\n",
        body.len()
    );
    if !headers.iter().any(|(name, _)| *name == "Host") {
        request.push_str(&format!("Host: {host}\r\n"));
    }
    for (name, value) in headers {
        request.push_str(&format!("{name}: {value}\r\n"));
    }
    stream
        .write_all(format!("{request}\r\n{body}").as_bytes())
        .unwrap();
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer).unwrap();
    let answer = String::from_utf8_lossy(&answer).into_owned();
    let (head, body) = answer.split_once("\r\n\r\n").unwrap();
    Answer {
        status: head.split(' ').nth(1).unwrap().parse().unwrap(),
        head: head.to_ascii_lowercase(),
        body: body.to_owned(),
    }
}

const EDIT: &str = r#"{"intent":{"page":"pages/home.html","element":"h2.today","change":{"set":{"property":"color","value":"teal"}}}}"#;

fn edit(desk: &Desk, headers: &[(&str, &str)]) -> Answer {
    let mut all = vec![("Content-Type", "application/json")];
    all.extend(headers);
    raw(&desk.address(), "POST /api/edit", &all, EDIT)
}

fn unsaved(desk: &Desk) -> usize {
    let answer = raw(&desk.address(), "GET /api/draft", &[], "");
    let json: Value = serde_json::from_str(&body_of(&answer)).unwrap();
    json["edits"].as_array().unwrap().len()
}

/// The body, put together where it came in chunks.
fn body_of(answer: &Answer) -> String {
    match answer.head.contains("chunked") {
        false => answer.body.clone(),
        true => answer.body.split("\r\n").skip(1).step_by(2).collect(),
    }
}

#[test]
fn only_the_desk_writes() {
    let theme = Theme::copy();
    let desk = theme.desk();
    let token = ("Fingerpost-Token", desk.token());
    let own = desk.address();
    let own = own.trim_end_matches('/');
    let pages = desk.page_address();
    let pages = pages.trim_end_matches('/');

    let refused: &[&[(&str, &str)]] = &[
        &[],
        &[("Fingerpost-Token", "0000")],
        &[("Fingerpost-Token", "")],
        // With the token, but from elsewhere.
        &[token, ("Origin", "http://evil.example")],
        &[token, ("Origin", "null")],
        &[token, ("Origin", pages)],
        &[token, ("Sec-Fetch-Site", "cross-site")],
        &[token, ("Sec-Fetch-Site", "same-site")],
        // Through a name that was made to resolve to the loopback address.
        &[token, ("Host", "evil.example")],
        &[token, ("Host", "evil.example:80")],
        &[token, ("Host", "127.0.0.1")],
    ];
    for headers in refused {
        assert_eq!(edit(&desk, headers).status, 403, "{headers:?}");
    }
    assert_eq!(unsaved(&desk), 0);
    assert_eq!(edit(&desk, &[token, ("Origin", own)]).status, 200);
    assert_eq!(unsaved(&desk), 1);
}

#[test]
fn nobody_elsewhere_reads_or_frames() {
    let theme = Theme::copy();
    let desk = theme.desk();
    for headers in [
        ("Origin", "http://evil.example"),
        ("Host", "evil.example"),
        ("Sec-Fetch-Site", "cross-site"),
    ] {
        let answer = raw(&desk.address(), "GET /api/draft", &[headers], "");
        assert_eq!(answer.status, 403, "{headers:?}");
        assert!(!answer.body.contains("edits"));
    }
    let shell = raw(&desk.address(), "GET /", &[], "");
    assert!(
        shell.head.contains("frame-ancestors 'none'"),
        "{}",
        shell.head
    );
    assert!(
        !shell.head.contains("access-control-allow"),
        "{}",
        shell.head
    );
    let page = raw(&desk.page_address(), "GET /pages/home.html", &[], "");
    assert_eq!(page.status, 200);
    assert!(
        page.head
            .contains("frame-ancestors 'self' http://127.0.0.1:"),
        "{}",
        page.head
    );
    assert!(
        page.head
            .contains("cross-origin-resource-policy: same-origin"),
        "{}",
        page.head
    );
    assert!(
        !page.body.contains(desk.token()),
        "the page never has the token"
    );
    let named = raw(
        &desk.page_address(),
        "GET /pages/home.html",
        &[("Host", "evil.example")],
        "",
    );
    assert_eq!(named.status, 403);
}

#[test]
fn nothing_outside_of_the_root_is_served() {
    let theme = Theme::copy();
    let outside = tempfile::NamedTempFile::new().unwrap();
    std::fs::write(outside.path(), "secret").unwrap();
    #[cfg(unix)]
    std::os::unix::fs::symlink(outside.path(), theme.path("css/link.css")).unwrap();
    let desk = theme.desk();
    for path in [
        "/../../etc/passwd",
        "/css/../../../etc/passwd",
        "/%2e%2e/%2e%2e/etc/passwd",
        "/..%2f..%2fetc/passwd",
        "/css/..%5c..%5cpasswd",
        "/.fingerpost/draft.json",
        "/.git/config",
        "/css/link.css",
        "//etc/passwd",
        "/css/none.css",
    ] {
        let answer = raw(&desk.page_address(), &format!("GET {path}"), &[], "");
        assert!(
            matches!(answer.status, 400 | 404),
            "{path}: {}",
            answer.status
        );
        assert!(
            !answer.body.contains("secret") && !answer.body.contains("root:"),
            "{path}"
        );
    }
    // An edit can't lead out either.
    let out = json!({"intent": {"page": "../out.html", "element": "p", "change": {"class": {"changes": ["+a"]}}}});
    let headers = [
        ("Content-Type", "application/json"),
        ("Fingerpost-Token", desk.token()),
    ];
    let answer = raw(
        &desk.address(),
        "POST /api/edit",
        &headers,
        &out.to_string(),
    );
    assert!(matches!(answer.status, 400 | 404), "{}", answer.body);
}

#[test]
fn a_desk_that_only_reads_refuses_every_write() {
    let theme = Theme::copy();
    let settings = Settings {
        read_only: true,
        ..Settings::default()
    };
    let desk = theme.desk_with(settings);
    let headers = [
        ("Content-Type", "application/json"),
        ("Fingerpost-Token", desk.token()),
    ];
    for (path, body) in [
        ("/api/edit", EDIT),
        ("/api/draft", r#"{"do":"undo"}"#),
        ("/api/save", "\"all\""),
        ("/api/unsave", "{}"),
    ] {
        let answer = raw(&desk.address(), &format!("POST {path}"), &headers, body);
        assert_eq!(answer.status, 403, "{path}: {}", answer.body);
        assert!(
            answer.body.contains("only reads"),
            "{path}: {}",
            answer.body
        );
    }
    assert!(!theme.path(".fingerpost/draft.json").exists());
}

#[test]
fn every_question_is_answered() {
    let theme = Theme::copy();
    let desk = theme.desk();
    for kind in QuestionKind::all() {
        for sample in kind.examples {
            let element = match sample.is_text {
                true => format!("\"{}\"", sample.element),
                false => sample.element.to_owned(),
            };
            let about = [
                ("question", kind.name),
                ("page", sample.page),
                ("element", &element),
            ];
            let mut query = url::form_urlencoded::Serializer::new(String::new());
            query.extend_pairs(about.into_iter().filter(|(_, text)| !text.is_empty()));
            query.extend_pairs(sample.parts);
            let path = format!("/api/ask?{}", query.finish());
            let answer = raw(&desk.address(), &format!("GET {path}"), &[], "");
            let body = body_of(&answer);
            assert_eq!(answer.status, 200, "{path}: {body}");
            let json: Value = serde_json::from_str(&body).unwrap();
            assert_eq!(json["command"], kind.name, "{path}");
        }
    }
}

#[test]
fn what_is_asked_wrongly_is_answered_with_what_was_expected() {
    let theme = Theme::copy();
    let desk = theme.desk();
    for (path, status, sentence) in [
        (
            "/api/ask?question=what",
            400,
            "is not a question; expected one of find",
        ),
        ("/api/ask?question=why&element=h9&property=color", 404, "h9"),
        (
            "/api/ask?question=why&element=h2.today&property=colour",
            400,
            "do you mean",
        ),
        (
            "/api/ask?question=why&environment=big&property=color",
            400,
            "'big' is not part of an environment",
        ),
        (
            "/api/ask?question=why&states=sleepy&property=color",
            400,
            "is not a state; expected one",
        ),
        ("/api/effect?edits=x", 400, "is not the number of an edit"),
    ] {
        let answer = raw(&desk.address(), &format!("GET {path}"), &[], "");
        let body = body_of(&answer);
        assert_eq!(answer.status, status, "{path}: {body}");
        assert!(body.contains(sentence), "{path}: {body}");
        let json: Value = serde_json::from_str(&body).unwrap();
        assert_eq!(json["command"], "error", "{path}");
    }
    // A body that is too large is refused before it is read.
    let headers = [
        ("Content-Type", "application/json"),
        ("Fingerpost-Token", desk.token()),
    ];
    let large = "x".repeat(5 << 20);
    let answer = raw(&desk.address(), "POST /api/edit", &headers, &large);
    assert_eq!(answer.status, 413);
}

#[test]
fn many_steps_of_one_value_are_one_edit() {
    let theme = Theme::copy();
    let desk = theme.desk();
    let headers = [
        ("Content-Type", "application/json"),
        ("Fingerpost-Token", desk.token()),
    ];
    let mut size = 0;
    for step in 1..=200 {
        let body = json!({
            "intent": {"page": "pages/home.html", "element": "h2.today",
                "change": {"set": {"property": "font-size", "value": format!("{step}px")}}},
            "replaces": 1,
        });
        let answer = raw(
            &desk.address(),
            "POST /api/edit",
            &headers,
            &body.to_string(),
        );
        assert_eq!(answer.status, 200, "{}", answer.body);
        let json: Value = serde_json::from_str(&body_of(&answer)).unwrap();
        assert_eq!(json["change"], 1);
        if step == 10 {
            size = theme.read(".fingerpost/draft.json").len();
        }
    }
    let now = theme.read(".fingerpost/draft.json").len();
    assert!(
        now <= size + 10,
        "the draft grows with each step: {size} to {now} bytes"
    );
    assert_eq!(unsaved(&desk), 1);
}
