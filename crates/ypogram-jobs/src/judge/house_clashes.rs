//! Addresses that the house's format would give to several records.

use std::collections::HashMap;

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

/// What a record has or would have by the house's format.
#[derive(Clone, Debug)]
pub(crate) struct HouseAddress {
    /// The record, by its place in the chunk.
    pub(crate) record: usize,
    pub(crate) address: String,
    /// It is proposed; else it is what the record has.
    pub(crate) is_proposal: bool,
}

/// The addresses so far.
#[derive(Clone, Debug, Default)]
pub(crate) struct HouseClashes {
    /// The first record of each, and whether it has it.
    first: HashMap<String, (u64, bool)>,
    pub(crate) found: Vec<HouseClash>,
}

impl HouseClashes {
    /// Takes the addresses of a chunk before which `before` records stand.
    pub(crate) fn take(&mut self, before: u64, addresses: Vec<HouseAddress>) {
        for HouseAddress { record, address, is_proposal } in addresses {
            let later = before + record as u64 + 1;
            match self.first.get(&address) {
                // Two records that have it both are duplicates.
                Some((earlier, is_had)) if is_proposal || !is_had => {
                    self.found.push(HouseClash { address, earlier: *earlier, later });
                }
                Some(_) => {}
                None => {
                    self.first.insert(address, (later, !is_proposal));
                }
            }
        }
    }
}
