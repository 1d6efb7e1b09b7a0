//! Distinct texts with a number for each, in the order in which they were seen first.

use std::hash::BuildHasher as _;

use hashbrown::{DefaultHashBuilder, HashTable};

/// Distinct texts: some thirty bytes each beside their own.
#[derive(Default)]
pub(crate) struct Texts {
    bytes: Vec<u8>,
    ends: Vec<usize>,
    /// So that a table that grows need not read the texts again.
    hashes: Vec<u64>,
    numbers: HashTable<u32>,
    hasher: DefaultHashBuilder,
}

impl Texts {
    /// The number of a text, and whether it is new.
    pub(crate) fn number(&mut self, text: &[u8]) -> (u32, bool) {
        let Texts { bytes, ends, hashes, numbers, hasher } = self;
        let hash = hasher.hash_one(text);
        let is_text = |number: u32| hashes[number as usize] == hash && slice(bytes, ends, number) == text;
        if let Some(known) = numbers.find(hash, |&number| is_text(number)) {
            return (*known, false);
        }
        let number = u32::try_from(ends.len()).expect("fewer than four thousand million texts fit in memory");
        numbers.insert_unique(hash, number, |&number| hashes[number as usize]);
        hashes.push(hash);
        bytes.extend_from_slice(text);
        ends.push(bytes.len());
        (number, true)
    }

    /// The number of a text that is known.
    pub(crate) fn find(&self, text: &[u8]) -> Option<u32> {
        let of = |&number: &u32| self.get(number) == text;
        self.numbers.find(self.hasher.hash_one(text), of).copied()
    }

    /// The text of a number.
    pub(crate) fn get(&self, number: u32) -> &[u8] {
        slice(&self.bytes, &self.ends, number)
    }

    /// How many there are.
    pub(crate) fn len(&self) -> usize {
        self.ends.len()
    }

    /// Bytes of memory that they take.
    pub(crate) fn memory(&self) -> usize {
        self.bytes.capacity()
            + self.ends.capacity() * (size_of::<usize>() + size_of::<u64>())
            + self.numbers.allocation_size()
    }
}

fn slice<'b>(bytes: &'b [u8], ends: &[usize], number: u32) -> &'b [u8] {
    let number = number as usize;
    let start = number.checked_sub(1).map_or(0, |before| ends[before]);
    &bytes[start..ends[number]]
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Numbers follow the order in which texts are seen first, and lead back to them, empty ones too.
        #[test]
        fn as_a_list_of_distinct_texts(seen in prop::collection::vec("[a-c\\x00]{0,3}", 0..300)) {
            let (mut texts, mut plain) = (Texts::default(), Vec::<&String>::new());
            for text in &seen {
                let known = plain.iter().position(|known| *known == text);
                let expected = known.unwrap_or(plain.len());
                prop_assert_eq!(texts.find(text.as_bytes()), known.map(|number| number as u32));
                prop_assert_eq!(texts.number(text.as_bytes()), (expected as u32, known.is_none()));
                plain.extend(known.is_none().then_some(text));
            }
            prop_assert_eq!(texts.len(), plain.len());
            for (number, text) in (0..).zip(plain) {
                prop_assert_eq!(texts.get(number), text.as_bytes());
            }
        }
    }
}
