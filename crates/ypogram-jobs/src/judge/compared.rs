//! How a record's address compares with what is known: its keys under each rule, and whether it is on a list.

use std::sync::Arc;

use ypogram_core::{Hasher, Judge, SameMailbox};

use crate::engine::digests::Digests;
use crate::plan::outcome::Outcome;

/// What is to be found out of each record.
#[derive(Clone, Debug, Default)]
pub(crate) struct Comparing {
    /// The lists that ask to be left alone, by place.
    pub(crate) withdrawn: Vec<usize>,
    /// Hashes of addresses that ask to be left alone.
    pub(crate) withdrawn_hashed: Vec<Arc<Digests>>,
    /// Hashes of known addresses.
    pub(crate) known_hashed: Vec<Arc<Digests>>,
}

/// What was found out of a record.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Compared {
    /// Hashes of the keys under the rules `exact`, `case` and `provider`.
    pub(crate) by_rule: [u64; 3],
    /// It asked to be left alone.
    pub(crate) withdrawn: bool,
    /// The list of hashes that knows it, by place, and the record there.
    pub(crate) known_hash: Option<(usize, u64)>,
}

impl Comparing {
    /// What is to be found out of the address that the judge holds, of a record that ends so by itself.
    pub(crate) fn compare(&self, judge: &Judge<'_>, hasher: Hasher, outcome: Outcome) -> Compared {
        if !matches!(outcome, Outcome::Kept | Outcome::Review) {
            return Compared::default();
        }
        let mut key = Vec::new();
        let rules = [SameMailbox::Exact, SameMailbox::Case, SameMailbox::Provider];
        let by_rule = rules.map(|rule| hasher.hash(judge.key_in(rule, &mut key)) as u64);
        let mut withdrawn = self.withdrawn.iter().any(|&list| judge.entry_in(list).is_some());
        let mut known_hash = None;
        if !(self.withdrawn_hashed.is_empty() && self.known_hashed.is_empty()) {
            let mut spellings = vec![judge.address().to_ascii_lowercase()];
            spellings.extend(SameMailbox::ALL.map(|rule| judge.key_in(rule, &mut key).to_ascii_lowercase()));
            spellings.dedup();
            let found = |list: &Arc<Digests>| spellings.iter().find_map(|spelling| list.record_of(spelling));
            withdrawn |= self.withdrawn_hashed.iter().any(|list| found(list).is_some());
            let known = self.known_hashed.iter().enumerate();
            known_hash = known.filter_map(|(nth, list)| Some((nth, found(list)?))).next();
        }
        Compared { by_rule, withdrawn, known_hash }
    }
}
