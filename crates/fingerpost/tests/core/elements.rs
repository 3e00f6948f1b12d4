//! Edits of markup: only what was meant changes, lines keep their indent, and a tree that comes out
//! otherwise than asked for is said.

use crate::support::Fixture;
use fingerpost::edit::{Change, Edit, Intent, Side, kinds, make};

#[track_caller]
fn edit(page: &str, change: Change) -> (String, Edit) {
    let fixture = Fixture::new(page);
    let edit = fixture.make(change).unwrap();
    (fixture.after(&edit), edit)
}

#[track_caller]
fn refused(page: &str, change: Change) -> String {
    Fixture::new(page).make(change).unwrap_err().to_string()
}

fn insert(source: &str, side: Side) -> Change {
    Change::Insert(kinds::Insert {
        source: source.to_owned(),
        side,
    })
}

fn text(text: &str, from: Option<&str>) -> Change {
    Change::Text(kinds::Text {
        text: text.to_owned(),
        from: from.map(str::to_owned),
    })
}

const LIST: &str = "<body>\n  ¤<ul>\n    <li>One</li>\n    <li>Two</li>\n  </ul>\n</body>\n";

#[test]
fn a_text_changes_and_its_white_space_stays() {
    assert_eq!(
        edit("¤<p>\n  Old <!-- x -->\n</p>", text("a < b & c", None)).0,
        "<p>\n  a &lt; b &amp; c <!-- x -->\n</p>"
    );
    assert_eq!(edit("¤<p></p>", text("new", None)).0, "<p>new</p>");
    assert_eq!(edit("¤<p>a &amp; b</p>", text("c", None)).0, "<p>c</p>");
    assert_eq!(
        edit("¤<p>Tea <em>and</em> cake</p>", text("Soup", Some("Tea"))).0,
        "<p>Soup <em>and</em> cake</p>"
    );
    assert!(
        refused("¤<p>Tea <em>and</em> cake</p>", text("x", None))
            .contains("several texts; name the one to change: 'Tea', 'and', 'cake'")
    );
    assert!(
        refused("¤<p>Tea</p>", text("x", Some("Cake")))
            .contains("does not contain the text 'Cake'")
    );
    assert!(refused("¤<p>Tea</p>", text("Tea", None)).contains("already"));
    assert!(refused("¤<br>", text("Tea", None)).contains("can't have content"));
    assert!(
        refused("¤<script>a</script>", text("</script>", None)).contains("end the element early")
    );
}

#[test]
fn a_tag_changes_at_both_ends() {
    let tag = |page: &str, name: &str| {
        edit(
            page,
            Change::Tag(kinds::Tag {
                name: name.to_owned(),
            }),
        )
        .0
    };
    assert_eq!(tag("¤<H2 class=x>a</H2 >", "p"), "<p class=x>a</p >");
    assert_eq!(
        tag("<ul>¤<li>a<li>b</ul>", "div"),
        "<ul><div>a</div><li>b</ul>"
    );
    assert_eq!(tag("¤<p></p>", "hr"), "<hr>");
    let bad = |page: &str, name: &str| {
        refused(
            page,
            Change::Tag(kinds::Tag {
                name: name.to_owned(),
            }),
        )
    };
    assert!(bad("¤<p>x</p>", "hr").contains("can't contain anything"));
    assert!(bad("¤<p>x</p>", "p").contains("already"));
    assert!(bad("¤<p>x</p>", "1a").contains("not the name of an element"));
}

#[test]
fn markup_goes_where_it_is_asked_for() {
    let one = "<li>New</li>";
    assert_eq!(
        edit(LIST, insert(one, Side::First)).0,
        "<body>\n  <ul>\n    <li>New</li>\n    <li>One</li>\n    <li>Two</li>\n  </ul>\n</body>\n"
    );
    assert_eq!(
        edit(LIST, insert(one, Side::Last)).0,
        "<body>\n  <ul>\n    <li>One</li>\n    <li>Two</li>\n    <li>New</li>\n  </ul>\n</body>\n"
    );
    assert_eq!(
        edit(LIST, insert("<p>\n  a\n</p>", Side::Before)).0,
        "<body>\n  <p>\n    a\n  </p>\n  <ul>\n    <li>One</li>\n    <li>Two</li>\n  </ul>\n</body>\n"
    );
    assert_eq!(
        edit(LIST, insert("<p>a", Side::After)).0,
        "<body>\n  <ul>\n    <li>One</li>\n    <li>Two</li>\n  </ul>\n  <p>a\n</body>\n"
    );
    assert_eq!(
        edit("<p>a ¤<b>b</b> c</p>", insert("<i>i</i>", Side::After)).0,
        "<p>a <b>b</b><i>i</i> c</p>"
    );
    assert_eq!(edit("¤<p></p>", insert("x", Side::Last)).0, "<p>x</p>");
    assert_eq!(
        edit(
            "¤<div>\r\n\t<p>a</p>\r\n</div>\r\n",
            insert("<p>b</p>", Side::Last)
        )
        .0,
        "<div>\r\n\t<p>a</p>\r\n\t<p>b</p>\r\n</div>\r\n"
    );
    // What means something in its spaces keeps them.
    assert_eq!(
        edit(LIST, insert("<pre>a\n b</pre>", Side::Before)).0,
        LIST.replace('¤', "")
            .replace("  <ul>", "  <pre>a\n b</pre>\n  <ul>")
    );
    assert!(refused("¤<br>", insert("x", Side::Last)).contains("can't have content"));
    assert!(refused("¤<p>", insert(" ", Side::Last)).contains("expected markup"));
}

