//! The first record of each mailbox, looked up while the mailboxes fit into memory.

use prefetch_index::prefetch_index;
use ypogram_io::Result;

use crate::engine::mailboxes::{Holder, Mailboxes};
use crate::plan::shared::{Shared, are_different, hash_with_person};

/// A record that comes after all that are known.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Newcomer {
    /// The hash of its mailbox; 0 where it has none.
    pub(crate) hash: u128,
    /// The hash of the person that it names; 0 where it names none.
    pub(crate) person: u32,
    /// Its number, from 1.
    pub(crate) record: u64,
    /// It is kept rather than for review.
    pub(crate) kept: bool,
}

/// An earlier record with the same mailbox.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Earlier {
    /// Its number, from 1.
    pub(crate) record: u64,
    /// Both name a person, and not the same.
    pub(crate) other_person: bool,
    /// The record that has the mailbox names another person, even where this is that of the same person.
    pub(crate) holder_is_other: bool,
    /// The newcomer's place in the order of preference among the records of the mailbox, where that was settled beforehand; else 0.
    pub(crate) rank: u32,
}

/// The first record of each mailbox: a record to be kept is a duplicate only of a kept one, so that a doubtful twin does not
/// swallow it.
pub(crate) struct FirstRecords {
    mailboxes: Mailboxes,
    /// The person of each record, where persons are distinguished.
    persons: Option<Vec<u32>>,
    /// Of one mailbox the first record of each person stays; so many are held that are not the first of their mailbox.
    each_person: Option<u64>,
    /// Bytes that may be taken.
    most: usize,
}

impl FirstRecords {
    /// None yet, in at most `most` bytes, for a job that may run so many threads.
    pub(crate) fn within(most: usize, with_persons: bool, shared: Shared, threads: usize) -> Self {
        FirstRecords {
            mailboxes: Mailboxes::new(threads),
            persons: with_persons.then(Vec::new),
            each_person: (shared == Shared::Keep).then_some(0),
            most,
        }
    }

    /// Fetches what will be asked of the records behind the `nth`. To be called before each is looked up.
    #[inline]
    pub(crate) fn fetch(&self, nth: usize, hash_of: impl Fn(usize) -> Option<u128>) {
        self.mailboxes.fetch(nth, hash_of);
    }

    /// The record that has the mailbox of the newcomer; none where that is the newcomer now. To be asked in the order of the records.
    ///
    /// # Errors
    /// Where there is no memory.
    #[inline]
    pub(crate) fn find(&mut self, newcomer: &Newcomer) -> Result<Option<u64>> {
        let holder = match newcomer.hash {
            0 => None,
            hash => self.mailboxes.meet(hash, Holder { record: newcomer.record, kept: newcomer.kept })?,
        };
        if let Some(persons) = &mut self.persons {
            persons.push(newcomer.person);
            if let Some(holder) = holder {
                prefetch_index(&persons[..], holder.record as usize - 1);
            }
        }
        Ok(holder.map(|holder| holder.record))
    }

    /// Which earlier record the newcomer is a duplicate of, where `holder` has its mailbox. Where each person of a mailbox counts, it
    /// may be that person's own earlier record. To be asked in the order of the records.
    ///
    /// # Errors
    /// Where there is no memory.
    #[inline]
    pub(crate) fn compare(&mut self, newcomer: &Newcomer, holder: u64) -> Result<Earlier> {
        let same = Earlier { record: holder, other_person: false, holder_is_other: false, rank: 0 };
        let Some(persons) = &self.persons else { return Ok(same) };
        let holder_is_other = are_different(newcomer.person.into(), persons[holder as usize - 1].into());
        if !holder_is_other {
            return Ok(same);
        }
        if let Some(others) = &mut self.each_person {
            let hash = hash_with_person(newcomer.hash, newcomer.person.into());
            let before = self.mailboxes.len();
            let own = self.mailboxes.meet(hash, Holder { record: newcomer.record, kept: newcomer.kept })?;
            *others += self.mailboxes.len() - before;
            if let Some(own) = own {
                return Ok(Earlier { record: own.record, other_person: false, holder_is_other, rank: 0 });
            }
        }
        Ok(Earlier { record: holder, other_person: true, holder_is_other, rank: 0 })
    }

    /// Whether no more mailboxes fit into memory.
    pub(crate) fn is_full(&self) -> bool {
        let persons = self.persons.as_ref().map_or(0, |persons| persons.capacity() * size_of::<u32>());
        self.mailboxes.bytes() + persons > self.most
    }

    /// Whether a record that was kept has the mailbox of that hash.
    pub(crate) fn is_kept(&self, hash: u128) -> bool {
        self.mailboxes.holder(hash).is_some_and(|holder| holder.kept)
    }

    /// How many distinct mailboxes there are.
    pub(crate) fn len(&self) -> u64 {
        self.mailboxes.len() - self.each_person.unwrap_or(0)
    }
}
