//! Cells that are looked at together before they are judged one by one.

use crate::bytes::{self, DOT, LDH};
use crate::domain_cache::DomainCache;
use crate::facts::DomainFacts;
use crate::policy::Policy;

/// Some cells of which most are plain addresses: in lower case, with their first @ and the facts of their domains. To do this
/// for some at a time costs less, and waiting for one memory access does not wait for the others.
///
/// [`Judge::look_ahead`](crate::Judge::look_ahead) fills it.
#[derive(Debug, Default)]
pub struct Ahead {
    /// The cells one behind the other.
    lowered: Vec<u8>,
    cells: Vec<Seen>,
}

/// What was seen of one cell.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Seen {
    start: u32,
    len: u32,
    /// Where its first @ stands; none where it has none or is too long.
    pub(crate) at: Option<u32>,
    /// The hash of its domain in lower case.
    pub(crate) domain: u128,
    /// What is known of it; none where it has other characters than letters, digits, hyphens and dots.
    pub(crate) facts: Option<DomainFacts>,
}

/// No address is longer.
const LONGEST: usize = 320;

impl Ahead {
    /// Forgets the cells.
    pub fn clear(&mut self) {
        self.lowered.clear();
        self.cells.clear();
    }

    /// How many cells there are.
    #[inline]
    pub fn len(&self) -> usize {
        self.cells.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.cells.is_empty()
    }

    /// Adds a cell; one that cannot be a plain address need not be given.
    #[inline]
    pub(crate) fn add(&mut self, cell: Option<&[u8]>) {
        let cell = cell.filter(|cell| cell.len() <= LONGEST).unwrap_or_default();
        let start = self.lowered.len() as u32;
        self.lowered.extend_from_slice(cell);
        self.cells.push(Seen { start, len: cell.len() as u32, ..Seen::default() });
    }

    /// Looks at what was added.
    pub(crate) fn look(&mut self, domains: &mut DomainCache, policy: &Policy) {
        self.lowered.make_ascii_lowercase();
        let mut signs = memchr::memchr_iter(b'@', &self.lowered).peekable();
        for seen in &mut self.cells {
            let end = seen.start + seen.len;
            let mut first = None;
            while let Some(sign) = signs.next_if(|&sign| sign < end as usize) {
                first.get_or_insert(sign);
            }
            if let Some(sign) = first {
                seen.at = Some(sign as u32 - seen.start);
                seen.domain = domains.hash(&self.lowered[sign + 1..end as usize]);
            }
        }
        for seen in self.cells.iter_mut().filter(|seen| seen.at.is_some()) {
            seen.facts = domains.look_up(seen.domain);
        }
        for seen in self.cells.iter_mut().filter(|seen| seen.facts.is_none()) {
            let Some(at) = seen.at else { continue };
            let domain = &self.lowered[(seen.start + at + 1) as usize..(seen.start + seen.len) as usize];
            if domain.iter().all(|&b| bytes::is(b, LDH | DOT)) {
                seen.facts = Some(domains.facts_by(seen.domain, domain, policy));
            }
        }
    }

    /// What was seen of the `nth` cell.
    #[inline]
    pub(crate) fn seen(&self, nth: usize) -> Seen {
        self.cells[nth]
    }

    /// The cell of which that was seen, in lower case.
    #[inline]
    pub(crate) fn lowered(&self, seen: Seen) -> &[u8] {
        &self.lowered[seen.start as usize..(seen.start + seen.len) as usize]
    }
}
