//! Memory for hash tables that are looked up at places far apart.

use std::io;

use memmap2::{MmapMut, MmapOptions};
use prefetch_index::prefetch_index;
use wide::u32x8;

/// The slots of a hash table, of two words each, all zero at first; one is free as long as its second word is. `LINE` of them, a
/// power of two of at least four, are looked at together. They lie in pages as large as the system gives: for small ones a processor
/// would have to look up where in memory each lies, nearly every time.
///
/// ```
/// use ypogram_bytes::BucketTable;
/// let mut slots = BucketTable::<4>::new(1000).unwrap();
/// slots.set(996, [1, 2]);
/// assert_eq!(slots.find(996 / 4, 1, |_| true), (996, [1, 2]));
/// assert_eq!(slots.find(996 / 4, 3, |_| true), (997, [0, 0]));
/// ```
#[derive(Debug, Default)]
pub struct BucketTable<const LINE: usize> {
    memory: Option<MmapMut>,
    len: usize,
}

/// Bytes of a slot.
pub const BUCKET_SLOT: usize = 2 * WORD;

/// Bytes that a processor reads at once.
const AT_ONCE: usize = 64;

impl<const LINE: usize> BucketTable<LINE> {
    /// So many slots, a multiple of `LINE`.
    ///
    /// # Errors
    /// Where the system gives no memory for them.
    pub fn new(len: usize) -> io::Result<Self> {
        let memory = MmapOptions::new().len(len * BUCKET_SLOT).map_anon()?;
        // Only wishes: without them it is slower, not wrong. Each page is touched before long, and one that is first read and then
        // written to costs two faults, and the other threads an interruption.
        #[cfg(target_os = "linux")]
        for wish in [memmap2::Advice::HugePage, memmap2::Advice::PopulateWrite] {
            let _ = memory.advise(wish);
        }
        Ok(BucketTable { memory: Some(memory), len })
    }

    /// How many there are; none in those made by `default`.
    #[inline]
    pub fn len(&self) -> usize {
        self.len
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len == 0
    }

    /// The line from which `hash` is looked for, so that those of greater hashes lie further back.
    #[inline]
    pub fn line_of(&self, hash: u64) -> usize {
        let lines = self.len / LINE;
        ((u128::from(hash) * lines as u128) >> 64) as usize
    }

    /// The first slot from the `line`th line on that has `first` as its first word and for which `is` holds, else the first free
    /// one, with its place. Behind the last line comes the first again, and one slot has to be free.
    ///
    /// # Panics
    /// Where there is no such line.
    #[inline]
    pub fn find(&self, line: usize, first: u64, is: impl Fn([u64; 2]) -> bool) -> (usize, [u64; 2]) {
        let (lines, _) = self.slots().as_chunks::<LINE>();
        let mut line = line;
        loop {
            let slots = &lines[line];
            // Those of a line are all looked at, since a processor cannot foresee which of them it will be.
            let mut stops = stops_in(slots, first);
            while stops != 0 {
                let nth = stops.trailing_zeros() as usize / 4;
                let slot = words(&slots[nth % LINE]);
                if slot[1] == 0 || is(slot) {
                    return (line * LINE + nth, slot);
                }
                stops &= stops - 1;
            }
            line = if line + 1 == lines.len() { 0 } else { line + 1 };
        }
    }

    /// As many slots as `len` with what is in these, where `hash_of` gives the hash from whose [line](Self::line_of) a first word is
    /// looked for. All have to be where [`find`](Self::find) would have found them a place.
    ///
    /// # Errors
    /// Where the system gives no memory for them.
    pub fn moved(&self, len: usize, hash_of: impl Fn(u64) -> u64) -> io::Result<Self> {
        let mut more = BucketTable::new(len)?;
        let mut counts = Counts::<LINE>::new(len / LINE);
        let mut out_of_order = Vec::new();
        self.each_taken(|place, slot| {
            let line = more.line_of(hash_of(slot[0]));
            // In the order of the lines, but for those that found no room in theirs.
            let near = (place as u128 * len as u128 / self.len as u128) as usize / LINE;
            match counts.place(line, near) {
                Some(place) => more.set(place, slot),
                None => out_of_order.push(slot),
            }
        });
        for slot in out_of_order {
            let (place, _) = more.find(more.line_of(hash_of(slot[0])), slot[0], |_| false);
            more.set(place, slot);
        }
        Ok(more)
    }

