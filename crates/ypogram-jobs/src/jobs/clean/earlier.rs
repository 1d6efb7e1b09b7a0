//! Which earlier record has a mailbox already: looked up while the mailboxes fit into memory, else settled beforehand by a
//! pass of its own.

use std::collections::HashSet;
use std::sync::Arc;

use tempfile::TempDir;
use ypogram_io::Result;

use crate::duplicates::first_records::{Earlier, FirstRecords, Newcomer};
use crate::jobs::dedupe::{Decisions, Entry, Partitions, part_of};
use crate::judge::annotate::{Part, Row};
use crate::judge::decided::SharedAnswer;
use crate::plan::outcome::Outcome;
use crate::plan::shared::{Shared, are_different};

/// Knows the earlier record of each.
#[allow(clippy::large_enum_variant, reason = "there is one of it, asked for each record")]
pub(crate) enum EarlierOnes {
    /// By the mailboxes seen so far.
    Met(FirstRecords),
    /// By what a first pass settled.
    Settled {
        decisions: Decisions,
        mailboxes: u64,
        /// Mailboxes of further addresses, and those of them that a kept record has.
        further: HashSet<u128>,
        kept: HashSet<u128>,
    },
}

impl EarlierOnes {
    /// The earlier record that the `nth` of `rows`, which is record number `record`, is a duplicate of. To be asked in the order of the
    /// records; whether the two are different persons [is found](Self::compare) later.
    ///
    /// # Errors
    /// Where there is no memory, or the temporary folder cannot be read.
    pub(crate) fn of(&mut self, rows: &[Row], nth: usize, record: u64) -> Result<Option<Earlier>> {
        let row = &rows[nth];
        match self {
            EarlierOnes::Met(first) => {
                first.fetch(nth, |nth| rows.get(nth).map(|row| row.key));
                let earlier = |record| Earlier { record, other_person: false, holder_is_other: false };
                Ok(first.find(&newcomer(row, record))?.map(earlier))
            }
            EarlierOnes::Settled { decisions, .. } => {
                let decision = if takes_part(row) { decisions.of(record)? } else { None };
                Ok(decision.map(|decision| Earlier {
                    record: decision.survivor,
                    other_person: decision.other_person,
                    holder_is_other: decision.other_person,
                }))
            }
        }
    }

    /// `earlier`, which was found for `row`, which is record number `record`, with whether the two are different persons. To be asked
    /// in the order of the records.
    ///
    /// # Errors
    /// Where there is no memory.
    #[inline]
    pub(crate) fn compare(&mut self, row: &Row, record: u64, earlier: Earlier) -> Result<Earlier> {
        match self {
            EarlierOnes::Met(first) => first.compare(&newcomer(row, record), earlier.record),
            EarlierOnes::Settled { .. } => Ok(earlier),
        }
    }

    /// Whether no more mailboxes fit into memory.
    pub(crate) fn is_full(&self) -> bool {
        match self {
            EarlierOnes::Met(first) => first.is_full(),
            EarlierOnes::Settled { .. } => false,
        }
    }

    /// Tells of a record that was kept.
    #[inline]
    pub(crate) fn note_kept(&mut self, row: &Row) {
        if let EarlierOnes::Settled { further, kept, .. } = self
            && !further.is_empty()
            && further.contains(&row.key)
        {
            kept.insert(row.key);
        }
    }

    /// Whether a record that was kept has the mailbox of that hash, which is one of a further address.
    pub(crate) fn is_kept(&self, hash: u128) -> bool {
        match self {
            EarlierOnes::Met(first) => first.is_kept(hash),
            EarlierOnes::Settled { kept, .. } => kept.contains(&hash),
        }
    }

    /// How many distinct mailboxes there are.
    pub(crate) fn mailboxes(&self) -> u64 {
        match self {
            EarlierOnes::Met(first) => first.len(),
            EarlierOnes::Settled { mailboxes, .. } => *mailboxes,
        }
    }
}

