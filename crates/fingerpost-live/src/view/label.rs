//! How an element is named.

use fingerpost::markup::Written;
use fingerpost::question::ElementSummary;

/// How an element is named in one line, with a mark where it has no tag in the source.
pub(crate) fn label(element: &ElementSummary) -> String {
    match element.written {
        Written::Tag => element.label(),
        Written::Implied | Written::Repeated => format!("({})", element.label()),
    }
}
