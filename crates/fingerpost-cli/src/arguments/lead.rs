//! Words that people try, and where they lead.
//!
//! An edit may be written without `edit`. A word of a person's habit leads to the command that answers it, or to one
//! sentence with the lines to choose from.

use clap::Command;

/// Where a word leads.
pub enum Lead {
    /// To these commands.
    To(Vec<&'static str>),
    /// To the edit of that name.
    Edit,
    /// To a choice, which a sentence tells.
    Say(&'static str),
}

/// What a word that is not a command leads to: an edit without `edit`, or a word for something of ours.
pub fn lead(word: &str, root: &Command) -> Option<Lead> {
    let edit = root.find_subcommand("edit")?;
    if edit.get_subcommands().any(|inner| inner.get_name() == word) {
        return Some(Lead::Edit);
    }
    Some(match word {
        "inspect" | "show" | "rules" | "styles" | "matched" | "element" => Lead::To(vec!["trace"]),
        "computed" | "value" | "style" => Lead::To(vec!["values"]),
        "explain" | "because" => Lead::To(vec!["why"]),
        "why-not" | "whynt" => Lead::To(vec!["whynot"]),
        "search" | "query" | "grep" | "select" | "locate" => Lead::To(vec!["find"]),
        "dom" | "outline" | "elements" => Lead::To(vec!["tree"]),
        "stylesheets" | "css" | "files" => Lead::To(vec!["sheets"]),
        "property" | "properties" | "spec" | "docs" => Lead::To(vec!["describe"]),
        "complete" => Lead::Say(
            "to complete a value: fingerpost suggest value border \"1px so\"; a property's name: fingerpost suggest \
             property text-dec",
        ),
        "undo" => Lead::To(vec!["draft", "undo"]),
        "redo" => Lead::To(vec!["draft", "redo"]),
        "diff" | "status" | "changes" | "pending" | "list" => Lead::To(vec!["draft"]),
        "discard" | "reset" | "revert" => Lead::Say(
            "to discard a change of the draft: fingerpost draft discard 2\nTo discard all: fingerpost draft discard \
             --all\nTo undo the last save: fingerpost unsave",
        ),
        "delete" | "rm" | "remove" | "del" => Lead::Say(
            "to remove a declaration: fingerpost edit remove-declaration ELEMENT PROPERTY; a rule: fingerpost edit \
             remove-rule FILE:LINE; an element: fingerpost edit remove-element ELEMENT; a change of the draft: \
             fingerpost draft discard NUMBER",
        ),
        "disable-rule" | "toggle" | "off" => Lead::Say(
            "to comment out a declaration: fingerpost edit disable ELEMENT PROPERTY; to switch a change of the draft \
             off: fingerpost draft off NUMBER",
        ),
        "attr" => Lead::To(vec!["edit", "attribute"]),
        "var" => Lead::To(vec!["edit", "custom-property"]),
        "move" => Lead::Say(
            "to move an element: fingerpost edit move-element ELEMENT OTHER --side after; a rule: fingerpost edit \
             move-rule FILE:LINE --after FILE:LINE",
        ),
        // What writes into the sources is never begun by a word that may mean something else.
        "write" | "commit" | "apply" => Lead::Say(
            "to write the draft into the source files: fingerpost save\nTo see it first: fingerpost draft",
        ),
        "copy" | "export" => Lead::To(vec!["extract"]),
        "serve" | "open" | "browse" | "watch" | "live" | "browser" | "start" | "ui" => {
            Lead::To(vec!["desk"])
        }
        _ => return None,
    })
}
