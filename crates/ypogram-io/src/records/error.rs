//! What went wrong, where, and what to do about it.

use std::fmt;
use std::io;
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// The result of everything that reads or writes.
pub type Result<T> = std::result::Result<T, Error>;

/// Whose trouble it is; decides the exit code of the program.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ErrorKind {
    /// The call, the rulebook or the input is unusable.
    Unusable,
    /// There is nothing in the input.
    Empty,
    /// The input is something that is not read, such as `a picture (PNG)`.
    NotRead(&'static str),
    /// An output could not be written.
    Output,
    /// The user asked to stop.
    Interrupted,
    /// Nobody reads the output any more.
    ClosedPipe,
}

/// What went wrong, where, and what to do.
#[derive(Clone, Debug, thiserror::Error)]
pub struct Error {
    /// Whose trouble it is.
    pub kind: ErrorKind,
    /// What and where, without a full stop.
    pub message: String,
    /// What to do; empty where there is nothing to say.
    pub hint: String,
    /// The text that it is about, and where in that it stands, in bytes, where that says more than words.
    pub excerpt: Option<Box<(String, Range<usize>)>>,
    /// What the system said, where it said something.
    #[source]
    pub source: Option<Arc<io::Error>>,
}

impl Error {
    /// The call, the rulebook or the input is unusable.
    pub fn unusable(message: impl Into<String>, hint: impl Into<String>) -> Self {
        let (message, hint) = (message.into(), hint.into());
        Error { kind: ErrorKind::Unusable, message, hint, excerpt: None, source: None }
    }

    /// There is nothing in the input of that name.
    pub fn empty(name: &str) -> Self {
        Error {
            kind: ErrorKind::Empty,
            ..Error::unusable(format!("{name}: the file is empty"), "see whether it is the right one")
        }
    }

    /// The input of that name is something that is not read.
    pub(crate) fn not_read(name: &str, called: &'static str, hint: &str) -> Self {
        Error {
            kind: ErrorKind::NotRead(called),
            ..Error::unusable(format!("{name}: this is {called}, which is not read"), hint)
        }
    }

    /// An output could not be written.
    pub fn output(message: impl Into<String>, hint: impl Into<String>) -> Self {
        Error { kind: ErrorKind::Output, ..Error::unusable(message, hint) }
    }

    /// The same with the text that it is about, marked where it is wrong.
    #[must_use]
    pub fn marked(self, text: &str, span: Range<usize>) -> Self {
        Error { excerpt: Some(Box::new((text.to_owned(), span))), ..self }
    }

    /// The user asked to stop.
    pub fn interrupted() -> Self {
        Error { kind: ErrorKind::Interrupted, ..Error::unusable("stopped; nothing was written", "") }
    }

    /// A source could not be read.
    pub fn reading(name: &str, error: &io::Error) -> Self {
        Error {
            source: copied(error),
            ..Error::unusable(format!("{name}: cannot be read: {}", cause(error)), "")
        }
    }

    /// The temporary folder could not be used.
    pub fn temporary(path: &Path, error: &io::Error) -> Self {
        let what = match error.kind() {
            io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => "is full".to_owned(),
            _ => format!("cannot be used: {}", cause(error)),
        };
        let message = format!("{}: the temporary folder {what}", path.display());
        let hint = "choose another with TMPDIR, or give more --memory";
        Error { source: copied(error), ..Error::output(message, hint) }
    }

    /// A file could not be written.
    pub fn writing(path: &Path, error: &io::Error) -> Self {
        if error.kind() == io::ErrorKind::BrokenPipe {
            return Error {
                excerpt: None,
                kind: ErrorKind::ClosedPipe,
                message: "the output was closed".into(),
                hint: String::new(),
                source: copied(error),
            };
        }
        let (why, hint) = match error.kind() {
            io::ErrorKind::NotFound => {
                ("its folder does not exist".to_owned(), "make it, or choose another place")
            }
            io::ErrorKind::PermissionDenied => (cause(error), "choose a place you may write to"),
            io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => {
                (cause(error), "make room, or choose another place")
            }
            io::ErrorKind::ReadOnlyFilesystem => (cause(error), "choose a place that can be written to"),
            _ => (cause(error), "choose another place, or see what is wrong with this one"),
        };
        let message = format!("{}: cannot be written: {why}", final_path(path).display());
        Error { source: copied(error), ..Error::output(message, hint) }
    }
}

