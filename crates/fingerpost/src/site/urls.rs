//! Names of files as URLs have them.

use percent_encoding::{AsciiSet, CONTROLS, utf8_percent_encode};

/// The server of a site whose pages are files.
pub(super) const NOWHERE: &str = "http://site.invalid/";

/// What of a file's name would mean something in a URL's path, or be dropped from it.
const NOT_IN_URLS: &AsciiSet = &CONTROLS
    .add(b' ')
    .add(b'%')
    .add(b'?')
    .add(b'#')
    .add(b'\\')
    .add(b':')
    .add(b';');

/// A file's name as a URL's path has it.
pub(super) fn in_url(name: &str) -> String {
    utf8_percent_encode(name, NOT_IN_URLS).to_string()
}
