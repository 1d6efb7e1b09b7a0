//! Values of hidden fields, to be looked for in a copy.

use hashbrown::HashMap;

/// Values of hidden fields that are long enough to be recognised elsewhere, by how they begin.
#[derive(Clone, Debug, Default)]
pub(super) struct HiddenValues {
    by_beginning: HashMap<[u8; BEGINNING], Vec<Box<[u8]>>>,
}

/// Bytes that every value has that is looked for.
const BEGINNING: usize = 6;

/// Characters that a value has at least.
const LEAST: usize = 6;

impl HiddenValues {
    /// Adds a value, where it is long enough.
    pub(super) fn add(&mut self, value: &[u8]) {
        let value = value.trim_ascii().to_ascii_lowercase();
        let is_long = String::from_utf8_lossy(&value).chars().count() >= LEAST;
        if let Some(beginning) = value.first_chunk::<BEGINNING>().filter(|_| is_long) {
            let values = self.by_beginning.entry(*beginning).or_default();
            if !values.iter().any(|known| **known == *value) {
                values.push(value.into());
            }
        }
    }

    pub(super) fn is_empty(&self) -> bool {
        self.by_beginning.is_empty()
    }

    /// Calls `see` with the place of each of them that stands in `text` as a whole word, letter case aside.
    pub(super) fn find(&self, text: &[u8], mut see: impl FnMut(usize, usize)) {
        let lower = text.to_ascii_lowercase();
        let is_of_word = |b: Option<&u8>| b.is_some_and(|b| b.is_ascii_alphanumeric() || *b >= 0x80);
        for (at, beginning) in lower.windows(BEGINNING).enumerate() {
            if is_of_word(at.checked_sub(1).and_then(|before| lower.get(before)))
                && is_of_word(beginning.first())
            {
                continue;
            }
            let Some(values) = self.by_beginning.get(beginning) else { continue };
            let here = |value: &[u8]| {
                lower[at..].starts_with(value)
                    && !(is_of_word(value.last()) && is_of_word(lower.get(at + value.len())))
            };
            if let Some(value) = values.iter().find(|value| here(value)) {
                see(at, at + value.len());
            }
        }
    }
}
