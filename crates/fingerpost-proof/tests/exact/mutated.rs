//! Damaged input through the functions that the fuzzer calls: they panic where an answer can't be right.
//!
//! The inputs are the seeds and what the fuzzer found on its way to new code (`fuzz/seeds`, `fuzz/corpus`), damaged from a
//! fixed beginning, so that what fails fails again. `FINGERPOST_CASES=20` runs twenty times as many. The fuzzer itself, which looks for
//! new code, is for whoever changes a reader: `fuzz/build`, then `fuzz/run 600`.

use std::fs;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};

use crate::cases::cases;
use fingerpost_proof::fuzzed::TARGETS;

/// How many damaged inputs each target is called with, by how long one call takes.
const RUNS: [(&str, usize); 9] = [
    ("configuration", 10_000),
    ("edit", 400),
    ("markup", 200),
    ("selector", 2_000),
    ("sequence", 400),
    ("sheet", 400),
    ("source_map", 1_000),
    ("state", 10_000),
    ("value", 800),
];

/// How large an input may grow.
const LARGEST: usize = 6_000;

/// A small generator of numbers (xorshift), the same on every machine.
struct Numbers(u64);

impl Numbers {
    fn below(&mut self, limit: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 % limit.max(1) as u64) as usize
    }
}

fn folder() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz")
}

/// The inputs of a target, in the order of their names.
fn inputs(target: &str) -> Vec<Vec<u8>> {
    let folders = ["seeds", "corpus"].map(|kind| folder().join(kind).join(target));
    let entries = folders
        .iter()
        .filter_map(|folder| fs::read_dir(folder).ok());
    let mut files: Vec<PathBuf> = entries
        .flatten()
        .map(|entry| entry.unwrap().path())
        .collect();
    files.sort();
    files
        .into_iter()
        .map(|file| fs::read(file).unwrap())
        .collect()
}

/// The words and marks of the inputs, which damage puts where they don't belong.
fn words(inputs: &[Vec<u8>]) -> Vec<Vec<u8>> {
    let mut words: Vec<Vec<u8>> = Vec::new();
    for input in inputs {
        for part in input.split_inclusive(|byte| !byte.is_ascii_alphanumeric() && *byte != b'-') {
            let (word, mark) = part.split_at(part.len().saturating_sub(1));
            words.push(word.to_vec());
            words.push(mark.to_vec());
        }
    }
    words.sort();
    words.dedup();
    words
}

/// One input, damaged in a few places.
fn damaged(inputs: &[Vec<u8>], words: &[Vec<u8>], numbers: &mut Numbers) -> Vec<u8> {
    let mut input = inputs[numbers.below(inputs.len())].clone();
    for _ in 0..=numbers.below(6) {
        let at = numbers.below(input.len() + 1);
        let end = (at + 1 + numbers.below(40)).min(input.len());
        match numbers.below(8) {
            0 if at < input.len() => input[at] ^= 1 << numbers.below(8),
            1 if at < input.len() => input[at] = numbers.below(256) as u8,
            2 => {
                input.drain(at..end.max(at));
            }
            3 => {
                let again = input[at..end.max(at)].to_vec();
                let to = numbers.below(input.len() + 1);
                input.splice(to..to, again);
            }
            4 => {
                let other = &inputs[numbers.below(inputs.len())];
                let from = numbers.below(other.len() + 1);
                let until = (from + 1 + numbers.below(200)).min(other.len()).max(from);
                input.splice(at..at, other[from..until].iter().copied());
            }
            5 => input.truncate(at),
            _ => {
                let word = &words[numbers.below(words.len())];
                input.splice(at..at, word.iter().copied());
            }
        }
        input.truncate(LARGEST);
    }
    input
}

#[test]
fn damaged_inputs() {
    std::thread::scope(|scope| {
        let all: Vec<_> = TARGETS
            .iter()
            .map(|(name, target)| scope.spawn(move || run(name, *target)))
            .collect();
        for one in all {
            one.join().unwrap();
        }
    });
}

fn run(name: &str, target: fn(&[u8])) {
    let inputs = inputs(name);
    let words = words(&inputs);
    let (_, runs) = RUNS
        .iter()
        .find(|(known, _)| *known == name)
        .expect("every target has runs");
    let mut numbers = Numbers(0x5eed_cafe_f00d_1234);
    for _ in 0..cases(*runs) {
        let input = damaged(&inputs, &words, &mut numbers);
        if catch_unwind(AssertUnwindSafe(|| target(&input))).is_err() {
            let kept = folder().join("artifacts").join(format!("{name}-damaged"));
            let _ = fs::create_dir_all(kept.parent().expect("a folder"));
            let _ = fs::write(&kept, &input);
            panic!(
                "{name} fails on {}: {:?}",
                kept.display(),
                String::from_utf8_lossy(&input)
            );
        }
    }
}
