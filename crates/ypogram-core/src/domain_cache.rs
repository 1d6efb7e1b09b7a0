//! Judges a domain once: what was worked out for it, found again by its hash.

use hashbrown::HashTable;

use crate::class::Class;
use crate::domain;
use crate::facts::{DomainFacts, NameFault};
use crate::hash::Hasher;
use crate::policy::Policy;
use crate::providers::Operator;

/// Sixteen bytes a domain: 80 bits of a keyed hash and the packed facts. A real list has hundreds of thousands of domains.
#[derive(Clone, Copy)]
struct Entry {
    hash: u64,
    more_hash: u16,
    operator: u16,
    class: u8,
    rule: u8,
    flags: u16,
}

const FAULTY: u16 = 1;
const JOINED: u16 = 1 << 1;
const BELOW: u16 = 1 << 2;
const PRIVATE: u16 = 1 << 3;
const SLIP: u16 = 1 << 4;
const NON_ASCII: u16 = 1 << 5;
const KNOWN_ENDING: u16 = 1 << 6;
const LISTED: u16 = 1 << 7;
const NO_REPLY: u16 = 1 << 8;
/// Where the three bits of the name's fault start.
const NAME_FAULT: u16 = 9;

impl Entry {
    fn pack(hash: u128, facts: DomainFacts) -> Self {
        let flag = |is: bool, bit: u16| if is { bit } else { 0 };
        Entry {
            hash: hash as u64,
            more_hash: (hash >> 64) as u16,
            operator: facts.operator.0,
            class: facts.class.map_or(u8::MAX, |class| class.index() as u8),
            rule: facts.rule,
            flags: flag(facts.faulty, FAULTY)
                | flag(facts.joined, JOINED)
                | flag(facts.below_entry, BELOW)
                | flag(facts.private_suffix, PRIVATE)
                | flag(facts.slip, SLIP)
                | flag(facts.non_ascii, NON_ASCII)
                | flag(facts.known_ending, KNOWN_ENDING)
                | flag(facts.listed, LISTED)
                | flag(facts.no_reply, NO_REPLY)
                | facts.name_fault.map_or(0, |fault| (fault as u16) << NAME_FAULT),
        }
    }

    fn facts(self) -> DomainFacts {
        DomainFacts {
            faulty: self.flags & FAULTY != 0,
            class: Class::at(self.class),
            operator: Operator(self.operator),
            rule: self.rule,
            joined: self.flags & JOINED != 0,
            below_entry: self.flags & BELOW != 0,
            private_suffix: self.flags & PRIVATE != 0,
            slip: self.flags & SLIP != 0,
            non_ascii: self.flags & NON_ASCII != 0,
            known_ending: self.flags & KNOWN_ENDING != 0,
            listed: self.flags & LISTED != 0,
            no_reply: self.flags & NO_REPLY != 0,
            name_fault: NameFault::ALL.get((self.flags >> NAME_FAULT & 7).wrapping_sub(1) as usize).copied(),
        }
    }
}

/// The domains met so far. Grows with the distinct ones up to a limit, past which it starts anew.
pub(crate) struct DomainCache {
    entries: HashTable<Entry>,
    hasher: Hasher,
    /// The domain asked for last: it is asked for again when its address is judged.
    last: Vec<u8>,
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
            last: Vec::with_capacity(256),
            last_hash: hasher.hash(b""),
            last_facts: DomainFacts::default(),
        }
    }

    /// The hash of the domain asked for last.
    pub(crate) fn last_hash(&self) -> u128 {
        self.last_hash
    }

    /// The hash of `domain`.
    pub(crate) fn hash(&self, domain: &[u8]) -> u128 {
        self.hasher.hash(domain)
    }

    /// The facts of `domain`, which is in lower-case ASCII.
    #[inline]
    pub(crate) fn facts(&mut self, domain: &[u8], policy: &Policy) -> DomainFacts {
        if self.last == domain && !domain.is_empty() {
            return self.last_facts;
        }
        let hash = self.hasher.hash(domain);
        let known = |entry: &Entry| entry.hash == hash as u64 && entry.more_hash == (hash >> 64) as u16;
        let facts = match self.entries.find(hash as u64, known) {
            Some(entry) => entry.facts(),
            None => self.learn(domain, hash, policy),
        };
        self.last.clear();
        self.last.extend_from_slice(domain);
        (self.last_hash, self.last_facts) = (hash, facts);
        facts
    }

    #[cold]
    fn learn(&mut self, domain: &[u8], hash: u128, policy: &Policy) -> DomainFacts {
        let facts = domain::quick_facts(domain, policy);
        if self.entries.len() >= MOST {
            self.entries.clear();
        }
        self.entries.insert_unique(hash as u64, Entry::pack(hash, facts), |entry| entry.hash);
        facts
    }
}