#[test]
fn an_element_is_duplicated_moved_and_removed() {
    let item = LIST.replace('¤', "").replacen("<li>", "¤<li>", 1);
    let bare = item.replace('¤', "");
    assert_eq!(
        edit(&item, Change::Duplicate(kinds::Duplicate {})).0,
        bare.replace("<li>One</li>", "<li>One</li>\n    <li>One</li>")
    );
    assert_eq!(
        edit(
            "<p>a ¤<b>b</b> c</p>",
            Change::Duplicate(kinds::Duplicate {})
        )
        .0,
        "<p>a <b>b</b> <b>b</b> c</p>"
    );
    assert_eq!(
        edit(&item, Change::RemoveElement(kinds::RemoveElement {})).0,
        bare.replace("    <li>One</li>\n", "")
    );
    assert_eq!(
        edit(
            "<p>a ¤<b>b</b> c</p>",
            Change::RemoveElement(kinds::RemoveElement {})
        )
        .0,
        "<p>a  c</p>"
    );
    let to = |to: &str, side| {
        Change::MoveElement(kinds::MoveElement {
            to: to.to_owned(),
            side,
        })
    };
    assert_eq!(
        edit(&item, to("ul", Side::Last)).0,
        bare.replace("    <li>One</li>\n", "")
            .replace("  </ul>", "    <li>One</li>\n  </ul>")
    );
    assert_eq!(
        edit(&item, to("ul", Side::After)).0,
        "<body>\n  <ul>\n    <li>Two</li>\n  </ul>\n  <li>One</li>\n</body>\n"
    );
    assert_eq!(
        edit(
            "<div>\n  ¤<p>\n    a\n  </p>\n</div>\n<section>\n</section>\n",
            to("section", Side::First)
        )
        .0,
        "<div>\n</div>\n<section>\n  <p>\n    a\n  </p>\n</section>\n"
    );
    assert!(refused(&item, to("ul", Side::First)).contains("already"));
    assert!(refused(LIST, to("li:first-child", Side::First)).contains("into itself"));
    assert!(refused(&item, to(".none", Side::First)).contains("no element"));
}

#[test]
fn an_element_is_wrapped_and_unwrapped() {
    let wrap = |tag: &str| {
        Change::Wrap(kinds::Wrap {
            tag: tag.to_owned(),
        })
    };
    let wrapped = edit(LIST, wrap("<nav class=\"x\">")).0;
    assert_eq!(
        wrapped,
        "<body>\n  <nav class=\"x\">\n    <ul>\n      <li>One</li>\n      <li>Two</li>\n    </ul>\n  </nav>\n</body>\n"
    );
    let back = edit(
        &wrapped.replace("<nav", "¤<nav"),
        Change::Unwrap(kinds::Unwrap {}),
    )
    .0;
    assert_eq!(back, LIST.replace('¤', ""));
    assert_eq!(
        edit("<p>a ¤<b>b</b></p>", wrap("em")).0,
        "<p>a <em><b>b</b></em></p>"
    );
    assert_eq!(
        edit(
            "<p>a ¤<b>b <i>c</i></b></p>",
            Change::Unwrap(kinds::Unwrap {})
        )
        .0,
        "<p>a b <i>c</i></p>"
    );
    assert!(refused(LIST, wrap("<br>")).contains("can't contain anything"));
    assert!(refused(LIST, wrap("<a><b>")).contains("not the name of an element"));
    assert!(refused("¤<br>", Change::Unwrap(kinds::Unwrap {})).contains("is empty"));
}

