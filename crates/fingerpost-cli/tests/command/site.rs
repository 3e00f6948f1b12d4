//! A copy of the demo theme, and the real command in it.

#![allow(dead_code)]

use std::fs;
use std::path::{Path, PathBuf};

use assert_cmd::Command;
use tempfile::TempDir;

pub fn demo() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line")
}

pub fn copy(from: &Path, to: &Path) {
    fs::create_dir_all(to).unwrap();
    for entry in fs::read_dir(from).unwrap() {
        let entry = entry.unwrap();
        let target = to.join(entry.file_name());
        if entry.file_type().unwrap().is_dir() {
            copy(&entry.path(), &target);
        } else {
            fs::copy(entry.path(), target).unwrap();
        }
    }
}

/// The words of a command: a line as it is typed, or a list with a word each.
pub trait Words {
    fn words(self) -> Vec<String>;
}

impl Words for &str {
    fn words(self) -> Vec<String> {
        shlex::split(self).unwrap()
    }
}

impl Words for &[&str] {
    fn words(self) -> Vec<String> {
        self.iter().map(|word| (*word).to_owned()).collect()
    }
}

impl<const N: usize> Words for &[&str; N] {
    fn words(self) -> Vec<String> {
        self.as_slice().words()
    }
}

impl Words for &Vec<&str> {
    fn words(self) -> Vec<String> {
        self.as_slice().words()
    }
}

pub struct Site(TempDir);

impl Site {
    pub fn new() -> Site {
        let folder = TempDir::new().unwrap();
        copy(&demo(), folder.path());
        Site(folder)
    }

    pub fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    pub fn read(&self, name: &str) -> String {
        fs::read_to_string(self.path(name)).unwrap()
    }

    /// Runs the command in the site's folder: its exit status, what it answered, and its errors.
    pub fn run(&self, words: impl Words) -> (i32, String, String) {
        let words = words.words();
        let output = Command::cargo_bin("fingerpost")
            .unwrap()
            .current_dir(self.0.path())
            .env("FINGERPOST_REMEMBER", "no")
            .args(&words)
            .output()
            .unwrap();
        let answer = String::from_utf8(output.stdout).unwrap();
        let errors = String::from_utf8(output.stderr).unwrap();
        crate::advised::all_work(self.0.path(), &words, &format!("{errors}\n{answer}"));
        (output.status.code().unwrap(), answer, errors)
    }

    #[track_caller]
    pub fn good(&self, words: impl Words) -> String {
        let (status, answer, errors) = self.run(words);
        assert_eq!(status, 0, "{errors}{answer}");
        answer
    }
}
