//! The wish to stop, heard while something is waited for.

use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

/// How often is looked whether to stop.
pub(crate) const PATIENCE: Duration = Duration::from_millis(50);

/// Of the whole process, as the keyboard is.
static STOPPED: AtomicBool = AtomicBool::new(false);

/// Ends the wait for input, now and from now on, in the whole process: who reads gets an error of kind
/// [`Interrupted`](crate::ErrorKind::Interrupted).
pub fn stop_waiting() {
    STOPPED.store(true, Ordering::Relaxed);
}

pub(crate) fn is_stopped() -> bool {
    STOPPED.load(Ordering::Relaxed)
}
