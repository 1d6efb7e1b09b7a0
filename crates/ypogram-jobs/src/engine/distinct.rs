//! How many distinct things there are: exact while they are few, an estimate beyond.

use hashbrown::HashTable;
use serde::{Deserialize, Serialize};

/// Up to this many are counted exactly.
const EXACT: usize = 1 << 16;

/// Registers of the estimate (HyperLogLog): 2^14 give a standard error of 0.81 %.
const REGISTER_BITS: u32 = 14;

/// A count of distinct things.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct DistinctCount {
    /// How many there are.
    pub count: u64,
    /// Whether that is exact; else its standard error is below 1 %.
    pub exact: bool,
}

/// The names of those of `counts` that are estimates, as summaries list them.
pub(crate) fn estimates<'n>(
    counts: impl IntoIterator<Item = (&'n str, DistinctCount)>,
) -> impl Iterator<Item = &'n str> {
    counts.into_iter().filter(|(_, count)| !count.exact).map(|(name, _)| name)
}

/// Counts distinct hashes.
#[derive(Clone, Debug)]
pub(crate) struct Distinct {
    /// The hashes themselves; they need no hashing again.
    seen: HashTable<u64>,
    /// Empty while the count is exact.
    registers: Vec<u8>,
}

impl Default for Distinct {
    fn default() -> Self {
        Distinct { seen: HashTable::new(), registers: Vec::new() }
    }
}

impl Distinct {
    /// Adds something by its hash.
    #[inline]
    pub(crate) fn add(&mut self, hash: u64) {
        if !self.registers.is_empty() {
            return self.register(hash);
        }
        self.seen.entry(hash, |&seen| seen == hash, |&seen| seen).or_insert(hash);
        if self.seen.len() > EXACT {
            self.registers = vec![0; 1 << REGISTER_BITS];
            for hash in std::mem::take(&mut self.seen) {
                self.register(hash);
            }
        }
    }

    fn register(&mut self, hash: u64) {
        let place = (hash >> (64 - REGISTER_BITS)) as usize;
        let zeros = (hash << REGISTER_BITS | 1 << (REGISTER_BITS - 1)).leading_zeros() as u8 + 1;
        self.registers[place] = self.registers[place].max(zeros);
    }

    /// How many there are.
    pub(crate) fn count(&self) -> DistinctCount {
        if self.registers.is_empty() {
            return DistinctCount { count: self.seen.len() as u64, exact: true };
        }
        let registers = self.registers.len() as f64;
        let sum: f64 = self.registers.iter().map(|&zeros| 2_f64.powi(-i32::from(zeros))).sum();
        let estimate = 0.7213 / (1.0 + 1.079 / registers) * registers * registers / sum;
        DistinctCount { count: estimate.round() as u64, exact: false }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ypogram_core::Hasher;

    #[test]
    fn exact_while_few_and_near_beyond() {
        let hasher = Hasher::with_key(9);
        let mut distinct = Distinct::default();
        for i in 0..2_000_000_u64 {
            // Each comes twice.
            distinct.add(hasher.hash(&(i / 2).to_le_bytes()) as u64);
            if i + 1 == EXACT as u64 {
                assert_eq!(distinct.count(), DistinctCount { count: EXACT as u64 / 2, exact: true });
            }
        }
        let DistinctCount { count, exact } = distinct.count();
        assert!(!exact);
        let error = (count as f64 - 1_000_000.0).abs() / 1_000_000.0;
        assert!(error < 3.0 * 0.0081, "{count} is off by {error}");
    }
}
