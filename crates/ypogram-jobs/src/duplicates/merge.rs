//! Fills the empty fields of the record that stays from the others of its mailbox.

use std::collections::HashSet;

use serde::Serialize;
use tempfile::TempDir;
use ypogram_io::{Result, SortedRows};

use crate::duplicates::merged_rows::{Filled, MergedRow, MergedRows};
use crate::engine::blank::is_blank;
use crate::engine::packed_cells::unpack;

/// What stands between values that are joined.
const JOINED_BY: &[u8] = b"; ";

/// The rows that go into one another.
pub(crate) struct Merge {
    /// Fields whose differing values are joined.
    collect: Vec<usize>,
    /// By the row that stays and by preference: number and cells of each record.
    records: SortedRows,
}

/// How much was filled.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct FilledCount {
    /// Cells, or values joined into one.
    pub cells: u64,
    /// Records with such cells.
    pub records: u64,
}

/// A row that stays, while those that go into it are seen.
struct Staying {
    row: u64,
    cells: Vec<Vec<u8>>,
    /// What its fields with joined values hold, in lower case.
    held: Vec<HashSet<Vec<u8>>>,
    filled: Vec<Filled>,
}

impl Merge {
    /// None yet, in at most so many bytes of memory; the differing values of the fields `collect` are joined.
    pub(crate) fn within(most: usize, collect: Vec<usize>) -> Self {
        Merge { collect, records: SortedRows::within(most) }
    }

    /// Adds the record of that number, which goes into the row `into` at the place `rank` of the order of preference; the record of
    /// that row itself has the place 0. `packed` has its cells.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add(&mut self, (into, rank): (u64, u32), record: u64, packed: &[u8]) -> Result<()> {
        let key = [&into.to_be_bytes()[..], &rank.to_be_bytes()].concat();
        self.records.add(&key, &[&record.to_le_bytes(), packed].concat())
    }

    /// Fills the rows that stay; gives those that took something.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn finish(self, folder: &TempDir) -> Result<(MergedRows, FilledCount)> {
        let Merge { collect, mut records } = self;
        let (mut merged, mut count) = (MergedRows::within(folder)?, FilledCount::default());
        let mut settle = |staying: Option<Staying>| match staying.and_then(Staying::changed) {
            Some((row, changed)) => {
                count.cells += changed.filled.len() as u64;
                count.records += 1;
                merged.add(row, &changed)
            }
            None => Ok(()),
        };
        let mut present: Option<Staying> = None;
        records.finish(&mut |key, row| {
            let (into, rank) = key.split_first_chunk().expect("a number");
            let (into, is_its_own) = (u64::from_be_bytes(*into), rank == [0; 4]);
            let (record, cells) = row.split_first_chunk().expect("a number");
            let (record, cells) =
                (u64::from_le_bytes(*record), unpack(cells).map(<[u8]>::to_vec).collect::<Vec<_>>());
            match &mut present {
                Some(present) if present.row == into => {
                    present.take(record, &cells, &collect);
                    Ok(())
                }
                // The row itself does not stay.
                _ if !is_its_own => Ok(()),
                _ => settle(present.replace(Staying::new(into, cells, &collect))),
            }
        })?;
        settle(present)?;
        Ok((merged.written()?, count))
    }
}

impl Staying {
    fn new(row: u64, cells: Vec<Vec<u8>>, collect: &[usize]) -> Self {
        let own = |field: &usize| Some(&cells[*field]).filter(|cell| !is_blank(cell));
        let held = collect.iter().map(|field| own(field).map(|cell| lower_case(cell)).into_iter().collect());
        Staying { row, held: held.collect(), cells, filled: Vec::new() }
    }

    /// Takes from the record of that number what the row lacks.
    fn take(&mut self, record: u64, cells: &[Vec<u8>], collect: &[usize]) {
        for (field, (own, given)) in self.cells.iter_mut().zip(cells).enumerate() {
            if is_blank(given) {
                continue;
            }
            let collected = collect.iter().position(|collected| *collected == field);
            let lacks = match collected {
                Some(nth) => self.held[nth].insert(lower_case(given)),
                None => is_blank(own),
            };
            if !lacks {
                continue;
            }
            match is_blank(own) {
                true if collected.is_some() => *own = given.trim_ascii().to_vec(),
                true => own.clone_from(given),
                false => *own = [own.trim_ascii(), given.trim_ascii()].join(JOINED_BY),
            }
            self.filled.push(Filled { field, value: given.clone(), from: record });
        }
    }

    /// The row with what it took; none where it took nothing.
    fn changed(self) -> Option<(u64, MergedRow)> {
        let Staying { row, cells, mut filled, .. } = self;
        filled.sort_by_key(|filled| filled.field);
        let is_filled = |field: &usize| filled.iter().any(|filled| filled.field == *field);
        let cells = cells.into_iter().enumerate().filter(|(field, _)| is_filled(field)).collect();
        (!filled.is_empty()).then_some((row, MergedRow { cells, filled }))
    }
}

fn lower_case(cell: &[u8]) -> Vec<u8> {
    cell.trim_ascii().to_ascii_lowercase()
}
