//! Cells that are plain addresses, looked at some at a time.

use std::ops::Range;

use crate::characters::bytes::{PLUS, UPPER};
use crate::data::providers::MailboxRule;
use crate::judge::cell_batch::{CellBatch, Mark, Seen};
use crate::judge::facts::{DomainFacts, Fact};
use crate::judge::key::{DOTS, KeyParts};
use crate::judge::quick::plain_address::Plain;
use crate::judge::quick::{Judge, is_key};
use crate::judge::scan::Scan;
use crate::judge::summary::Summary;
use crate::judge::summary_key::SummaryKey;
use crate::model::same_mailbox::SameMailbox;
use ypogram_bytes::BLOCK;

impl Judge<'_> {
    /// Looks at `cells` together, before they are judged one by one; one that cannot be a plain address need not be given. A cell
    /// is the first so many of some bytes: what stands behind it has no meaning, and lets it be copied in steps of fixed width.
    ///
    /// ```
    /// # use ypogram_core::{CellBatch, Hasher, Judge, Policy, SameMailbox, Verdict};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let cells: [&[u8]; 2] = [b"ada@fernhollow.org", b"Ada <ada@fernhollow.org>"];
    /// let mut ahead = CellBatch::default();
    /// judge.look_ahead(cells.into_iter().map(|cell| Some((cell, cell.len()))), &mut ahead);
    /// assert_eq!(judge.judge_plain(cells[0], &ahead, 0).unwrap().verdict, Verdict::Accept);
    /// assert_eq!(judge.judge_plain(cells[1], &ahead, 1), None, "this one has to be unwrapped");
    /// ```
    pub fn look_ahead<'c>(
        &mut self,
        cells: impl Iterator<Item = Option<(&'c [u8], usize)>>,
        ahead: &mut CellBatch,
    ) {
        ahead.clear();
        cells.for_each(|cell| ahead.add(cell));
        ahead.look(&mut self.domains, self.policy);
    }

    /// The same for cells that stand close together in `text`, as lines do, which costs less: with something behind each that
    /// cannot stand in an address, such as a line feed.
    ///
    /// ```
    /// # use ypogram_core::{CellBatch, Hasher, Judge, Policy, Verdict};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let mut ahead = CellBatch::default();
    /// judge.scan_batch_in(b"ada@fernhollow.org\nnobody\n", [0..18, 19..25].into_iter(), &mut ahead);
    /// assert_eq!(judge.judge_plain(b"ada@fernhollow.org", &ahead, 0).unwrap().verdict, Verdict::Accept);
    /// assert_eq!(judge.judge_plain(b"nobody", &ahead, 1), None);
    /// ```
    pub fn scan_batch_in(
        &mut self,
        text: &[u8],
        cells: impl Iterator<Item = Range<usize>>,
        ahead: &mut CellBatch,
    ) {
        ahead.clear();
        ahead.add_all(text, cells);
        ahead.look(&mut self.domains, self.policy);
    }

    /// Judges `cell` where it is an address and nothing else, as far as its bytes go; none where anything has to be looked at
    /// more closely. It is the `nth` of those in `ahead`.
    #[inline]
    pub fn judge_plain(&mut self, cell: &[u8], ahead: &CellBatch, nth: usize) -> Option<Summary> {
        let seen = ahead.seen(nth);
        if seen.at == 0 || !seen.wrapping().is_none() {
            return None;
        }
        let at = usize::from(seen.at);
        let capitals = seen.has(Mark::LocalCapitals);
        let Some(summary_key) = seen.summary_key else {
            let classes = if capitals { UPPER } else { 0 } | if seen.plus().is_some() { PLUS } else { 0 };
            let domain = (!seen.has(Mark::DomainCapitals)).then_some(seen.domain);
            return self.quick(cell, Scan { domain, ..Scan::of(at, classes, true) });
        };
        self.hold(seen, ahead, summary_key);
        if capitals {
            self.lower(cell, at);
        }
        Some(summary_key.summary(self.policy))
    }

    /// Judges the address in a cell that is one in a simple wrapping and without capitals in its local part: what it has in
    /// common with others. The judge then holds it. None where anything has to be looked at more closely. The cell is the `nth`
    /// of those in `ahead`.
    ///
    /// ```
    /// # use ypogram_core::{CellBatch, Form, Hasher, Judge, Policy};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let mut ahead = CellBatch::default();
    /// let cell = &b"Ada <ada@fernhollow.org>"[..];
    /// judge.look_ahead([Some((cell, cell.len()))].into_iter(), &mut ahead);
    /// assert_eq!(judge.judge_wrapped(&ahead, 0).unwrap().form(), Form::Named);
    /// assert_eq!(judge.address(), b"ada@fernhollow.org");
    /// ```
    #[inline]
    pub fn judge_wrapped(&mut self, ahead: &CellBatch, nth: usize) -> Option<SummaryKey> {
        let seen = ahead.seen(nth);
        let summary_key = seen.summary_key.filter(|_| !seen.has(Mark::LocalCapitals))?;
        self.hold(seen, ahead, summary_key);
        Some(summary_key)
    }

    /// Takes the address of which that was seen in hand.
    #[inline]
    fn hold(&mut self, seen: Seen, ahead: &CellBatch, summary_key: SummaryKey) {
        self.hand.address.clear();
        self.hand.address.extend_from_slice(&ahead.letters(seen)[..usize::from(seen.len)]);
        self.hand.at = usize::from(seen.at);
        (self.hand.plain, self.hand.one_case) = (true, !seen.has(Mark::LocalCapitals));
        (self.hand.facts, self.hand.domain_hash) = (summary_key.facts(), seen.domain);
    }

    /// The address in a cell that is one, be it in angle brackets, behind a name or `mailto:`, or with white space around it:
    /// what it has in common with others, its standard form, and its key under `same`. None where anything has to be looked at
    /// more closely, and where lists of the job's own have a say. Afterwards the judge holds no address. The cell is the `nth` of
    /// those in `ahead`.
    ///
    /// ```
    /// # use ypogram_core::{CellBatch, Form, Hasher, Judge, Policy, SameMailbox, Verdict};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let mut ahead = CellBatch::default();
    /// let cell = &b"Ada <Ada.Lovell@Gmail.com>"[..];
    /// judge.look_ahead([Some((cell, cell.len()))].into_iter(), &mut ahead);
    /// let plain = judge.plain(&ahead, 0, SameMailbox::Provider).unwrap();
    /// assert_eq!(plain.address(), b"ada.lovell@gmail.com");
    /// assert_eq!(plain.key(), b"adalovell@gmail.com");
    /// assert_eq!(plain.summary_key.summary(&policy).verdict, Verdict::Accept);
    /// assert_eq!(plain.summary_key.form(), Form::Named);
    /// ```
    #[inline(always)]
    pub fn plain<'a>(&'a mut self, ahead: &'a CellBatch, nth: usize, same: SameMailbox) -> Option<Plain<'a>> {
        let seen = ahead.seen(nth);
        let summary_key = seen.summary_key?;
        if same == SameMailbox::Exact && seen.has(Mark::LocalCapitals) {
            return None;
        }
        let (facts, letters) = (summary_key.facts(), ahead.letters(seen));
        let (at, len) = (usize::from(seen.at), usize::from(seen.len));
        self.forget();
        let is_key = self.is_key(
            same,
            facts,
            &letters[at + 1..len],
            || seen.plus().is_some(),
            || seen.has(Mark::Dots),
        );
        let key = match is_key {
            true => None,
            false => Some(self.key_of(same, letters, seen, facts)),
        };
        Some(Plain { summary_key, letters, len, at, key })
    }

    /// No address is in hand any more.
    #[inline]
    pub(crate) fn forget(&mut self) {
        (self.hand.at, self.hand.plain) = (0, false);
        self.hand.address.clear();
    }

    /// Whether an address in lower case at a domain of these facts is its own key under `same`; `has_plus` and `has_dots` tell of its
    /// local part.
    #[inline]
    pub(crate) fn is_key(
        &self,
        same: SameMailbox,
        facts: DomainFacts,
        domain: &[u8],
        has_plus: impl Fn() -> bool,
        has_dots: impl Fn() -> bool,
    ) -> bool {
        let as_it_stands = || {
            let rule = &self.policy.rules[usize::from(facts.rule)];
            let stays = || !facts.is(Fact::Joined) || domain == rule.name_space.as_bytes();
            is_simple(rule) && !has_plus() && !(rule.ignored == DOTS && has_dots()) && stays()
        };
        is_key(same, facts) || same == SameMailbox::Exact || same == SameMailbox::Provider && as_it_stands()
    }

    /// What makes the key of a local part in lower case at a domain of these facts.
    #[inline]
    pub(crate) fn key_parts<'a>(
        &'a self,
        local: &'a [u8],
        domain: &'a [u8],
        facts: DomainFacts,
    ) -> KeyParts<'a> {
        let rule = &self.policy.rules[usize::from(facts.rule)];
        KeyParts { written: local, folded: local, domain, facts, rule }
    }

    /// The key with room behind it, and how many bytes it has, of the address of which that was seen, and which `letters` starts
    /// with.
    fn key_of(
        &mut self,
        same: SameMailbox,
        letters: &[u8],
        seen: Seen,
        facts: DomainFacts,
    ) -> (&[u8], usize) {
        let mut key = std::mem::take(&mut self.key);
        key.clear();
        let rule = &self.policy.rules[usize::from(facts.rule)];
        let written = same == SameMailbox::Provider
            && is_simple(rule)
            && write_simple_key(rule, facts.is(Fact::Joined), letters, seen, &mut key);
        if !written {
            let (at, len) = (usize::from(seen.at), usize::from(seen.len));
            let (local, domain) = (&letters[..at], &letters[at + 1..len]);
            self.key_parts(local, domain, facts).write(same, &mut key);
        }
        self.key = key;
        let kept_len = self.key.len();
        self.key.extend_from_slice(&[0; BLOCK]);
        (&self.key, kept_len)
    }
}

