//! Counts by hash in bounded memory: every hash while they are few, beyond that those that start with some zero bits,
//! which are a fair sample of the distinct ones with exact counts. It comes out the same whatever the order of what is
//! added, and however it was divided before merging.

use hashbrown::HashTable;
use hashbrown::hash_table::Entry;

/// A value for each hash, or for a fair sample of them.
#[derive(Clone, Debug)]
pub(crate) struct HashSample<V> {
    table: HashTable<(u64, V)>,
    /// Leading zero bits that a hash must have.
    level: u32,
    most: usize,
}

impl<V> HashSample<V> {
    /// With at most `most` entries.
    pub(crate) fn new(most: usize) -> Self {
        HashSample { table: HashTable::new(), level: 0, most }
    }

    /// Whether hashes like this are held.
    #[inline]
    fn covers(&self, hash: u64) -> bool {
        hash.leading_zeros() >= self.level
    }

    /// The value of `hash`, made where there is none yet; none where it is not of the sample.
    #[inline]
    pub(crate) fn value(&mut self, hash: u64, make: impl FnOnce() -> V) -> Option<&mut V> {
        if !self.covers(hash) {
            return None;
        }
        let entry = match self.table.entry(mixed(hash), |(held, _)| *held == hash, |(hash, _)| mixed(*hash)) {
            Entry::Occupied(entry) => entry.into_mut(),
            Entry::Vacant(entry) => entry.insert((hash, make())).into_mut(),
        };
        Some(&mut entry.1)
    }

    /// The value of `hash`, where there is one.
    pub(crate) fn get(&self, hash: u64) -> Option<&V> {
        self.table.find(mixed(hash), |(held, _)| *held == hash).map(|(_, value)| value)
    }

    /// Whether every hash is held.
    pub(crate) fn is_exact(&self) -> bool {
        self.level == 0
    }

    /// Drops half of the hashes after the other until it holds no more than it may.
    #[inline]
    pub(crate) fn thin(&mut self) {
        while self.table.len() > self.most {
            self.thin_to(self.level + 1);
        }
    }

    fn thin_to(&mut self, level: u32) {
        if level > self.level {
            self.level = level;
            self.table.retain(|(hash, _)| hash.leading_zeros() >= level);
        }
    }

    /// How many distinct hashes there are: exact, or an estimate.
    pub(crate) fn distinct(&self) -> u64 {
        (self.table.len() as u64) << self.level
    }

    /// What a count over the sample has to be multiplied by.
    pub(crate) fn scale(&self) -> u64 {
        1 << self.level
    }

    /// The hashes held with their values, in no order.
    pub(crate) fn iter(&self) -> impl Iterator<Item = (u64, &V)> {
        self.table.iter().map(|(hash, value)| (*hash, value))
    }

    /// Adds what `other` holds; where both have a value, `join` makes one of them. To be thinned afterwards.
    pub(crate) fn merge(&mut self, other: HashSample<V>, join: impl Fn(&mut V, V)) {
        self.thin_to(other.level);
        for (hash, value) in other.table {
            let mut value = Some(value);
            if let Some(held) = self.value(hash, || value.take().expect("it is asked for once"))
                && let Some(value) = value
            {
                join(held, value);
            }
        }
    }
}

/// The leading bits of a sample's hashes are all zero, and the halves of a hash may tell of different things, so that the
/// table goes by both together.
fn mixed(hash: u64) -> u64 {
    hash ^ hash.rotate_left(32)
}
