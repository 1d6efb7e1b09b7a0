//! Rows in the order of their keys: in memory, and past a limit in sorted runs in temporary files that are merged.

use std::cmp::Reverse;
use std::collections::BinaryHeap;
use std::fs::File;
use std::io::{self, BufReader, BufWriter, Read, Seek as _, SeekFrom};

use crate::records::error::{Error, Result};

/// Takes a key and its row.
pub type TakeRow<'t> = dyn FnMut(&[u8], &[u8]) -> Result<()> + 't;

/// Rows that wait until all are there, to come out in the order of their keys, byte by byte. Equal ones stay in their order.
///
/// ```
/// let mut sorted = ypogram_io::SortedRows::within(1 << 20);
/// sorted.add(b"2", b"two")?;
/// sorted.add(b"1", b"one")?;
/// let mut all = Vec::new();
/// sorted.finish(&mut |_, row| {
///     all.extend_from_slice(row);
///     Ok(())
/// })?;
/// assert_eq!(all, b"onetwo");
/// # Ok::<(), ypogram_io::Error>(())
/// ```
#[derive(Debug)]
pub struct SortedRows {
    /// Keys and rows one behind the other.
    bytes: Vec<u8>,
    rows: Vec<Waiting>,
    /// Bytes that they may take.
    most: usize,
    /// Sorted runs, the earlier first.
    runs: Vec<File>,
}

/// Where a key and its row stand.
#[derive(Clone, Copy, Debug)]
struct Waiting {
    start: usize,
    key: u32,
    row: u32,
}

/// As many runs are merged at once: each is an open file.
const MOST_RUNS: usize = 64;

impl SortedRows {
    /// None yet, in at most so many bytes of memory.
    pub fn within(most: usize) -> Self {
        SortedRows { bytes: Vec::new(), rows: Vec::new(), most, runs: Vec::new() }
    }

    /// Another of the same size, with no rows.
    pub(crate) fn empty_copy(&self) -> Self {
        SortedRows::within(self.most)
    }

    /// Adds a row.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub fn add(&mut self, key: &[u8], row: &[u8]) -> Result<()> {
        let held = self.bytes.len() + self.rows.len() * size_of::<Waiting>();
        if held + key.len() + row.len() > self.most && !self.rows.is_empty() {
            self.spill().map_err(|error| failed(&error))?;
        }
        self.rows.push(Waiting { start: self.bytes.len(), key: key.len() as u32, row: row.len() as u32 });
        self.bytes.extend_from_slice(key);
        self.bytes.extend_from_slice(row);
        Ok(())
    }

    /// Gives keys and rows in order to `write`; none are left.
    ///
    /// # Errors
    /// Where they cannot be written, or the temporary folder cannot be used.
    pub fn finish(&mut self, write: &mut TakeRow<'_>) -> Result<()> {
        if self.runs.is_empty() {
            self.sort();
            let give = |waiting: &Waiting| write(waiting.key(&self.bytes), waiting.row(&self.bytes));
            let result = self.rows.iter().try_for_each(give);
            *self = self.empty_copy();
            return result;
        }
        self.spill().map_err(|error| failed(&error))?;
        let runs = std::mem::take(&mut self.runs);
        merge(runs, write)
    }

    fn sort(&mut self) {
        let bytes = &self.bytes;
        self.rows.sort_by(|one, other| one.key(bytes).cmp(other.key(bytes)));
    }

    /// Moves all rows to a run of their own.
    fn spill(&mut self) -> io::Result<()> {
        self.sort();
        let mut run = BufWriter::new(tempfile::tempfile()?);
        for waiting in &self.rows {
            write_entry(&mut run, waiting.key(&self.bytes), waiting.row(&self.bytes))?;
        }
        self.runs.push(run.into_inner().map_err(|error| error.into_error())?);
        self.bytes.clear();
        self.rows.clear();
        if self.runs.len() >= MOST_RUNS {
            let mut merged = BufWriter::new(tempfile::tempfile()?);
            let runs = std::mem::take(&mut self.runs);
            merge(runs, &mut |key, row| write_entry(&mut merged, key, row).map_err(|error| failed(&error)))
                .map_err(|error| io::Error::other(error.message))?;
            self.runs.push(merged.into_inner().map_err(|error| error.into_error())?);
        }
        Ok(())
    }
}

