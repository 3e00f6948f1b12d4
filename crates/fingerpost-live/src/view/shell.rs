//! The desk as a whole: the live page in the middle, and one column with the four steps beside it.

use maud::{DOCTYPE, Markup, html};

/// What the desk's page is made of.
pub(crate) struct Shell<'a> {
    pub name: Option<String>,
    pub pages: Vec<String>,
    pub page: String,
    /// The path of the page's URL.
    pub path: String,
    pub page_origin: String,
    pub token: &'a str,
    pub read_only: bool,
}

/// States that can be held, as people call them.
const STATES: &[&str] = &[
    "hover",
    "focus",
    "focus-visible",
    "active",
    "visited",
    "checked",
    "disabled",
    "invalid",
];

/// The steps, in the order in which people take them: the name, the key, and what is done there.
const STEPS: &[(&str, &str)] = &[
    ("find", "Find"),
    ("why", "Why"),
    ("try", "Try"),
    ("save", "Save"),
];

pub(crate) fn shell(shell: &Shell<'_>) -> Markup {
    let title = shell.name.as_deref().unwrap_or("this site");
    html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta name="viewport" content="width=device-width";
                title { (title) " on the desk" }
                link rel="icon" href="data:,";
                link rel="stylesheet" href="/desk/desk.css";
                script type="module" src="/desk/desk.js" {}
            }
            body
                data-token=(shell.token)
                data-page=(shell.page)
                data-path=(shell.path)
                data-page-origin=(shell.page_origin)
                data-read-only[shell.read_only]
            {
                (top(shell, title))
                main.workspace {
                    (stage(shell))
                    (column())
                }
                p #said role="status" aria-live="polite" {}
                datalist #values {}
                dialog #keys aria-labelledby="keys-head" { (keys()) }
            }
        }
    }
}

fn top(shell: &Shell<'_>, title: &str) -> Markup {
    html! {
        header.top {
            span.sign aria-hidden="true" {
                svg viewBox="0 0 24 24" {
                    path d="M11 2h2v20h-2z" {}
                    path.arm d="M4 5h12l4 3-4 3H4z" {}
                    path d="M20 13H9l-3 2.5L9 18h11z" {}
                }
            }
            h1 { (title) }
            label.pick {
                span.quiet { "Page" }
                select #page {
                    @for page in &shell.pages {
                        option value=(page) selected[*page == shell.page] { (page) }
                    }
                    @if !shell.pages.contains(&shell.page) {
                        option value=(shell.page) selected { (shell.page) }
                    }
                }
            }
            button #point type="button" aria-pressed="false" aria-keyshortcuts="p" {
                "Point at the page" kbd { "P" }
            }
            span.gap {}
            @if shell.read_only { span.badge { "reading only" } }
            button #own-tab type="button" title="Open the live page in its own tab, which this desk edits too" { "Open page in a tab" }
            button #undo type="button" aria-keyshortcuts="u" title="Undo the last edit" { "Undo" kbd { "U" } }
            button #redo type="button" aria-keyshortcuts="Shift+U" title="Redo the edit undone last" { "Redo" }
            button #before type="button" aria-pressed="false" aria-keyshortcuts="b"
                title="Show the page as the files have it" { "Original" kbd { "B" } }
            button #show-keys type="button" aria-keyshortcuts="?" { "Shortcuts" kbd { "?" } }
        }
    }
}