/// Whether a record can be a duplicate or have some: it is handed over, and its address tells a mailbox.
fn takes_part(row: &Row) -> bool {
    row.key != 0 && matches!(row.outcome, Outcome::Kept | Outcome::Review)
}

/// Whether it is kept as far as it goes by itself, and nobody decided to drop it.
fn is_to_be_kept(row: &Row) -> bool {
    row.outcome == Outcome::Kept && row.decided.shared != SharedAnswer::Drop
}

/// The record of a row, which is of no mailbox unless it takes part.
fn newcomer(row: &Row, record: u64) -> Newcomer {
    let hash = if takes_part(row) { row.key } else { 0 };
    Newcomer { hash, person: row.person, record, kept: is_to_be_kept(row) }
}

/// What a first pass gathers of each record that takes part, divided by hash.
pub(crate) struct FirstPass {
    entries: Partitions,
    folder: Arc<TempDir>,
    most: usize,
    record: u64,
    /// Mailboxes of further addresses.
    further: HashSet<u128>,
}

impl FirstPass {
    /// With at most `most` bytes in memory, the rest in `folder`.
    pub(crate) fn new(most: usize, folder: Arc<TempDir>) -> Self {
        FirstPass {
            // The program and the chunks under way take the rest, as long as entries are gathered.
            entries: Partitions::new("mailboxes", most / 8 * 3, Arc::clone(&folder)),
            folder,
            most,
            record: 0,
            further: HashSet::new(),
        }
    }

    /// Adds what came of the next chunk.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    pub(crate) fn take(&mut self, part: &Part) -> Result<()> {
        self.further.extend(part.further.iter().map(|(_, mailbox)| *mailbox));
        part.rows.iter().try_for_each(|row| self.add(row))
    }

    /// Adds the next row.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    fn add(&mut self, row: &Row) -> Result<()> {
        self.record += 1;
        if !takes_part(row) {
            return Ok(());
        }
        let entry = Entry {
            hash: row.key,
            record: self.record,
            score: u64::from(is_to_be_kept(row)),
            person: u64::from(row.person),
        };
        self.entries.add(part_of(row.key), &entry.to_bytes())
    }

    /// Settles which record is a duplicate of which.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn settle(self, shared: Shared) -> Result<EarlierOnes> {
        let (decisions, mailboxes) =
            Decisions::of_earlier(self.entries, self.most / 2, self.folder, |group, is_duplicate| {
                if shared == Shared::Keep {
                    return each_person(group, is_duplicate);
                }
                let mut holder: Option<&Entry> = None;
                for entry in group {
                    match holder {
                        Some(holder) if swallows(holder, entry) => is_duplicate(entry, holder),
                        _ => holder = Some(entry),
                    }
                }
            })?;
        Ok(EarlierOnes::Settled { decisions, mailboxes, further: self.further, kept: HashSet::new() })
    }
}

/// A record to be kept is a duplicate only of a kept one; a doubtful twin must not swallow it.
fn swallows(holder: &Entry, newcomer: &Entry) -> bool {
    holder.score == 1 || newcomer.score == 0
}

/// Settles a group of which the first record of each person stays.
fn each_person(group: &[Entry], is_duplicate: &mut dyn FnMut(&Entry, &Entry)) {
    let mut holder: Option<&Entry> = None;
    let mut others: Vec<&Entry> = Vec::new();
    for entry in group {
        let Some(first) = holder.filter(|holder| swallows(holder, entry)) else {
            holder = Some(entry);
            continue;
        };
        if !are_different(entry.person, first.person) {
            is_duplicate(entry, first);
            continue;
        }
        match others.iter_mut().find(|other| other.person == entry.person) {
            Some(own) if swallows(own, entry) => is_duplicate(entry, own),
            Some(own) => {
                *own = entry;
                is_duplicate(entry, first);
            }
            None => {
                others.push(entry);
                is_duplicate(entry, first);
            }
        }
    }
}
