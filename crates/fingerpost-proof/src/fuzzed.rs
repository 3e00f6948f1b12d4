//! What a fuzzer calls: each target takes bytes, and panics where an answer can't be right.

use std::collections::BTreeMap;
use std::sync::Arc;

use fingerpost::draft::{Bases, Draft};
use fingerpost::edit::kinds::{self, Given, Holds};
use fingerpost::edit::{Destination, Edit, Script, Side};
use fingerpost::page::{LoadError, Request};
use fingerpost::prelude::*;
use fingerpost::question::whynot::Asked;
use fingerpost::selector::{Matcher, SelectorList};
use fingerpost::sheet::Sheet;
use fingerpost::site::Config;
use fingerpost::text::{Authored, DecodeHint, MapFile, SourceMap, TextSize};
use fingerpost::value::PropertyId;
use fingerpost::value::meaning;
use fingerpost::value::value_tokens;
use fingerpost::value::{Name, color};

/// A target's name, and what is called with the input.
pub type Entry = (&'static str, fn(&[u8]));

/// All targets, by the names that they have in `fuzz/fuzz_targets` and `fuzz/seeds`.
pub const TARGETS: [Entry; 9] = [
    ("markup", markup),
    ("sheet", sheet),
    ("selector", selector),
    ("value", value),
    ("edit", edit),
    ("sequence", sequence),
    ("source_map", source_map),
    ("state", state),
    ("configuration", configuration),
];

fn text_of(data: &[u8], name: &str, hint: DecodeHint) -> Option<Arc<Text>> {
    Text::decode(name, data.to_vec(), hint).ok()
}

/// The input in parts, at its zero bytes.
fn parts<const N: usize>(data: &[u8]) -> [&str; N] {
    let mut parts = data.split(|byte| *byte == 0);
    std::array::from_fn(|_| {
        let part = parts.next().unwrap_or_default();
        let valid = part.utf8_chunks().next();
        valid.map_or("", |chunk| chunk.valid())
    })
}

/// A page of some markup and one sheet.
fn page(html: &str, css: &str) -> Page {
    let html = format!("<link rel=stylesheet href=a.css>{html}");
    page_of(&Text::new("p.html", html), &Text::new("a.css", css))
}

fn page_of(html: &Arc<Text>, css: &Arc<Text>) -> Page {
    let mut load = |request: &Request<'_>| match request.url {
        "a.css" => Ok(css.clone()),
        url => Err(LoadError::Missing {
            file: url.to_owned(),
        }),
    };
    Page::builder(html.clone()).loader(&mut load).build()
}

/// HTML: every span lies in the text, and an element's tags in the order of the text.
pub fn markup(data: &[u8]) {
    let Some(text) = text_of(data, "p.html", DecodeHint::Html) else {
        return;
    };
    let document = fingerpost::markup::Document::parse(text.clone());
    let source = text.source();
    for id in document.elements() {
        let element = document.element(*id);
        let _ = &source[element.start_tag];
        for attribute in &element.attributes {
            let _ = &source[attribute.span()];
        }
        let _ = text.place(element.start_tag.start());
    }
    let page = page_of(
        &text,
        &Text::new("a.css", "* { color: red } :nth-child(2n) { top: 0 }"),
    );
    let _ = page.ask().tree(page.document().root_element(), None);
    ask_all(&page);
}

/// CSS: every span lies in the text, and the declarations are in their blocks.
pub fn sheet(data: &[u8]) {
    let Some(text) = text_of(data, "a.css", DecodeHint::utf8_sheet()) else {
        return;
    };
    let sheet = Sheet::parse(text.clone(), text.span());
    let source = text.source();
    for (_, rule) in sheet.rules() {
        let _ = &source[rule.span];
        let _ = sheet.prelude_source(rule);
    }
    for (_, declaration) in sheet.declarations() {
        let _ = sheet.value_source(declaration);
        let name = Name::of(&sheet, declaration);
        let _ = format!("{name:?}");
    }
    ask_all(&page_of(
        &Text::new(
            "p.html",
            "<link rel=stylesheet href=a.css><h2 class=a id=b>x</h2><p class=c>y",
        ),
        &text,
    ));
}

/// Selectors: what is printed is read as the same.
pub fn selector(data: &[u8]) {
    let [source] = parts(data);
    let Ok(list) = SelectorList::parse(source) else {
        return;
    };
    let printed = list.to_string();
    let again = SelectorList::parse(&printed);
    let again = again.unwrap_or_else(|error| panic!("{source:?} prints {printed:?}: {error}"));
    assert_eq!(
        again.specificity(),
        list.specificity(),
        "{source:?} prints {printed:?}"
    );
    assert_eq!(again.to_string(), printed, "{source:?}");
    let page = page(
        "<h2 class=a id=b title=t>x</h2><ul><li>1<li class=c>2</ul>",
        "",
    );
    let matcher = Matcher::new(page.document(), page.states());
    for id in page.document().elements() {
        for (one, other) in list.selectors.iter().zip(&again.selectors) {
            let (one, other) = (matcher.matches(one, *id), matcher.matches(other, *id));
            assert_eq!(one, other, "{source:?} prints {printed:?}");
        }
    }
    ask_whynot(&page, source);
}

