//! What values result in as CSSOM writes them. Every expectation here is one that a browser engine
//! agrees with on a page of `fingerpost-proof`; these run without a browser, and say which rule of
//! the standards is meant.

use fingerpost::cascade::Origin;
use fingerpost::page::Page;
use fingerpost::text::Text;

use crate::support::Fixture;

/// Asks for each `property: declared value → computed value` of a paragraph.
#[track_caller]
fn each(lines: &str) {
    each_on("<!doctype html>", lines);
}

#[track_caller]
fn each_on(before: &str, lines: &str) {
    for line in lines.lines().map(str::trim).filter(|l| !l.is_empty()) {
        let (declaration, wanted) = line.split_once(" → ").expect("an arrow");
        let (property, value) = declaration.split_once(": ").expect("a declaration");
        let html = format!(
            "{before}<style>p {{ font-size: 20px; {property}: {value} }}</style>¤<p data-n=7 data-w='big word'>"
        );
        let fixture = Fixture::new(&html);
        let contest = fixture.contest(property);
        assert!(
            contest.excluded.is_empty(),
            "{declaration}: {}",
            contest.excluded[0].sentence
        );
        assert_eq!(contest.value.computed, wanted, "{declaration}");
    }
}

/// Color 4 § 15: what was written in the forms of sRGB is `rgb()`, everything else its own space.
#[test]
fn colors_in_their_own_space() {
    each(
        "color: rgb(300, -5, 12.6) → rgb(255, 0, 13)
         color: rgb(10% 20% 30% / 40%) → rgba(26, 51, 77, 0.4)
         color: hsl(400, 50%, 50%) → rgb(191, 149, 64)
         color: hwb(0.5turn 40% 80%) → rgb(85, 85, 85)
         color: #12345678 → rgba(18, 52, 86, 0.47)
         color: RebeccaPurple → rgb(102, 51, 153)
         color: rgb(none 1 2) → rgb(0, 1, 2)
         color: lab(50% 20 -30) → lab(50 20 -30)
         color: oklch(0.7 0.1 120 / 50%) → oklch(0.7 0.1 120 / 0.5)
         color: oklch(150% 0.2 400) → oklch(1 0.2 40)
         color: lch(40 30 200deg) → lch(40 30 200)
         color: color(display-p3 1 0.5 0 / .5) → color(display-p3 1 0.5 0 / 0.5)
         color: color(xyz 0.1 0.2 0.3) → color(xyz-d65 0.1 0.2 0.3)
         color: color(srgb-linear 0.1 20% 0.3) → color(srgb-linear 0.1 0.2 0.3)
         color: lab(none 1 2) → lab(none 1 2)",
    );
}

/// Color 5 § 3 and § 4: mixing, and colors relative to others.
#[test]
fn colors_of_other_colors() {
    each(
        "color: color-mix(in srgb, red, blue) → color(srgb 0.5 0 0.5)
         color: color-mix(in srgb, red 20%, blue) → color(srgb 0.2 0 0.8)
         color: color-mix(in srgb, red 30%, blue 30%) → color(srgb 0.5 0 0.5 / 0.6)
         color: color-mix(in hsl, red, lime) → color(srgb 1 1 0)
         color: color-mix(in hsl longer hue, red, lime) → color(srgb 0 0 1)
         color: color-mix(in srgb, color-mix(in srgb, red, blue), lime 0%) → color(srgb 0.5 0 0.5)
         color: rgb(from red r g calc(b + 255)) → color(srgb 1 0 1)
         color: rgb(from rgb(0 0 0 / .5) r g b / alpha) → color(srgb 0 0 0 / 0.5)
         color: rgb(from red r none b) → color(srgb 1 none 0)
         color: lab(from lab(50 20 30) l a b) → lab(50 20 30)
         color: rgb(calc(100 + 20) calc(50% / 2 * 2) 3) → rgb(120, 128, 3)
         color: light-dark(red, blue) → rgb(255, 0, 0)
         background-color: currentcolor → rgb(0, 0, 0)
         background-color: color-mix(in srgb, currentcolor, white) → color(srgb 0.5 0.5 0.5)",
    );
}

#[test]
fn a_dark_scheme_turns_light_dark_over() {
    each_on(
        "<!doctype html><style>html { color-scheme: dark }</style>",
        "color: light-dark(red, blue) → rgb(0, 0, 255)
         background-color: Canvas → rgb(18, 18, 18)",
    );
}

