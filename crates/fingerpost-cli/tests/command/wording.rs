//! How sentences read: strings, documentation and documents, as a person sees them.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::LazyLock;

use proc_macro2::{TokenStream, TokenTree};
use regex::Regex;

/// What reads as if translated, and what to write in its place.
const AVOID: &[(&str, &str)] = &[
    (r"\bsomebody\b", "someone, or the passive"),
    (r"\bhangs? on\b", "depends on"),
    (r"\bwhat stands\b", "what is there"),
    (r"\bstands? in\b", "is in"),
    (r"\bcomes to\b", "is, or results in"),
    (r"\bmind:", "note:"),
    (r"\bonce more\b", "again"),
    (r"\ball that it holds\b", "its content"),
    (r"\b(a|an|the|no) \w+ of (its|their) own\b", "its own"),
    (r"\btakes? (it |them )?(back|off)\b", "undo, or remove"),
    (r"\bthe surroundings\b", "the environment"),
    (r"\blooked at before\b", "recent"),
    (r"\badrift\b", "conflict"),
    (r"\bis no [a-z]", "is not a"),
    (r"\b(behaviour|neighbour|colour)", "American spelling"),
    (
        r"\b(may|can|must|will|would|should) (are|is|has)\b",
        "one verb",
    ),
    (
        r"\ba (ancestor|answer|argument|assumed|at-rule|attribute|author|edit|effect|element|empty|environment|error|image|index|inherited|intent|interrupted|option|origin|outcome|override|unknown)\b",
        "an",
    ),
];

/// These say something else.
const MEANT: &[&str] = &[
    "there is no ",
    "There is no ",
    "is no longer",
    "is no more ",
];

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// Every file below a folder with that extension.
fn files(folder: &Path, extension: &str) -> Vec<PathBuf> {
    let mut found = Vec::new();
    for entry in fs::read_dir(folder).unwrap().map(Result::unwrap) {
        let path = entry.path();
        if path.is_dir() && !path.ends_with("target") && !path.ends_with("node_modules") {
            found.extend(files(&path, extension));
        } else if path.extension().is_some_and(|end| end == extension) {
            found.push(path);
        }
    }
    found
}

/// The strings of Rust code, without those of its tests, and its documentation: with the line of each.
fn strings(path: &Path) -> Vec<(usize, bool, String)> {
    fn walk(stream: TokenStream, found: &mut Vec<(usize, bool, String)>) {
        let tokens: Vec<TokenTree> = stream.into_iter().collect();
        let mut at = 0;
        while let Some(token) = tokens.get(at) {
            at += 1;
            match token {
                TokenTree::Group(group) => {
                    let text = group.stream().to_string();
                    if text.starts_with("cfg (test)") || text.starts_with("cfg(test)") {
                        // The module after it.
                        at += 3;
                    }
                    let before = found.len();
                    walk(group.stream(), found);
                    if text.starts_with("doc =") || text.starts_with("doc=") {
                        found[before..]
                            .iter_mut()
                            .for_each(|(_, is_doc, _)| *is_doc = true);
                    }
                }
                TokenTree::Literal(literal) => {
                    let text = literal.to_string();
                    if text.starts_with('"') || text.starts_with("r\"") || text.starts_with("r#\"")
                    {
                        let joined = text.replace("\\\n", "");
                        let words: Vec<&str> = joined.split_whitespace().collect();
                        found.push((literal.span().start().line, false, words.join(" ")));
                    }
                }
                TokenTree::Ident(_) | TokenTree::Punct(_) => {}
            }
        }
    }
    let mut found = Vec::new();
    let source = fs::read_to_string(path).unwrap();
    walk(source.parse().unwrap(), &mut found);
    found
}

/// The patterns, read once, each with what to write in its place.
static PATTERNS: LazyLock<Vec<(Regex, &str)>> = LazyLock::new(|| {
    let read = |pattern: &str| Regex::new(&format!("(?i){pattern}")).unwrap();
    AVOID
        .iter()
        .map(|(pattern, better)| (read(pattern), *better))
        .collect()
});

/// What a text should not say.
fn avoided(text: &str) -> Vec<String> {
    let mut text = text.to_owned();
    for meant in MEANT {
        text = text.replace(meant, "");
    }
    let mut found = Vec::new();
    for (pattern, better) in PATTERNS.iter() {
        if let Some(spot) = pattern.find(&text) {
            found.push(format!("'{}': write {better}", spot.as_str()));
        }
    }
    found
}

#[test]
fn what_a_person_reads_is_plain_english() {
    let mut wrong = Vec::new();
    let mut looked_at = 0;
    for krate in ["fingerpost", "fingerpost-cli", "fingerpost-live"] {
        for path in files(&root().join("crates").join(krate).join("src"), "rs") {
            for (line, _, text) in strings(&path) {
                looked_at += 1;
                for why in avoided(&text) {
                    wrong.push(format!("{}:{line}: {why}", path.display()));
                }
            }
        }
    }
    let mut documents = files(&root().join("docs"), "md");
    documents.extend(
        [
            "README",
            "CHANGELOG",
            "ARCHITECTURE",
            "CONTRIBUTING",
            "SECURITY",
        ]
        .map(|name| root().join(name).with_extension("md")),
    );
    for path in documents {
        for (line, text) in fs::read_to_string(&path).unwrap().lines().enumerate() {
            looked_at += 1;
            for why in avoided(text) {
                wrong.push(format!("{}:{}: {why}", path.display(), line + 1));
            }
        }
    }
    assert!(looked_at > 5_000, "only {looked_at} texts were read");
    assert!(wrong.is_empty(), "\n{}", wrong.join("\n"));
}

/// What to do next is data: how a command is called for it is the command's own matter.
#[test]
fn no_string_of_the_core_names_an_option_or_a_command() {
    let option = Regex::new(r"(?:^|[\s(`'])--([a-z][a-z-]+)").unwrap();
    let command = Regex::new(r"\bfingerpost ([a-z]+)").unwrap();
    let commands = [
        "find",
        "tree",
        "trace",
        "why",
        "values",
        "whynot",
        "sheets",
        "suggest selector",
        "suggest destination",
        "describe",
        "edit set",
        "edit rule",
        "edit class",
        "edit markup",
        "draft",
        "save",
        "unsave",
        "recover",
        "extract rule",
        "desk",
        "init",
    ];
    let help = |command: &str| {
        let words = command.split(' ').chain(["--help"]);
        let mut program = assert_cmd::Command::cargo_bin("fingerpost").unwrap();
        let output = program.args(words).output().unwrap();
        String::from_utf8(output.stdout).unwrap()
    };
    let texts = commands.map(help).join("\n");
    let is_option = |name: &str| {
        let line = Regex::new(&format!(r"(?m)^\s+(?:-\w, )?--{name}\b")).unwrap();
        line.is_match(&texts)
    };
    assert!(
        is_option("viewport") && is_option("into"),
        "the help was not read"
    );
    let mut wrong = Vec::new();
    for path in files(&root().join("crates/fingerpost/src"), "rs") {
        for (line, is_doc, text) in strings(&path) {
            if is_doc {
                continue;
            }
            for spot in option
                .captures_iter(&text)
                .filter(|spot| is_option(&spot[1]))
            {
                wrong.push(format!("{}:{line}: --{}", path.display(), &spot[1]));
            }
            for spot in command.captures_iter(&text) {
                if texts.contains(&format!("fingerpost {}", &spot[1])) {
                    wrong.push(format!("{}:{line}: {}", path.display(), &spot[0]));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "\n{}", wrong.join("\n"));
}
