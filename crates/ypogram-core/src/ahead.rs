//! Cells that are looked at together before they are judged one by one.

use crate::domain_cache::DomainCache;
use crate::dress::Dress;
use crate::facts::DomainFacts;
use crate::masks::{BLOCK, Masks, lowest};
use crate::policy::Policy;

/// Some cells of which most are plain addresses, or have one in a simple wrapping: in lower case, with the place of their @ and
/// the facts of their domains. To do this for some at a time costs less, and waiting for one memory access does not wait for
/// the others.
///
/// [`Judge::look_ahead`](crate::Judge::look_ahead) fills it.
#[derive(Debug, Default)]
pub struct Ahead {
    /// The addresses one behind the other, in lower case, with something that cannot stand in one behind each. There is
    /// [`ROOM_BEHIND`] behind the last.
    letters: Vec<u8>,
    /// Where the next address starts.
    end: usize,
    /// What the letters are, one for each block, and one more.
    masks: Vec<Masks>,
    cells: Vec<Seen>,
}

/// What was seen of one cell.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Seen {
    start: u32,
    pub(crate) len: u8,
    /// Where the only @ stands; 0 where the cell holds no plain address.
    pub(crate) at: u8,
    /// Where the first plus sign of the local part stands; 0 where it has none behind its first character.
    pub(crate) plus: u8,
    pub(crate) local_capitals: bool,
    pub(crate) domain_capitals: bool,
    /// What stands around the address.
    pub(crate) dress: Dress,
    /// What is known of the domain.
    pub(crate) facts: Option<DomainFacts>,
    /// The hash of the domain in lower case.
    pub(crate) domain: u128,
}

/// Longer addresses are rare, and one word tells of this many octets.
const LONGEST: usize = BLOCK - 1;

/// Behind a place in the letters of an address, as much can be read without asking where it ends.
pub(crate) const ROOM_BEHIND: usize = 2 * BLOCK;

/// Stands between addresses.
const BETWEEN: u8 = b'\n';

impl Ahead {
    /// Forgets the cells.
    pub fn clear(&mut self) {
        self.end = 0;
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
        let (dress, inner) = cell.and_then(Dress::of).unwrap_or_default();
        let inner = if inner.len() <= LONGEST { inner } else { &[] };
        let start = self.end;
        self.end += inner.len() + 1;
        if self.letters.len() < self.end + ROOM_BEHIND {
            self.letters.resize((self.end + ROOM_BEHIND).next_power_of_two(), BETWEEN);
        }
        self.letters[start..start + inner.len()].copy_from_slice(inner);
        self.letters[start + inner.len()] = BETWEEN;
        self.cells.push(Seen { start: start as u32, len: inner.len() as u8, dress, ..Seen::default() });
    }

    /// Looks at what was added.
    pub(crate) fn look(&mut self, domains: &mut DomainCache, policy: &Policy) {
        self.masks.clear();
        let (blocks, _) = self.letters.as_chunks_mut::<BLOCK>();
        let blocks = blocks.iter_mut().take(self.end.div_ceil(BLOCK) + 1);
        self.masks.extend(blocks.map(Masks::lowering));
        for seen in &mut self.cells {
            let block = seen.start as usize / BLOCK;
            let [masks, next] = self.masks[block..block + 2] else { unreachable!("there is one more") };
            seen.read(masks.from(seen.start % BLOCK as u32, &next));
        }
        for seen in self.cells.iter_mut().filter(|seen| seen.at > 0) {
            let address = &self.letters[seen.start as usize..][..usize::from(seen.len)];
            seen.domain = domains.hash(&address[usize::from(seen.at) + 1..]);
        }
        for seen in self.cells.iter_mut().filter(|seen| seen.at > 0) {
            seen.facts = domains.look_up(seen.domain);
        }
        for seen in self.cells.iter_mut().filter(|seen| seen.at > 0 && seen.facts.is_none()) {
            let address = &self.letters[seen.start as usize..][..usize::from(seen.len)];
            seen.facts = Some(domains.facts_by(seen.domain, &address[usize::from(seen.at) + 1..], policy));
        }
    }

    /// What was seen of the `nth` cell.
    #[inline]
    pub(crate) fn seen(&self, nth: usize) -> Seen {
        self.cells[nth]
    }

    /// The address in the cell of which that was seen, in lower case, and what stands behind it.
    #[inline]
    pub(crate) fn letters(&self, seen: Seen) -> &[u8] {
        &self.letters[seen.start as usize..]
    }
}

impl Seen {
    /// Reads from what its characters are whether it is a dot-string, an @ and what may be a domain (RFC 5321 §4.1.2).
    #[inline]
    fn read(&mut self, masks: Masks) {
        let whole = lowest(u32::from(self.len));
        let at = (masks.at & whole).trailing_zeros().min(BLOCK as u32 - 1);
        let local = lowest(at) & whole;
        let domain = whole & !local & !(1 << at);
        let dots = masks.dot & local;
        let misplaced = dots & (dots << 1 | 1 | 1 << at >> 1);
        let faults = misplaced | masks.not_local & local | masks.not_domain & domain;
        let is_plain = faults == 0 && masks.at & whole != 0 && local != 0;
        self.at = if is_plain { at as u8 } else { 0 };
        let plus = masks.plus & local & !1;
        self.plus = if plus == 0 { 0 } else { plus.trailing_zeros() as u8 };
        self.local_capitals = masks.capital & local != 0;
        self.domain_capitals = masks.capital & domain != 0;
    }
}