#[test]
fn the_source_of_an_element_is_rewritten() {
    let markup = |source: &str, inner| {
        Change::Markup(kinds::Markup {
            source: source.to_owned(),
            inner,
        })
    };
    assert_eq!(
        edit("<p>a ¤<b>b</b></p>", markup("<i>c</i>", false)).0,
        "<p>a <i>c</i></p>"
    );
    assert_eq!(
        edit("<p>a ¤<b>b</b></p>", markup("<i>c</i>", true)).0,
        "<p>a <b><i>c</i></b></p>"
    );
    assert!(refused("¤<b>b</b>", markup("b", true)).contains("already"));
}

/// The warnings of an edit.
#[track_caller]
fn warned(page: &str, change: Change) -> Vec<String> {
    edit(page, change).1.warnings
}

#[test]
fn a_tree_that_is_not_the_one_asked_for_is_said() {
    let markup = |source: &str| {
        Change::Markup(kinds::Markup {
            source: source.to_owned(),
            inner: true,
        })
    };
    let p = warned("<div>¤<p>a</p></div>", markup("a <p>b</p> c"));
    assert!(
        p.iter()
            .any(|w| w.contains("the </p> at page.html:1:21 closes nothing")),
        "{p:?}"
    );
    let table = warned(
        "¤<table><tr><td>a</td></tr></table>",
        insert("<div>x</div>", Side::First),
    );
    assert_eq!(
        table,
        [
            "the <div> at page.html:1:8 is inside the <table> at page.html:1:1, but browsers move it out"
        ]
    );
    let row = warned("¤<div></div>", insert("<tr><td>x</td></tr>", Side::First));
    assert!(
        row.iter().any(|w| w.contains("browsers drop the tag <tr>")),
        "{row:?}"
    );
    let stray = warned("¤<div></div>", insert("x</b>", Side::First));
    assert!(
        stray
            .iter()
            .any(|w| w.contains("browsers drop the tag </b>")),
        "{stray:?}"
    );
    // A list item without an end tag is fine.
    assert!(warned("¤<ul></ul>", insert("<li>a<li>b", Side::First)).is_empty());
    // What was there before is left out.
    let old = "<p>a<p>b</p></p><table><div>x</div></table><tr>¤<i>x</i>";
    assert!(warned(old, text("y", None)).is_empty());
}

#[test]
fn skipped_headings_doubled_ids_and_lost_references_are_said() {
    let tag = |name: &str| {
        Change::Tag(kinds::Tag {
            name: name.to_owned(),
        })
    };
    assert_eq!(
        warned("<h1>a</h1>\n¤<h2>b</h2>", tag("h4")),
        ["the h4 at page.html:2:1 follows an h1: a heading level is skipped"]
    );
    assert!(warned("<h1>a</h1><h2>b</h2>¤<h3>c</h3>", tag("h2")).is_empty());
    assert_eq!(
        warned("¤<p id=x>a</p>", Change::Duplicate(kinds::Duplicate {})),
        ["the id 'x' is there twice: at page.html:1:1 and at page.html:2:1"]
    );
    assert_eq!(
        warned(
            "<label for=q>Q</label>\n¤<input id=q>",
            Change::RemoveElement(kinds::RemoveElement {})
        ),
        ["the for of the <label> at page.html:1:1 names 'q', and no element has that id"]
    );
    let id = Change::Attribute(kinds::Attribute {
        name: "id".to_owned(),
        value: "r".to_owned(),
        remove: false,
    });
    assert_eq!(warned("<a href=#q>Q</a>¤<p id=q>", id).len(), 1);
}

#[test]
fn what_stands_elsewhere_in_the_source_is_not_torn_apart() {
    let torn = refused(
        "¤<b>x<p>y</b>z</p>",
        Change::RemoveElement(kinds::RemoveElement {}),
    );
    assert!(
        torn.contains("this <p> is between the tags of the <b>"),
        "{torn}"
    );
    let fostered = refused(
        "¤<table><div>x</div></table>",
        Change::Duplicate(kinds::Duplicate {}),
    );
    assert!(
        fostered.contains("this <div> is between the tags of the <table>"),
        "{fostered}"
    );
}

#[test]
fn elements_one_in_the_other_are_not_changed_at_once() {
    let fixture = Fixture::new("<div>\n  <div>\n    x\n  </div>\n</div>\n");
    let intent = Intent {
        each: true,
        ..Intent::new(
            "page.html",
            "div",
            Change::RemoveElement(kinds::RemoveElement {}),
        )
    };
    let error = make(&fixture.page, &intent).unwrap_err().to_string();
    assert_eq!(
        error,
        "one of page.html:1:1 and page.html:2:1 is inside the other, so both can't be changed at once; \
         name fewer elements"
    );
}
