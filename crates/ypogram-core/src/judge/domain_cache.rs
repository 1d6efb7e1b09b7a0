//! Judges a domain once: what was worked out for it, found again by its hash.

use crate::characters::hash::Hasher;
use crate::judge::domain;
use crate::judge::facts::DomainFacts;
use crate::policy::job_policy::Policy;
use ypogram_bytes::BucketTable;

/// The domains seen so far. Grows with the distinct ones up to a limit, past which it starts anew.
///
/// Open addressing, at most half full: a look-up waits for one place in memory, and for where that is one need not wait for another
/// look-up.
pub(crate) struct DomainCache {
    /// 64 bits of the keyed hash of a domain, and the bits of its facts, of which there are none in free
    /// ones. A real list has hundreds of thousands of domains.
    slots: BucketTable<LINE>,
    taken: usize,
    hasher: Hasher,
    /// The domain asked for last: it is asked for again when its address is judged.
    last_hash: u64,
    last_facts: DomainFacts,
}

/// What stands for facts in a free slot: all domains have some.
const FREE: u64 = 0;

/// BucketTable that are looked at together.
const LINE: usize = 4;

/// BucketTable at first.
const FIRST: usize = 1 << 14;

/// Past this many domains (32 MiB) the cache starts anew, so that memory stays bounded on any input.
const MOST: usize = 1 << 20;

impl DomainCache {
    pub(crate) fn new(hasher: Hasher) -> Self {
        DomainCache {
            slots: BucketTable::new(FIRST).expect("there is a little memory"),
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

    /// The facts of the domain of that hash, where it was seen.
    #[inline]
    pub(crate) fn look_up(&self, hash: u64) -> Option<DomainFacts> {
        let (_, [_, facts]) = self.find(hash);
        (facts != FREE).then(|| DomainFacts::of_bits(facts))
    }

    /// Has the processor fetch the place of the domain of that hash ahead, so that it need not wait for it when it is looked up.
    #[inline]
    pub(crate) fn fetch(&self, hash: u64) {
        self.slots.fetch(self.slots.line_of(hash));
    }

    /// The slot of that hash, or the free one for it, with its place.
    #[inline]
    fn find(&self, hash: u64) -> (usize, [u64; 2]) {
        self.slots.find(self.slots.line_of(hash), hash, |_| true)
    }

    /// The hash of `domain`.
    #[inline]
    pub(crate) fn hash(&self, domain: &[u8]) -> u64 {
        self.hash_in(domain, domain.len())
    }

    /// The hash of the domain that is the first `bytes` of `from`.
    #[inline]
    pub(crate) fn hash_in(&self, from: &[u8], bytes: usize) -> u64 {
        self.hasher.hash_name(from, bytes)
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

    /// The facts of the domain of that hash, where it was seen; these are in lower-case ASCII of letters, digits, hyphens and
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
        debug_assert_ne!(facts.bits(), FREE);
        if self.taken >= MOST || self.taken >= self.slots.len() / 2 && !self.grow() {
            self.slots.clear();
            self.taken = 0;
        }
        let (place, _) = self.find(hash);
        self.slots.set(place, [hash, facts.bits()]);
        self.taken += 1;
        (self.last_hash, self.last_facts) = (hash, facts);
        facts
    }

    /// Tells whether there was memory for it.
    fn grow(&mut self) -> bool {
        let Ok(more) = self.slots.moved(self.slots.len() * 2, |hash| hash) else { return false };
        self.slots = more;
        true
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Also while the table grows, and when it starts anew.
    #[test]
    fn a_domain_met_before_has_the_facts_it_had() {
        let policy = Policy::default();
        let mut domains = DomainCache::new(Hasher::with_key(3));
        let names: Vec<String> =
            (0..FIRST).map(|nth| format!("d{nth}.{}", ["org", "none", "com"][nth % 3])).collect();
        let mut facts_of_all = || {
            let facts = names.iter().map(|name| domains.facts(name.as_bytes(), &policy).bits());
            let facts: Vec<u64> = facts.collect();
            (facts, domains.slots.len(), domains.taken)
        };
        let first = facts_of_all();
        assert_eq!(first, facts_of_all());
        let (facts, slots, taken) = first;
        assert_eq!((slots, taken), (2 * FIRST, FIRST));
        domains.taken = MOST;
        domains.facts(b"another.org", &policy);
        assert_eq!(domains.taken, 1);
        let again = names.iter().map(|name| domains.facts(name.as_bytes(), &policy).bits());
        assert_eq!(again.collect::<Vec<_>>(), facts);
    }
}
