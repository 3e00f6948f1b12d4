//! What a shell is offered while a line is being written.

use std::process::Command;

use crate::site::Site;

/// What is offered for the last of these words.
fn offered(site: &Site, words: &[&str]) -> Vec<String> {
    let output = Command::new(assert_cmd::cargo::cargo_bin("fingerpost"))
        .arg("--")
        .arg("fingerpost")
        .args(words)
        .current_dir(site.path(""))
        .env("FINGERPOST_COMPLETE", "bash")
        .env("_CLAP_COMPLETE_INDEX", words.len().to_string())
        .env("_CLAP_IFS", "\n")
        .output()
        .unwrap();
    assert!(output.status.success(), "{output:?}");
    let text = String::from_utf8(output.stdout).unwrap();
    text.lines().map(str::to_owned).collect()
}

#[test]
fn what_is_offered_comes_from_the_theme() {
    let site = Site::new();
    let home = "pages/home.html";
    assert_eq!(
        offered(&site, &["why", "pages/h"]),
        ["pages/harbour-map.html", home]
    );
    assert_eq!(
        offered(&site, &["why", home, ".sailing-l"]),
        [".sailing-list"]
    );
    assert!(offered(&site, &["why", home, "#"]).contains(&"#content".to_owned()));
    let properties = offered(&site, &["why", home, ".note", "border-left-"]);
    assert!(
        properties.contains(&"border-left-color".to_owned()),
        "{properties:?}"
    );
    let values = offered(&site, &["edit", "set", home, ".note", "display", "inline-"]);
    assert!(values.contains(&"inline-flex".to_owned()), "{values:?}");
    let variables = offered(&site, &["edit", "set", home, ".note", "color", "var(--br"]);
    assert_eq!(variables, ["var(--brand)", "var(--brass)"]);
    let classes = offered(&site, &["edit", "class", home, ".note", "+pan"]);
    assert!(classes.contains(&"+panel".to_owned()), "{classes:?}");
    assert!(offered(&site, &["dra"]).contains(&"draft".to_owned()));
}

/// A page that can't be read, or no site at all, offers nothing and says nothing.
#[test]
fn where_there_is_nothing_nothing_is_offered() {
    let site = Site::new();
    assert!(offered(&site, &["why", "pages/gone.html", ".note", "--zz"]).is_empty());
}

#[test]
fn each_shell_gets_a_script_that_asks() {
    let site = Site::new();
    for shell in ["bash", "zsh", "fish", "elvish", "powershell"] {
        let script = site.good(&["completions", shell]);
        assert!(script.contains("FINGERPOST_COMPLETE"), "{shell}: {script}");
    }
}