    /// Calls `take` with each slot that is taken, in order, and with a place shortly before its own.
    #[inline]
    fn each_taken(&self, mut take: impl FnMut(usize, [u64; 2])) {
        let mut taken = [[0; 2]; SOME];
        for (nth, some) in self.slots().chunks(SOME).enumerate() {
            // Gathered first, since a processor cannot foresee which are.
            let mut count = 0;
            for slot in some.iter().map(words) {
                taken[count % SOME] = slot;
                count += usize::from(slot[1] != 0);
            }
            taken[..count].iter().for_each(|slot| take(nth * SOME, *slot));
        }
    }

    /// Writes the slot at `place`.
    ///
    /// # Panics
    /// Where there is none.
    #[inline]
    pub fn set(&mut self, place: usize, slot: [u64; 2]) {
        let (slots, _) = self.memory.as_deref_mut().unwrap_or_default().as_chunks_mut::<BUCKET_SLOT>();
        let (words, _) = slots[place].as_chunks_mut();
        for (word, of_slot) in words.iter_mut().zip(slot) {
            *word = of_slot.to_ne_bytes();
        }
    }

    /// Has the processor fetch the `line`th line, so that it need not wait for it when it is read.
    #[inline]
    pub fn fetch(&self, line: usize) {
        for start in (0..LINE * BUCKET_SLOT).step_by(AT_ONCE) {
            prefetch_index(self.bytes(), line * LINE * BUCKET_SLOT + start);
        }
    }

    /// Has it fetch the line behind the `line`th as well where that has no room left, so that it may have to be read too. To be
    /// called once the `line`th was fetched.
    #[inline]
    pub fn fetch_next(&self, line: usize) {
        let last = self.slots().get(line * LINE + LINE - 1).map(words);
        let is_full = last.is_some_and(|slot| slot[1] != 0);
        self.fetch(line + usize::from(is_full));
    }

    /// Makes all of them zero again.
    pub fn clear(&mut self) {
        self.memory.as_deref_mut().unwrap_or_default().fill(0);
    }

    #[inline]
    fn bytes(&self) -> &[u8] {
        self.memory.as_deref().unwrap_or_default()
    }

    #[inline]
    fn slots(&self) -> &[[u8; BUCKET_SLOT]] {
        self.bytes().as_chunks().0
    }
}

/// How many slots of each of some lines are taken, while slots are filled line by line: it is not read again from where it was
/// written, which lies far from the processor by then.
struct Counts<const LINE: usize> {
    /// The line and the count, for those of which the number has the same remainder.
    last: [(usize, usize); NEAR],
    lines: usize,
}

/// Lines of which the counts are known.
const NEAR: usize = 64;

impl<const LINE: usize> Counts<LINE> {
    fn new(lines: usize) -> Self {
        Counts { last: [(usize::MAX, 0); NEAR], lines }
    }

    /// The next free place in the `line`th line or behind it, which is then taken; none where that is far from the line `near`.
    #[inline]
    fn place(&mut self, line: usize, near: usize) -> Option<usize> {
        // Of lines that are less apart than there are counts, none takes the count of another.
        let within = near.saturating_sub(NEAR / 4)..self.lines.min(near + NEAR / 2);
        let mut line = line;
        while within.contains(&line) {
            let (of, count) = &mut self.last[line % NEAR];
            if *of != line {
                (*of, *count) = (line, 0);
            }
            if *count < LINE {
                *count += 1;
                return Some(line * LINE + *count - 1);
            }
            line += 1;
        }
        None
    }
}

