//! Cells that are looked at together before they are judged one by one.

use std::ops::Range;

use crate::characters::bytes;
use crate::judge::domain_cache::DomainCache;
use crate::judge::facts::DomainFacts;
use crate::judge::local_traits::Folded;
use crate::judge::local_traits::begins_oddly;
use crate::judge::simple_wrapping::SimpleWrapping;
use crate::judge::summary_key::{SummaryFlag, SummaryKey};
use crate::policy::job_policy::{LetterCase, Policy};
use ypogram_bytes::BLOCK;
use ypogram_bytes::{ByteMasks, low_bits};

/// Some cells of which most are plain addresses, or have one in a simple wrapping: in lower case, with the place of their @ and
/// the facts of their domains. To do this for some at a time costs less, and waiting for one memory access does not wait for
/// the others.
///
/// [`Judge::look_ahead`](crate::Judge::look_ahead) fills it.
#[derive(Debug, Default)]
pub struct CellBatch {
    /// The addresses one behind the other, in lower case, with something that cannot stand in one behind each. There is
    /// [`ROOM_BEHIND`] behind the last.
    letters: Vec<u8>,
    /// Where the next address starts.
    end: usize,
    /// What the letters are, one for each block, and one more; behind those there may be others.
    masks: Vec<ByteMasks>,
    cells: Vec<Seen>,
    /// Those of which the domain has to be looked at, and behind them others.
    left: Vec<u32>,
    /// Those that are no plain addresses as far as was seen and have to be looked at more closely, and behind them others.
    odd: Vec<u32>,
}

/// What was seen of one cell.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Seen {
    /// What the address has in common with others; none where anything has to be looked at more closely.
    pub(crate) summary_key: Option<SummaryKey>,
    /// The hash of the domain in lower case.
    pub(crate) domain: u64,
    start: u32,
    pub(crate) len: u8,
    /// Where the only @ stands; 0 where the cell holds no plain address.
    pub(crate) at: u8,
    /// Where the first plus sign of the local part stands; 0 where it has none behind its first character.
    plus: u8,
    /// What of [`Mark`] holds, one bit each, and from [`WRAPPING`] on what stands around the address.
    marks: u8,
}

const _: () = assert!(size_of::<Seen>() == 24);

/// What may hold of an address.
#[derive(Clone, Copy, Debug)]
#[repr(u8)]
pub(crate) enum Mark {
    LocalCapitals = 1,
    DomainCapitals = 1 << 1,
    /// The local part has a dot.
    Dots = 1 << 2,
    /// The local part has another sign.
    CandidateScanner = 1 << 3,
}

/// Where the bits of the wrapping start among the marks.
const WRAPPING: u32 = 4;

/// Longer addresses are rare, and one word tells of this many bytes.
const LONGEST: usize = BLOCK - 1;

/// Behind a place in the letters of an address, as much can be read without asking where it ends.
pub(crate) const ROOM_BEHIND: usize = 2 * BLOCK;

/// Stands between addresses.
const BETWEEN: u8 = b'\n';

impl CellBatch {
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

    /// Adds a cell, the first so many bytes of what is given; one that cannot be a plain address need not be given.
    #[inline]
    pub(crate) fn add(&mut self, cell: Option<(&[u8], usize)>) {
        let (from, len) = cell.unwrap_or_default();
        let (wrapping, inner) = unwrap_cell(from, 0..len);
        if inner.is_empty() && len > 0 {
            return self.add_start(&from[..len]);
        }
        let (start, len) = (self.end, inner.len());
        self.end += len + 1;
        self.make_room();
        let place = self.letters[start..].first_chunk_mut::<BLOCK>().expect("there is room");
        match from[inner.start..].first_chunk() {
            Some(block) => *place = *block,
            None => copy_last(&from[inner], place),
        }
        place[len] = BETWEEN;
        self.cells.push(Seen::of(start, len, wrapping));
    }

    /// Adds what a cell starts with that cannot be a plain address, for the domains that stand there.
    #[cold]
    #[inline(never)]
    fn add_start(&mut self, cell: &[u8]) {
        let (start, len) = (self.end, cell.len().min(LONGEST - 1));
        self.end += LONGEST + 1;
        self.make_room();
        let place = &mut self.letters[start..self.end];
        place.fill(BETWEEN);
        place[..len].copy_from_slice(&cell[..len]);
        self.cells.push(Seen::of(start, LONGEST, SimpleWrapping::OTHER));
    }

    /// Adds cells that stand in `text`, with something behind each that cannot stand in an address.
    pub(crate) fn add_all(&mut self, text: &[u8], cells: impl Iterator<Item = Range<usize>>) {
        let start = self.end;
        self.end += text.len() + 1;
        self.make_room();
        let place = &mut self.letters[start..self.end];
        place[..text.len()].copy_from_slice(text);
        place[text.len()] = BETWEEN;
        self.cells.extend(cells.map(|cell| {
            let (wrapping, inner) = unwrap_cell(text, cell);
            Seen::of(start + inner.start, inner.len(), wrapping)
        }));
    }