fn ask_whynot(page: &Page, what: &str) {
    let Ok(target) = page.ask().find_one("h2") else {
        return;
    };
    let asked = Asked::parse(what);
    let _ = page.ask().whynot(&target, &asked, what);
}

/// Values of a property: the first part is its name.
pub fn value(data: &[u8]) {
    let [name, source] = parts(data);
    let Some(id) = PropertyId::named(name) else {
        return;
    };
    let _ = meaning(id, source, &value_tokens(source));
    let _ = color::read(source);
    let page = page("<h2>x</h2>", &format!("h2 {{ {name}: {source} }}"));
    ask_all(&page);
    for notation in ["hex", "oklch"] {
        let change = kinds::ConvertColor {
            property: name.to_owned(),
            to: notation.to_owned(),
            alpha: None,
        };
        let _ = make(&page, &Intent::new("p.html", "h2", Change::from(change)));
    }
}

/// Asks what people ask, of the page's last element and of all.
fn ask_all(page: &Page) {
    let ask = page.ask();
    let Some(last) = page.document().elements().last() else {
        return;
    };
    let target = Target::from(*last);
    let _ = ask.trace(&target);
    for property in ["color", "width", "background-image", "--a"] {
        if let Ok(property) = property.parse() {
            let _ = ask.why(&target, &property);
        }
    }
    let _ = ask.values(&target, None, false);
    let _ = ask.sheets();
    ask_whynot(page, "h2");
    let _ = ask.selectors(&["h2".into()], false);
}

/// A change of any kind, chosen by a byte, with what it puts in.
fn change(kind: u8, given: &str, more: &str) -> Option<Change> {
    let kinds = Change::kinds();
    let side = Side::NAMES[usize::from(kind) / 32 % 4];
    let kind = kinds[usize::from(kind) % kinds.len()];
    let mut parts = serde_json::Map::new();
    let mut chosen = false;
    for field in kind.fields {
        let skip = match field.given {
            Given::OneOf => std::mem::replace(&mut chosen, true),
            Given::Optional | Given::Named => more.is_empty(),
            Given::Flag => !more.is_empty(),
            _ => false,
        };
        if skip {
            continue;
        }
        let text = match field.holds {
            Holds::Property => "color".to_owned(),
            Holds::Place => "a.css:1".to_owned(),
            Holds::Side => side.to_owned(),
            Holds::Sheet => "b.css".to_owned(),
            Holds::Choice(words) => words[more.len() % words.len()].to_owned(),
            Holds::Name | Holds::Selector => more.to_owned(),
            _ => given.to_owned(),
        };
        let value = match field.given {
            Given::Flag => true.into(),
            Given::Several => vec![text].into(),
            _ => text.into(),
        };
        parts.insert(field.name.to_owned(), value);
    }
    kind.change(parts.into()).ok()
}

fn apply(edit: &Edit, bases: &Bases) -> Bases {
    let mut after = bases.clone();
    for change in &edit.changes {
        let text = &bases[&change.file];
        let patched = text
            .patched(&change.patch)
            .expect("UTF-8 writes everything");
        let back = patched.patched(&change.patch.invert(text.source()));
        assert_eq!(
            back.unwrap().source(),
            text.source(),
            "the inverse undoes it"
        );
        after.insert(change.file.clone(), patched);
    }
    after
}

fn bases(html: &str, css: &str) -> Bases {
    let html = format!("<link rel=stylesheet href=a.css>{html}");
    BTreeMap::from([
        ("a.css".to_owned(), Text::new("a.css", css)),
        // The sheet that a change may make.
        ("b.css".to_owned(), Text::new("b.css", "")),
        ("p.html".to_owned(), Text::new("p.html", html)),
    ])
}

fn page_over(bases: &Bases) -> Page {
    page_of(&bases["p.html"], &bases["a.css"])
}

/// One change of a page and a sheet that may be anything; the edit itself checks that nothing else has
/// changed, and what it leaves is asked again.
pub fn edit(data: &[u8]) {
    let Some((kind, data)) = data.split_first() else {
        return;
    };
    let [html, css, given, more] = parts(data);
    let bases = bases(&format!("<h2 id=a>x</h2>{html}"), css);
    let page = page_over(&bases);
    let Some(change) = change(*kind, given, more) else {
        return;
    };
    let mut intent = Intent::new("p.html", "h2", change);
    for into in [
        Destination::Sources,
        Destination::Inline,
        Destination::File("a.css".parse().expect("a name")),
    ] {
        intent.into = into;
        if let Ok(edit) = make(&page, &intent) {
            ask_all(&page_over(&apply(&edit, &bases)));
        }
    }
}

