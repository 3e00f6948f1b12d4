//! Properties that hold for any text.

use fingerpost::markup::{Document, NodeKind, Written};
use fingerpost::page::Page;
use fingerpost::selector::SelectorList;
use fingerpost::sheet::{Item, Sheet};
use fingerpost::text::{DecodeHint, Patch, Replacement, Text, TextRange};
use proptest::prelude::*;

/// Text made of the pieces that matter to an HTML parser, and of anything.
fn soup() -> impl Strategy<Value = String> {
    let piece = prop_oneof![
        Just("<p>"),
        Just("</p>"),
        Just("<b class=x>"),
        Just("</b>"),
        Just("<table>"),
        Just("<td>"),
        Just("</table>"),
        Just("<svg>"),
        Just("</svg>"),
        Just("<a href='x'>"),
        Just("<style>"),
        Just("</style>"),
        Just("a { color: red }"),
        Just("<!--"),
        Just("-->"),
        Just("&amp;"),
        Just("\r\n"),
        Just("ä🚢"),
        Just("<"),
        Just("\0"),
        Just("<template>"),
        Just("</template>"),
        Just("<select><option>"),
        Just("<textarea>\n"),
        Just("</body>"),
        Just("<![CDATA["),
        Just("<i style=\"top:0;"),
        Just("\">"),
        Just("<form>"),
        Just("</form>"),
        Just("<p"),
        Just("</"),
        Just("<head>"),
        Just("<frameset>"),
        Just("<script>"),
        Just("</script>"),
    ];
    prop_oneof![
        4 => proptest::collection::vec(piece, 0..40).prop_map(|parts| parts.concat()),
        1 => any::<String>(),
    ]
}

fn css_soup() -> impl Strategy<Value = String> {
    let piece = prop_oneof![
        Just("a"),
        Just(".b"),
        Just(" { "),
        Just("}"),
        Just("color"),
        Just(":"),
        Just("red"),
        Just(";"),
        Just("@media print"),
        Just("@layer x"),
        Just("("),
        Just(")"),
        Just("["),
        Just("]"),
        Just("/*"),
        Just("*/"),
        Just("\""),
        Just("'"),
        Just("url("),
        Just("!important"),
        Just("--x"),
        Just("var(--x, 1px)"),
        Just("&"),
        Just("> b"),
        Just(","),
        Just("\\"),
        Just("<!--"),
        Just("ä"),
        Just("\r\n"),
        Just("1.5e3px"),
        Just("calc(1px + 2%)"),
        Just("@import 'x';"),
        Just(":is("),
        Just("::before"),
        Just("margin: 1px 2px;"),
        Just("background: red, url(x);"),
    ];
    prop_oneof![
        4 => proptest::collection::vec(piece, 0..40).prop_map(|parts| parts.concat()),
        1 => any::<String>(),
    ]
}

fn check_markup(source: &str) -> Result<(), TestCaseError> {
    let document = Document::parse(Text::new("t.html", source));
    let whole = document.text().span();
    for id in document.elements() {
        let element = document.element(*id);
        prop_assert!(whole.contains_range(element.start_tag));
        if element.written != Written::Tag {
            continue;
        }
        let tag = document.text().slice(element.start_tag);
        prop_assert!(tag.starts_with('<'), "{tag:?}");
        let name = &tag[1..].to_ascii_lowercase().replace('\0', "\u{fffd}");
        let same =
            name.starts_with(&*element.name.to_ascii_lowercase()) || name.starts_with("image");
        prop_assert!(same, "{} from {tag:?}", element.name);
        let mut last = element.start_tag.start();
        for attribute in &element.attributes {
            // A second `<html>` or `<body>` tag adds attributes that stand outside the first.
            if element.is_html("html") || element.is_html("body") {
                continue;
            }
            prop_assert!(element.start_tag.contains_range(attribute.name_span));
            prop_assert!(element.start_tag.contains_range(attribute.value_span));
            prop_assert!(attribute.name_span.start() >= last);
            last = attribute.value_span.end();
        }
        if let Some(end) = element.end_tag {
            prop_assert!(end.start() >= element.start_tag.end());
            prop_assert!(document.text().slice(end).starts_with("</"));
        }
    }
    for id in document.descendants(document.root()) {
        if let NodeKind::Text(content) = &document.node(id).kind
            && let Some(span) = content.span()
        {
            prop_assert!(whole.contains_range(span));
        }
    }
    Ok(())
}

fn check_sheet(source: &str) -> Result<(), TestCaseError> {
    let text = Text::new("t.css", source);
    let sheet = Sheet::parse(text.clone(), text.span());
    for (_, rule) in sheet.rules() {
        prop_assert!(text.span().contains_range(rule.span));
        prop_assert!(rule.span.contains_range(rule.prelude), "{rule:?}");
        if let Some(parent) = rule.parent {
            prop_assert!(sheet.rule(parent).block.unwrap().contains_range(rule.span));
        }
        let mut last = rule.span.start();
        for item in sheet.items(rule) {
            let span = match item {
                Item::Rule(id) => sheet.rule(*id).span,
                Item::Declaration(id) => sheet.declaration(*id).span,
            };
            prop_assert!(rule.span.contains_range(span));
            prop_assert!(span.start() >= last, "in order");
            last = span.end();
        }
    }
    for (_, declaration) in sheet.declarations() {
        prop_assert!(declaration.span.contains_range(declaration.name));
        prop_assert!(declaration.span.contains_range(declaration.value));
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_markup_parses_and_its_spans_nest(source in soup()) {
        check_markup(&source)?;
    }

    #[test]
    fn any_sheet_parses_and_its_spans_nest(source in css_soup()) {
        check_sheet(&source)?;
    }

    #[test]
    fn any_selector_parses_or_says_where(source in css_soup()) {
        if let Err(error) = SelectorList::parse(&source) {
            prop_assert!(usize::from(error.span.end()) <= source.len());
            prop_assert!(!error.message.is_empty());
        }
    }

    #[test]
    fn any_page_answers(html in soup(), css in css_soup()) {
        let html = format!("<style>{css}</style>{html}<p class=b style='{}'>", css.replace('\'', ""));
        let page = Page::new(Text::new("t.html", html));
        let last = *page.document().elements().last().unwrap();
        let _ = page.ask().trace(last);
    }

    #[test]
    fn a_patch_and_its_inverse_give_the_same_bytes(
        source in any::<String>(),
        cuts in proptest::collection::vec((any::<prop::sample::Index>(), any::<prop::sample::Index>(), any::<String>()), 0..5),
    ) {
        let edges: Vec<usize> = (0..=source.len()).filter(|at| source.is_char_boundary(*at)).collect();
        let replacements = cuts.into_iter().map(|(a, b, with)| {
            let (a, b) = (*a.get(&edges) as u32, *b.get(&edges) as u32);
            Replacement { range: TextRange::new(a.min(b).into(), a.max(b).into()), with }
        }).collect();
        if let Ok(patch) = Patch::new(replacements) {
            prop_assert!(patch.fits(&source));
            let after = patch.apply(&source).unwrap();
            let inverse = patch.invert(&source);
            prop_assert_eq!(inverse.apply(&after).unwrap(), source.as_str());
        }
    }

    #[test]
    fn any_bytes_read_as_text_are_written_back_as_they_were(bytes in any::<Vec<u8>>()) {
        if let Ok(text) = Text::decode("t.html", bytes.clone(), DecodeHint::Html) {
            prop_assert_eq!(text.to_bytes(), bytes);
        }
    }
}