    fn make_room(&mut self) {
        if self.letters.len() < self.end + ROOM_BEHIND {
            self.letters.resize((self.end + ROOM_BEHIND).next_power_of_two(), BETWEEN);
        }
    }

    /// Looks at what was added.
    pub(crate) fn look(&mut self, domains: &mut DomainCache, policy: &Policy) {
        let (blocks, _) = self.letters.as_chunks_mut::<BLOCK>();
        let count = blocks.len().min(self.end.div_ceil(BLOCK) + 1);
        if self.masks.len() < count {
            self.masks.resize(count, ByteMasks::default());
        }
        ByteMasks::lowering(&mut blocks[..count], &mut self.masks);
        self.left.resize(self.cells.len() + 1, 0);
        self.odd.resize(self.cells.len() + 1, 0);
        let (mut left, mut odd) = (0, 0);
        for (nth, seen) in self.cells.iter_mut().enumerate() {
            let masks = masks_of(seen, &self.masks);
            seen.find(&masks);
            // Always written, since a processor cannot foresee which they are.
            self.left[left] = nth as u32;
            left += usize::from(seen.at > 0);
            self.odd[odd] = nth as u32;
            odd += usize::from(seen.at == 0 && seen.len > 0);
        }
        left = self.look_at_odd(odd, left, domains);
        for &nth in &self.left[..left] {
            let seen = &mut self.cells[nth as usize];
            let before = usize::from(seen.at) + 1;
            let domain = &self.letters[seen.start as usize + before..];
            seen.domain = domains.hash_in(domain, usize::from(seen.len) - before);
            domains.fetch(seen.domain);
        }
        if !SummaryKey::is_sufficient_under(policy) {
            return;
        }
        let keeps_case = policy.letter_case == LetterCase::Keep;
        for &nth in &self.left[..left] {
            let seen = &mut self.cells[nth as usize];
            let address = &self.letters[seen.start as usize..][..usize::from(seen.len)];
            let (local, domain) = (&address[..usize::from(seen.at)], &address[usize::from(seen.at) + 1..]);
            let facts = match domains.look_up(seen.domain) {
                Some(facts) => facts,
                None => domains.facts_by(seen.domain, domain, policy),
            };
            let as_written = keeps_case && seen.has(Mark::LocalCapitals);
            if SummaryKey::is_sufficient_at(facts) && !as_written && !begins_oddly(local) {
                seen.summary_key = Some(seen.summary_key(local, domain, facts, policy));
            }
        }
    }

