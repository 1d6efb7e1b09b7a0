//! Where encoded rows go, sorted on the way where that is asked for.

use crate::output::sorted_rows::SortedRows;
use crate::output::{Output, OutputFile};
use crate::records::error::Result;
use crate::rows::{EncodedRows, Projection};

/// Takes bytes one behind the other.
pub trait TakeBytes {
    /// Appends `bytes`.
    ///
    /// # Errors
    /// Where they cannot be written.
    fn take(&mut self, bytes: &[u8]) -> Result<()>;
}

impl TakeBytes for OutputFile {
    fn take(&mut self, bytes: &[u8]) -> Result<()> {
        self.write(bytes)
    }
}

impl TakeBytes for Output {
    fn take(&mut self, bytes: &[u8]) -> Result<()> {
        self.write(bytes)
    }
}

/// An output of rows.
pub struct RowOutput<O> {
    to: O,
    sorted: Option<SortedRows>,
}

/// Sorted rows are handed over when there are so many bytes of them.
const GATHERED: usize = 1 << 14;

impl<O: TakeBytes> RowOutput<O> {
    /// Over `to`, which begins with `start`.
    ///
    /// # Errors
    /// Where that cannot be written.
    pub fn begin(mut to: O, start: &[u8], projection: &Projection) -> Result<Self> {
        to.take(start)?;
        let sorted = projection.is_sorted().then(|| SortedRows::within(projection.memory));
        Ok(RowOutput { to, sorted })
    }

    /// Appends rows; those that are sorted wait for the [end](Self::finish).
    ///
    /// # Errors
    /// Where they cannot be written, or the temporary folder cannot be used.
    pub fn write(&mut self, rows: &EncodedRows) -> Result<()> {
        match &mut self.sorted {
            None => self.to.take(&rows.bytes),
            Some(sorted) => rows.sorted().try_for_each(|(key, row)| sorted.add(key, row)),
        }
    }

    /// Writes what waited, and gives what was written to.
    ///
    /// # Errors
    /// As above.
    pub fn finish(self) -> Result<O> {
        let RowOutput { mut to, sorted } = self;
        let Some(mut sorted) = sorted else { return Ok(to) };
        let mut gathered = Vec::new();
        sorted.finish(&mut |_, row| {
            gathered.extend_from_slice(row);
            if gathered.len() < GATHERED {
                return Ok(());
            }
            let taken = to.take(&gathered);
            gathered.clear();
            taken
        })?;
        to.take(&gathered)?;
        Ok(to)
    }
}
