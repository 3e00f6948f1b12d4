//! Tag soup becomes the tree that the standard says, and every element knows its source.

use fingerpost::markup::{Document, ElementId, Written};
use fingerpost::text::{Text, TextRange};

fn parse(source: &str) -> Document {
    Document::parse(Text::new("t.html", source))
}

/// The whole tree of a page in short.
fn whole(source: &str) -> String {
    let document = parse(source);
    outline(&document, document.root_element())
}

/// The tree in short: `p(b "text")`, implied elements with `?`, repeated ones with `+`.
fn outline(document: &Document, id: ElementId) -> String {
    let children: Vec<String> = document
        .children(id)
        .filter_map(|child| match document.text_of(child) {
            Some(text) => Some(format!("{text:?}")),
            None => Some(outline(document, document.as_element(child)?)),
        })
        .collect();
    let inside = if children.is_empty() {
        String::new()
    } else {
        format!("({})", children.join(" "))
    };
    let element = document.element(id);
    let mark = match element.written {
        Written::Tag => "",
        Written::Implied => "?",
        Written::Repeated => "+",
    };
    format!("{}{mark}{inside}", element.name)
}

fn body(source: &str) -> String {
    let document = parse(source);
    let body = document
        .child_elements(document.root_element())
        .last()
        .unwrap();
    outline(&document, body)
}

#[test]
fn the_parser_implies_and_repeats_what_the_standard_says() {
    assert_eq!(whole("x"), "html?(head? body?(\"x\"))");
    assert_eq!(
        body("<table><tr><td>a</table>"),
        "body?(table(tbody?(tr(td(\"a\")))))"
    );
    assert_eq!(
        body("<p>1<b>2<p>3</b>4"),
        "body?(p(\"1\" b(\"2\")) p(b+(\"3\") \"4\"))"
    );
    assert_eq!(
        body("<p>1<div>2</div></p>"),
        "body?(p(\"1\") div(\"2\") p?)"
    );
    assert_eq!(
        body("<table>loose<td>in"),
        "body?(\"loose\" table(tbody?(tr?(td(\"in\")))))"
    );
    assert_eq!(body("<b><p>x</b>y"), "body?(b p(b+(\"x\") \"y\"))");
    assert_eq!(
        body("<svg><foreignobject><p>x"),
        "body?(svg(foreignObject(p(\"x\"))))"
    );
    assert_eq!(body("<li>a<li>b"), "body?(li(\"a\") li(\"b\"))");
}

/// Every tag, attribute name, value and text, as the spans say they are in the source.
fn pieces(source: &str) -> Vec<String> {
    let document = parse(source);
    let text = document.text().clone();
    let mut out = Vec::new();
    for id in document.elements() {
        let element = document.element(*id);
        if element.written != Written::Tag {
            continue;
        }
        out.push(text.slice(element.start_tag).to_owned());
        for attribute in &element.attributes {
            out.push(format!(
                "{}={}",
                text.slice(attribute.name_span),
                text.slice(attribute.value_span)
            ));
        }
        out.extend(element.end_tag.map(|end| text.slice(end).to_owned()));
    }
    out
}

#[test]
fn spans_are_right_over_crlf_references_and_wide_characters() {
    assert_eq!(
        pieces(
            "<!doctype html>\r\n<p  title = 'ä &amp; \r\n ö'\r\n data-x=1 hidden>🚢 &eacute;\r\n</P >"
        ),
        [
            "<p  title = 'ä &amp; \r\n ö'\r\n data-x=1 hidden>",
            "title='ä &amp; \r\n ö'".replace('\'', "").as_str(),
            "data-x=1",
            "hidden=",
            "</P >"
        ]
    );
    assert_eq!(
        pieces("<a href=\"\" id=''>"),
        ["<a href=\"\" id=''>", "href=", "id="]
    );
    assert_eq!(pieces("<br/><b a=1 a=2>"), ["<br/>", "<b a=1 a=2>", "a=1"]);
}

#[test]
fn values_have_their_references_resolved() {
    let document = parse("<p title='a &amp; b' lang=x>");
    let p = document.elements()[3];
    let element = document.element(p);
    assert_eq!(element.attribute("title"), Some("a & b"));
    let source = document.text().source();
    assert!(!element.attribute_node("title").unwrap().is_verbatim(source));
    assert!(element.attribute_node("lang").unwrap().is_verbatim(source));
}

#[test]
fn formatting_elements_and_the_body_know_their_end_tags() {
    let source = "<body><i><b>x</b></i><b>y</b></body></html>";
    let document = parse(source);
    for id in document.elements().iter().skip(2) {
        let element = document.element(*id);
        let end = element
            .end_tag
            .unwrap_or_else(|| panic!("{} has one", element.name));
        let tag = format!("</{}>", element.name);
        assert_eq!(document.text().slice(end), tag);
    }
    let span = document.element_span(document.elements()[3]);
    assert_eq!(document.text().slice(span), "<i><b>x</b></i>");
}

#[test]
fn a_tag_that_makes_the_parser_repeat_its_own_name_keeps_its_source() {
    let source = "<a href=1 id=x><p><a href=2>";
    let document = parse(source);
    let links: Vec<(Written, &str)> = document
        .elements()
        .iter()
        .map(|id| document.element(*id))
        .filter(|element| element.is_html("a"))
        .map(|element| (element.written, document.text().slice(element.start_tag)))
        .collect();
    assert_eq!(
        links,
        [
            (Written::Tag, "<a href=1 id=x>"),
            (Written::Repeated, "<a href=1 id=x>"),
            (Written::Tag, "<a href=2>")
        ]
    );
    assert_eq!(body("<p><b>x</p><b>y"), "body?(p(b(\"x\")) b+(b(\"y\")))");
}

#[test]
fn the_innermost_element_at_an_offset() {
    let source = "<p>a <b>b <i>c</i></b> d</p>";
    let document = parse(source);
    let name_at = |needle: char| {
        let at = source.find(needle).unwrap() as u32;
        let id = document.element_at(at.into()).unwrap();
        document.element(id).name.to_string()
    };
    assert_eq!(name_at('c'), "i");
    assert_eq!(name_at('d'), "p");
}

#[test]
fn deep_nesting_ends_at_the_limit_and_loses_nothing() {
    for tag in ["div", "b", "span"] {
        let source = format!("<{tag}>").repeat(5_000);
        let document = parse(&source);
        assert_eq!(document.elements().len(), 5_003, "{tag}");
        assert_eq!(document.problems().len(), 1);
        let deepest = document
            .elements()
            .iter()
            .map(|e| document.trail(*e).len())
            .max();
        assert!(
            deepest.unwrap() <= fingerpost::markup::DEEPEST_TREE + 2,
            "{deepest:?}"
        );
    }
}

#[test]
fn quirks_mode_follows_the_doctype() {
    assert!(parse("<p>").is_quirks());
    assert!(!parse("<!doctype html><p>").is_quirks());
}

#[test]
fn text_is_folded_and_cut() {
    let document = parse("<p>One\n  <b>two</b>\tthree<style>no</style></p>");
    let body = document.elements()[2];
    assert_eq!(document.folded_text(body, 100), "One two three");
    assert_eq!(document.folded_text(body, 5), "One t…");
    assert_eq!(TextRange::default().len(), 0.into());
}
