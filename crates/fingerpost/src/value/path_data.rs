//! Path data, as in `path("M 0 0 L 10 10")` (SVG 2 § 9.3.9). Only whether it is valid is asked.

/// Whether a text is path data with at least one command.
pub(super) fn is_path_data(text: &str) -> bool {
    let mut reader = Reader {
        rest: text.as_bytes(),
    };
    reader.spaces();
    // A path begins with a move.
    if !matches!(reader.rest.first(), Some(b'm' | b'M')) {
        return false;
    }
    while let Some((command, rest)) = reader.rest.split_first() {
        reader.rest = rest;
        if reader.command(*command).is_none() {
            return false;
        }
        reader.spaces();
    }
    true
}

/// What follows a command's letter, once or several times.
fn arguments(command: u8) -> Option<&'static [Argument]> {
    use Argument::{Flag, Number};
    Some(match command.to_ascii_lowercase() {
        b'z' => &[],
        b'h' | b'v' => &[Number; 1],
        b'm' | b'l' | b't' => &[Number; 2],
        b's' | b'q' => &[Number; 4],
        b'c' => &[Number; 6],
        b'a' => &[Number, Number, Number, Flag, Flag, Number, Number],
        _ => return None,
    })
}

#[derive(Clone, Copy)]
enum Argument {
    Number,
    /// `0` or `1`, which needs nothing after it.
    Flag,
}

struct Reader<'a> {
    rest: &'a [u8],
}

impl Reader<'_> {
    fn command(&mut self, command: u8) -> Option<()> {
        let arguments = arguments(command)?;
        if arguments.is_empty() {
            return Some(());
        }
        self.spaces();
        loop {
            for (at, argument) in arguments.iter().enumerate() {
                if at > 0 {
                    self.comma();
                }
                match argument {
                    Argument::Number => self.number()?,
                    Argument::Flag => self.flag()?,
                }
            }
            // After a comma another set of arguments must come.
            let is_owed = self.comma();
            let is_more = matches!(self.rest.first(), Some(b'0'..=b'9' | b'.' | b'+' | b'-'));
            if !is_more {
                return (!is_owed).then_some(());
            }
        }
    }

    fn spaces(&mut self) {
        while let Some((b' ' | b'\t' | b'\n' | b'\r' | b'\x0c', rest)) = self.rest.split_first() {
            self.rest = rest;
        }
    }

    /// White space with at most one comma in it; whether there was one.
    fn comma(&mut self) -> bool {
        self.spaces();
        let Some(rest) = self.rest.strip_prefix(b",") else {
            return false;
        };
        self.rest = rest;
        self.spaces();
        true
    }

    fn flag(&mut self) -> Option<()> {
        let (flag, rest) = self.rest.split_first()?;
        self.rest = rest;
        matches!(flag, b'0' | b'1').then_some(())
    }

    fn number(&mut self) -> Option<()> {
        if let Some((b'+' | b'-', rest)) = self.rest.split_first() {
            self.rest = rest;
        }
        let whole = self.digits();
        if let Some(rest) = self.rest.strip_prefix(b".") {
            self.rest = rest;
            if self.digits() == 0 {
                return None;
            }
        } else if whole == 0 {
            return None;
        }
        let ([b'e' | b'E', b'+' | b'-', exponent @ ..] | [b'e' | b'E', exponent @ ..]) = self.rest
        else {
            return Some(());
        };
        if let Some(b'0'..=b'9') = exponent.first() {
            self.rest = exponent;
            self.digits();
        }
        Some(())
    }

    fn digits(&mut self) -> usize {
        let mut digits = 0;
        while let Some((b'0'..=b'9', rest)) = self.rest.split_first() {
            self.rest = rest;
            digits += 1;
        }
        digits
    }
}

#[cfg(test)]
mod tests {
    use super::is_path_data;

    #[test]
    fn what_is_path_data() {
        for valid in [
            "M 0 0",
            "m1-2.5.5-.5z",
            " M0,0 1,1 2,2 ",
            "M0 0L10 10Zm5 5",
            "M0 0h1v1c0 0 1 1 2 2s1 1 2 2q1 1 2 2t3 3",
            "M0 0a5 5 0 01-1 2 3 3 0 1,1 4,4",
            "M1e2-1E-2",
            "M0 0zz",
        ] {
            assert!(is_path_data(valid), "{valid}");
        }
        for invalid in [
            "",
            " ",
            "L 0 0",
            "M",
            "M0",
            "M0 0,",
            "M,0 0",
            "M0,,0",
            "M 1. 2",
            "M 0 0 X",
            "M0 0 h",
            "M0 0 a5 5 0 2 0 1 1",
            "M0 0 z 1",
            "M0 0 10",
            "M 0 0 l 1 1 1",
            "M 0px 0",
        ] {
            assert!(!is_path_data(invalid), "{invalid}");
        }
    }
}