/// Values 4 § 10.10: like terms are added up, numbers spread over sums.
#[test]
fn calculations_are_simplified() {
    each(
        "width: calc((100% - 10px) / 4) → calc(25% - 2.5px)
         width: calc(2 * (1em + 5%)) → calc(10% + 40px)
         width: calc(1px - (2px - 50%)) → calc(50% - 1px)
         width: min(100%, 10px + 5%) → min(100%, 5% + 10px)
         width: max(1px, 2%, 3em) → max(1px, 2%, 60px)
         width: clamp(1px, 50%, 3em) → clamp(1px, 50%, 60px)
         width: calc(min(1px, 2px) + 10%) → calc(10% + 1px)
         width: calc(1px * (2 + 3)) → 5px
         width: calc(10% / 2 + 5%) → 10%
         text-indent: calc(6px / 2px * 1em) → 60px
         width: round(up, 13px, 5px) → 15px
         margin-left: round(to-zero, -13px, 5px) → -10px
         top: mod(18px, 5px) → 3px
         left: rem(-18px, 5px) → -3px
         width: hypot(3px, 4px) → 5px
         width: calc(sin(30deg) * 100px) → 50px
         width: calc(pow(2, 3) * 1px) → 8px
         rotate: atan2(1px, 1px) → 45deg
         width: calc(sign(-3px) * -2px) → 2px",
    );
}

/// Values 4 § 10.5: a result outside the range is clamped to it; § 10.9.1: an integer is rounded.
#[test]
fn calculations_are_clamped() {
    each(
        "width: calc(-5px) → 0px
         opacity: calc(2) → 1
         opacity: calc(50% + 25%) → 0.75
         flex-grow: calc(-1) → 0
         font-weight: calc(2000) → 1000
         order: calc(2.5) → 3
         order: calc(-2.5) → -2
         margin-left: calc(-3px) → -3px
         font-size: calc(100% + 2px) → 18px
         line-height: calc(1 + .5) → 30px",
    );
}

/// Display 3 § 2.8: the shortest spelling.
#[test]
fn displays_are_written_short() {
    each(
        "display: inline flow-root → inline-block
         display: block flex → flex
         display: list-item inline → inline list-item
         display: flow → block
         display: inline ruby → ruby
         display: block flow-root → flow-root
         display: math → inline
         display: inline-grid → inline-grid",
    );
}

/// CSSOM § 6.7.2 and what each standard says of its computed values.
#[test]
fn lists_and_orders() {
    each(
        "counter-reset: a 2 b → a 2 b 0
         counter-increment: c → c 1
         font-feature-settings: \"liga\" 0, \"kern\" 1 → \"kern\", \"liga\" 0
         grid-column-start: span x 2 → span 2 x
         grid-template-areas: \"a  b\" → \"a b\"
         aspect-ratio: 3 → 3 / 1
         aspect-ratio: auto 2 → auto 2 / 1
         stroke-dasharray: 1 2px 3% → 1px, 2px, 3%
         text-decoration-line: overline underline → underline overline
         rotate: 1 0 0 .5turn → x 180deg
         scale: 50% → 0.5
         filter: grayscale(50%) → grayscale(0.5)
         color-scheme: only dark → dark only
         transition-timing-function: linear(0, 1) → linear(0 0%, 1 100%)
         background-image: linear-gradient(to top left, red, blue) → linear-gradient(to left top, rgb(255, 0, 0), rgb(0, 0, 255))
         background-image: linear-gradient(red 0 10px, blue) → linear-gradient(rgb(255, 0, 0) 0px, rgb(255, 0, 0) 10px, rgb(0, 0, 255))
         font-family: Two Words, \"One\", serif → \"Two Words\", One, serif
         object-position: right top → 100% 0%
         break-after: always → page",
    );
}

/// Values 5 § 7.7 and Environment Variables 1.
#[test]
fn attributes_and_the_environment() {
    each(
        "width: attr(data-n px) → 7px
         width: attr(data-none px, 3px) → 3px
         order: attr(data-n type(<integer>), 1) → 7
         color: attr(data-w type(<color>), teal) → rgb(0, 128, 128)
         padding-left: env(safe-area-inset-left, 9px) → 0px
         padding-left: env(nothing, 9px) → 9px",
    );
}

#[test]
fn quirks_mode_takes_lengths_and_colors_without_their_marks() {
    each_on(
        "",
        "width: 20 → 20px
         margin-left: 4 → 4px
         color: ff0000 → rgb(255, 0, 0)
         color: 00f → rgb(0, 0, 15)
         border-top-color: abc → rgb(170, 187, 204)",
    );
    let strict = Fixture::new("<!doctype html><style>p { width: 20 }</style>¤<p>");
    assert_eq!(strict.contest("width").excluded.len(), 1);
}

/// All engines take keyword sizes of monospace text from 13px.
#[test]
fn monospace_text_is_smaller_where_its_size_is_a_keywords() {
    let size = |html: &str| Fixture::new(html).computed("font-size");
    assert_eq!(size("¤<code>"), "13px");
    assert_eq!(
        size("<style>pre { font-size: medium }</style>¤<pre>"),
        "13px"
    );
    assert_eq!(
        size("<style>p { font-size: 20px }</style><p>¤<code>"),
        "20px"
    );
    assert_eq!(
        size("<style>code { font-family: monospace, serif }</style>¤<code>"),
        "16px"
    );
    assert_eq!(
        size("<style>code { font-size: 2em }</style>¤<code>"),
        "26px"
    );
    assert_eq!(
        size("<code><style>b { font-family: serif }</style>¤<b>"),
        "16px"
    );
}