/// Several changes in a draft: it equals saving in between, and all can be undone.
pub fn sequence(data: &[u8]) {
    let [html, css, kinds, given] = parts(data);
    let start = bases(&format!("<h2 id=a>x</h2>{html}"), css);
    let mut draft = Draft::default();
    let mut between = start.clone();
    for (at, kind) in kinds.bytes().take(6).enumerate() {
        let page = page_over(&between);
        let element = format!(
            "@{}",
            usize::from(kind) / 20 % page.document().elements().len().max(1)
        );
        let Some(change) = change(kind, given, if at % 2 == 0 { "" } else { "p" }) else {
            continue;
        };
        let intent = Intent::new("p.html", &element, change);
        let Ok(edit) = make(&page, &intent) else {
            continue;
        };
        let after = apply(&edit, &between);
        draft
            .push(edit, &start)
            .expect("an edit over the draft's texts fits");
        let drafted = draft.replay(&start).expect("the draft fits");
        for (file, text) in &after {
            let now = drafted.texts.get(file).unwrap_or(&start[file]);
            assert_eq!(
                now.source(),
                text.source(),
                "{file} after change {}",
                at + 1
            );
        }
        between = after;
    }
    let json = draft.to_json();
    let read = Draft::from_json(&json).expect("a draft reads what it writes");
    assert_eq!(read, draft);
    while draft.undo().is_some() {}
    let drafted = draft.replay(&start).expect("the draft fits");
    for (file, text) in &start {
        let now = drafted.texts.get(file).unwrap_or(text);
        assert_eq!(now.source(), text.source(), "{file} taken back");
    }
}

/// A source map over a sheet: the first part is the sheet, the second the map.
pub fn source_map(data: &[u8]) {
    let split = data
        .iter()
        .position(|byte| *byte == 0)
        .unwrap_or(data.len());
    let (css, json) = data.split_at(split);
    let Some(text) = text_of(css, "a.css", DecodeHint::utf8_sheet()) else {
        return;
    };
    let json = json.strip_prefix(b"\0").unwrap_or(json);
    let _ = SourceMap::flattened(json);
    let Ok(map) = SourceMap::decode(json) else {
        return;
    };
    let source = Text::new("src/a.scss", ".a { color: red }\n.b { top: 0 }\n");
    let sources = map
        .sources()
        .iter()
        .map(|name| (name.clone(), Some(source.clone())));
    let sources = sources.collect();
    text.set_authored(Authored::new(map, MapFile::Fixed, sources));
    for (at, _) in text.source().char_indices() {
        let _ = text.place(TextSize::new(at as u32));
    }
    let html = Text::new(
        "p.html",
        "<link rel=stylesheet href=a.css><h2 class=a id=a>x</h2>",
    );
    let page = page_of(&html, &text);
    ask_all(&page);
    let _ = make(
        &page,
        &Intent::new("p.html", "h2", Change::set("color", "navy")),
    );
}

/// A draft's file: whatever it says, it is refused or can be used.
pub fn state(data: &[u8]) {
    let [json] = parts(data);
    let Ok(mut draft) = Draft::from_json(json) else {
        return;
    };
    let start = bases("<h2 class=x>x</h2>", ".x { color: red }");
    let _ = draft.replay(&start).map(|drafted| drafted.texts.len());
    let ids: Vec<u32> = draft.edits().map(|tried| tried.id).collect();
    for id in ids {
        let _ = draft.not_applied(id);
        let _ = draft.changes_of(&start, id);
        let _ = draft.partly(&start, &[id].into());
        let _ = draft.switch(id, false);
    }
    let page = page_over(&start);
    if let Ok(edit) = make(&page, &Intent::new("p.html", "h2", Change::set("top", "0"))) {
        let _ = draft.push(edit, &start);
    }
    while draft.undo().is_some() {}
    while draft.redo().is_some() {}
    let again = Draft::from_json(&draft.to_json());
    assert!(again.is_ok(), "{again:?}");
}

/// `fingerpost.toml`, and scripts of edits.
pub fn configuration(data: &[u8]) {
    let [source] = parts(data);
    if let Ok(config) = toml::from_str::<Config>(source) {
        for mount in &config.mount {
            let _ = mount
                .dir
                .file("a.css")
                .map(|file| mount.dir.rest(&file).map(str::to_owned));
        }
    }
    let Ok(script) = Script::from_json(source) else {
        return;
    };
    let page = page("<h2 class=x>x</h2>", ".x { color: red }");
    for intent in &script.edits {
        let _ = make(&page, intent);
    }
    let again = Script::from_json(&script.to_json());
    assert!(again.is_ok(), "{again:?}");
}