impl Waiting {
    fn key(self, bytes: &[u8]) -> &[u8] {
        &bytes[self.start..][..self.key as usize]
    }

    fn row(self, bytes: &[u8]) -> &[u8] {
        &bytes[self.start + self.key as usize..][..self.row as usize]
    }
}

fn write_entry(out: &mut impl io::Write, key: &[u8], row: &[u8]) -> io::Result<()> {
    out.write_all(&(key.len() as u32).to_le_bytes())?;
    out.write_all(&(row.len() as u32).to_le_bytes())?;
    out.write_all(key)?;
    out.write_all(row)
}

/// The next key and row of a run; none at its end.
fn read_entry(run: &mut impl Read) -> io::Result<Option<(Vec<u8>, Vec<u8>)>> {
    let mut lengths = [0; 8];
    match run.read_exact(&mut lengths) {
        Ok(()) => {}
        Err(error) if error.kind() == io::ErrorKind::UnexpectedEof => return Ok(None),
        Err(error) => return Err(error),
    }
    let length = |at: usize| u32::from_le_bytes(lengths[at..at + 4].try_into().expect("four bytes")) as usize;
    let (mut key, mut row) = (vec![0; length(0)], vec![0; length(4)]);
    run.read_exact(&mut key)?;
    run.read_exact(&mut row)?;
    Ok(Some((key, row)))
}

/// Gives keys and rows of all runs in order to `write`; of equals those of the earlier run first.
fn merge(runs: Vec<File>, write: &mut TakeRow<'_>) -> Result<()> {
    let start = |mut run: File| run.seek(SeekFrom::Start(0)).map(|_| BufReader::new(run));
    let runs: io::Result<Vec<_>> = runs.into_iter().map(start).collect();
    let mut runs = runs.map_err(|error| failed(&error))?;
    let mut next = BinaryHeap::new();
    for (nth, run) in runs.iter_mut().enumerate() {
        if let Some((key, row)) = read_entry(run).map_err(|error| failed(&error))? {
            next.push(Reverse((key, nth, row)));
        }
    }
    while let Some(Reverse((key, nth, row))) = next.pop() {
        write(&key, &row)?;
        if let Some((key, row)) = read_entry(&mut runs[nth]).map_err(|error| failed(&error))? {
            next.push(Reverse((key, nth, row)));
        }
    }
    Ok(())
}

fn failed(error: &io::Error) -> Error {
    Error::temporary(&std::env::temp_dir(), error)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// In memory, in a few runs, and in so many that they are merged on the way.
        #[test]
        fn sorts_as_a_stable_sort_does(keys in prop::collection::vec(0..20_u8, 0..400)) {
            let mut expected: Vec<(u8, usize)> = keys.iter().copied().zip(0..).collect();
            expected.sort_by_key(|(key, _)| *key);
            let expected: Vec<String> = expected.iter().map(|(key, nth)| format!("{key} {nth}")).collect();
            for most in [usize::MAX, 2000, 1] {
                let (mut sorted, mut rows) = (SortedRows::within(most), Vec::new());
                for (nth, key) in keys.iter().enumerate() {
                    sorted.add(&[*key], format!("{key} {nth}").as_bytes()).unwrap();
                }
                sorted
                    .finish(&mut |_, row| {
                        rows.push(String::from_utf8(row.to_vec()).unwrap());
                        Ok(())
                    })
                    .unwrap();
                prop_assert_eq!(&rows, &expected);
            }
        }
    }
}
