//! The values that rows have for themselves, of a whole chunk behind one another.

use std::ops::Range;

use ypogram_bytes::append_short;

/// Values of rows, the same number for each.
///
/// ```
/// use ypogram_io::Values;
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
    values: Vec<Value>,
    per_row: usize,
}

/// Of a text its start and, above that, its length; of a number itself and one. Nothing is 0.
type Value = u64;

/// Bytes in which most values fit.
const SHORT: usize = 64;

impl Values {
    /// Makes it empty, for rows with so many values.
    pub fn clear(&mut self, per_row: usize) {
        self.bytes.clear();
        self.values.clear();
        self.per_row = per_row;
    }

    /// Adds a row whose values are all empty; gives its number.
    #[inline]
    pub fn add_row(&mut self) -> usize {
        let row = self.values.len().checked_div(self.per_row).unwrap_or_default();
        self.values.resize(self.values.len() + self.per_row, 0);
        row
    }

    /// Leaves only the first so many rows.
    pub fn truncate(&mut self, rows: usize) {
        self.values.truncate(rows * self.per_row);
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
        if !place.is_empty() {
            self.values[row * self.per_row + value] = place.start as u64 | (place.len() as u64) << 32;
        }
    }

    /// Makes a number that value of the row.
    #[inline]
    pub fn set_number(&mut self, row: usize, value: usize, number: u64) {
        self.values[row * self.per_row + value] = number + 1;
    }

    /// The values of a row.
    #[inline]
    pub fn of_row(&self, row: usize) -> RowValues<'_> {
        let first = row * self.per_row;
        RowValues { bytes: &self.bytes, values: &self.values[first..first + self.per_row] }
    }
}

/// The values of one row.
#[derive(Clone, Copy, Debug, Default)]
pub struct RowValues<'a> {
    bytes: &'a [u8],
    values: &'a [Value],
}

impl<'a> RowValues<'a> {
    /// The text of that number.
    #[inline]
    pub fn get(self, value: usize) -> &'a [u8] {
        let (from, len) = self.with_what_follows(value);
        &from[..len]
    }

    /// The text of that number with whatever stands behind it, and how many bytes it has.
    #[inline]
    pub(crate) fn with_what_follows(self, value: usize) -> (&'a [u8], usize) {
        let value = self.values[value];
        (&self.bytes[(value as u32) as usize..], (value >> 32) as usize)
    }

    /// The value of that number, which is a number; none where there is nothing.
    #[inline]
    pub fn number(self, value: usize) -> Option<u64> {
        self.values[value].checked_sub(1)
    }
}
