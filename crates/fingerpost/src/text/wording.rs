//! Errors of libraries and of the operating system, in plain words.

/// What went wrong with a file, without the system's numbers.
pub fn plain_io(error: &std::io::Error) -> String {
    use std::io::ErrorKind;
    match error.kind() {
        ErrorKind::NotFound => "no such file or folder".to_owned(),
        ErrorKind::PermissionDenied if error.raw_os_error().is_some() => {
            "permission denied".to_owned()
        }
        ErrorKind::AddrInUse => "another program uses that port; choose another one".to_owned(),
        ErrorKind::StorageFull => "the disk is full".to_owned(),
        ErrorKind::ReadOnlyFilesystem => "the file system is read-only".to_owned(),
        ErrorKind::IsADirectory => "it is a folder".to_owned(),
        ErrorKind::NotADirectory => "a part of its path is a file".to_owned(),
        _ => {
            let text = error.to_string();
            match text.split_once(" (os error") {
                Some((words, _)) => words.to_lowercase(),
                None => text,
            }
        }
    }
}

/// What is wrong with a text that was to be read as data: without its place, which stands before it, and with the nearest
/// word where one is unknown.
pub fn plain_data(message: &str) -> String {
    let bare = match message.rfind(" at line ") {
        Some(at) => message.get(..at).unwrap_or(message),
        None => message,
    };
    let words: Vec<&str> = bare.split('`').skip(1).step_by(2).collect();
    let is_unknown = bare.starts_with("unknown field") || bare.starts_with("unknown variant");
    match (is_unknown, &words[..]) {
        (true, [given, known @ ..]) => {
            let what = if bare.starts_with("unknown field") {
                "key"
            } else {
                "word"
            };
            let near = super::nearest(given, known.iter().copied());
            let near = near.map(|near| format!(". Do you mean '{near}'?"));
            let all = || format!("; expected one of {}", known.join(", "));
            format!("unknown {what} '{given}'{}", near.unwrap_or_else(all))
        }
        _ => bare.replace('`', "'"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_stand_once_and_words_have_their_nearest() {
        let message =
            "unknown field `chnage`, expected one of `page`, `change`, `each` at line 1 column 24";
        assert_eq!(
            plain_data(message),
            "unknown key 'chnage'. Do you mean 'change'?"
        );
        let message = "unknown variant `frob`, expected `set` or `step` at line 2 column 1";
        assert_eq!(
            plain_data(message),
            "unknown word 'frob'; expected one of set, step"
        );
        let error = std::fs::read("no such file").unwrap_err();
        assert_eq!(plain_io(&error), "no such file or folder");
    }
}
