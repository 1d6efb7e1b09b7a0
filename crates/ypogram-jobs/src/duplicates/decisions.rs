//! What becomes of each record that shares its mailbox, found again in the order of the records.

use std::sync::Arc;

use hashbrown::HashTable;
use tempfile::TempDir;
use ypogram_io::Result;

use crate::duplicates::first_records::Earlier;
use crate::duplicates::partitions::{ENTRY, Entry, Partitions};
use crate::plan::shared::{Shared, are_different};

/// What becomes of a record that shares its mailbox.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Decision {
    pub(crate) record: u64,
    /// The record of its mailbox that is preferred, by which the group is known.
    pub(crate) group: u64,
    /// The record that it is the same as: itself, where it is preferred.
    pub(crate) survivor: u64,
    /// Records of the group.
    pub(crate) count: u64,
    /// Its place in the group, in the order of preference, from 0.
    pub(crate) rank: u32,
    /// Its person is another than that of the record it is the same as.
    pub(crate) other_person: bool,
}

/// What becomes of a record with a mailbox.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum End {
    Stays,
    /// It goes, since it is the same as the record of that number.
    Dropped(u64),
    /// Somebody looks at it, since the record of that number is another person's.
    Review(u64),
}

impl End {
    /// What becomes of a record with that earlier record of its mailbox.
    pub(crate) fn of(earlier: Earlier, shared: Shared) -> Self {
        match (earlier.other_person, shared) {
            (true, Shared::Keep) => End::Stays,
            (true, Shared::Review) => End::Review(earlier.record),
            _ => End::Dropped(earlier.record),
        }
    }
}

impl Decision {
    /// What becomes of the record, where other persons' are dealt with by `shared`.
    pub(crate) fn end(self, shared: Shared) -> End {
        match (self.survivor == self.record, self.other_person, shared) {
            (true, ..) | (_, true, Shared::Keep) => End::Stays,
            (_, true, Shared::Review) => End::Review(self.survivor),
            _ => End::Dropped(self.survivor),
        }
    }
}

/// The part that a hash belongs to, of 128: enough that each fits into a small memory.
pub(crate) fn part_of(hash: u128) -> usize {
    (hash >> 121) as usize
}

/// Records whose fates are looked at together, as a power of two.
const RANGE_BITS: u32 = 20;

const FATE: usize = 37;

/// The fates of all records that share a mailbox.
pub(crate) struct Decisions {
    ranges: Partitions,
    /// The range that is looked at, in order.
    present: Option<usize>,
    decisions: Vec<Decision>,
    at: usize,
}

/// Counts over all groups.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct GroupCounts {
    /// Mailboxes, and texts of rejected addresses.
    pub(crate) distinct: u64,
    pub(crate) texts: u64,
    /// Those that several records have, and these records.
    pub(crate) groups: u64,
    pub(crate) in_groups: u64,
    /// Records whose person is another than that of the preferred record, and how many of these are distinguished from it: all of them,
    /// or one for each person.
    pub(crate) shared: u64,
    pub(crate) told_apart: u64,
}

