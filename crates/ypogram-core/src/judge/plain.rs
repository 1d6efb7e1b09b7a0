//! Cells that are plain addresses, looked at some at a time.

use crate::ahead::Ahead;
use crate::alike::{Alike, Says};
use crate::bytes::{PLUS, UPPER};
use crate::facts::Fact;
use crate::grammar::Grammar;
use crate::judge::{Judge, Judged, is_key};
use crate::key::{KeyParts, SameMailbox};
use crate::scan::Scan;

/// A plain address that is a whole cell, or all that is wanted of one.
#[derive(Clone, Copy, Debug)]
pub struct Plain<'a> {
    /// What it has in common with others.
    pub alike: Alike,
    /// Its standard form, and what happens to stand behind it.
    letters: &'a [u8],
    len: usize,
    /// Where the @ stands in it.
    at: usize,
    /// Its key under the rule that was asked for, where that is not the standard form.
    key: Option<&'a [u8]>,
}

impl<'a> Plain<'a> {
    /// The address in standard form.
    #[inline]
    pub fn address(&self) -> &'a [u8] {
        &self.letters[..self.len]
    }

    /// The address in standard form and more octets of no meaning behind it, so that it can be copied in steps of fixed width.
    #[inline]
    pub fn address_and_room(&self) -> &'a [u8] {
        self.letters
    }

    /// Where the @ stands in the address.
    #[inline]
    pub fn at(&self) -> usize {
        self.at
    }

    /// How many octets the address has.
    #[inline]
    pub fn octets(&self) -> usize {
        self.len
    }

    /// The local part in standard form.
    #[inline]
    pub fn local_part(&self) -> &'a [u8] {
        &self.letters[..self.at]
    }

    /// The domain in standard form.
    #[inline]
    pub fn domain(&self) -> &'a [u8] {
        &self.letters[self.at + 1..self.len]
    }

    /// The key under the rule that was asked for.
    #[inline]
    pub fn key(&self) -> &'a [u8] {
        self.key.unwrap_or_else(|| self.address())
    }

    /// The same where it is not the standard form.
    #[inline]
    pub fn key_apart(&self) -> Option<&'a [u8]> {
        self.key
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
        if seen.at == 0 || !seen.dress.is_none() {
            return None;
        }
        let capitals = if seen.local_capitals { UPPER } else { 0 };
        let tag = if seen.plus > 0 { PLUS } else { 0 };
        let scan = Scan::of(usize::from(seen.at), capitals | tag, true);
        self.quick(cell, Scan { domain: (!seen.domain_capitals).then_some(seen.domain), ..scan })
    }

    /// The address in a cell that is one, be it in angle brackets, behind a name or `mailto:`, or with white space around it:
    /// what it has in common with others, its standard form, and its key under `same`. None where anything has to be looked at
    /// more closely, and where lists of the job's own have a say. Afterwards the judge holds no address. The cell is the `nth` of
    /// those in `ahead`.
    ///
    /// ```
    /// # use ypogram_core::{Ahead, Form, Hasher, Judge, Policy, SameMailbox, Verdict};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let mut ahead = Ahead::default();
    /// judge.look_ahead([Some(&b"Ada <Ada.Lovell@Gmail.com>"[..])].into_iter(), &mut ahead);
    /// let plain = judge.plain(&ahead, 0, SameMailbox::Provider).unwrap();
    /// assert_eq!(plain.address(), b"ada.lovell@gmail.com");
    /// assert_eq!(plain.key(), b"adalovell@gmail.com");
    /// assert_eq!(plain.alike.judged(&policy).verdict, Verdict::Accept);
    /// assert_eq!(plain.alike.form(), Form::Named);
    /// ```
    #[inline]
    pub fn plain<'a>(&'a mut self, ahead: &'a Ahead, nth: usize, same: SameMailbox) -> Option<Plain<'a>> {
        let seen = ahead.seen(nth);
        let facts = seen.facts?;
        let (at, len) = (usize::from(seen.at), usize::from(seen.len));
        let by_the_rules = self.policy.grammar == Grammar::Smtp && !self.policy.lists.by_address;
        let as_written = self.keeps_case() || same == SameMailbox::Exact;
        let closer = facts.needs_a_closer_look() || facts.is(Fact::Listed);
        if closer || !by_the_rules || seen.local_capitals && as_written {
            return None;
        }
        let letters = ahead.letters(seen);
        let (local, domain) = (&letters[..at], &letters[at + 1..len]);
        let tag = (seen.plus > 0).then_some(usize::from(seen.plus));
        let alike = self
            .alike(local, tag, domain, facts)
            .within(seen.dress)
            .with(Says::LocalCapitals, seen.local_capitals)
            .with(Says::DomainCapitals, seen.domain_capitals);
        (self.at, self.plain) = (0, false);
        self.address.clear();
        let key = if is_key(same, facts) || same == SameMailbox::Exact {
            None
        } else {
            self.key.clear();
            let rule = &self.policy.rules[usize::from(facts.rule)];
            KeyParts { written: local, folded: local, domain, facts, rule }.write(same, &mut self.key);
            Some(&self.key[..])
        };
        Some(Plain { alike, letters, len, at, key })
    }
}
