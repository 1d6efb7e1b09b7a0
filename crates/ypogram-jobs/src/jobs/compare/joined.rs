//! Which new record has the mailbox of which known one, found by the hashes of their keys.

use std::sync::Arc;

use tempfile::TempDir;
use ypogram_core::SameMailbox;
use ypogram_io::Result;

use crate::duplicates::decisions::{Decision, Decisions, part_of};
use crate::duplicates::partitions::{Entry, Partitions};
use crate::judge::annotate::Part;

/// What is gathered of all records, the known ones first.
pub(crate) struct Joining {
    entries: Partitions,
    folder: Arc<TempDir>,
    most: usize,
    /// Records so far.
    pub(crate) records: u64,
}

/// Distinguishes the records of a mailbox from those that asked to be left alone.
const WITHDRAWN: u64 = 1;

impl Joining {
    pub(crate) fn new(most: usize, folder: Arc<TempDir>) -> Self {
        let entries = Partitions::new("mailboxes", most / 8 * 3, Arc::clone(&folder));
        Joining { entries, folder, most, records: 0 }
    }

    /// Adds the records of a chunk.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    pub(crate) fn take(&mut self, part: &Part) -> Result<()> {
        for (row, compared) in part.rows.iter().zip(&part.compared) {
            self.records += 1;
            if row.key == 0 {
                continue;
            }
            let [exact, case, provider] = compared.by_rule;
            let entry = Entry {
                hash: row.key,
                record: self.records,
                score: provider & !WITHDRAWN | u64::from(compared.withdrawn),
                person: exact << 32 | case >> 32,
            };
            self.entries.add(part_of(row.key), &entry.to_bytes())?;
        }
        Ok(())
    }

    /// Settles which record is which, where so many are known.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn settle(self, known: u64, rule: SameMailbox) -> Result<Joined> {
        let settle = |group: &[Entry], decisions: &mut Vec<Decision>| {
            let (of_known, of_new) = group.split_at(group.partition_point(|entry| entry.record <= known));
            let first_new = of_new.iter().find(|entry| entry.score & WITHDRAWN == 0);
            let mut decide = |entry: &Entry, other: &Entry, rank: u32| {
                decisions.push(Decision {
                    record: entry.record,
                    group: other.record,
                    survivor: other.record,
                    count: group.len() as u64,
                    rank,
                    other_person: false,
                });
            };
            if let Some(any_new) = of_new.first() {
                of_known.iter().for_each(|entry| decide(entry, any_new, 0));
            }
            for entry in of_new {
                match (of_known.first(), first_new) {
                    (Some(known), _) => {
                        // Of several known ones the one that is most like it.
                        let like = |known: &&Entry| strictest(entry, known, rule);
                        let known = of_known.iter().min_by_key(like).unwrap_or(known);
                        decide(entry, known, strictest(entry, known, rule));
                    }
                    (None, Some(first)) if first.record < entry.record => decide(entry, first, 0),
                    _ => {}
                }
            }
        };
        let (decisions, _) = Decisions::of_groups(self.entries, self.most / 2, self.folder, settle)?;
        Ok(Joined { decisions, known })
    }
}

/// The strictest rule under which two records have one mailbox, by its place.
fn strictest(one: &Entry, other: &Entry, rule: SameMailbox) -> u32 {
    let equal = [
        one.person >> 32 == other.person >> 32,
        one.person as u32 == other.person as u32,
        one.score & !WITHDRAWN == other.score & !WITHDRAWN,
    ];
    let strictest = equal.iter().position(|equal| *equal);
    strictest.map_or(rule as u32, |place| (place as u32).min(rule as u32))
}

/// Which record is which.
pub(crate) struct Joined {
    decisions: Decisions,
    known: u64,
}

/// Another record with the mailbox of a new one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Other {
    /// A known one, by its number, and the strictest rule under which both have one mailbox.
    Known(u64, SameMailbox),
    /// An earlier new one.
    New(u64),
}

impl Joined {
    /// Is asked from the first record again.
    pub(crate) fn rewind(&mut self) {
        self.decisions.rewind();
    }

    /// The record with the mailbox of the new one of that number, from 1. To be asked in the order of the records.
    ///
    /// # Errors
    /// Where the temporary folder cannot be read.
    pub(crate) fn of_new(&mut self, record: u64) -> Result<Option<Other>> {
        let decision = self.decisions.of(self.known + record)?;
        Ok(decision.map(|decision| match decision.survivor {
            known if known <= self.known => Other::Known(known, SameMailbox::ALL[decision.rank as usize]),
            new => Other::New(new - self.known),
        }))
    }

    /// The first new record with the mailbox of the known one of that number. To be asked in the order of the records.
    ///
    /// # Errors
    /// Where the temporary folder cannot be read.
    pub(crate) fn of_known(&mut self, record: u64) -> Result<Option<u64>> {
        Ok(self.decisions.of(record)?.map(|decision| decision.survivor - self.known))
    }
}
