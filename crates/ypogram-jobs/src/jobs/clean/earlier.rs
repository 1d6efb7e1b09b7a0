//! Which earlier record has a mailbox already: looked up while the mailboxes fit into memory, else settled beforehand by a
//! pass of its own.

use std::collections::HashSet;
use std::sync::Arc;

use tempfile::TempDir;
use ypogram_io::Result;

use crate::duplicates::decisions::{Decisions, part_of};
use crate::duplicates::first_records::{Earlier, FirstRecords, Newcomer};
use crate::duplicates::partitions::{Entry, Partitions};
use crate::duplicates::survivor::{MOST, Score, Survivor};
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
    /// The record that the `nth` of `rows`, which is record number `record`, is a duplicate of; itself where others are duplicates of
    /// it, as far as that was settled beforehand. To be asked in the order of the records; whether the two are different persons [is
    /// found](Self::compare) later.
    ///
    /// # Errors
    /// Where there is no memory, or the temporary folder cannot be read.
    pub(crate) fn of(&mut self, rows: &[Row], nth: usize, record: u64) -> Result<Option<Earlier>> {
        let row = &rows[nth];
        match self {
            EarlierOnes::Met(first) => {
                first.fetch(nth, |nth| rows.get(nth).map(|row| row.key));
                let earlier =
                    |record| Earlier { record, other_person: false, holder_is_other: false, rank: 0 };
                Ok(first.find(&newcomer(row, record))?.map(earlier))
            }
            EarlierOnes::Settled { decisions, .. } => {
                let decision = if takes_part(row) { decisions.of(record)? } else { None };
                Ok(decision.map(|decision| Earlier {
                    record: decision.survivor,
                    other_person: decision.other_person,
                    holder_is_other: decision.other_person,
                    rank: decision.rank,
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

    /// Is asked from the first record again.
    pub(crate) fn rewind(&mut self) {
        if let EarlierOnes::Settled { decisions, kept, .. } = self {
            decisions.rewind();
            kept.clear();
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
    /// The rows that are further ones of their records.
    pub(super) added: Vec<u64>,
    /// Cells by which the order of preference should go and that say nothing, and those that can be read in two ways.
    pub(super) unclear: UnclearCells,
}

/// Cells that should tell which record is preferred.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct UnclearCells {
    /// They are neither a date nor a number.
    pub unreadable: u64,
    /// Day and month could be the other way round.
    pub either_way: u64,
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
            added: Vec::new(),
            unclear: UnclearCells::default(),
        }
    }

    /// Adds what came of the next chunk.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    pub(crate) fn take(&mut self, part: &Part) -> Result<()> {
        self.further.extend(part.further.iter().map(|(_, mailbox)| *mailbox));
        let mut scores = part.scores.iter();
        part.rows.iter().try_for_each(|row| self.add(row, scores.next().copied().unwrap_or_default()))
    }

    /// Adds the next row.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    fn add(&mut self, row: &Row, score: Score) -> Result<()> {
        self.record += 1;
        if row.added {
            self.added.push(self.record);
        }
        if !takes_part(row) {
            return Ok(());
        }
        self.unclear.unreadable += u64::from(score.unreadable);
        self.unclear.either_way += u64::from(score.either_way);
        let entry = Entry {
            hash: row.key,
            record: self.record,
            // A doubtful record is never preferred to one that is to be kept.
            score: if is_to_be_kept(row) { KEPT | score.score } else { score.score },
            person: u64::from(row.person),
        };
        self.entries.add(part_of(row.key), &entry.to_bytes())
    }

    /// Settles which record is a duplicate of which.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn settle(self, survivor: &Survivor, shared: Shared) -> Result<EarlierOnes> {
        let FirstPass { entries, folder, further, .. } = self;
        let most = self.most / 2;
        let (decisions, mailboxes) = match survivor {
            Survivor::First => Decisions::of_earlier(entries, most, folder, |group, is_duplicate| {
                first_stays(group, shared, is_duplicate);
            })?,
            other => {
                let order = (*other == Survivor::Last, shared);
                let (decisions, counts) = Decisions::settle(entries, order, most, folder, |_, _| {})?;
                // A text without a mailbox has no part in it.
                (decisions, counts.distinct + counts.texts)
            }
        };
        Ok(EarlierOnes::Settled { decisions, mailboxes, further, kept: HashSet::new() })
    }
}

/// The score of a record that is to be kept, above all others.
const KEPT: u64 = MOST + 1;

/// A record to be kept is a duplicate only of a kept one; a doubtful twin must not swallow it.
fn swallows(holder: &Entry, newcomer: &Entry) -> bool {
    holder.score >= KEPT || newcomer.score < KEPT
}

/// Settles a group of which the first record stays.
fn first_stays(group: &[Entry], shared: Shared, is_duplicate: &mut dyn FnMut(&Entry, &Entry)) {
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
