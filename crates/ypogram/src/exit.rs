//! Exit codes, and the words that go with them.

use std::io::Write as _;
use std::path::Path;
use std::process::ExitCode;

use anstyle::{AnsiColor, Style};
use clap::error::{ContextKind, ContextValue, ErrorKind as CallErrorKind};
use ypogram_io::{Error, ErrorKind};

/// Done.
pub(crate) const DONE: u8 = 0;
/// Done, and there is something to report.
pub(crate) const TOLD: u8 = 1;
/// The call, the rulebook or the input is unusable.
const UNUSABLE: u8 = 2;
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

/// What to say where the arguments cannot be read: people who type a file or an address first are led on.
pub(crate) fn for_unreadable_call(error: &clap::Error) -> ExitCode {
    if error.kind() == CallErrorKind::InvalidSubcommand
        && let Some(ContextValue::String(word)) = error.get(ContextKind::InvalidSubcommand)
        && let Some(hint) = what_was_meant(word)
    {
        return for_error(&Error::unusable(format!("‘{word}’ is not a command"), hint));
    }
    let _ = error.print();
    ExitCode::from(if error.use_stderr() { UNUSABLE } else { DONE })
}

fn what_was_meant(word: &str) -> Option<String> {
    let quoted = crate::render::words::for_shell(word);
    if Path::new(word).exists()
        || Path::new(word).extension().is_some_and(|e| e.len() <= 5) && !word.contains('@')
    {
        Some(format!(
            "to see what is in this file: ypogram survey {quoted}; to clean it: ypogram clean {quoted}"
        ))
    } else if word.contains('@') {
        Some(format!("to judge this address: ypogram explain {quoted}"))
    } else {
        None
    }
}
