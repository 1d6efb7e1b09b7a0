//! Judges a domain once: what was worked out for it, found again by its hash.

use hashbrown::HashTable;

use crate::domain;
use crate::facts::DomainFacts;
use crate::hash::Hasher;
use crate::policy::Policy;

/// Sixteen bytes a domain: 80 bits of a keyed hash and the facts. A real list has hundreds of thousands of domains.
#[derive(Clone, Copy)]
struct Entry {
    /// In two halves, so that nothing is left between the fields.
    hash: [u32; 2],
    more_hash: u16,
    facts: DomainFacts,
}

const _: () = assert!(size_of::<Entry>() == 16);

impl Entry {
    fn new(hash: u128, facts: DomainFacts) -> Self {
        Entry { hash: [hash as u32, (hash >> 32) as u32], more_hash: (hash >> 64) as u16, facts }
    }

    #[inline]
    fn hash(&self) -> u64 {
        u64::from(self.hash[0]) | u64::from(self.hash[1]) << 32
    }

    #[inline]
    fn is(&self, hash: u128) -> bool {
        self.hash() == hash as u64 && self.more_hash == (hash >> 64) as u16
    }
}

/// The domains met so far. Grows with the distinct ones up to a limit, past which it starts anew.
pub(crate) struct DomainCache {
    entries: HashTable<Entry>,
    hasher: Hasher,
    /// The domain asked for last: it is asked for again when its address is judged.
    last_hash: u128,
    last_facts: DomainFacts,
}

/// Past this many domains (16 MiB) the cache starts anew, so that memory stays bounded on any input.
const MOST: usize = 1 << 20;

impl DomainCache {
    pub(crate) fn new(hasher: Hasher) -> Self {
        DomainCache {
            entries: HashTable::with_capacity(1 << 14),
            hasher,
            last_hash: 0,
            last_facts: DomainFacts::default(),
        }
    }

    /// The hash of the domain asked for last.
    pub(crate) fn last_hash(&self) -> u128 {
        self.last_hash
    }

    /// The facts of the domain of that hash, where it was met.
    #[inline]
    pub(crate) fn look_up(&self, hash: u128) -> Option<DomainFacts> {
        self.entries.find(hash as u64, |entry| entry.is(hash)).map(|entry| entry.facts)
    }

    /// The hash of `domain`.
    #[inline]
    pub(crate) fn hash(&self, domain: &[u8]) -> u128 {
        self.hasher.hash(domain)
    }

    /// The facts of `domain`, which is in lower-case ASCII.
    #[inline]
    pub(crate) fn facts(&mut self, domain: &[u8], policy: &Policy) -> DomainFacts {
        self.facts_by(self.hasher.hash(domain), domain, policy)
    }

    /// The same for a domain of which the hash was taken already.
    #[inline]
    pub(crate) fn facts_by(&mut self, hash: u128, domain: &[u8], policy: &Policy) -> DomainFacts {
        match self.known(hash) {
            Some(facts) => facts,
            None => self.learn(domain, hash, policy),
        }
    }

    /// The facts of the domain of that hash, where it was met; these are in lower-case ASCII of letters, digits, hyphens and
    /// dots only.
    #[inline]
    pub(crate) fn known(&mut self, hash: u128) -> Option<DomainFacts> {
        if self.last_hash == hash {
            return Some(self.last_facts);
        }
        let facts = self.look_up(hash)?;
        (self.last_hash, self.last_facts) = (hash, facts);
        Some(facts)
    }

    #[cold]
    fn learn(&mut self, domain: &[u8], hash: u128, policy: &Policy) -> DomainFacts {
        let facts = domain::quick_facts(domain, policy);
        if self.entries.len() >= MOST {
            self.entries.clear();
        }
        self.entries.insert_unique(hash as u64, Entry::new(hash, facts), Entry::hash);
        (self.last_hash, self.last_facts) = (hash, facts);
        facts
    }
}