/// The same error, for whoever asks for the source of another.
fn copied(error: &io::Error) -> Option<Arc<io::Error>> {
    let copy = match error.raw_os_error() {
        Some(code) => io::Error::from_raw_os_error(code),
        None => io::Error::new(error.kind(), error.to_string()),
    };
    Some(Arc::new(copy))
}

/// The path that a file will have once it is whole, which is known by no other name.
fn final_path(path: &Path) -> PathBuf {
    let names = path.components().map(|component| {
        let name = component.as_os_str().to_string_lossy();
        let partial = name.strip_prefix('.').and_then(|name| name.split_once(".partial-"));
        partial.map_or_else(|| component.as_os_str().to_owned(), |(name, _)| name.into())
    });
    names.collect()
}

/// Why the system could not do it, without the names of files of our own.
///
/// ```
/// let error = std::io::Error::from(std::io::ErrorKind::NotFound);
/// assert_eq!(ypogram_io::cause(&error), "it does not exist");
/// ```
pub fn cause(error: &io::Error) -> String {
    let known = match error.kind() {
        io::ErrorKind::NotFound => "it does not exist",
        io::ErrorKind::PermissionDenied => "permission is denied",
        io::ErrorKind::StorageFull => "the disk is full",
        io::ErrorKind::QuotaExceeded => "the quota is used up",
        io::ErrorKind::ReadOnlyFilesystem => "the file system is read-only",
        io::ErrorKind::InvalidFilename => "the name is too long, or not allowed",
        _ => "",
    };
    if !known.is_empty() {
        return known.to_owned();
    }
    let text = error.to_string();
    let text = text.split(" at path ").next().unwrap_or_default();
    text.split(" (os error").next().unwrap_or_default().to_owned()
}

impl fmt::Display for Error {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)
    }
}

/// Names for a message, the first of them where there are many.
///
/// ```
/// assert_eq!(ypogram_io::some_of(&["name".to_owned(), "email".to_owned()]), "name, email");
/// let many: Vec<String> = (1..=500).map(|n| n.to_string()).collect();
/// assert!(ypogram_io::some_of(&many).ends_with("19, 20 and 480 more"));
/// ```
pub fn some_of<T: AsRef<str>>(names: &[T]) -> String {
    const TOLD: usize = 20;
    let told: Vec<&str> = names.iter().take(TOLD).map(AsRef::as_ref).collect();
    match names.len().saturating_sub(TOLD) {
        0 => told.join(", "),
        more => format!("{} and {more} more", told.join(", ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Whatever keeps a file from being written, the error has its final name, says why, and what to do.
    #[test]
    fn what_cannot_be_written_has_a_way_out() {
        use io::ErrorKind::*;
        for (kind, why, way_out) in [
            (NotFound, "its folder does not exist", "make it"),
            (PermissionDenied, "permission is denied", "you may write to"),
            (StorageFull, "the disk is full", "make room"),
            (QuotaExceeded, "the quota is used up", "make room"),
            (ReadOnlyFilesystem, "the file system is read-only", "can be written to"),
            (InvalidFilename, "the name is too long", "choose another place"),
            (Other, "other error", "choose another place"),
        ] {
            let path = Path::new("lists/.kept.csv.partial-Ab12Cd");
            let error = Error::writing(path, &io::Error::from(kind));
            assert!(error.message.starts_with("lists/kept.csv: cannot be written: "), "{kind}: {error}");
            assert!(
                error.message.contains(why) && error.hint.contains(way_out),
                "{kind}: {error} → {}",
                error.hint
            );
            assert_eq!(error.kind, super::ErrorKind::Output, "{kind}");
        }
        let closed = Error::writing(Path::new("standard output"), &io::Error::from(BrokenPipe));
        assert_eq!(closed.kind, super::ErrorKind::ClosedPipe);
    }
}