/// Whether the rule takes no more from a local part than dots and what follows a plus sign.
#[inline]
fn is_simple(rule: &MailboxRule) -> bool {
    let of_plus = matches!(rule.tag, None | Some(b'+'));
    of_plus && rule.ignored & !DOTS == 0 && rule.same.is_none() && !rule.sub_domain
}

/// Writes the key under a simple rule to `key`, which is empty, in steps of fixed width; tells whether it could.
#[inline]
fn write_simple_key(rule: &MailboxRule, joined: bool, letters: &[u8], seen: Seen, key: &mut Vec<u8>) -> bool {
    let (at, len) = (usize::from(seen.at), usize::from(seen.len));
    let from = |start: usize| letters.get(start..).and_then(<[u8]>::first_chunk::<BLOCK>);
    let (Some(local), Some(domain)) = (from(0), from(at)) else { return false };
    let base = seen.plus().filter(|_| rule.tag.is_some()).unwrap_or(at);
    let mut kept = [0; BLOCK];
    let mut kept_len = 0;
    for &byte in &local[..base.min(BLOCK)] {
        kept[kept_len % BLOCK] = byte;
        kept_len += usize::from(byte != b'.' || rule.ignored == 0);
    }
    if kept_len == 0 {
        return false;
    }
    key.extend_from_slice(&kept);
    key.truncate(kept_len);
    if joined {
        key.push(b'@');
        key.extend_from_slice(rule.name_space.as_bytes());
    } else {
        key.extend_from_slice(domain);
        key.truncate(kept_len + len - at);
    }
    true
}
