//! Which earlier record has a mailbox already: looked up while the mailboxes fit into memory, else settled beforehand by a
//! pass of its own.

use std::sync::Arc;

use prefetch_index::prefetch_index;
use tempfile::TempDir;
use ypogram_tables::Result;

use crate::annotate::Row;
use crate::dedupe::{Entry, Fates, Partitions, part_of};
use crate::mailboxes::{Holder, Mailboxes};
use crate::outcome::Outcome;

/// An earlier record with the same mailbox.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Earlier {
    /// Its number, from 1.
    pub(crate) record: u64,
    /// Both name a person, and not the same.
    pub(crate) other_person: bool,
}

/// Knows the earlier record of each.
#[allow(clippy::large_enum_variant, reason = "there is one of it, asked for each record")]
pub(crate) enum EarlierOnes {
    /// By the mailboxes met so far.
    Met {
        mailboxes: Mailboxes,
        /// The person of each record, where persons are told apart.
        persons: Option<Vec<u32>>,
        /// Octets that may be taken.
        most: usize,
    },
    /// By what a first pass settled.
    Settled { fates: Fates, mailboxes: u64 },
}

impl EarlierOnes {
    /// Nobody yet, in at most `most` octets, for a job that may run so many threads.
    pub(crate) fn within(most: usize, persons: bool, threads: usize) -> Self {
        EarlierOnes::Met { mailboxes: Mailboxes::new(threads), persons: persons.then(Vec::new), most }
    }

    /// The earlier record that the `nth` of `rows`, which is record number `record`, is a duplicate of. To be asked in the order of the
    /// records; whether the two are different persons [is told](Self::compare) later.
    ///
    /// # Errors
    /// Where there is no memory, or the temporary folder cannot be read.
    pub(crate) fn of(&mut self, rows: &[Row], nth: usize, record: u64) -> Result<Option<Earlier>> {
        let row = &rows[nth];
        let takes_part = takes_part(row);
        match self {
            EarlierOnes::Met { mailboxes, persons, .. } => {
                mailboxes.fetch(nth, |nth| rows.get(nth).map(|row| row.key));
                let holder = match takes_part {
                    true => mailboxes.meet(row.key, Holder { record, kept: row.outcome == Outcome::Kept })?,
                    false => None,
                };
                if let Some(persons) = persons {
                    persons.push(row.person);
                    if let Some(holder) = holder {
                        prefetch_index(&persons[..], holder.record as usize - 1);
                    }
                }
                Ok(holder.map(|holder| Earlier { record: holder.record, other_person: false }))
            }
            EarlierOnes::Settled { fates, .. } => {
                let fate = if takes_part { fates.of(record)? } else { None };
                Ok(fate.map(|fate| Earlier { record: fate.survivor, other_person: fate.other_person }))
            }
        }
    }

    /// `earlier`, which was found for `row`, with whether the two are different persons.
    #[inline]
    pub(crate) fn compare(&self, row: &Row, earlier: Earlier) -> Earlier {
        match self {
            EarlierOnes::Met { persons: Some(persons), .. } => {
                let person = persons[earlier.record as usize - 1];
                Earlier { other_person: differ(row.person, person), ..earlier }
            }
            _ => earlier,
        }
    }

    /// Whether no more mailboxes fit into memory.
    pub(crate) fn is_full(&self) -> bool {
        match self {
            EarlierOnes::Met { mailboxes, persons, most } => {
                let held = persons.as_ref().map_or(0, |persons| persons.capacity() * size_of::<u32>());
                mailboxes.octets() + held > *most
            }
            EarlierOnes::Settled { .. } => false,
        }
    }

    /// How many distinct mailboxes there are.
    pub(crate) fn mailboxes(&self) -> u64 {
        match self {
            EarlierOnes::Met { mailboxes, .. } => mailboxes.len(),
            EarlierOnes::Settled { mailboxes, .. } => *mailboxes,
        }
    }
}

/// Whether a record can be a duplicate or have some: it is handed over, and its address tells a mailbox.
fn takes_part(row: &Row) -> bool {
    row.key != 0 && matches!(row.outcome, Outcome::Kept | Outcome::Review)
}

fn differ(one: u32, other: u32) -> bool {
    one != 0 && other != 0 && one != other
}

/// What a first pass gathers of each record that takes part, divided by hash.
pub(crate) struct FirstPass {
    entries: Partitions,
    folder: Arc<TempDir>,
    most: usize,
    record: u64,
}

impl FirstPass {
    /// With at most `most` octets in memory, the rest in `folder`.
    pub(crate) fn new(most: usize, folder: Arc<TempDir>) -> Self {
        FirstPass {
            // The program and the chunks under way take the rest, as long as entries are gathered.
            entries: Partitions::new("mailboxes", most / 8 * 3, Arc::clone(&folder)),
            folder,
            most,
            record: 0,
        }
    }

    /// Adds the next record.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    pub(crate) fn add(&mut self, row: &Row) -> Result<()> {
        self.record += 1;
        if !takes_part(row) {
            return Ok(());
        }
        let entry = Entry {
            hash: row.key,
            record: self.record,
            score: u64::from(row.outcome == Outcome::Kept),
            person: u64::from(row.person),
        };
        self.entries.add(part_of(row.key), &entry.to_bytes())
    }

    /// Settles which record is a duplicate of which.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn settle(self) -> Result<EarlierOnes> {
        let (fates, mailboxes) =
            Fates::of_earlier(self.entries, self.most / 2, self.folder, |group, is_duplicate| {
                // A record to be kept is a duplicate only of a kept one; a doubtful twin must not swallow it.
                let mut holder: Option<&Entry> = None;
                for entry in group {
                    match holder {
                        Some(holder) if holder.score == 1 || entry.score == 0 => is_duplicate(entry, holder),
                        _ => holder = Some(entry),
                    }
                }
            })?;
        Ok(EarlierOnes::Settled { fates, mailboxes })
    }
}
