//! Memory for hash tables that are looked up at places far apart.

use std::io;

use memmap2::{MmapMut, MmapOptions};
use prefetch_index::prefetch_index;

/// The slots of a hash table, of two words each, all zero at first; one is free as long as its second word is. They lie in pages as
/// large as the system gives: for small ones a processor would have to look up where in memory each lies, nearly every time.
///
/// ```
/// use ypogram_core::Slots;
/// let mut slots = Slots::new(1000).unwrap();
/// slots.set(996, [1, 2]);
/// assert_eq!(slots.find(996 / Slots::LINE, 1, |_| true), (996, [1, 2]));
/// assert_eq!(slots.find(996 / Slots::LINE, 3, |_| true), (997, [0, 0]));
/// ```
#[derive(Debug, Default)]
pub struct Slots {
    memory: Option<MmapMut>,
    len: usize,
}

impl Slots {
    /// Octets of a slot.
    pub const OCTETS: usize = 2 * WORD;

    /// Slots that a processor reads at once.
    pub const LINE: usize = 64 / Slots::OCTETS;

    /// So many slots, a multiple of [`LINE`](Self::LINE).
    ///
    /// # Errors
    /// Where the system gives no memory for them.
    pub fn new(len: usize) -> io::Result<Self> {
        let memory = MmapOptions::new().len(len * Slots::OCTETS).map_anon()?;
        // Only wishes: without them it is slower, not wrong. Each page is touched before long, and one that is first read and then
        // written to costs two faults, and the other threads an interruption.
        #[cfg(target_os = "linux")]
        for wish in [memmap2::Advice::HugePage, memmap2::Advice::PopulateWrite] {
            let _ = memory.advise(wish);
        }
        Ok(Slots { memory: Some(memory), len })
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

    /// The first slot from the `line`th line on that has `first` as its first word and for which `is` holds, else the first free
    /// one, with its place. Behind the last line comes the first again, and one slot has to be free.
    ///
    /// # Panics
    /// Where there is no such line.
    #[inline]
    pub fn find(&self, line: usize, first: u64, is: impl Fn([u64; 2]) -> bool) -> (usize, [u64; 2]) {
        let (lines, _) = self.octets().as_chunks::<{ Slots::LINE * Slots::OCTETS }>();
        let mut line = line;
        loop {
            let (slots, _) = lines[line].as_chunks();
            // Those of a line are all looked at, since a processor cannot foresee which of them it will be.
            let mut stops = 0_u32;
            for (nth, slot) in slots.iter().enumerate() {
                let [word, second] = words(slot);
                stops |= u32::from((word == first) | (second == 0)) << nth;
            }
            while stops != 0 {
                let nth = stops.trailing_zeros() as usize;
                let slot = words(&slots[nth % Slots::LINE]);
                if slot[1] == 0 || is(slot) {
                    return (line * Slots::LINE + nth, slot);
                }
                stops &= stops - 1;
            }
            line = if line + 1 == lines.len() { 0 } else { line + 1 };
        }
    }

    /// Calls `take` with each slot that is taken, in order.
    #[inline]
    pub fn each_taken(&self, mut take: impl FnMut([u64; 2])) {
        let (slots, _) = self.octets().as_chunks();
        let mut taken = [[0; 2]; SOME];
        for some in slots.chunks(SOME) {
            // Gathered first, since a processor cannot foresee which are.
            let mut count = 0;
            for slot in some.iter().map(words) {
                taken[count % SOME] = slot;
                count += usize::from(slot[1] != 0);
            }
            taken[..count].iter().copied().for_each(&mut take);
        }
    }

    /// Writes the slot at `place`.
    ///
    /// # Panics
    /// Where there is none.
    #[inline]
    pub fn set(&mut self, place: usize, slot: [u64; 2]) {
        let (slots, _) = self.memory.as_deref_mut().unwrap_or_default().as_chunks_mut::<{ Slots::OCTETS }>();
        let (words, _) = slots[place].as_chunks_mut();
        for (word, of_slot) in words.iter_mut().zip(slot) {
            *word = of_slot.to_ne_bytes();
        }
    }

    /// Has the processor fetch the `line`th line, so that it need not wait for it when it is read.
    #[inline]
    pub fn fetch(&self, line: usize) {
        prefetch_index(self.octets(), line * Slots::LINE * Slots::OCTETS);
    }

    /// Makes all of them zero again.
    pub fn clear(&mut self) {
        self.memory.as_deref_mut().unwrap_or_default().fill(0);
    }

    #[inline]
    fn octets(&self) -> &[u8] {
        self.memory.as_deref().unwrap_or_default()
    }
}

#[inline]
fn words(slot: &[u8; Slots::OCTETS]) -> [u64; 2] {
    // Each by itself: a map over an array is not put together from two reads.
    let (words, _) = slot.as_chunks();
    [u64::from_ne_bytes(words[0]), u64::from_ne_bytes(words[1])]
}

/// Slots that are looked at before any of them is used.
const SOME: usize = 64;

const WORD: usize = size_of::<u64>();

#[cfg(test)]
mod tests {
    use std::collections::HashMap;

    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Also where many want the same line, the last one is full, and words differ in what only `is` asks.
        #[test]
        fn finds_what_was_put_there(put in vec((0_u64..12, 28_usize..32, 1_u64..4), 0..120)) {
            let mut slots = Slots::new(32 * Slots::LINE).unwrap();
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
            slots.each_taken(|[first, second]| taken.push(((first, second & 3), second)));
            prop_assert_eq!(taken.len(), plain.len());
            prop_assert_eq!(taken.into_iter().collect::<HashMap<_, _>>(), plain);
            slots.clear();
            slots.each_taken(|slot| panic!("{slot:?} is still there"));
        }
    }
}
