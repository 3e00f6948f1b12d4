//! Changes of markup.

use super::tried;

#[test]
fn an_attribute_is_set() {
    let words = [
        "attribute",
        "pages/home.html",
        ".hero",
        "data-season",
        "winter",
    ];
    tried(
        &words,
        "set data-season of section.hero on pages/home.html to 'winter'",
        &[
            "pages/home.html",
            "-    <section class=\"hero\" aria-labelledby=\"welcome\">",
            "+    <section class=\"hero\" aria-labelledby=\"welcome\" data-season=\"winter\">",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_attribute_is_taken_off() {
    let words = [
        "attribute",
        "pages/home.html",
        ".hero",
        "aria-labelledby",
        "--remove",
    ];
    tried(
        &words,
        "take aria-labelledby off section.hero on pages/home.html",
        &[
            "pages/home.html",
            "-    <section class=\"hero\" aria-labelledby=\"welcome\">",
            "+    <section class=\"hero\">",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn classes_are_changed() {
    let words = ["class", "pages/home.html", "h2.today", "+wide", "-today"];
    tried(
        &words,
        "class +wide -today of h2.panel-title.today on pages/home.html",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <h2 class=\"panel-title wide\">Sailings today</h2>",
        ],
        &[
            "h2.panel-title.wide: color: rgb(138, 90, 0) → rgb(11, 61, 92)",
            "h2.panel-title.wide::before: animation-duration: 2s → 0s, animation-iteration-count: infinite → 1, animation-name: beacon → none, animation-timing-function: steps(2, jump-none) → ease, and 1 more",
            "Rules that no longer apply:",
            "  .today  (0,1,0)  css/skerry.css:255",
            "With prefers-color-scheme: dark: color: rgb(138, 90, 0) → rgb(143, 199, 224)",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn a_class_is_added_on_every_page_that_has_the_element() {
    let words = [
        "class",
        "pages/fares.html",
        ".site-footer",
        "+wide",
        "--every-page",
    ];
    tried(
        &words,
        "class +wide of footer.site-footer on pages/fares.html, and on 3 other pages",
        &[
            "pages/fares.html",
            "-  <footer class=\"site-footer\">",
            "+  <footer class=\"site-footer wide\">",
            "pages/home.html",
            "-  <footer class=\"site-footer\">",
            "+  <footer class=\"site-footer wide\">",
            "pages/notices.html",
            "-  <footer class=\"site-footer\">",
            "+  <footer class=\"site-footer wide\">",
            "pages/timetable.html",
            "-  <footer class=\"site-footer\">",
            "+  <footer class=\"site-footer wide\">",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn a_text_is_changed_on_other_pages_that_are_named() {
    let words = [
        "text",
        "pages/home.html",
        ".site-footer p:first-child",
        "Until tomorrow.",
        "--also-on",
        "pages/fares.html",
    ];
    tried(
        &words,
        "text of p on pages/home.html: Skerry Line sails between six islands, every day that the sea allows. → Until tomorrow., and on 1 other page",
        &[
            "pages/home.html",
            "-    <p>Skerry Line sails between six islands, every day that the sea allows.</p>",
            "+    <p>Until tomorrow.</p>",
            "pages/fares.html",
            "-    <p>Skerry Line sails between six islands, every day that the sea allows.</p>",
            "+    <p>Until tomorrow.</p>",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn a_text_is_changed_on_the_only_page_that_has_it() {
    let words = [
        "text",
        "pages/home.html",
        "h2.today",
        "Sailing today",
        "--every-page",
    ];
    tried(
        &words,
        "text of h2.panel-title.today on pages/home.html: Sailings today → Sailing today",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <h2 class=\"panel-title today\">Sailing today</h2>",
        ],
        &[
            "Note: no other page of the site needs the change",
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn one_of_several_texts_is_changed() {
    let words = [
        "text",
        "pages/home.html",
        "figcaption",
        ", launched on Long Skerry.",
        "--from",
        ", built in the yard on Long Skerry.",
    ];
    tried(
        &words,
        "text of figcaption on pages/home.html: , built in the yard on Long Skerry. → , launched on Long Skerry.",
        &[
            "pages/home.html",
            "-        <figcaption>The <em>Kittiwake</em>, built in the yard on Long Skerry.</figcaption>",
            "+        <figcaption>The <em>Kittiwake</em>, launched on Long Skerry.</figcaption>",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_element_is_given_another_name() {
    let words = ["tag", "pages/home.html", "h2.today", "p"];
    tried(
        &words,
        "change h2.panel-title.today on pages/home.html to <p>",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <p class=\"panel-title today\">Sailings today</p>",
        ],
        &[
            "p.panel-title.today: font-weight: 700 → 400, line-height: 1.2 → 1.5",
            "Rules that apply now:",
            "  p  (0,0,1)  css/base.css:13",
            "Rules that no longer apply:",
            "  h2  (0,0,1)  css/base.css:11",
            "  h2  (0,0,1)  css/base.css:12",
            "  h2  (0,0,1)  css/skerry.css:102",
            "Nothing else changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn what_an_element_holds_is_rewritten() {
    let words = [
        "markup",
        "pages/home.html",
        "h2.today",
        "Sailing <em>today</em>",
        "--inner",
    ];
    tried(
        &words,
        "rewrite the content of h2.panel-title.today on pages/home.html",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <h2 class=\"panel-title today\">Sailing <em>today</em></h2>",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn markup_is_inserted() {
    let words = [
        "insert",
        "pages/home.html",
        "h2.today",
        "<p>Bring a coat.</p>",
        "--side",
        "after",
    ];
    tried(
        &words,
        "insert markup after h2.panel-title.today on pages/home.html",
        &["pages/home.html", "+        <p>Bring a coat.</p>"],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_element_is_duplicated() {
    let words = ["duplicate", "pages/home.html", "blockquote"];
    tried(
        &words,
        "duplicate blockquote on pages/home.html",
        &[
            "pages/home.html",
            "+      <blockquote>",
            "+        <p>The crossing was rough, the soup was not.</p>",
            "+      </blockquote>",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_element_is_moved() {
    let words = [
        "move-element",
        "pages/home.html",
        "h2.today",
        ".hero",
        "--side",
        "last",
    ];
    tried(
        &words,
        "move h2.panel-title.today on pages/home.html to the end of .hero",
        &[
            "pages/home.html",
            "+      <h2 class=\"panel-title today\">Sailings today</h2>",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_element_is_removed() {
    let words = ["remove-element", "pages/home.html", "blockquote"];
    tried(
        &words,
        "remove blockquote from pages/home.html",
        &[
            "pages/home.html",
            "-      <blockquote>",
            "-        <p>The crossing was rough, the soup was not.</p>",
            "-      </blockquote>",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_element_is_wrapped() {
    let words = [
        "wrap",
        "pages/home.html",
        "h2.today",
        "<div class=\"wide\">",
    ];
    tried(
        &words,
        "wrap h2.panel-title.today on pages/home.html in <div class=\"wide\">",
        &[
            "pages/home.html",
            "-        <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        <div class=\"wide\">",
            "+          <h2 class=\"panel-title today\">Sailings today</h2>",
            "+        </div>",
        ],
        &[
            "No style of any element changes on the site's 5 pages, at any width or in any medium that the theme asks for.",
        ],
    );
}

#[test]
fn an_element_is_unwrapped() {
    let words = ["unwrap", "pages/home.html", "blockquote"];
    tried(
        &words,
        "unwrap blockquote on pages/home.html",
        &[
            "pages/home.html",
            "-      <blockquote>",
            "-        <p>The crossing was rough, the soup was not.</p>",
            "-      </blockquote>",
            "+      <p>The crossing was rough, the soup was not.</p>",
        ],
        &[
            "Changes 1 element here:",
            "  p  pages/home.html:52",
            "      font-style: italic → normal",
        ],
    );
}