    /// Looks once more at so many odd cells: some become plain addresses and are added to the `left`, whose count it gives; what is known
    /// of the domains of others is fetched.
    #[inline(never)]
    fn look_at_odd(&mut self, odd: usize, mut left: usize, domains: &DomainCache) -> usize {
        for &nth in &self.odd[..odd] {
            let seen = &mut self.cells[nth as usize];
            let masks = masks_of(seen, &self.masks);
            if let Some(closed) = seen.closed_up(&masks, &mut self.letters) {
                seen.find(&closed);
                self.left[left] = nth;
                left += 1;
            } else {
                for domain in seen.domains(&masks) {
                    let start = seen.start as usize + domain.start;
                    domains.fetch(domains.hash_in(&self.letters[start..], domain.len()));
                }
            }
        }
        left
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

/// What the letters of that cell are, and those behind it.
#[inline(always)]
fn masks_of(seen: &Seen, masks: &[ByteMasks]) -> ByteMasks {
    let block = seen.start as usize / BLOCK;
    let [masks, next] = masks[block..block + 2] else { unreachable!("there is one more") };
    masks.from(seen.start % BLOCK as u32, &next)
}

/// Where in `text` stands what may be an address in the cell at that place, and what is around it; an empty place where
/// anything has to be looked at more closely.
#[inline]
fn unwrap_cell(text: &[u8], cell: Range<usize>) -> (SimpleWrapping, Range<usize>) {
    let (wrapping, inner) = SimpleWrapping::of(&text[cell]).unwrap_or_default();
    if inner.is_empty() || inner.len() > LONGEST {
        return (wrapping, 0..0);
    }
    let start = bytes::offset_in(text, inner);
    (wrapping, start..start + inner.len())
}

/// Copies an address with less than a block behind it; apart, so that the others are copied in a step of fixed width.
#[cold]
#[inline(never)]
fn copy_last(address: &[u8], place: &mut [u8; BLOCK]) {
    place[..address.len()].copy_from_slice(address);
}

impl Seen {
    #[inline]
    fn of(start: usize, len: usize, wrapping: SimpleWrapping) -> Self {
        Seen { start: start as u32, len: len as u8, marks: wrapping.bits() << WRAPPING, ..Seen::default() }
    }

    /// Reads from what its characters are all that follows from them.
    #[inline(always)]
    fn find(&mut self, masks: &ByteMasks) {
        self.find_at(masks);
        self.mark(masks);
    }

    /// Takes the white space beside the @ out of the letters, of which `masks` tells, where that makes it a plain address; gives what
    /// they are then.
    fn closed_up(&mut self, masks: &ByteMasks, letters: &mut [u8]) -> Option<ByteMasks> {
        if !masks.has_others_beside_at(self.len.into()) {
            return None;
        }
        let (at, cell) = (masks.at.trailing_zeros() as usize, &mut letters[self.start as usize..]);
        let len = usize::from(self.len);
        let start = cell[..at].trim_ascii_end().len();
        let end = len - cell[at + 1..len].trim_ascii_start().len();
        // A line end separates.
        if memchr::memchr2(b'\n', b'\r', &cell[start..end]).is_some() {
            return None;
        }
        let closed = masks.closed_up(start as u32, end as u32);
        let mut without = Seen { len: (len - (end - start - 1)) as u8, ..*self };
        without.find_at(&closed);
        let wrapping = self.wrapping().spaced().filter(|_| without.at > 0)?;
        cell[start] = b'@';
        cell.copy_within(end..len, start + 1);
        cell[usize::from(without.len)] = BETWEEN;
        *self = Seen::of(self.start as usize, usize::from(without.len), wrapping);
        Some(closed)
    }

    /// Where what may be a domain stands behind an @, without a dot at its end.
    fn domains(self, masks: &ByteMasks) -> impl Iterator<Item = Range<usize>> {
        let (len, ByteMasks { not_domain, dot, .. }) = (u32::from(self.len), *masks);
        let mut left = masks.at & low_bits(len);
        std::iter::from_fn(move || {
            let start = (left != 0).then(|| left.trailing_zeros() + 1)?;
            left &= left - 1;
            let end = start + (not_domain >> start | 1 << (len - start)).trailing_zeros();
            let end = if dot >> (end - 1) & 1 == 1 { end - 1 } else { end };
            Some(start as usize..end as usize)
        })
    }

    /// Reads from what its characters are whether it is a dot-string, an @ and what may be a domain (RFC 5321 §4.1.2).
    #[inline]
    fn find_at(&mut self, masks: &ByteMasks) {
        let whole = low_bits(u32::from(self.len));
        let at = (masks.at & whole).trailing_zeros().min(BLOCK as u32 - 1);
        let local = low_bits(at) & whole;
        let domain = whole & !local & !(1 << at);
        let dots = masks.dot & local;
        let misplaced = dots & (dots << 1 | 1 | 1 << at >> 1);
        let faults = misplaced | masks.not_local & local | masks.not_domain & domain;
        let is_plain = faults == 0 && masks.at & whole != 0 && local != 0;
        self.at = if is_plain { at as u8 } else { 0 };
    }

    /// Notes what else its characters tell, once it is known where the @ is.
    #[inline]
    fn mark(&mut self, masks: &ByteMasks) {
        let local = low_bits(u32::from(self.at));
        let domain = low_bits(u32::from(self.len)) & !local;
        let plus = masks.plus & local & !1;
        self.plus = if plus == 0 { 0 } else { plus.trailing_zeros() as u8 };
        for (mark, those) in [
            (Mark::LocalCapitals, masks.capital & local),
            (Mark::DomainCapitals, masks.capital & domain),
            (Mark::Dots, masks.dot & local),
            (Mark::CandidateScanner, masks.sign & local),
        ] {
            self.marks |= if those == 0 { 0 } else { mark as u8 };
        }
    }

    #[inline]
    pub(crate) fn has(self, mark: Mark) -> bool {
        self.marks & mark as u8 != 0
    }

    /// What stands around the address.
    #[inline]
    pub(crate) fn wrapping(self) -> SimpleWrapping {
        SimpleWrapping::of_bits(self.marks >> WRAPPING)
    }

    /// Where the first plus sign of the local part stands, unless that is its first character.
    #[inline]
    pub(crate) fn plus(self) -> Option<usize> {
        (self.plus > 0).then_some(usize::from(self.plus))
    }

    /// What the address has in common with others, where its domain has these facts.
    #[inline(always)]
    fn summary_key(self, local: &[u8], domain: &[u8], facts: DomainFacts, policy: &Policy) -> SummaryKey {
        let local = Folded { text: local, plus: self.plus(), signs: self.has(Mark::CandidateScanner) };
        SummaryKey::of(local, domain, facts, policy)
            .within(self.wrapping())
            .with(SummaryFlag::LocalCapitals, self.has(Mark::LocalCapitals))
            .with(SummaryFlag::DomainCapitals, self.has(Mark::DomainCapitals))
    }
}
