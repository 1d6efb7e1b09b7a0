//! The mailboxes met so far: which record has each, in sixteen bytes.

use hashbrown::HashTable;

/// The record that has a mailbox.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Holder {
    /// Its number, from 1.
    pub(crate) record: u64,
    /// It is kept rather than for review.
    pub(crate) kept: bool,
}

/// 64 and 23 bits of the key's hash, 40 of the record's number, one for kept: the hash is keyed by the run, so that
/// nobody can craft a list in which one person's row removes another's.
#[derive(Clone, Copy)]
struct Entry {
    hash: u64,
    packed: u64,
}

const RECORD_BITS: u32 = 40;
const KEPT: u64 = 1 << RECORD_BITS;
const HASH_SHIFT: u32 = RECORD_BITS + 1;

impl Entry {
    fn new(hash: u128, holder: Holder) -> Self {
        debug_assert!(holder.record < 1 << RECORD_BITS);
        let kept = if holder.kept { KEPT } else { 0 };
        Entry { hash: hash as u64, packed: more_hash(hash) | kept | holder.record }
    }

    fn holder(self) -> Holder {
        Holder { record: self.packed & (KEPT - 1), kept: self.packed & KEPT != 0 }
    }

    fn is(self, hash: u128) -> bool {
        self.hash == hash as u64 && self.packed & !((KEPT << 1) - 1) == more_hash(hash)
    }
}

fn more_hash(hash: u128) -> u64 {
    ((hash >> 64) as u64) << HASH_SHIFT
}

/// The mailboxes met so far.
#[derive(Default)]
pub(crate) struct Mailboxes {
    entries: HashTable<Entry>,
}

impl Mailboxes {
    /// Looks where each of `hashes` will be met, so that waiting for one memory access does not wait for the others. Gives
    /// how many are there.
    pub(crate) fn look_ahead(&self, hashes: impl Iterator<Item = u128>) -> usize {
        hashes.filter(|&hash| self.entries.find(hash as u64, |entry| entry.is(hash)).is_some()).count()
    }

    /// Who had the mailbox of that hash before `newcomer`; none where nobody had, and then the newcomer has it. A kept
    /// newcomer takes the place of one for review, who must not swallow it.
    pub(crate) fn meet(&mut self, hash: u128, newcomer: Holder) -> Option<Holder> {
        match self.entries.find_mut(hash as u64, |entry| entry.is(hash)) {
            Some(entry) => {
                let holder = entry.holder();
                if newcomer.kept && !holder.kept {
                    *entry = Entry::new(hash, newcomer);
                    return None;
                }
                Some(holder)
            }
            None => {
                self.entries.insert_unique(hash as u64, Entry::new(hash, newcomer), |entry| entry.hash);
                None
            }
        }
    }

    /// Octets that it takes, with those it takes for a moment when it grows for one more.
    pub(crate) fn octets_with_one_more(&self) -> usize {
        let slot = size_of::<Entry>() + 1;
        let slots = (self.entries.capacity() * 8 / 7).max(1);
        if self.entries.len() < self.entries.capacity() { slots * slot } else { slots * slot * 3 }
    }

    /// How many there are.
    pub(crate) fn len(&self) -> u64 {
        self.entries.len() as u64
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_doubtful_twin_swallows_nothing() {
        let mut mailboxes = Mailboxes::default();
        let (kept, review) =
            (|record| Holder { record, kept: true }, |record| Holder { record, kept: false });
        assert_eq!(mailboxes.meet(7, review(1)), None);
        assert_eq!(mailboxes.meet(7, review(2)), Some(review(1)));
        assert_eq!(mailboxes.meet(7, kept(3)), None, "a kept record is a duplicate only of a kept one");
        assert_eq!(mailboxes.meet(7, kept(4)), Some(kept(3)));
        assert_eq!(
            mailboxes.meet(7 + (1 << 100), kept(5)),
            Some(kept(3)),
            "bits that are not held do not count"
        );
        assert_eq!(mailboxes.meet(7 + (1 << 70), kept(6)), None);
        assert_eq!(mailboxes.len(), 2);
    }
}
