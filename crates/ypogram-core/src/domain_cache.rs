//! Judges a domain once: what was worked out for it, found again by its hash.

use prefetch_index::prefetch_index;

use crate::domain;
use crate::facts::DomainFacts;
use crate::hash::Hasher;
use crate::policy::Policy;

/// Sixteen bytes a domain: 64 bits of a keyed hash and the facts. A real list has hundreds of thousands of domains.
#[derive(Clone, Copy)]
struct Slot {
    hash: u64,
    /// The bits of the facts, or [`FREE`], which no facts have.
    facts: u64,
}

/// Tells a free slot from one with facts. It is not zero, so that free slots are written: memory that the system hands out cleared,
/// and that is first read and then written to, costs two faults for each page, and the other threads an interruption.
const FREE: u64 = 1 << 63;

impl Slot {
    const EMPTY: Slot = Slot { hash: 0, facts: FREE };

    #[inline]
    fn is_free(self) -> bool {
        self.facts & FREE != 0
    }
}

const _: () = assert!(size_of::<Slot>() == 16);

/// The domains met so far. Grows with the distinct ones up to a limit, past which it starts anew.
///
/// Open addressing with linear probing, at most half full: a look-up waits for one place in memory, and for where that is one
/// need not wait for another look-up.
pub(crate) struct DomainCache {
    /// As many as a power of two.
    slots: Vec<Slot>,
    taken: usize,
    hasher: Hasher,
    /// The domain asked for last: it is asked for again when its address is judged.
    last_hash: u64,
    last_facts: DomainFacts,
}

/// Slots at first.
const FIRST: usize = 1 << 14;

/// Past this many domains (32 MiB) the cache starts anew, so that memory stays bounded on any input.
const MOST: usize = 1 << 20;

impl DomainCache {
    pub(crate) fn new(hasher: Hasher) -> Self {
        DomainCache {
            slots: vec![Slot::EMPTY; FIRST],
            taken: 0,
            hasher,
            last_hash: 0,
            last_facts: DomainFacts::default(),
        }
    }

    /// The hash of the domain asked for last.
    pub(crate) fn last_hash(&self) -> u64 {
        self.last_hash
    }

    /// The facts of the domain of that hash, where it was met.
    #[inline]
    pub(crate) fn look_up(&self, hash: u64) -> Option<DomainFacts> {
        let slot = self.slots[self.find(hash)];
        (!slot.is_free()).then(|| DomainFacts::of_bits(slot.facts))
    }

    /// Has the processor fetch the place of the domain of that hash ahead, so that it need not wait for it when it is looked up.
    #[inline]
    pub(crate) fn fetch(&self, hash: u64) {
        prefetch_index(&self.slots[..], hash as usize & (self.slots.len() - 1));
    }

    /// The slot of that hash, or the free one for it.
    #[inline]
    fn find(&self, hash: u64) -> usize {
        let last = self.slots.len() - 1;
        let mut place = hash as usize & last;
        loop {
            let slot = self.slots[place];
            if slot.hash == hash || slot.is_free() {
                return place;
            }
            place = (place + 1) & last;
        }
    }

    /// The hash of `domain`.
    #[inline]
    pub(crate) fn hash(&self, domain: &[u8]) -> u64 {
        self.hash_in(domain, domain.len())
    }

    /// The hash of the domain that is the first `octets` of `from`.
    #[inline]
    pub(crate) fn hash_in(&self, from: &[u8], octets: usize) -> u64 {
        self.hasher.hash_name(from, octets)
    }

    /// The facts of `domain`, which is in lower-case ASCII.
    #[inline]
    pub(crate) fn facts(&mut self, domain: &[u8], policy: &Policy) -> DomainFacts {
        self.facts_by(self.hash(domain), domain, policy)
    }

    /// The same for a domain of which the hash was taken already.
    #[inline]
    pub(crate) fn facts_by(&mut self, hash: u64, domain: &[u8], policy: &Policy) -> DomainFacts {
        match self.known(hash) {
            Some(facts) => facts,
            None => self.learn(domain, hash, policy),
        }
    }

    /// The facts of the domain of that hash, where it was met; these are in lower-case ASCII of letters, digits, hyphens and
    /// dots only.
    #[inline]
    pub(crate) fn known(&mut self, hash: u64) -> Option<DomainFacts> {
        if self.last_hash == hash {
            return Some(self.last_facts);
        }
        let facts = self.look_up(hash)?;
        (self.last_hash, self.last_facts) = (hash, facts);
        Some(facts)
    }

    #[cold]
    fn learn(&mut self, domain: &[u8], hash: u64, policy: &Policy) -> DomainFacts {
        let facts = domain::quick_facts(domain, policy);
        if self.taken >= MOST {
            self.slots.fill(Slot::EMPTY);
            self.taken = 0;
        }
        if self.taken >= self.slots.len() / 2 {
            self.grow();
        }
        let place = self.find(hash);
        self.slots[place] = Slot { hash, facts: facts.bits() };
        self.taken += 1;
        (self.last_hash, self.last_facts) = (hash, facts);
        facts
    }

    fn grow(&mut self) {
        let more = vec![Slot::EMPTY; self.slots.len() * 2];
        for slot in std::mem::replace(&mut self.slots, more) {
            if !slot.is_free() {
                let place = self.find(slot.hash);
                self.slots[place] = slot;
            }
        }
    }
}
