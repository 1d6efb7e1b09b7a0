//! Addresses that the house's format would give to several records.

use hashbrown::HashMap;
use serde::Serialize;

/// An address that two records would have.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct HouseClash {
    /// The address.
    pub address: String,
    /// The earlier record, by its number from 1.
    pub earlier: u64,
    /// The later one.
    pub later: u64,
}

/// What is proposed for a record.
#[derive(Clone, Debug)]
pub(crate) struct HouseAddress {
    /// A hash of the address.
    pub(crate) hash: u64,
    /// The record, by its place in the chunk.
    pub(crate) record: usize,
    pub(crate) address: String,
}

/// The addresses so far: 16 bytes for each that fits, more for each that is proposed.
#[derive(Clone, Debug, Default)]
pub(crate) struct HouseClashes {
    /// Of those that fit, a hash and the record.
    own: Vec<(u64, u64)>,
    proposed: Vec<(u64, u64, String)>,
}

impl HouseClashes {
    /// Takes the addresses of a chunk before which `before` records stand: a hash and the place of each that fits, and those proposed.
    pub(crate) fn take(&mut self, before: u64, own: &mut Vec<(u64, u32)>, proposed: &mut Vec<HouseAddress>) {
        let record = |place: u64| before + place + 1;
        self.own.extend(own.drain(..).map(|(hash, place)| (hash, record(u64::from(place)))));
        let proposed = proposed.drain(..);
        self.proposed.extend(proposed.map(|one| (one.hash, record(one.record as u64), one.address)));
    }

    /// Each proposal with the first other record that has the address, or is proposed it. Two records that have it both are duplicates.
    pub(crate) fn found(self) -> Vec<HouseClash> {
        let mut first: HashMap<u64, u64> = HashMap::with_capacity(self.proposed.len());
        for (hash, record, _) in &self.proposed {
            first.entry(*hash).or_insert(*record);
        }
        let mut had: HashMap<u64, u64> = HashMap::new();
        for (hash, record) in self.own.iter().filter(|(hash, _)| first.contains_key(hash)) {
            had.entry(*hash).or_insert(*record);
        }
        let clashes = self.proposed.into_iter().filter_map(|(hash, record, address)| {
            let other = *had.get(&hash).or_else(|| first.get(&hash))?;
            let (earlier, later) = (other.min(record), other.max(record));
            (earlier != later).then_some(HouseClash { address, earlier, later })
        });
        clashes.collect()
    }
}
