//! Comments that go from `//` to the end of the line, as SCSS and Less have them.

/// Whether a file is of a language with comments that go from `//` to the end of the line.
pub(super) fn line_comments(name: &str) -> bool {
    let extension = name.rsplit('.').next().unwrap_or("");
    ["scss", "less"]
        .iter()
        .any(|e| extension.eq_ignore_ascii_case(e))
}

/// A source of such a language with spaces for those comments, byte by byte.
pub(super) fn without_line_comments(source: &str) -> String {
    let mut out = source.as_bytes().to_vec();
    let bytes = source.as_bytes();
    let (mut at, mut quote, mut url) = (0, None, false);
    while let Some(&byte) = bytes.get(at) {
        let next = bytes.get(at + 1).copied();
        match (quote, byte) {
            (_, b'\\') => at += 1,
            (Some(open), _) if byte == open || byte == b'\n' => quote = None,
            (Some(_), _) => {}
            (None, b'"' | b'\'') => quote = Some(byte),
            (None, b'(') => {
                let name = at.checked_sub(3).and_then(|start| bytes.get(start..at));
                url = name.is_some_and(|name| name.eq_ignore_ascii_case(b"url"));
            }
            (None, b')') => url = false,
            (None, b'/') if next == Some(b'*') => {
                let rest = source.get(at + 2..).and_then(|rest| rest.find("*/"));
                at = rest.map_or(bytes.len(), |end| at + 2 + end + 1);
            }
            (None, b'/') if next == Some(b'/') && !url => {
                while let Some(byte) = out.get_mut(at).filter(|b| **b != b'\n') {
                    *byte = b' ';
                    at += 1;
                }
            }
            _ => {}
        }
        at += 1;
    }
    String::from_utf8(out).unwrap_or_else(|_| source.to_owned())
}
