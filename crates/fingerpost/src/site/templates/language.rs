//! The languages of templates: which parts of a template are text, and which the server runs.

use std::ops::Range;

use crate::text::Cut;

/// What a template is written in, as the ending of its file tells.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Language {
    /// `{{ … }}`, `{% … %}`, `{# … #}`: Jinja, Nunjucks, Twig, Liquid.
    Braces,
    /// `{{ … }}` with `#`, `/`, `^` for blocks: Handlebars, Mustache.
    Mustache,
    /// `<% … %>`, `<%= … %>`: EJS, and its kin.
    Percent,
    /// The same, where `<%-` runs and prints nothing: ERB.
    Erb,
    /// `<?php … ?>`, `<?= … ?>`, with `{{ … }}` and `{!! … !!}` of templates for it.
    Php,
    /// Indentation in place of tags: Pug.
    Pug,
    /// Any of the first three: files that end in `.html`.
    Any,
}

/// The endings of files that are templates wherever they lie, with their language.
const ENDINGS: [(&str, Language); 16] = [
    ("njk", Language::Braces),
    ("liquid", Language::Braces),
    ("twig", Language::Braces),
    ("jinja", Language::Braces),
    ("jinja2", Language::Braces),
    ("j2", Language::Braces),
    ("hbs", Language::Mustache),
    ("handlebars", Language::Mustache),
    ("mustache", Language::Mustache),
    ("ejs", Language::Percent),
    ("eta", Language::Percent),
    ("erb", Language::Erb),
    ("php", Language::Php),
    ("phtml", Language::Php),
    ("pug", Language::Pug),
    ("jade", Language::Pug),
];

impl Language {
    /// The language of a file.
    pub fn of(file: &str) -> Language {
        let ending = file.rsplit_once('.').map_or("", |(_, ending)| ending);
        let known = ENDINGS.iter().find(|(known, _)| *known == ending);
        known.map_or(Language::Any, |(_, language)| *language)
    }

    /// How its tags begin and end. The longer beginnings come first.
    fn delimiters(self) -> &'static [(&'static str, &'static str)] {
        match self {
            Language::Braces => &[("{{", "}}"), ("{%", "%}"), ("{#", "#}")],
            Language::Mustache => &[("{{!--", "--}}"), ("{{{", "}}}"), ("{{", "}}")],
            Language::Percent | Language::Erb => &[("<%", "%>")],
            Language::Php => &[("<?", "?>"), ("{{", "}}"), ("{!!", "!!}")],
            Language::Pug => &[("#{", "}"), ("!{", "}")],
            Language::Any => &[
                ("{{{", "}}}"),
                ("{{", "}}"),
                ("{%", "%}"),
                ("{#", "#}"),
                ("<%", "%>"),
                ("<?php", "?>"),
                ("<?=", "?>"),
            ],
        }
    }

    /// A tag of the language in a text, which a server would run.
    pub fn tag_in(self, text: &str) -> Option<&'static str> {
        let mut begins = self.delimiters().iter().map(|(begin, _)| *begin);
        begins.find(|begin| text.contains(begin))
    }
}

/// The endings of files that are templates wherever they lie.
pub(crate) fn template_endings() -> impl Iterator<Item = &'static str> {
    ENDINGS.iter().map(|(ending, _)| *ending)
}

/// What a part of a template is for the page that is made of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    /// It is there as written.
    Text,
    /// A tag in whose place any text may be.
    Output,
    /// A tag that prints nothing: a condition, a loop, a comment.
    Control,
}

/// A part of a template.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Part {
    pub kind: Kind,
    pub range: Range<usize>,
}

/// What begins tags that print nothing, where the same tags also print.
const CONTROL_WORDS: [&str; 26] = [
    "if",
    "else",
    "elseif",
    "elsif",
    "unless",
    "end",
    "endif",
    "endforeach",
    "endfor",
    "endwhile",
    "endswitch",
    "foreach",
    "for",
    "while",
    "switch",
    "case",
    "default",
    "break",
    "range",
    "with",
    "define",
    "block",
    "do",
    "var",
    "let",
    "const",
];

