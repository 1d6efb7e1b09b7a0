//! How far a job is, told to whoever wants to show it, and the wish to stop.

use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};

use ypogram_io::{Error, Result};

/// How far a job is. Shared between the job and whoever shows it.
#[derive(Debug, Default)]
pub struct Progress {
    bytes: AtomicU64,
    stop: AtomicBool,
}

impl Progress {
    /// Bytes of the sources that have been dealt with.
    pub fn bytes(&self) -> u64 {
        self.bytes.load(Ordering::Relaxed)
    }

    /// Asks the job to stop; it gives up at the next chunk and publishes nothing.
    pub fn stop(&self) {
        self.stop.store(true, Ordering::Relaxed);
    }

    pub(crate) fn advance(&self, bytes: u64) {
        self.bytes.fetch_add(bytes, Ordering::Relaxed);
    }

    /// # Errors
    /// Where somebody asked to stop.
    pub(crate) fn check(&self) -> Result<()> {
        if self.stop.load(Ordering::Relaxed) { Err(Error::interrupted()) } else { Ok(()) }
    }
}
