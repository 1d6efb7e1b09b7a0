//! The wish to stop: Ctrl-C and what the system sends. Jobs are asked to stop and end by themselves; one that does not is ended.

use std::sync::atomic::{AtomicU8, Ordering};
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use ypogram_io::{Error, Result};

/// Stopped from the keyboard, as shells expect it.
const INTERRUPTED: u8 = 130;

/// Stopped by the system, as shells expect it.
#[cfg(unix)]
pub(crate) const TERMINATED: u8 = 143;

static CODE: AtomicU8 = AtomicU8::new(INTERRUPTED);

/// How long a job may take to end by itself.
const PATIENCE: Duration = Duration::from_millis(400);

/// The exit code of a job that was stopped.
pub(crate) fn code() -> u8 {
    CODE.load(Ordering::Relaxed)
}

/// What is called once the program is to stop.
type Stop = Box<dyn Fn() + Send>;

static STOP: Mutex<Option<Stop>> = Mutex::new(None);

/// Calls `stop` once the program is to stop, in place of what an earlier job of this process gave. Where the job then does not stop, it is
/// ended, and what is unfinished removed.
///
/// # Errors
/// Where the system does not tell.
pub(crate) fn watch(stop: impl Fn() + Send + 'static) -> Result<()> {
    let earlier = STOP.lock().unwrap_or_else(PoisonError::into_inner).replace(Box::new(stop));
    if earlier.is_none() { listen() } else { Ok(()) }
}

#[cfg(unix)]
fn listen() -> Result<()> {
    use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
    use signal_hook::iterator::Signals;
    let mut signals = Signals::new([SIGINT, SIGTERM, SIGHUP]).map_err(|error| failed(&error))?;
    std::thread::spawn(move || {
        if let Some(signal) = signals.forever().next() {
            let code = if signal == SIGINT { INTERRUPTED } else { TERMINATED };
            CODE.store(code, Ordering::Relaxed);
            end(code);
        }
    });
    Ok(())
}

#[cfg(not(unix))]
fn listen() -> Result<()> {
    ctrlc::set_handler(|| end(INTERRUPTED)).map_err(|error| failed(&error))
}

fn end(code: u8) {
    if let Some(stop) = &*STOP.lock().unwrap_or_else(PoisonError::into_inner) {
        stop();
    }
    std::thread::sleep(PATIENCE);
    ypogram_io::remove_unfinished();
    std::process::exit(code.into());
}

fn failed(error: &dyn std::fmt::Display) -> Error {
    Error::unusable(format!("the system does not pass signals on: {error}"), "")
}
