//! The values that rows have for themselves, of a whole chunk behind one another.

use std::ops::Range;

use crate::short_copy::append_short;

/// Values of rows, the same number for each.
///
/// ```
/// use ypogram_tables::Values;
/// let mut values = Values::default();
/// values.clear(2);
/// let row = values.add_row();
/// let place = values.append(b"ada@fernhollow.example");
/// values.set(row, 1, place);
/// assert_eq!(values.of_row(row).get(1), b"ada@fernhollow.example");
/// assert_eq!(values.of_row(row).get(0), b"");
/// ```
#[derive(Clone, Debug, Default)]
pub struct Values {
    bytes: Vec<u8>,
    /// Start and length of each, row by row.
    places: Vec<(u32, u32)>,
    per_row: usize,
}

/// Bytes in which most values fit.
const SHORT: usize = 64;

impl Values {
    /// Makes it empty, for rows with so many values.
    pub fn clear(&mut self, per_row: usize) {
        self.bytes.clear();
        self.places.clear();
        self.per_row = per_row;
    }

    /// Adds a row whose values are all empty; gives its number.
    #[inline]
    pub fn add_row(&mut self) -> usize {
        let row = self.places.len().checked_div(self.per_row).unwrap_or_default();
        self.places.resize(self.places.len() + self.per_row, (0, 0));
        row
    }

    /// Leaves only the first so many rows.
    pub fn truncate(&mut self, rows: usize) {
        self.places.truncate(rows * self.per_row);
    }

    /// Appends the bytes of a value, for [`set`](Self::set).
    #[inline]
    pub fn append(&mut self, value: &[u8]) -> Range<usize> {
        let start = self.bytes.len();
        self.bytes.extend_from_slice(value);
        start..self.bytes.len()
    }

    /// Appends the first `len` bytes of `from`; quick where there are more behind them.
    #[inline]
    pub fn append_first(&mut self, from: &[u8], len: usize) -> Range<usize> {
        let start = self.bytes.len();
        append_short::<SHORT>(from, len, &mut self.bytes);
        start..start + len
    }

    /// Appends what `write` appends.
    #[inline]
    pub fn append_with(&mut self, write: impl FnOnce(&mut Vec<u8>)) -> Range<usize> {
        let start = self.bytes.len();
        write(&mut self.bytes);
        start..self.bytes.len()
    }

    /// Makes the bytes at `place` that value of the row.
    #[inline]
    pub fn set(&mut self, row: usize, value: usize, place: Range<usize>) {
        self.places[row * self.per_row + value] = (place.start as u32, place.len() as u32);
    }

    /// The values of a row.
    #[inline]
    pub fn of_row(&self, row: usize) -> RowValues<'_> {
        let first = row * self.per_row;
        RowValues { bytes: &self.bytes, places: &self.places[first..first + self.per_row] }
    }
}

/// The values of one row.
#[derive(Clone, Copy, Debug, Default)]
pub struct RowValues<'a> {
    bytes: &'a [u8],
    places: &'a [(u32, u32)],
}

impl<'a> RowValues<'a> {
    /// The value of that number.
    #[inline]
    pub fn get(self, value: usize) -> &'a [u8] {
        let (from, len) = self.with_what_follows(value);
        &from[..len]
    }

    /// The value of that number with whatever stands behind it, and how many bytes it has.
    #[inline]
    pub(crate) fn with_what_follows(self, value: usize) -> (&'a [u8], usize) {
        let (start, len) = self.places[value];
        (&self.bytes[start as usize..], len as usize)
    }
}
