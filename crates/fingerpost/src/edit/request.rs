//! What an intent asks for besides the change itself.

use crate::edit::destination::Destination;
use crate::question::find::ElementQuery;

/// Which element, how many, and where the change is written.
#[derive(Clone, Debug)]
pub(in crate::edit) struct Asked {
    /// The element, where one is named.
    pub element: Option<ElementQuery>,
    /// Whether every element that matches is meant.
    pub each: bool,
    /// Where the change is written.
    pub into: Destination,
}
