//! Faults of the program itself: a panic stays with the record in which it appears, and the job goes on.

use std::panic::{AssertUnwindSafe, catch_unwind};

use ypogram_io::{Error, Result};

/// What `work` gives; none where it panics.
///
/// What `work` was changing is then half changed: whoever calls this starts it anew.
pub(crate) fn caught<T>(work: impl FnOnce() -> T) -> Option<T> {
    catch_unwind(AssertUnwindSafe(work)).ok()
}

/// Does a chunk with `attempt`; after each panic `restart` prepares the worker, and the chunk is done again.
///
/// # Errors
/// Those of `attempt`, and that of `restart` where doing it again would not help.
pub(crate) fn until_done<W>(
    worker: &mut W,
    mut attempt: impl FnMut(&mut W) -> Result<()>,
    restart: impl Fn(&mut W) -> Result<()>,
) -> Result<()> {
    loop {
        if let Some(done) = caught(|| attempt(worker)) {
            return done;
        }
        restart(worker)?;
    }
}

/// The error of a panic that belongs to no record.
pub(crate) fn our_fault() -> Error {
    Error::unusable("Ypogram met a fault of its own; nothing was written", "please report it")
}

/// The records of a chunk in which the program has a fault.
///
/// After the first panic the chunk is done again, record by record and without looking ahead, so that the record in hand is known;
/// after each further one again without that record.
#[derive(Debug, Default)]
pub(crate) struct Faulty {
    careful: bool,
    in_hand: usize,
    records: Vec<usize>,
}

impl Faulty {
    /// Starts another chunk.
    pub(crate) fn clear(&mut self) {
        self.careful = false;
        self.records.clear();
    }

    /// Whether records are to be looked at one by one.
    #[inline]
    pub(crate) fn is_careful(&self) -> bool {
        self.careful
    }

    /// Takes the record at `index` of the chunk in hand; tells whether it is one of those.
    #[inline]
    pub(crate) fn takes(&mut self, index: usize) -> bool {
        self.in_hand = index;
        self.records.contains(&index)
    }

    /// Notes what panicked.
    ///
    /// # Errors
    /// Where there is no more to be done about it.
    pub(crate) fn note(&mut self) -> Result<()> {
        if !self.careful {
            self.careful = true;
        } else if self.records.contains(&self.in_hand) {
            return Err(our_fault());
        } else {
            self.records.push(self.in_hand);
        }
        Ok(())
    }
}

#[cfg(test)]
pub(crate) mod tests;
