//! Fills the empty fields of survivors from the others of their group, and writes down every cell that was filled.

use std::collections::HashSet;

use tempfile::TempDir;
use ypogram_io::{Output, Result, SortedRows};

use crate::engine::packed_cells::unpack;
use crate::engine::reading::Reading;
use crate::engine::side_table::SideTable;
use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::decisions::Decision;
use crate::jobs::dedupe::merged_rows::MergedRows;
use crate::judge::conditions::is_blank;
use crate::plan::fields::FieldPlan;

/// What stands between values that are joined.
const JOINED_BY: &[u8] = b"; ";

/// The records that share their mailbox, then what became of the survivors.
pub(crate) struct Merge {
    fields: Vec<String>,
    /// Fields whose differing values are joined.
    collect: Vec<usize>,
    /// By survivor and rank: number and cells of each record.
    records: SortedRows,
    changes: Option<SideTable>,
    filled: u64,
}

/// A survivor while the records that go into it are seen.
struct Survivor {
    record: u64,
    cells: Vec<Vec<u8>>,
    /// What its fields with joined values hold, in lower case.
    held: Vec<HashSet<Vec<u8>>>,
    /// Cells that were filled: field, value, and the record it comes from.
    filled: Vec<(usize, Vec<u8>, u64)>,
}

impl Merge {
    /// # Errors
    /// Where a field does not exist, or the file for the changes cannot be made.
    pub(crate) fn open(
        options: &DedupeOptions,
        collect: &[String],
        plan: &FieldPlan,
        reading: &Reading,
    ) -> Result<Self> {
        let collect = collect.iter().map(|field| plan.place_of(field, reading, "--collect"));
        let open = |target| {
            let columns = ["record", "field", "value", "from_record"];
            SideTable::open(target, &columns, &["record", "from_record"], &options.rows.guard_alone())
        };
        Ok(Merge {
            fields: plan.fields.clone(),
            collect: collect.collect::<Result<_>>()?,
            records: SortedRows::within(options.memory / 8),
            changes: options.changes.as_ref().map(open).transpose()?,
            filled: 0,
        })
    }

    /// A record that goes into `survivor`, or is it; `written` has its cells, each with its length in front.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add(&mut self, decision: Decision, survivor: u64, written: &[u8]) -> Result<()> {
        let key = [&survivor.to_be_bytes()[..], &decision.rank.to_be_bytes()].concat();
        self.records.add(&key, &[&decision.record.to_le_bytes(), written].concat())
    }

    /// Merges the groups and writes the changes down; gives what became of the survivors, how many cells were filled, and the file
    /// with the changes, which is not published yet.
    ///
    /// # Errors
    /// Where the changes cannot be written, or the temporary folder cannot be used.
    pub(crate) fn finish(mut self, folder: &TempDir) -> Result<(MergedRows, u64, Option<Output>)> {
        let mut merged = MergedRows::within(folder)?;
        let mut records = std::mem::replace(&mut self.records, SortedRows::within(0));
        let mut present: Option<Survivor> = None;
        records.finish(&mut |key, row| {
            let (survivor, _) = key.split_first_chunk().expect("a number");
            let survivor = u64::from_be_bytes(*survivor);
            let (record, cells) = row.split_first_chunk().expect("a number");
            let (record, cells) =
                (u64::from_le_bytes(*record), unpack(cells).map(<[u8]>::to_vec).collect::<Vec<_>>());
            match &mut present {
                Some(present) if present.record == survivor => self.take(present, record, &cells),
                _ => {
                    let next = Survivor::new(survivor, cells, &self.collect);
                    if let Some(whole) = present.replace(next) {
                        self.settle(whole, &mut merged)?;
                    }
                }
            }
            Ok(())
        })?;
        if let Some(last) = present {
            self.settle(last, &mut merged)?;
        }
        Ok((merged.written()?, self.filled, self.changes.map(SideTable::finish).transpose()?))
    }

    /// Takes from another record of the group what the survivor lacks.
    fn take(&self, survivor: &mut Survivor, record: u64, cells: &[Vec<u8>]) {
        for (field, given) in cells.iter().enumerate().take(self.fields.len()) {
            if is_blank(given) {
                continue;
            }
            let own = &mut survivor.cells[field];
            let lacks = match self.collect.iter().position(|collected| *collected == field) {
                Some(nth) => survivor.held[nth].insert(lower_case(given)),
                None => is_blank(own),
            };
            if !lacks {
                continue;
            }
            match is_blank(own) {
                true if self.collect.contains(&field) => *own = given.trim_ascii().to_vec(),
                true => own.clone_from(given),
                false => *own = [own.trim_ascii(), given.trim_ascii()].join(JOINED_BY),
            }
            survivor.filled.push((field, given.clone(), record));
        }
    }

    fn settle(&mut self, survivor: Survivor, merged: &mut MergedRows) -> Result<()> {
        let Survivor { record, cells, mut filled, .. } = survivor;
        if filled.is_empty() {
            return Ok(());
        }
        self.filled += filled.len() as u64;
        filled.sort_by_key(|(field, ..)| *field);
        if let Some(changes) = &mut self.changes {
            for (field, value, from) in &filled {
                let (record, from) = (record.to_string(), from.to_string());
                let value = String::from_utf8_lossy(value);
                changes.add([&*record, &self.fields[*field], &*value, &*from])?;
            }
        }
        merged.add(record, &cells)
    }
}

impl Survivor {
    fn new(record: u64, cells: Vec<Vec<u8>>, collect: &[usize]) -> Self {
        let own = |field: &usize| Some(&cells[*field]).filter(|cell| !is_blank(cell));
        let held = collect.iter().map(|field| own(field).map(|cell| lower_case(cell)).into_iter().collect());
        Survivor { record, held: held.collect(), cells, filled: Vec::new() }
    }
}

fn lower_case(cell: &[u8]) -> Vec<u8> {
    cell.trim_ascii().to_ascii_lowercase()
}
