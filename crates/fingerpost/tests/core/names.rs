//! No code compares property names as text: a property is a `PropertyId`, and the few whose behavior
//! is written out are the generated constants.

use std::collections::HashSet;
use std::fs;
use std::path::{Path, PathBuf};

use fingerpost::value::PropertyId;
use regex::Regex;

/// Files in which words that are also names of properties are something else, or are what is written and not
/// what is compared.
const ELSEWHERE: [(&str, &str); 5] = [
    ("selector/pseudo.rs", "names of pseudo-elements"),
    ("environment/", "names of media and container features"),
    (
        "value/logical.rs",
        "builds the tables of logical properties from their names, once",
    ),
    ("value/facts_table.rs", "the table itself, generated"),
    (
        "page/style/hints.rs",
        "names of attributes, and declarations that are written",
    ),
];

fn sources(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            sources(&path, found);
        } else if path.extension().is_some_and(|e| e == "rs") {
            found.push(path);
        }
    }
}

/// The lines of a file that compare a property's name as text.
fn comparisons(code: &str, names: &HashSet<&str>) -> Vec<String> {
    let literal = Regex::new(r#"(?:(==|!=|named\(|parse\(|\|)\s*)?"(-?[a-z]+(?:-[a-z]+)+)"\s*(=>|\||\)\s*(?:=>|\||,|\.expect))?"#).unwrap();
    let of_name = Regex::new(
        r"\.name\(\)\s*\.?\s*(==|!=|starts_with|ends_with|contains|strip_prefix|strip_suffix|split|replace)",
    )
    .unwrap();
    let code = code.split("#[cfg(test)]").next().unwrap_or_default();
    let lines = code
        .lines()
        .filter(|line| !line.trim_start().starts_with("//"));
    lines
        .filter(|line| {
            let as_text = literal.captures_iter(line).any(|found| {
                let compared = found.get(1).is_some() || found.get(3).is_some();
                compared && names.contains(&found[2])
            });
            let by_parts = of_name.is_match(line)
                && ["property", "longhand", "shorthand", "id.name"]
                    .iter()
                    .any(|word| line.contains(word));
            as_text || by_parts
        })
        .map(|line| line.trim().to_owned())
        .collect()
}

#[test]
fn no_code_compares_property_names_as_text() {
    let names: HashSet<&str> = PropertyId::names().map(|(name, _)| name).collect();
    let crates = concat!(env!("CARGO_MANIFEST_DIR"), "/..");
    let mut files = Vec::new();
    for name in ["fingerpost", "fingerpost-cli"] {
        sources(&Path::new(crates).join(name).join("src"), &mut files);
    }
    assert!(files.len() > 100);
    let mut found = Vec::new();
    for file in files {
        let path = file.to_string_lossy().replace('\\', "/");
        if ELSEWHERE
            .iter()
            .any(|(part, _)| path.contains(&format!("src/{part}")))
        {
            continue;
        }
        let code = fs::read_to_string(&file).unwrap();
        let lines = comparisons(&code, &names).into_iter();
        found.extend(lines.map(|line| format!("{path}: {line}")));
    }
    assert!(found.is_empty(), "{}", found.join("\n"));
}

#[test]
fn a_comparison_is_found() {
    let names: HashSet<&str> = PropertyId::names().map(|(name, _)| name).collect();
    for line in [
        r#"if name == "font-size" {"#,
        r#"    "line-height" | "zoom" => 1,"#,
        r#"let p = PropertyId::named("margin-top").expect("it is there");"#,
        r#"longhand.name().starts_with("border")"#,
    ] {
        assert_eq!(comparisons(line, &names).len(), 1, "{line}");
    }
    assert!(comparisons(r#"write("margin-top: 1px")"#, &names).is_empty());
}
