//! Fills the empty fields of survivors from the others of their group, and writes down every cell that was filled.

use std::collections::{BTreeMap, HashMap};

use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Output, Result};

use crate::conditions::is_blank;
use crate::dedupe::DedupeOptions;
use crate::dedupe::fates::Fate;
use crate::fields::FieldPlan;
use crate::reading::Reading;

/// What stands between values that are joined.
const JOINED_BY: &[u8] = b"; ";

/// The groups, then what became of their survivors. Holds every record that shares its mailbox.
pub(crate) struct Merge {
    fields: Vec<String>,
    /// Fields whose differing values are joined.
    collect: Vec<usize>,
    groups: BTreeMap<u64, Vec<Member>>,
    merged: HashMap<u64, Merged>,
    changes: Option<Output>,
}

struct Member {
    rank: u32,
    record: u64,
    cells: Vec<Vec<u8>>,
}

/// The cells of a survivor that was changed.
pub(crate) struct Merged {
    pub(crate) cells: Vec<Vec<u8>>,
    /// What its record had beyond the fields.
    pub(crate) surplus: Vec<Vec<u8>>,
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
        Ok(Merge {
            fields: plan.fields.clone(),
            collect: collect.collect::<Result<_>>()?,
            groups: BTreeMap::new(),
            merged: HashMap::new(),
            changes: options.changes.as_ref().map(|target| target.open()).transpose()?,
        })
    }

    /// A record that goes into `survivor`, or is it; `written` has its cells, each with its length in front.
    pub(crate) fn add(&mut self, fate: Fate, survivor: u64, mut written: &[u8]) {
        let mut cells = Vec::new();
        while let Some((length, rest)) = written.split_first_chunk::<4>() {
            let (cell, rest) = rest.split_at(u32::from_le_bytes(*length) as usize);
            cells.push(cell.to_vec());
            written = rest;
        }
        let member = Member { rank: fate.rank, record: fate.record, cells };
        self.groups.entry(survivor).or_default().push(member);
    }

    /// Merges the groups and writes the changes down; gives how many cells were filled, and the file with them, which is not
    /// published yet.
    ///
    /// # Errors
    /// Where the changes cannot be written.
    pub(crate) fn finish(&mut self) -> Result<(u64, Option<Output>)> {
        let mut encoder = CsvEncoder::copying(0, b',', b"\n");
        let (mut log, mut filled) = (Vec::new(), 0);
        encoder.row(["record", "field", "value", "from_record"], &mut log);
        for (survivor, mut group) in std::mem::take(&mut self.groups) {
            group.sort_by_key(|member| member.rank);
            let (first, others) = group.split_first_mut().expect("groups have members");
            let mut changed = false;
            for (field, name) in self.fields.iter().enumerate() {
                let given = others.iter().map(|other| (other.record, &other.cells[field]));
                let mut given = given.filter(|(_, cell)| !is_blank(cell));
                let own = &mut first.cells[field];
                let mut note = |value: &[u8], from: u64| {
                    let (record, from) = (survivor.to_string(), from.to_string());
                    encoder.row([&*record, name, &*String::from_utf8_lossy(value), &*from], &mut log);
                    filled += 1;
                    changed = true;
                };
                if self.collect.contains(&field) {
                    let mut held = if is_blank(own) { Vec::new() } else { vec![own.trim_ascii().to_vec()] };
                    for (record, cell) in given {
                        if !held.iter().any(|held| held.eq_ignore_ascii_case(cell.trim_ascii())) {
                            note(cell, record);
                            held.push(cell.trim_ascii().to_vec());
                        }
                    }
                    if held.len() > 1 || is_blank(own) && !held.is_empty() {
                        *own = held.join(JOINED_BY);
                    }
                } else if is_blank(own)
                    && let Some((record, cell)) = given.next()
                {
                    note(cell, record);
                    own.clone_from(cell);
                }
            }
            if changed {
                let mut cells = std::mem::take(&mut first.cells);
                let surplus = cells.split_off(self.fields.len());
                self.merged.insert(survivor, Merged { cells, surplus });
            }
        }
        let mut changes = self.changes.take();
        if let Some(changes) = &mut changes {
            changes.write(&log)?;
        }
        Ok((filled, changes))
    }

    /// The cells of `record`, where it is a survivor that was changed.
    pub(crate) fn of(&self, record: u64) -> Option<&Merged> {
        self.merged.get(&record)
    }
}
