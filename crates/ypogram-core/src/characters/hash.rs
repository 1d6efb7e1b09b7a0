//! One hash for keys and domains: 128 bits wide and keyed, so that nobody can craft a list in which two names collide.

use xxhash_rust::xxh3::{xxh3_64_with_seed, xxh3_128_with_seed};

/// Hashes bytes to 128 bits under a key.
///
/// ```
/// use ypogram_core::Hasher;
/// assert_eq!(Hasher::with_key(7).hash(b"a@b"), Hasher::with_key(7).hash(b"a@b"));
/// assert_ne!(Hasher::with_key(7).hash(b"a@b"), Hasher::with_key(8).hash(b"a@b"));
/// ```
#[derive(Clone, Copy, Debug)]
pub struct Hasher {
    key: u64,
}

impl Hasher {
    /// A hasher whose results depend on `key`; take a new one each run.
    pub fn with_key(key: u64) -> Self {
        Hasher { key }
    }

    /// The hash of `bytes`.
    #[inline]
    pub fn hash(self, bytes: &[u8]) -> u128 {
        xxh3_128_with_seed(bytes, self.key)
    }

    /// A hash of 64 bits of `bytes`, where that is enough; faster.
    #[inline]
    pub fn hash_short(self, bytes: &[u8]) -> u64 {
        xxh3_64_with_seed(bytes, self.key)
    }

    /// A hash of 64 bits of the first `bytes` of `from`. What stands behind them has no meaning: where there is enough, short
    /// ones are hashed in the same steps whatever their number, as a processor cannot foresee which of several ways to go.
    #[inline]
    pub(crate) fn hash_name(self, from: &[u8], len: usize) -> u64 {
        let Some(kept) = KEPT.get(len) else {
            // Under another key, since they could be made to look like a short one and its length.
            return xxh3_64_with_seed(&from[..len], !self.key);
        };
        let mut name = match from.first_chunk::<NAME>() {
            Some(name) => *name,
            None => copied(&from[..len]),
        };
        let (halves, _) = name.as_chunks_mut::<{ NAME / 2 }>();
        for (half, kept) in halves.iter_mut().zip(kept) {
            *half = (u128::from_le_bytes(*half) & kept).to_le_bytes();
        }
        name[NAME - 1] = len as u8;
        xxh3_64_with_seed(&name, self.key)
    }
}

/// Bytes that are hashed together: those of a name and their number.
const NAME: usize = 32;

/// For each number of bytes which of them are kept.
static KEPT: [[u128; 2]; NAME] = {
    let mut kept = [[0; 2]; NAME];
    let mut len = 1;
    while len < NAME {
        let (before, last) = (len - 1, 0xFF << (8 * ((len - 1) % 16)));
        kept[len] = kept[before];
        kept[len][before / 16] |= last;
        len += 1;
    }
    kept
};

#[cold]
fn copied(text: &[u8]) -> [u8; NAME] {
    let mut name = [0; NAME];
    name[..text.len()].copy_from_slice(text);
    name
}

#[cfg(test)]
mod tests {
    use std::collections::HashMap;

    use super::*;

    /// Whatever stands behind a name, and also where one ends as if it told the length of another.
    #[test]
    fn names_are_hashed_alike_wherever_they_stand() {
        let hasher = Hasher::with_key(3);
        let long = [&b"a.example"[..], &[0; NAME - 10], &[9]].concat();
        let texts = [
            "a.example",
            "a.example\0",
            "",
            "\0",
            "0123456789012345678901234567890",
            "01234567890123456789012345678901",
        ];
        let mut met: HashMap<u64, &[u8]> = HashMap::new();
        for text in texts.into_iter().map(str::as_bytes).chain([&long[..]]) {
            let hash = hasher.hash_name(text, text.len());
            for behind in [&b"x"[..], b"y and more than thirty bytes behind"] {
                assert_eq!(
                    hasher.hash_name(&[text, behind].concat(), text.len()),
                    hash,
                    "{}",
                    text.escape_ascii()
                );
            }
            assert_eq!(met.insert(hash, text), None, "{}", text.escape_ascii());
        }
    }
}
