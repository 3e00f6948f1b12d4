//! Which selectors are offered for elements: each matches all of them, says what else it reaches, and
//! the best comes first.

use fingerpost::page::{LoadError, Page};
use fingerpost::prelude::*;
use fingerpost::question::selectors::SelectorsAnswer;

fn page(html: &str) -> Page {
    Page::builder(Text::new("page.html", html))
        .loader(|_: &Request<'_>| Err(LoadError::Remote))
        .build()
}

#[track_caller]
fn offered(html: &str, whats: &[&str], like: bool) -> SelectorsAnswer {
    let page = page(html);
    let whats: Vec<ElementQuery> = whats.iter().map(|w| (*w).into()).collect();
    let answer = page.ask().selectors(&whats, like).unwrap();
    // Counted, not guessed: the page says the same of each.
    for candidate in &answer.candidates {
        let reached = page
            .ask()
            .elements(ElementQuery::Selector(candidate.selector.clone()))
            .unwrap();
        assert_eq!(reached.len(), candidate.reach, "{}", candidate.selector);
        for element in &answer.elements {
            let found = reached
                .iter()
                .any(|id| page.document().element(*id).index == element.index);
            assert!(found, "{} misses {}", candidate.selector, element.label());
        }
        assert_eq!(candidate.unwanted, reached.len() - answer.elements.len());
    }
    answer
}

#[track_caller]
fn best(html: &str, what: &str) -> String {
    let answer = offered(html, &[what], false);
    answer.candidates[0].selector.clone()
}

#[test]
fn the_shortest_without_needless_parts_comes_first() {
    assert_eq!(best("<p class=a>1<p class=b>2", ".a"), ".a");
    assert_eq!(best("<h2 id=x class=a>1</h2><p>2", "h2"), ".a");
    assert_eq!(
        best("<p class='a b'>1<p class=a>2<p class=b>3", ".a.b"),
        ".a.b"
    );
    assert_eq!(
        best("<nav><a>1</a></nav><main><a>2</a></main>", "main a"),
        "main a"
    );
    assert_eq!(best("<a class=x>1</a><p class=x>2", "p"), "p");
    assert_eq!(
        best(
            "<form><input type=text><input type=radio></form>",
            "[type=radio]"
        ),
        "[type=radio]"
    );
    assert_eq!(
        best("<ul><li>1<li>2<li>3</ul>", "li:nth-child(2)"),
        "li:nth-child(2)"
    );
    assert_eq!(best("<p class='md:w-1/2'>1<p>2", "@3"), ".md\\:w-1\\/2");
}

#[test]
fn names_made_by_programs_are_avoided_where_another_serves() {
    assert_eq!(best("<p class='css-1q2w3e lead'>1<p>2", "@3"), ".lead");
    let answer = offered("<p class=css-1q2w3e>1<p>2", &["@3"], false);
    assert!(!answer.candidates[0].hashed, "{answer:?}");
}

#[test]
fn unwanted_elements_are_named() {
    let answer = offered("<p class=a>1<p>2", &["@4"], false);
    let p = answer
        .candidates
        .iter()
        .find(|c| c.selector == "p")
        .unwrap();
    assert_eq!(p.unwanted, 1);
    assert_eq!(p.unwanted_elements[0].classes, ["a"]);
}

#[test]
fn several_elements_share_a_selector_or_get_a_list() {
    let html = "<ul><li class='a x'>1<li class='b x'>2<li>3</ul><p>4";
    let both = offered(html, &[".a", ".b"], false);
    assert_eq!(both.candidates[0].selector, ".x");
    let apart = offered(html, &[".a", "p"], false);
    assert_eq!(apart.candidates[0].selector, ".a, p");
}

#[test]
fn like_elements_are_those_of_the_same_make_in_the_same_place() {
    let html = "<ul class=s><li class=i>1<li class=i>2</ul><ul class=s><li class=i>3</ul>\
                <ul class=t><li class=i>4</ul>";
    let answer = offered(html, &["li:first-child:has(+ li)"], true);
    assert_eq!(answer.elements.len(), 3);
    assert_eq!(answer.candidates[0].selector, ".s li");
    let bare = offered("<ul><li>1<li>2</ul><ol><li>3</ol>", &["@4"], true);
    assert_eq!(bare.elements.len(), 2);
    assert_eq!(bare.candidates[0].selector, "ul li");
}

#[test]
fn the_rest_of_the_site_is_counted() {
    let folder = tempfile::tempdir().unwrap();
    for (name, html) in [
        ("a.html", "<p class=x>1<p>2"),
        ("b.html", "<p class=x>1<p class=x>2"),
        ("c.html", "<p>1"),
    ] {
        std::fs::write(folder.path().join(name), html).unwrap();
    }
    let (site, name) = Site::of_page(&folder.path().join("a.html")).unwrap();
    let page = site.page(&name, Environment::default()).unwrap();
    let answer = page
        .ask()
        .beside(&site.inventory())
        .selectors(&[".x".into()], false)
        .unwrap();
    let best = &answer.candidates[0];
    assert_eq!(
        (best.selector.as_str(), best.site_reach, best.site_pages),
        (".x", 3, 2)
    );
}

#[test]
fn what_an_element_is_comes_before_how_it_looks() {
    let html = "<p class='mb-2 lead'>x</p><p class=lead>y</p><div class=card><a href='#!' class=mb-2>z</a></div>\
                <a href='#!'>w</a>";
    let first = |what: &str| offered(html, &[what], false).candidates[0].selector.clone();
    // .mb-2 would do for the first, and [href="#!"] for none.
    assert!(!first("a.mb-2").contains("mb-2"), "{}", first("a.mb-2"));
    assert!(!first("a.mb-2").contains("href"), "{}", first("a.mb-2"));
    let all = offered("<p class='mb-2 lead'>x</p><p>y</p>", &["p.lead"], false).candidates;
    assert_eq!(all[0].selector, ".lead");
}

#[test]
fn every_element_has_a_name_that_finds_it_again() {
    use fingerpost::page::Target;
    use fingerpost::selector::PseudoElement;

    let html = "<ul><li>North<li>South</ul>\n<p title='a::b'>\"x::before\"</p>";
    let page = Page::new(Text::new("a.html", html));
    let ask = page.ask();
    let pseudos = [
        None,
        Some(PseudoElement::Before),
        Some(PseudoElement::After),
        Some(PseudoElement::Other("marker".into())),
    ];
    for element in page.document().elements() {
        for pseudo in &pseudos {
            let target = Target {
                element: *element,
                pseudo: pseudo.clone(),
            };
            let named = ElementQuery::naming(page.document(), &target);
            let read: ElementQuery = named.to_string().parse().unwrap();
            assert_eq!(read, named);
            assert_eq!(ask.find_one(&read).unwrap(), target);
        }
    }
    // A text or a place has pseudo-elements, too; a text with two colons in it stays one.
    for (query, shown) in [
        ("'South'::marker", "\"South\"::marker"),
        ("a.html:2::before", "a.html:2::before"),
        ("2::after", "2::after"),
        ("\"x::before\"", "\"x::before\""),
        ("li:first-child::marker", "li:first-child::marker"),
    ] {
        let query = ElementQuery::parse(query);
        assert_eq!(query.to_string(), shown);
        ask.find_one(&query).unwrap();
    }
    assert!(ask.find_one("@3::nothing").is_err());
}
