//! Exit codes, and the words that go with them.

use std::io::Write as _;
use std::process::ExitCode;

use anstyle::{AnsiColor, Style};
use ypogram_io::{Error, ErrorKind};

/// Done.
pub(crate) const DONE: u8 = 0;
/// Done, and there is something to report.
pub(crate) const TOLD: u8 = 1;
/// The call, the rulebook or the input is unusable.
pub(crate) const UNUSABLE: u8 = 2;
/// An output could not be written.
const NOT_WRITTEN: u8 = 3;

const RED: Style = AnsiColor::Red.on_default().bold();
const DIM: Style = Style::new().dimmed();

/// Tells the error and what to do; gives the exit code for it.
pub(crate) fn for_error(error: &Error) -> ExitCode {
    if error.kind == ErrorKind::ClosedPipe {
        return ExitCode::from(DONE);
    }
    warn_about(error);
    ExitCode::from(match error.kind {
        ErrorKind::Unusable | ErrorKind::Empty | ErrorKind::NotRead(_) => UNUSABLE,
        ErrorKind::Output => NOT_WRITTEN,
        ErrorKind::Interrupted => crate::signals::code(),
        ErrorKind::ClosedPipe => DONE,
    })
}

/// Tells what is wrong and what to do.
pub(crate) fn warn(message: &str, hint: &str) {
    warn_about(&Error::unusable(message, hint));
}

fn warn_about(error: &Error) {
    let Error { message, hint, excerpt, .. } = error;
    let message = ypogram_core::shown(message.as_bytes());
    let mut out = anstream::stderr();
    let _ = writeln!(out, "{RED}ypogram:{RED:#} {message}");
    if let Some((text, span)) = excerpt.as_deref() {
        let [before, at] = [0..span.start, span.clone()].map(|span| {
            text.get(span).map_or(0, |text| ypogram_core::shown(text.as_bytes()).chars().count())
        });
        let _ = writeln!(out, "    {}", ypogram_core::shown(text.as_bytes()));
        let _ = writeln!(out, "    {}{RED}{}{RED:#}", " ".repeat(before), "^".repeat(at.max(1)));
    }
    if !hint.is_empty() {
        let hint = ypogram_core::shown(hint.as_bytes());
        let _ = writeln!(out, "{DIM}  →{DIM:#} {hint}");
    }
}
