//! Changes of files in any encoding, with bytes that don't decode anywhere: the bytes outside a change
//! stay as they were, and what is read of the file afterwards is what was asked for.

use fingerpost::text::{DecodeHint, EncodingError, Patch, Replacement, Text, TextRange, TextSize};
use proptest::prelude::*;

/// Encodings of every kind: of one byte, of several, with a state, of 16 bits.
const ENCODINGS: [&str; 14] = [
    "utf-8",
    "windows-1252",
    "iso-8859-2",
    "koi8-r",
    "windows-1251",
    "shift_jis",
    "euc-jp",
    "iso-2022-jp",
    "gbk",
    "gb18030",
    "big5",
    "euc-kr",
    "macintosh",
    "utf-16le",
];

/// The bytes of a sheet in an encoding: as it says, or marked.
fn file(encoding: &str, body: &[u8]) -> Vec<u8> {
    let head = match encoding {
        "utf-16le" => b"\xFF\xFE".to_vec(),
        label => format!("@charset \"{label}\";").into_bytes(),
    };
    [&head, body].concat()
}

fn text(bytes: &[u8]) -> std::sync::Arc<Text> {
    let hint = DecodeHint::Css(encoding_rs::UTF_8);
    Text::decode("a.css", bytes.to_vec(), hint).unwrap()
}

/// Pieces that meet: whole characters of several encodings, halves of them, and plain text.
fn pieces() -> impl Strategy<Value = Vec<u8>> {
    let piece = prop_oneof![
        4 => "[a-z{}:; ]{1,4}".prop_map(String::into_bytes),
        2 => prop::collection::vec(1u8..=255, 1..4),
        1 => Just(b"\xE9".to_vec()),
        1 => Just(b"\x81".to_vec()),
        1 => Just(b"\x81\x30\x81".to_vec()),
        1 => Just(b"\xE2\x82".to_vec()),
        1 => Just(b"\x1B$B".to_vec()),
        1 => Just(b"\x1B(B".to_vec()),
        1 => Just("é日本🚢".as_bytes().to_vec()),
        1 => Just(b"\x93\xFA\x96\x7B".to_vec()),
    ];
    prop::collection::vec(piece, 1..12).prop_map(|all| all.concat())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 4000, ..ProptestConfig::default() })]

    #[test]
    fn bytes_outside_a_change_stay(
        at in 0..ENCODINGS.len(),
        body in pieces(),
        places in prop::collection::vec(any::<prop::sample::Index>(), 4),
        with in "[a-z ]{0,3}",
    ) {
        let bytes = file(ENCODINGS[at], &body);
        let Ok(text) = Text::decode("a.css", bytes.clone(), DecodeHint::Css(encoding_rs::UTF_8)) else {
            return Ok(());
        };
        let source = text.source();
        let ends: Vec<usize> =
            source.char_indices().map(|(at, _)| at).chain([source.len()]).collect();
        let mut chosen: Vec<usize> = places.iter().map(|p| ends[p.index(ends.len())]).collect();
        chosen.sort_unstable();
        let range = |a: usize, b: usize| TextRange::new(TextSize::new(a as u32), TextSize::new(b as u32));
        let replaced = |a: usize, b: usize| Replacement { range: range(a, b), with: with.clone() };
        let patch = match chosen[1] < chosen[2] {
            true => Patch::new(vec![replaced(chosen[0], chosen[1]), replaced(chosen[2], chosen[3])]).unwrap(),
            false => Patch::new(vec![replaced(chosen[0], chosen[3])]).unwrap(),
        };
        match text.patched(&patch) {
            Ok(after) => {
                prop_assert_eq!(after.source(), patch.apply(source).unwrap());
                let written = after.to_bytes();
                let read = Text::decode("a.css", written.clone(), DecodeHint::Css(encoding_rs::UTF_8));
                if let Ok(read) = read
                    && read.encoding().name() == text.encoding().name()
                {
                    prop_assert_eq!(read.source(), after.source());
                }
                // Whatever is before the first change and after the last one is as it was: as
                // many bytes as decode to the same characters at the least.
                let before = bytes.iter().zip(&written).take_while(|(a, b)| a == b).count();
                let kept = &source[..chosen[0]];
                let head = text.encoding().as_fallback().decode_without_bom_handling(&bytes[..before]).0;
                let marked = head.trim_start_matches('\u{FEFF}');
                // Cut off, up to three bytes of a sequence are one character here and up to three in the text.
                let whole = marked.trim_end_matches(char::REPLACEMENT_CHARACTER);
                prop_assert!(
                    marked.starts_with(kept)
                        || kept.starts_with(whole) && whole.len() + 9 >= kept.len(),
                    "{:?} {:?}", marked, kept
                );
                // Taken back, the file is the old one to the byte.
                let back = after.patched(&patch.invert(source));
                if let Ok(back) = back {
                    let inserted_only = patch.replacements().iter().all(|r| r.range.is_empty());
                    if inserted_only {
                        prop_assert_eq!(back.to_bytes(), bytes);
                    }
                }
            }
            Err(EncodingError::Inseparable { .. }) => {}
            Err(error) => prop_assert!(false, "{}", error),
        }
    }
}

/// How often a change is refused for the bytes beside it: nearly never but where a state or a half of a
/// character stands right before it.
#[test]
fn few_changes_are_refused_for_the_bytes_beside_them() {
    let body = b"a{color:red} /* caf\xE9 \x81\x30 \xE2\x82 \x93\xFA\x96\x7B */ b{top:0} /* \xFF */";
    for encoding in ENCODINGS {
        let bytes = match encoding {
            "utf-16le" => continue,
            encoding => file(encoding, body),
        };
        let text = text(&bytes);
        for (find, with) in [("red", "navy"), ("top", "left"), ("color:red", "")] {
            let at = text.source().find(find).unwrap() as u32;
            let patch = Patch::single(TextRange::at(at.into(), TextSize::of(find)), with);
            let after = text.patched(&patch).unwrap().to_bytes();
            let plain = bytes
                .windows(find.len())
                .position(|w| w == find.as_bytes())
                .unwrap();
            let rest = &bytes[plain + find.len()..];
            let expected = [&bytes[..plain], with.as_bytes(), rest].concat();
            assert_eq!(after, expected, "{encoding}: {find}");
        }
    }
}

/// A byte that does not decode right before the place of a change.
#[test]
fn what_does_not_decode_before_a_change_is_left_alone() {
    let page = b"<meta charset=utf-8><p>caf\xE9</p><p>\xE9two\xE9</p>".to_vec();
    let text = Text::decode("a.html", page, DecodeHint::Html).unwrap();
    let change = |from: usize, to: usize, with: &str| Replacement {
        range: TextRange::new(TextSize::new(from as u32), TextSize::new(to as u32)),
        with: with.to_owned(),
    };
    let one = text.source().find("caf").unwrap();
    let two = text.source().find("two").unwrap();
    let patch = Patch::new(vec![change(one, one + 3, "t"), change(two, two + 3, "2")]).unwrap();
    let after = text.patched(&patch).unwrap();
    assert_eq!(
        after.to_bytes(),
        b"<meta charset=utf-8><p>t\xE9</p><p>\xE92\xE9</p>"
    );
    let all = Patch::single(
        TextRange::new(TextSize::new(one as u32), TextSize::new(one as u32 + 6)),
        "new",
    );
    let after = text.patched(&all).unwrap();
    assert_eq!(
        after.to_bytes(),
        b"<meta charset=utf-8><p>new</p><p>\xE9two\xE9</p>"
    );
}
