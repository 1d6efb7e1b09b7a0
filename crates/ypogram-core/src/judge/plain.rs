//! Cells that are plain addresses, looked at some at a time.

use crate::ahead::Ahead;
use crate::alike::{Alike, Says};
use crate::bytes::SEPARATES;
use crate::facts::Fact;
use crate::grammar::Grammar;
use crate::judge::{Judge, Judged, is_key};
use crate::key::{KeyParts, SameMailbox};
use crate::scan::Scan;

/// A plain address that is a whole cell.
#[derive(Clone, Copy, Debug)]
pub struct Plain<'a> {
    /// What it has in common with others.
    pub alike: Alike,
    /// Its standard form.
    pub address: &'a [u8],
    /// Where the @ stands in it.
    at: usize,
    /// Its key under the rule that was asked for.
    pub key: &'a [u8],
}

impl<'a> Plain<'a> {
    /// The local part in standard form.
    #[inline]
    pub fn local_part(&self) -> &'a [u8] {
        &self.address[..self.at]
    }

    /// The domain in standard form.
    #[inline]
    pub fn domain(&self) -> &'a [u8] {
        &self.address[self.at + 1..]
    }
}

impl Judge<'_> {
    /// Looks at `cells` together, before they are judged one by one; one that cannot be a plain address need not be given.
    ///
    /// ```
    /// # use ypogram_core::{Ahead, Hasher, Judge, Policy, SameMailbox, Verdict};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let cells: [&[u8]; 2] = [b"ada@fernhollow.org", b"Ada <ada@fernhollow.org>"];
    /// let mut ahead = Ahead::default();
    /// judge.look_ahead(cells.into_iter().map(Some), &mut ahead);
    /// assert_eq!(judge.judge_plain(cells[0], &ahead, 0).unwrap().verdict, Verdict::Accept);
    /// assert_eq!(judge.judge_plain(cells[1], &ahead, 1), None, "this one has to be unwrapped");
    /// ```
    pub fn look_ahead<'c>(&mut self, cells: impl Iterator<Item = Option<&'c [u8]>>, ahead: &mut Ahead) {
        ahead.clear();
        cells.for_each(|cell| ahead.add(cell));
        ahead.look(&mut self.domains, self.policy);
    }

    /// Judges `cell` where it is an address and nothing else, as far as its bytes go; none where anything has to be looked at
    /// more closely. It is the `nth` of those in `ahead`.
    #[inline]
    pub fn judge_plain(&mut self, cell: &[u8], ahead: &Ahead, nth: usize) -> Option<Judged> {
        let seen = ahead.seen(nth);
        let at = seen.at? as usize;
        let scan = Scan::before(at, cell)?;
        // A percent sign or an ampersand may encode something.
        if scan.has(SEPARATES) && memchr::memchr2(b'%', b'&', &cell[..at]).is_some() {
            return None;
        }
        let as_written = cell[at + 1..] == ahead.lowered(seen)[at + 1..];
        self.quick(cell, Scan { domain: as_written.then_some(seen.domain), ..scan })
    }

    /// The address that is the whole `cell`: what it has in common with others, its standard form, and its key under `same`.
    /// None where [`judge_plain`](Self::judge_plain) knows none, and where lists of the job's own have a say. Afterwards the
    /// judge holds no address.
    ///
    /// ```
    /// # use ypogram_core::{Ahead, Hasher, Judge, Policy, SameMailbox, Verdict};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let cell = b"Ada.Lovell@Gmail.com";
    /// let mut ahead = Ahead::default();
    /// judge.look_ahead([Some(&cell[..])].into_iter(), &mut ahead);
    /// let plain = judge.plain(cell, &ahead, 0, SameMailbox::Provider).unwrap();
    /// assert_eq!(plain.address, b"ada.lovell@gmail.com");
    /// assert_eq!(plain.key, b"adalovell@gmail.com");
    /// assert_eq!(plain.alike.judged(&policy).verdict, Verdict::Accept);
    /// ```
    #[inline]
    pub fn plain<'a>(
        &'a mut self,
        cell: &[u8],
        ahead: &'a Ahead,
        nth: usize,
        same: SameMailbox,
    ) -> Option<Plain<'a>> {
        let seen = ahead.seen(nth);
        let (at, facts) = (seen.at? as usize, seen.facts?);
        let by_the_rules = self.policy.grammar == Grammar::Smtp && !self.policy.lists.by_address;
        if facts.needs_a_closer_look() || facts.is(Fact::Listed) || !by_the_rules || cell.len() > 254 {
            return None;
        }
        let address = ahead.lowered(seen);
        let scan = Scan::before(at, address).filter(|scan| !scan.has(SEPARATES))?;
        let (local, domain) = (&address[..at], &address[at + 1..]);
        let mut alike = self.alike(local, domain, scan, facts);
        let mut in_capitals = false;
        if cell != address {
            in_capitals = cell[..at] != *local;
            if in_capitals && self.keeps_case() {
                return None;
            }
            alike = alike
                .with(Says::LocalCapitals, in_capitals)
                .with(Says::DomainCapitals, cell[at + 1..] != *domain);
        }
        (self.at, self.plain) = (0, false);
        self.address.clear();
        if is_key(same, facts) || same == SameMailbox::Exact && !in_capitals {
            return Some(Plain { alike, address, at, key: address });
        }
        self.key.clear();
        let rule = &self.policy.rules[usize::from(facts.rule)];
        KeyParts { written: &cell[..at], folded: local, domain, facts, rule }.write(same, &mut self.key);
        Some(Plain { alike, address, at, key: &self.key })
    }
}