/// The parts of a template, one after the other and without gaps.
pub(super) fn parts(source: &str, language: Language) -> Vec<Part> {
    let mut parts = Vec::new();
    let mut text_from = 0;
    let mut at = 0;
    while at < source.len() {
        let Some(rest) = source.get(at..) else {
            at += 1;
            continue;
        };
        let tag = language
            .delimiters()
            .iter()
            .find(|(begin, _)| rest.starts_with(begin));
        let Some((begin, end)) = tag else {
            at += rest.chars().next().map_or(1, char::len_utf8);
            continue;
        };
        // A tag without an end goes on to the end of the file, as PHP's may.
        let inside = rest.cut(begin.len()..);
        let length = inside
            .find(end)
            .map_or(rest.len(), |at| begin.len() + at + end.len());
        if text_from < at {
            parts.push(Part {
                kind: Kind::Text,
                range: text_from..at,
            });
        }
        let inside = inside.get(..length.saturating_sub(begin.len() + end.len()));
        parts.push(Part {
            kind: kind(language, begin, inside.unwrap_or_default()),
            range: at..at + length,
        });
        at += length;
        text_from = at;
    }
    if text_from < source.len() {
        parts.push(Part {
            kind: Kind::Text,
            range: text_from..source.len(),
        });
    }
    parts
}

fn kind(language: Language, begin: &str, inside: &str) -> Kind {
    let control = |is: bool| match is {
        true => Kind::Control,
        false => Kind::Output,
    };
    let bare = inside.trim_start_matches(['-', '~']).trim();
    let word: String = bare
        .chars()
        .take_while(char::is_ascii_alphanumeric)
        .collect();
    match begin {
        // An inclusion, a block of another template or a macro prints; what follows decides nothing more.
        "{%" => control(!matches!(
            &*word,
            "include"
                | "render"
                | "block"
                | "call"
                | "cycle"
                | "yield"
                | "section"
                | "embed"
                | "sections"
        )),
        "{#" | "{{!--" => Kind::Control,
        "{{{" | "#{" | "!{" | "{!!" | "<?=" => Kind::Output,
        "{{" if language == Language::Mustache => {
            control(bare.starts_with(['#', '/', '^', '!']) || word == "else")
        }
        "{{" => control(language == Language::Any && CONTROL_WORDS.contains(&&*word)),
        "<%" => match (inside.chars().next(), language) {
            (Some('='), _) => Kind::Output,
            (Some('-'), Language::Erb) => Kind::Control,
            (Some('-' | '~'), _) => Kind::Output,
            _ => Kind::Control,
        },
        // PHP prints from anywhere but from what only steers.
        _ => {
            let code = bare.strip_prefix("php").unwrap_or(bare).trim_start();
            let is_output = inside.starts_with('=');
            let word: String = code
                .chars()
                .take_while(char::is_ascii_alphanumeric)
                .collect();
            let steers = CONTROL_WORDS.contains(&&*word) || code.starts_with(['}', '/', '#', '$']);
            control(!is_output && steers && !code.contains("echo") && !code.contains("print"))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The parts as letters: what is written, what prints, what steers.
    fn shape(source: &str, file: &str) -> String {
        let parts = parts(source, Language::of(file));
        let all = parts.iter().map(|part| match part.kind {
            Kind::Text => format!("[{}]", &source[part.range.clone()]),
            Kind::Output => "o".to_owned(),
            Kind::Control => "c".to_owned(),
        });
        all.collect()
    }

    #[test]
    fn the_tags_of_each_language_are_told_from_the_text() {
        for (file, source, expected) in [
            (
                "a.njk",
                "a{% if x %}b{{ c }}{% endif %}{# d #}",
                "[a]c[b]occ",
            ),
            ("a.njk", "{%- include \"b.njk\" -%}x", "o[x]"),
            (
                "a.hbs",
                "{{#if x}}a{{else}}{{{b}}}{{/if}}{{!-- {{c}} --}}",
                "c[a]cocc",
            ),
            ("a.hbs", "{{> part}}", "o"),
            ("a.ejs", "<% if (x) { %>a<%= b %><%- c %><% } %>", "c[a]ooc"),
            ("a.erb", "<%- if x -%>a<%= b %><% end %>", "c[a]oc"),
            (
                "a.php",
                "<?php if ($a): ?>b<?= $c ?><?php the_title(); ?><?php endif; ?>",
                "c[b]ooc",
            ),
            ("a.php", "a<?php echo 1", "[a]o"),
            (
                "a.html",
                "{{ range .All }}a{{ .Title }}{{ end }}<%= b %>",
                "c[a]oco",
            ),
            ("a.html", "a { b } c", "[a { b } c]"),
            ("a.html", "é{{ü}}", "[é]o"),
        ] {
            assert_eq!(shape(source, file), expected, "{source}");
        }
    }
}