impl Decisions {
    /// Settles the groups of `entries` part by part. The greatest score stays, of equals the first record, or the last where
    /// `last_wins`; with [`Shared::Keep`] one of each person. Calls `see` with every group of several: its survivor's number and its size.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn settle(
        mut entries: Partitions,
        (last_wins, shared): (bool, Shared),
        most: usize,
        folder: Arc<TempDir>,
        mut see: impl FnMut(u64, u64),
    ) -> Result<(Decisions, GroupCounts)> {
        let mut ranges = Partitions::new("fates", most, folder);
        let mut counts = GroupCounts::default();
        for part in 0..entries.len() {
            let bytes = entries.take(part)?;
            let mut all: Vec<Entry> = bytes.as_chunks::<ENTRY>().0.iter().map(Entry::from_bytes).collect();
            drop(bytes);
            let (distinct, texts) = keep_grouped(&mut all);
            counts.distinct += distinct;
            counts.texts += texts;
            let order = |entry: &Entry| {
                (
                    entry.hash,
                    u64::MAX - entry.score,
                    if last_wins { u64::MAX - entry.record } else { entry.record },
                )
            };
            all.sort_unstable_by_key(order);
            for group in all.chunk_by(|a, b| a.hash == b.hash).filter(|group| group.len() > 1) {
                let preferred = group[0];
                for (rank, entry) in group.iter().enumerate() {
                    let is_other = are_different(entry.person, preferred.person);
                    let of_person = || group[..rank].iter().find(|earlier| earlier.person == entry.person);
                    let own = (is_other && shared == Shared::Keep).then(of_person).flatten();
                    let other_person = is_other && own.is_none();
                    counts.shared += u64::from(is_other && entry.has_mailbox());
                    counts.told_apart += u64::from(other_person);
                    let decision = Decision {
                        record: entry.record,
                        group: preferred.record,
                        survivor: own.unwrap_or(&preferred).record,
                        count: group.len() as u64,
                        rank: rank as u32,
                        other_person,
                    };
                    ranges.add((entry.record >> RANGE_BITS) as usize, &decision.to_bytes())?;
                }
                counts.groups += 1;
                counts.in_groups += group.len() as u64;
                see(preferred.record, group.len() as u64);
            }
        }
        Ok((Decisions { ranges, present: None, decisions: Vec::new(), at: 0 }, counts))
    }

    /// Settles the groups of `entries` part by part, each in the order of its records: `settle` is given a group and tells, in that
    /// order, which entry is a duplicate of which. Gives also how many groups there are, those of one included.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn of_earlier(
        entries: Partitions,
        most: usize,
        folder: Arc<TempDir>,
        settle: impl Fn(&[Entry], &mut dyn FnMut(&Entry, &Entry)),
    ) -> Result<(Decisions, u64)> {
        let mut pairs = Vec::new();
        Decisions::of_groups(entries, most, folder, |group, decisions| {
            pairs.clear();
            settle(group, &mut |entry, earlier| pairs.push((*entry, *earlier)));
            let mut preferred: Vec<Entry> = pairs.iter().map(|(_, earlier)| *earlier).collect();
            preferred.sort_unstable_by_key(|entry| entry.record);
            preferred.dedup_by_key(|entry| entry.record);
            preferred.retain(|one| pairs.binary_search_by_key(&one.record, |(e, _)| e.record).is_err());
            let of_itself = preferred.iter().map(|own| (own, own));
            decisions.extend(of_itself.chain(pairs.iter().map(|(entry, of)| (entry, of))).map(
                |(entry, earlier)| Decision {
                    record: entry.record,
                    group: earlier.record,
                    survivor: earlier.record,
                    count: group.len() as u64,
                    rank: group.partition_point(|before| before.record < entry.record) as u32,
                    other_person: are_different(entry.person, earlier.person),
                },
            ));
        })
    }

    /// Settles the groups of `entries` part by part, each in the order of its records: `settle` is given a group and adds what becomes
    /// of its records. Gives also how many groups there are, those of one included.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn of_groups(
        mut entries: Partitions,
        most: usize,
        folder: Arc<TempDir>,
        mut settle: impl FnMut(&[Entry], &mut Vec<Decision>),
    ) -> Result<(Decisions, u64)> {
        let mut ranges = Partitions::new("fates", most, folder);
        let (mut groups, mut decisions) = (0, Vec::new());
        for part in 0..entries.len() {
            let bytes = entries.take(part)?;
            let mut all: Vec<Entry> = bytes.as_chunks::<ENTRY>().0.iter().map(Entry::from_bytes).collect();
            drop(bytes);
            all.sort_unstable_by_key(|entry| (entry.hash, entry.record));
            for group in all.chunk_by(|a, b| a.hash == b.hash) {
                groups += 1;
                decisions.clear();
                settle(group, &mut decisions);
                for decision in &decisions {
                    ranges.add((decision.record >> RANGE_BITS) as usize, &decision.to_bytes())?;
                }
            }
        }
        Ok((Decisions { ranges, present: None, decisions: Vec::new(), at: 0 }, groups))
    }

    /// Starts again with the first record.
    pub(crate) fn rewind(&mut self) {
        self.present = None;
    }

    /// The fate of `record`; none where it shares its mailbox with no other. To be asked in the order of the records.
    ///
    /// # Errors
    /// Where the temporary folder cannot be read.
    pub(crate) fn of(&mut self, record: u64) -> Result<Option<Decision>> {
        let range = (record >> RANGE_BITS) as usize;
        if self.present != Some(range) {
            // In the same memory as those before: other threads would not get back what this one frees.
            self.decisions.clear();
            self.ranges.each(range, |decision| self.decisions.push(Decision::from_bytes(decision)))?;
            self.decisions.sort_unstable_by_key(|decision| decision.record);
            (self.present, self.at) = (Some(range), 0);
        }
        while self.decisions.get(self.at).is_some_and(|decision| decision.record < record) {
            self.at += 1;
        }
        Ok(self.decisions.get(self.at).copied().filter(|decision| decision.record == record))
    }
}

/// Leaves only the entries whose hash is there several times; gives how many hashes of mailboxes and of texts there are.
fn keep_grouped(all: &mut Vec<Entry>) -> (u64, u64) {
    // Most entries are alone and need not be sorted.
    let mut seen: HashTable<(u128, bool)> = HashTable::with_capacity(all.len());
    for entry in all.iter() {
        let hash = (entry.hash >> 1) as u64;
        seen.entry(hash, |(seen, _)| *seen == entry.hash, |(seen, _)| (*seen >> 1) as u64)
            .and_modify(|(_, several)| *several = true)
            .or_insert((entry.hash, false));
    }
    let texts = seen.iter().filter(|(hash, _)| hash & 1 == 1).count();
    let distinct = seen.len() - texts;
    all.retain(|entry| {
        seen.find((entry.hash >> 1) as u64, |(seen, _)| *seen == entry.hash)
            .is_some_and(|(_, several)| *several)
    });
    (distinct as u64, texts as u64)
}

impl Decision {
    fn to_bytes(self) -> [u8; FATE] {
        let mut bytes = [0; FATE];
        for (place, number) in [self.record, self.group, self.survivor, self.count].into_iter().enumerate() {
            bytes[place * 8..place * 8 + 8].copy_from_slice(&number.to_le_bytes());
        }
        bytes[32..36].copy_from_slice(&self.rank.to_le_bytes());
        bytes[36] = u8::from(self.other_person);
        bytes
    }

    fn from_bytes(bytes: &[u8; FATE]) -> Self {
        let number =
            |place: usize| u64::from_le_bytes(bytes[place..place + 8].try_into().expect("eight bytes"));
        Decision {
            record: number(0),
            group: number(8),
            survivor: number(16),
            count: number(24),
            rank: u32::from_le_bytes(bytes[32..36].try_into().expect("four bytes")),
            other_person: bytes[36] == 1,
        }
    }
}