fn stage(shell: &Shell<'_>) -> Markup {
    html! {
        section.stage aria-label="Live page" {
            div.around role="group" aria-label="Environment" {
                label { span.quiet { "Width" } input #width type="number" min="200" max="4000" step="1"; }
                label { span.quiet { "Height" } input #height type="number" min="200" max="4000" step="1"; }
                span #widths.widths role="group" aria-label="Widths" {}
                button #turn type="button" title="Swap width and height" { "Rotate" }
                button #strip type="button" aria-pressed="false" title="Several widths side by side" { "Side by side" }
                label { span.quiet { "Scheme" }
                    select #scheme {
                        option value="prefers-color-scheme=light" { "light" }
                        option value="prefers-color-scheme=dark" { "dark" }
                    }
                }
                details #more.holds {
                    summary { "More" span #more-count {} }
                    fieldset.more {
                        legend { "Environment" }
                        label { "Medium"
                            select #medium { option value="screen" { "screen" } option value="print" { "print" } }
                        }
                        label { "Motion"
                            select #motion {
                                option value="prefers-reduced-motion=no-preference" { "full" }
                                option value="prefers-reduced-motion=reduce" { "reduced" }
                            }
                        }
                        label { "Pixel ratio"
                            select #pixels {
                                option value="1x" { "1×" } option value="2x" { "2×" } option value="3x" { "3×" }
                            }
                        }
                        label { "Text"
                            select #text-size {
                                option value="" { "100 %" } option value="125" { "125 %" } option value="150" { "150 %" }
                                option value="200" { "200 %" }
                            }
                        }
                    }
                }
                details #states.holds {
                    summary { "States" span #held-count {} }
                    fieldset {
                        legend { "States of the chosen element" }
                        @for state in STATES {
                            label { input type="checkbox" name="state" value=(state); " :" (state) }
                        }
                    }
                }
            }
            div #floor.floor {
                div #sheet-of-glass.glass {
                    iframe #live title="The live page" src=(format!("{}{}", shell.page_origin, shell.path)) {}
                    div #marks.marks aria-hidden="true" {}
                    div #grip.grip role="separator" aria-orientation="vertical" aria-label="Width of the page"
                        aria-controls="live" tabindex="0" {}
                }
                div #strip-of-widths.strip hidden {}
            }
        }
    }
}

fn column() -> Markup {
    html! {
        aside.column aria-label="Find, why, try, save" {
            search {
                input #ask type="search" autocomplete="off" aria-keyshortcuts="/"
                    aria-label="Find a property, value, file, custom property, selector or text"
                    placeholder="A selector, a text, a property, a value, a file …";
            }
            div #element.element aria-live="polite" {}
            nav.steps aria-label="Steps" {
                @for (id, name) in STEPS {
                    button type="button" id=(format!("step-{id}")) data-step=(id) aria-pressed="false"
                        aria-controls=(id) { (name) @if *id == "save" { span #unsaved.unsaved {} } }
                }
            }
            section #find aria-label="Find" tabindex="-1" {}
            section #why aria-label="Why" tabindex="-1" hidden {
                div.modes role="group" aria-label="View" {
                    button type="button" data-look="properties" aria-pressed="true" { "Properties" }
                    button type="button" data-look="space" aria-pressed="false" { "Space" }
                    button type="button" data-look="sheets" aria-pressed="false" { "Sheets" }
                    button type="button" data-look="whynot" aria-pressed="false" { "Why not?" }
                }
                div #properties {
                    input #filter type="search" aria-label="Only properties with" placeholder="Only properties with …";
                    label.all { input #all type="checkbox"; "Also initial values" }
                    div #lines {}
                }
                div #space hidden {}
                div #sheets hidden {}
                div #whynot hidden {
                    form #whynot-form {
                        label { "A selector, a declaration or a place that seems to do nothing"
                            input name="text" autocomplete="off" placeholder=".today h2, or color: navy, or css/a.css:12";
                        }
                        button { "Why not?" }
                    }
                    div #whynot-answer aria-live="polite" {}
                }
            }
            section #try aria-label="Try" tabindex="-1" hidden {}
            section #save aria-label="Save" tabindex="-1" hidden {}
            div #moved.moved aria-live="polite" {}
        }
    }
}

fn keys() -> Markup {
    const KEYS: &[(&str, &str)] = &[
        ("P", "point at the page; Escape stops"),
        ("/", "go to the search box"),
        ("1 2 3 4", "Find, Why, Try, Save"),
        ("← →", "out to the container, in to the first child"),
        ("↑ ↓", "the sibling before, the sibling after"),
        (
            "Shift ↑ ↓ ←",
            "move the element up, down, out of its container",
        ),
        ("[ ]", "back and forward through the recent elements"),
        ("V", "bring the element into view"),
        (
            "H",
            "hide the element; Shift+H shows it alone; Escape shows all again",
        ),
        ("C", "measure the distance to the next element pointed at"),
        ("B", "before and after"),
        ("U Shift+U", "undo, redo"),
        (
            "in a value: ↑ ↓",
            "one step; with Shift ten, with Alt a tenth",
        ),
        ("Control+S", "save everything that is on"),
    ];
    html! {
        h2 #keys-head { "Shortcuts" }
        dl {
            @for (key, what) in KEYS {
                dt { kbd { (key) } } dd { (what) }
            }
        }
        form method="dialog" { button { "Close" } }
    }
}
