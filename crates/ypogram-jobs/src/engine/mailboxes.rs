//! The mailboxes seen so far: which record has each, in sixteen bytes.

use ypogram_bytes::{BUCKET_SLOT, BucketTable};
use ypogram_io::{Error, Result};

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
    /// Never 0, since records are numbered from 1.
    packed: u64,
}

const RECORD_BITS: u32 = 40;
const KEPT: u64 = 1 << RECORD_BITS;
const HASH_SHIFT: u32 = RECORD_BITS + 1;

impl Entry {
    fn new(hash: u128, holder: Holder) -> Self {
        debug_assert!(0 < holder.record && holder.record < 1 << RECORD_BITS);
        let kept = if holder.kept { KEPT } else { 0 };
        Entry { hash: hash as u64, packed: more_hash(hash) | kept | holder.record }
    }

    fn of([hash, packed]: [u64; 2]) -> Self {
        Entry { hash, packed }
    }

    fn holder(self) -> Holder {
        Holder { record: self.packed & (KEPT - 1), kept: self.packed & KEPT != 0 }
    }

    /// Whether the rest of its hash is that of `hash`.
    fn has_more_of(self, hash: u128) -> bool {
        self.packed & !((KEPT << 1) - 1) == more_hash(hash)
    }

    fn is_free(self) -> bool {
        self.packed == 0
    }
}

fn more_hash(hash: u128) -> u64 {
    ((hash >> 64) as u64) << HASH_SHIFT
}

/// The mailboxes seen so far: open addressing, so that a look-up waits for one place in memory. In sixteen
/// parts, so that little is held twice while one or two grow.
pub(crate) struct Mailboxes {
    parts: [Part; PARTS],
    len: u64,
    /// BucketTable of all parts.
    count: usize,
    /// Two parts may grow at once, each on a thread of its own.
    in_pairs: bool,
}

const PARTS: usize = 16;

/// BucketTable of which most mailboxes stand in one: those of two lines of the processor's cache.
const LINE: usize = 8;

/// BucketTable of a part at first.
const FIRST: usize = 1 << 11;

/// BucketTable in one of the large pages of the system.
const PAGE: usize = (2 << 20) / BUCKET_SLOT;

const _: () = assert!(FIRST * 4 * 4 * 4 == PAGE);

/// So many hashes are fetched ahead; half as many ahead it is seen whether that was enough.
const AHEAD: usize = 32;

/// Seven of ten slots are taken at most: past that, look-ups walk far.
const fn most_in(slots: usize) -> usize {
    slots / 10 * 7
}

/// Fast at first, then by half in whole large pages, so that few slots lie idle: from two million mailboxes on that is 23 to 39 bytes
/// for each.
const fn grown(slots: usize) -> usize {
    match slots {
        0 => FIRST,
        1..PAGE => slots * 4,
        _ => (slots + slots / 2).div_ceil(PAGE) * PAGE,
    }
}

/// BucketTable of a part beside which another may grow: it takes long enough for a thread of its own, and not more than 16 MiB for a moment.
const IN_PAIRS: std::ops::RangeInclusive<usize> = PAGE..=5 * PAGE;

/// What the program, the domains seen, the chunks under way and the blocks of outputs take, and a second part that grows, in bytes.
const OTHERWISE: usize = 72 << 20;

/// What mailboxes may take of `memory` bytes.
pub(crate) fn share_of(memory: usize) -> usize {
    memory.saturating_sub(OTHERWISE).max(memory / 2)
}

/// The part for a hash, and the bits that tell the place in it.
#[inline]
fn divided(hash: u64) -> (usize, u64) {
    ((hash >> 60) as usize, hash << 4)
}

impl Mailboxes {
    /// None yet, for a job that may run so many threads.
    pub(crate) fn new(threads: usize) -> Self {
        let parts = std::array::from_fn(|_| Part::default());
        Mailboxes { parts, len: 0, count: 0, in_pairs: threads > 1 }
    }

    /// Has the processor fetch where the hashes behind the `nth` will be seen, so that it need not wait for that then. To be called
    /// before each is seen.
    #[inline]
    pub(crate) fn fetch(&self, nth: usize, hash_of: impl Fn(usize) -> Option<u128>) {
        let line = |nth: usize| {
            let (part, rest) = divided(hash_of(nth)? as u64);
            let slots = &self.parts[part].slots;
            Some((slots, slots.line_of(rest)))
        };
        let first = |nth: usize| {
            if let Some((slots, line)) = line(nth) {
                slots.fetch(line);
            }
        };
        let next = |nth: usize| {
            if let Some((slots, line)) = line(nth) {
                slots.fetch_next(line);
            }
        };
        if nth == 0 {
            (0..AHEAD).for_each(first);
            (0..AHEAD / 2).for_each(next);
        }
        first(nth + AHEAD);
        next(nth + AHEAD / 2);
    }

    /// Who had the mailbox of that hash before `newcomer`; none where nobody had, and then the newcomer has it. A kept
    /// newcomer takes the place of one for review, who must not swallow it.
    ///
    /// # Errors
    /// Where the system gives no memory.
    #[inline]
    pub(crate) fn meet(&mut self, hash: u128, newcomer: Holder) -> Result<Option<Holder>> {
        let (number, rest) = divided(hash as u64);
        if self.parts[number].is_full() {
            self.grow(number)?;
        }
        let part = &mut self.parts[number];
        let (place, entry) = part.find(rest, hash as u64, |entry| entry.has_more_of(hash));
        if entry.is_free() {
            part.set(place, Entry::new(hash, newcomer));
            part.taken += 1;
            self.len += 1;
            return Ok(None);
        }
        let holder = entry.holder();
        if newcomer.kept && !holder.kept {
            part.set(place, Entry::new(hash, newcomer));
            return Ok(None);
        }
        Ok(Some(holder))
    }

