//! Faults of the program itself, as they are reported: where in the program, and what to do; in the words of Ypogram.

use std::panic::{self, AssertUnwindSafe, Location};
use std::process::ExitCode;
use std::sync::{Mutex, PoisonError};

use ypogram_io::{Error, Result};

use crate::exit;

/// The place of the first one.
static MET: Mutex<Option<String>> = Mutex::new(None);

/// Runs `command`; a fault that stays with a record is reported when it is done, one that does not ends it.
pub(crate) fn run(command: impl FnOnce() -> Result<ExitCode>) -> ExitCode {
    listen();
    let done = panic::catch_unwind(AssertUnwindSafe(command));
    let code = match done.unwrap_or_else(|_| Err(Error::unusable("Ypogram met a fault of its own", ""))) {
        Ok(code) => code,
        Err(error) => exit::for_error(&error),
    };
    let Some(place) = &*MET.lock().unwrap_or_else(PoisonError::into_inner) else { return code };
    exit::warn(
        &format!("Ypogram has a fault of its own, in {place}"),
        "records in which it appeared have the finding program-fault and were not looked at; please report it, with such a record if you may",
    );
    if code == ExitCode::SUCCESS { ExitCode::from(exit::TOLD) } else { code }
}

/// Notes panics instead of printing them; who asks for a backtrace gets it.
fn listen() {
    let usual = panic::take_hook();
    panic::set_hook(Box::new(move |panicked| {
        if std::env::var_os("RUST_BACKTRACE").is_some() {
            usual(panicked);
        }
        if is_of_a_reader(panicked.location()) {
            return;
        }
        let mut met = MET.lock().unwrap_or_else(PoisonError::into_inner);
        met.get_or_insert_with(|| panicked.location().map(place).unwrap_or_default());
    }));
}

/// Whether a library that reads a format gave up over a damaged file: the source says so itself.
fn is_of_a_reader(location: Option<&Location<'_>>) -> bool {
    let is_foreign = location.is_some_and(|location| !location.file().contains("ypogram-"));
    is_foreign && std::thread::current().name() == Some(ypogram_io::ROW_THREAD)
}

/// File and line, without the folders in which the program was built.
fn place(location: &Location<'_>) -> String {
    let mut parts: Vec<&str> = location.file().rsplit(['/', '\\']).take(4).collect();
    parts.reverse();
    format!("{}:{}", parts.join("/"), location.line())
}
