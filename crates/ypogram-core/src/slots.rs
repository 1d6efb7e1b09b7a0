//! Memory for hash tables that are looked up at places far apart.

use std::io;

use memmap2::{MmapMut, MmapOptions};
use prefetch_index::prefetch_index;

/// The slots of a hash table, of two words each, all zero at first. They lie in pages as large as the system gives: for small
/// ones a processor would have to look up where in memory each lies, nearly every time.
///
/// ```
/// use ypogram_core::Slots;
/// let mut slots = Slots::new(1000).unwrap();
/// slots.set(999, [1, 2]);
/// assert_eq!((slots.get(0), slots.get(999)), ([0, 0], [1, 2]));
/// ```
#[derive(Debug, Default)]
pub struct Slots {
    memory: Option<MmapMut>,
    len: usize,
}

impl Slots {
    /// Octets of a slot.
    pub const OCTETS: usize = 2 * WORD;

    /// So many slots.
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

    /// The slot at `place`.
    ///
    /// # Panics
    /// Where there is none, as [`set`](Self::set) does.
    #[inline]
    pub fn get(&self, place: usize) -> [u64; 2] {
        let (first, second) = self.octets()[place * Slots::OCTETS..][..Slots::OCTETS].split_at(WORD);
        [first, second].map(|octets| u64::from_ne_bytes(octets.try_into().expect("a word")))
    }

    /// Writes the slot at `place`.
    #[inline]
    pub fn set(&mut self, place: usize, slot: [u64; 2]) {
        let memory = self.memory.as_deref_mut().unwrap_or_default();
        let (words, _) = memory[place * Slots::OCTETS..][..Slots::OCTETS].as_chunks_mut();
        for (word, of_slot) in words.iter_mut().zip(slot) {
            *word = of_slot.to_ne_bytes();
        }
    }

    /// Has the processor fetch the slot at `place`, so that it need not wait for it when it is read.
    #[inline]
    pub fn fetch(&self, place: usize) {
        prefetch_index(self.octets(), place * Slots::OCTETS);
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

const WORD: usize = size_of::<u64>();
