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
}
