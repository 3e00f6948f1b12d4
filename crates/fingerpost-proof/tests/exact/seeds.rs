//! Everything that a fuzzer found, and a seed of each kind of input, through the functions that the fuzzer
//! calls: they panic where an answer can't be right.

use std::fs;
use std::path::Path;

use fingerpost_proof::fuzzed::TARGETS;

#[test]
fn seeds_and_findings() {
    let seeds = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/seeds");
    for (name, target) in TARGETS {
        let mut count = 0;
        for entry in fs::read_dir(seeds.join(name)).unwrap() {
            let path = entry.unwrap().path();
            println!("{}", path.display());
            target(&fs::read(path).unwrap());
            count += 1;
        }
        assert!(count > 0, "{name} has no seeds");
    }
}

/// The targets of the fuzzer are the functions that are tested here.
#[test]
fn every_target_is_in_the_fuzzer() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/fuzz_targets");
    let entries = fs::read_dir(folder).unwrap();
    let mut files: Vec<String> = entries
        .map(|entry| {
            entry
                .unwrap()
                .path()
                .file_stem()
                .unwrap()
                .to_string_lossy()
                .into_owned()
        })
        .collect();
    files.sort();
    let mut names: Vec<&str> = TARGETS.iter().map(|(name, _)| *name).collect();
    names.sort_unstable();
    assert_eq!(files, names);
}