/// Four bits for each slot, of which one is set where its first word is `first`, or where it is free.
#[inline]
fn stops_in<const LINE: usize>(slots: &[[u8; BUCKET_SLOT]; LINE], first: u64) -> u32 {
    let (low, high) = (first as u32, (first >> 32) as u32);
    let wanted = u32x8::new([low, high, 0, 0, low, high, 0, 0]);
    let (pairs, _) = slots.as_chunks::<2>();
    let mut alike = 0_u32;
    for (nth, pair) in pairs.iter().enumerate() {
        let parts = pair.as_flattened().as_chunks::<4>().0;
        let part = |nth: usize| u32::from_ne_bytes(parts[nth]);
        let parts = u32x8::new([part(0), part(1), part(2), part(3), part(4), part(5), part(6), part(7)]);
        alike |= parts.simd_eq(wanted).to_bitmask() << (8 * nth);
    }
    // Both halves of one of the two words.
    let words = alike & alike >> 1;
    (words | words >> 2) & 0x1111_1111
}

#[inline]
fn words(slot: &[u8; BUCKET_SLOT]) -> [u64; 2] {
    // Each by itself: a map over an array is not put together from two reads.
    let (words, _) = slot.as_chunks();
    [u64::from_ne_bytes(words[0]), u64::from_ne_bytes(words[1])]
}

/// BucketTable that are looked at before any of them is used.
const SOME: usize = 64;

const WORD: usize = size_of::<u64>();

#[cfg(test)]
mod tests {
    use std::collections::HashMap;

    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;

    /// Puts words whose lines follow from themselves into some slots, moves them, and looks for each.
    fn moved_are_found<const LINE: usize>(put: &[u64], lines: usize, more: usize) -> bool {
        let mut slots = BucketTable::<LINE>::new(lines * LINE).unwrap();
        let mut words = Vec::new();
        for &word in put.iter().take(lines * LINE - 1) {
            let (place, met) = slots.find(slots.line_of(word), word, |_| true);
            if met[1] == 0 {
                slots.set(place, [word, !word | 1]);
                words.push(word);
            }
        }
        let moved = slots.moved((lines + more) * LINE, |word| word).unwrap();
        let mut count = 0;
        moved.each_taken(|_, _| count += 1);
        let found = |&word: &u64| moved.find(moved.line_of(word), word, |_| true).1 == [word, !word | 1];
        count == words.len() && words.iter().all(found)
    }

    proptest! {
        /// Also where nearly all slots are taken, many want the same line, and some found a place in front of it only.
        #[test]
        fn what_is_moved_is_found(
            put in vec((any::<u64>(), 0_u32..3), 0..900),
            lines in 1_usize..120,
            more in 0_usize..150,
        ) {
            // Spread, near the end, and near the beginning.
            let word = |(word, place)| match place { 0 => word, 1 => u64::MAX - (word >> 8), _ => word >> 12 };
            let put: Vec<u64> = put.into_iter().map(word).collect();
            prop_assert!(moved_are_found::<4>(&put, lines, more));
            prop_assert!(moved_are_found::<8>(&put, lines, more));
        }

        /// Also where many want the same line, the last one is full, and words differ in what only `is` asks.
        #[test]
        fn finds_what_was_put_there(put in vec((0_u64..12, 28_usize..32, 1_u64..4), 0..120)) {
            let mut slots = BucketTable::<4>::new(32 * 4).unwrap();
            let mut plain = HashMap::new();
            for (nth, (word, line, second)) in put.into_iter().enumerate() {
                // A word is always looked for from the same line.
                let first = word * 32 + line as u64;
                let second = (nth as u64) << 2 | second;
                let (place, met) = slots.find(line, first, |slot| slot[1] & 3 == second & 3);
                let known = plain.get(&(first, second & 3)).copied();
                prop_assert_eq!((met[1] != 0).then_some(met[1]), known);
                if known.is_none() {
                    slots.set(place, [first, second]);
                    plain.insert((first, second & 3), second);
                }
            }
            let mut taken = Vec::new();
            slots.each_taken(|_, [first, second]| taken.push(((first, second & 3), second)));
            prop_assert_eq!(taken.len(), plain.len());
            prop_assert_eq!(taken.into_iter().collect::<HashMap<_, _>>(), plain);
            slots.clear();
            slots.each_taken(|_, slot| panic!("{slot:?} is still there"));
        }
    }
}