#[test]
fn registered_custom_properties_are_computed() {
    let register =
        "<style>@property --l { syntax: '<length>'; inherits: false; initial-value: 4px }";
    let with = |css: &str, body: &str| Fixture::new(&format!("{register}{css}</style>{body}"));
    let typed = with("p { font-size: 10px; --l: 2em }", "¤<p>");
    assert_eq!(typed.computed("--l"), "20px");
    let not_inherited = with("p { --l: 2px } b { top: var(--l) }", "<p>¤<b>");
    assert_eq!(not_inherited.computed("top"), "4px");
    let wrong = with("p { --l: red; top: var(--l, 9px) }", "¤<p>");
    assert_eq!(wrong.computed("top"), "4px");
    let told = wrong.contest("--l").value.fell_through.unwrap();
    assert!(told.contains("'red' is not a <length>"), "{told}");
    let incomplete = Fixture::new(
        "<style>@property --m { syntax: '<length>'; inherits: false } p { top: var(--m, 9px) }</style>¤<p>",
    );
    assert_eq!(incomplete.computed("top"), "9px");
}

/// Custom Properties 1 § 2.3: what refers to itself has no value, whatever its fallback says.
#[test]
fn cycles_are_found_and_said() {
    let fixture = Fixture::new(
        "<style>p { --a: var(--b); --b: var(--a); --c: var(--c, 1px); --d: var(--a, 4px); \
         top: var(--d); left: var(--c, 2px) }</style>¤<p>",
    );
    assert_eq!(fixture.computed("top"), "4px");
    assert_eq!(fixture.computed("left"), "2px");
    let told = fixture.contest("--c").value.fell_through.unwrap();
    assert!(told.starts_with("it refers to itself"), "{told}");
    let font = Fixture::new(
        "<style>@property --l { syntax: '<length>'; inherits: false; initial-value: 7px } \
         p { --l: 2em; font-size: var(--l); top: var(--l) }</style>¤<p>",
    );
    assert_eq!(font.computed("font-size"), "16px");
    assert_eq!(font.computed("top"), "7px");
}

#[test]
fn an_animation_and_a_transition_are_noted() {
    let fixture = Fixture::new(
        "<style>@keyframes boat { to { color: red } } p { animation: boat 2s; transition: color 1s; \
         color: blue }</style>¤<p>",
    );
    let passing = fixture.contest("color").passing;
    assert_eq!(
        passing,
        [
            "while the animation boat runs, its keyframes set it, page.html:1:31; only !important \
             declarations are stronger",
            "when it changes, a transition of 1s leads there",
        ]
    );
    assert!(fixture.contest("top").passing.is_empty());
}

/// `@keyframes` count as any rule does: not in a false condition, by layer, the last one of a name, whatever containers and
/// style rules say.
#[test]
fn keyframes_that_do_not_count_are_not_noted() {
    let setter = |css: &str| {
        let fixture = Fixture::new(&format!(
            "<style>{css} p {{ animation: boat 2s; color: blue }}</style>¤<p>"
        ));
        fixture.contest("color").passing.join("")
    };
    let to = "@keyframes boat { to { color: red } }";
    assert!(setter(to).contains("page.html:1:31"));
    assert!(setter("@keyframes \"boat\" { to { color: red } }").contains("boat runs"));
    assert!(setter(&format!("@media screen {{ {to} }}")).contains("boat runs"));
    assert!(setter(&format!("@container (width > 1px) {{ {to} }}")).contains("boat runs"));
    for css in [
        format!("@media print {{ {to} }}"),
        format!("@supports (never: so) {{ {to} }}"),
        format!("p {{ {to} }}"),
        format!("{to} @keyframes boat {{ to {{ top: 0 }} }}"),
        format!("@layer a {{ {to} }} @layer b {{ @keyframes boat {{ to {{ top: 0 }} }} }}"),
        format!("@keyframes boat {{ to {{ top: 0 }} }} @layer a {{ {to} }}"),
    ] {
        assert_eq!(setter(&css), "", "{css}");
    }
}

#[test]
fn a_page_has_its_at_rules_weakest_first_with_what_blocks_them() {
    let css = "@font-face { font-family: Skerry; src: url(a.woff) } @media print { @property --a { inherits: true } } \
               @counter-style tide { system: fixed; symbols: x } @layer low { @page { margin: 1cm } }";
    let page = Page::new(Text::new("page.html", format!("<style>{css}</style><p>")));
    let all = page.at_rules();
    let told = all
        .iter()
        .filter(|at_rule| at_rule.origin == Origin::Author);
    let told: Vec<_> = told
        .map(|at_rule| {
            let kind = at_rule.kind().map_or("", |kind| kind.name());
            (kind, at_rule.name(), at_rule.blocked.is_some())
        })
        .collect();
    assert_eq!(
        told,
        [
            ("@page", "", false),
            ("@font-face", "", false),
            ("@property", "--a", true),
            ("@counter-style", "tide", false),
        ]
    );
    let faces = all
        .iter()
        .filter_map(|at_rule| at_rule.descriptor("FONT-family"));
    assert_eq!(faces.collect::<Vec<_>>(), ["Skerry"]);
}