    /// Who has the mailbox of that hash.
    pub(crate) fn holder(&self, hash: u128) -> Option<Holder> {
        let (number, rest) = divided(hash as u64);
        let part = &self.parts[number];
        if part.taken == 0 {
            return None;
        }
        let (_, entry) = part.find(rest, hash as u64, |entry| entry.has_more_of(hash));
        (!entry.is_free()).then(|| entry.holder())
    }

    /// Lets that part grow, and the fullest other beside it where it soon would have to: all fill at the same pace, and those who work
    /// on what is to be seen wait for it.
    #[cold]
    fn grow(&mut self, number: usize) -> Result<()> {
        let soon_full = |part: &Part| {
            IN_PAIRS.contains(&part.slots.len()) && part.taken >= most_in(part.slots.len()) / 10 * 9
        };
        let others = (0..PARTS).filter(|&other| other != number && soon_full(&self.parts[other]));
        if self.in_pairs
            && let Some(other) = others.max_by_key(|&other| self.parts[other].taken)
        {
            let [part, other] = self.parts.get_disjoint_mut([number, other]).expect("they are two");
            std::thread::scope(|scope| {
                let other = scope.spawn(|| other.grow());
                part.grow().and(other.join().expect("nothing in it panics"))
            })?;
        } else {
            self.parts[number].grow()?;
        }
        self.count = self.parts.iter().map(|part| part.slots.len()).sum();
        Ok(())
    }

    /// Bytes that it takes, with those it takes for a moment when a part grows.
    pub(crate) fn bytes(&self) -> usize {
        // The hash divides evenly enough.
        (self.count + grown(self.count / PARTS)) * BUCKET_SLOT
    }

    /// How many there are.
    pub(crate) fn len(&self) -> u64 {
        self.len
    }
}

/// Entries in the order of their hashes, so that growing reads and writes them in order.
#[derive(Default)]
struct Part {
    slots: BucketTable<LINE>,
    taken: usize,
}

impl Part {
    fn is_full(&self) -> bool {
        self.taken >= most_in(self.slots.len())
    }

    fn grow(&mut self) -> Result<()> {
        let count = grown(self.slots.len());
        let slots = self.slots.moved(count, |hash| divided(hash).1).map_err(|error| {
            let megabytes = (count * BUCKET_SLOT) >> 20;
            Error::unusable(
                format!("the system gives no {megabytes} MB of memory for mailboxes: {error}"),
                "bound what is held with --memory, such as --memory 256M",
            )
        })?;
        self.slots = slots;
        Ok(())
    }

    /// The entry of `hash` for which `is` holds, with its place, else the free place for it.
    #[inline]
    fn find(&self, rest: u64, hash: u64, is: impl Fn(Entry) -> bool) -> (usize, Entry) {
        let (place, slot) = self.slots.find(self.slots.line_of(rest), hash, |slot| is(Entry::of(slot)));
        (place, Entry::of(slot))
    }

    fn set(&mut self, place: usize, entry: Entry) {
        self.slots.set(place, [entry.hash, entry.packed]);
    }
}

#[cfg(test)]
mod tests {
    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn a_doubtful_twin_swallows_nothing() {
        let mut mailboxes = Mailboxes::new(2);
        let mut meet = |hash, holder| mailboxes.meet(hash, holder).unwrap();
        let (kept, review) =
            (|record| Holder { record, kept: true }, |record| Holder { record, kept: false });
        assert_eq!(meet(7, review(1)), None);
        assert_eq!(meet(7, review(2)), Some(review(1)));
        assert_eq!(meet(7, kept(3)), None, "a kept record is a duplicate only of a kept one");
        assert_eq!(meet(7, kept(4)), Some(kept(3)));
        assert_eq!(meet(7 + (1 << 100), kept(5)), Some(kept(3)), "bits that are not held do not count");
        assert_eq!(meet(7 + (1 << 70), kept(6)), None);
        assert_eq!(mailboxes.len(), 2);
    }

    /// More than parts of one large page can hold, past which they grow two at a time.
    #[test]
    fn nothing_is_lost_where_two_parts_grow_at_once() {
        let hash = |record: u64| u128::from(record).wrapping_mul(0x9E37_79B9_7F4A_7C15_F39C_C060_5CED_C835);
        let records = 1..(PARTS * most_in(PAGE)) as u64 + 100_000;
        let mut mailboxes = Mailboxes::new(2);
        for record in records.clone() {
            assert_eq!(mailboxes.meet(hash(record), Holder { record, kept: true }).unwrap(), None);
        }
        assert!(mailboxes.parts.iter().all(|part| part.slots.len() > PAGE));
        for record in records {
            let met = mailboxes.meet(hash(record), Holder { record: 1, kept: true }).unwrap();
            assert_eq!(met, Some(Holder { record, kept: true }));
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(8))]

        /// Also with hashes that all want the same place, at either end of the memory, while it grows.
        #[test]
        fn holds_what_a_map_holds(hashes in vec((any::<u16>(), 0..20), 0..9000)) {
            let (mut mailboxes, mut plain) = (Mailboxes::new(2), std::collections::HashMap::new());
            for (record, (hash, home)) in (1..).zip(hashes) {
                let hash = u128::from(match home {
                    0 => u64::from(hash),
                    1 => u64::MAX - u64::from(hash),
                    _ => u64::from(hash) << 44,
                });
                let newcomer = Holder { record, kept: true };
                prop_assert_eq!(mailboxes.meet(hash, newcomer).unwrap(), plain.get(&hash).copied());
                plain.entry(hash).or_insert(newcomer);
            }
            prop_assert_eq!(mailboxes.len(), plain.len() as u64);
        }
    }
}
