//! The quick path: judges address after address, each domain once, without the heap where nothing is at fault.

use crate::bytes::{self, ATEXT, CLASS, DOT, HIGH, LDH, PLUS, SEPARATES, UPPER};
use crate::class::Class;
use crate::codes::{Code, CodeSet};
use crate::domain_cache::DomainCache;
use crate::examine::{Examined, examine, meaning_base};
use crate::facts::{DomainFacts, Fact};
use crate::grammar::Grammar;
use crate::hash::Hasher;
use crate::key::{KeyParts, SameMailbox};
use crate::lists::Asked;
use crate::local_words;
use crate::policy::{LetterCase, Policy};
use crate::providers::Operator;
use crate::repair::{Repair, Repairs};
use crate::severity::Verdict;
use crate::suggest::{Suggestion, starts_like_web, suggest_by};
use crate::text::Hit;

/// What was found of one address.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Judged {
    /// The findings' codes.
    pub codes: CodeSet,
    /// The worst severity among them.
    pub verdict: Verdict,
    /// What kind of mailbox the domain gives.
    pub class: Option<Class>,
    /// Who runs the domain.
    pub operator: Operator,
    /// What the standard form changes.
    pub repairs: Repairs,
    /// No syntax finding rejects it, so that there is a standard form.
    pub well_formed: bool,
}

/// Judges addresses one after the other. One for each thread: it remembers the domains it met.
///
/// ```
/// use ypogram_core::{Hasher, Judge, Policy, SameMailbox, Verdict};
/// let policy = Policy::default();
/// let mut judge = Judge::new(&policy, Hasher::with_key(1));
/// let judged = judge.judge(b"Ada.Lovell+news@GMail.com");
/// assert_eq!(judged.verdict, Verdict::Accept);
/// assert_eq!(judge.address(), b"ada.lovell+news@gmail.com");
/// let mut key = Vec::new();
/// judge.key(SameMailbox::Provider, &mut key);
/// assert_eq!(key, b"adalovell@gmail.com");
/// ```
pub struct Judge<'p> {
    policy: &'p Policy,
    domains: DomainCache,
    /// The standard form of the address judged last.
    address: Vec<u8>,
    at: usize,
    /// Its local part as written and in lower case, where the standard form has not both.
    written: Vec<u8>,
    folded: Vec<u8>,
    /// The key that was asked for alone.
    key: Vec<u8>,
    /// The local part is in lower case as written, so that the standard form has both.
    one_case: bool,
    plain: bool,
    facts: DomainFacts,
    domain_hash: u128,
}

impl<'p> Judge<'p> {
    /// A judge by `policy`.
    pub fn new(policy: &'p Policy, hasher: Hasher) -> Self {
        Judge {
            policy,
            domains: DomainCache::new(hasher),
            address: Vec::with_capacity(320),
            at: 0,
            written: Vec::with_capacity(64),
            folded: Vec::with_capacity(64),
            key: Vec::with_capacity(320),
            one_case: true,
            plain: false,
            facts: DomainFacts::default(),
            domain_hash: 0,
        }
    }

    /// The policy it judges by.
    pub fn policy(&self) -> &'p Policy {
        self.policy
    }

    /// Judges `text`, an address without anything around it.
    pub fn judge(&mut self, text: &[u8]) -> Judged {
        let quick = Scan::new(text).and_then(|scan| self.quick(text, scan));
        quick.unwrap_or_else(|| self.thorough(text))
    }

    /// Looks where the domains of `cells` are remembered, so that waiting for one memory access does not wait for the others:
    /// appends for each what [`judge_plain`](Self::judge_plain) and [`judge_key`](Self::judge_key) take.
    ///
    /// ```
    /// # use ypogram_core::{Hasher, Judge, Policy, SameMailbox, Verdict};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let cells: [&[u8]; 2] = [b"ada@fernhollow.org", b"Ada <ada@fernhollow.org>"];
    /// let mut ahead = Vec::new();
    /// judge.look_ahead(cells.into_iter(), &mut ahead);
    /// assert_eq!(judge.judge_plain(cells[0], ahead[0]).unwrap().verdict, Verdict::Accept);
    /// assert_eq!(judge.judge_plain(cells[1], ahead[1]), None, "this one has to be unwrapped");
    /// ```
    pub fn look_ahead<'c>(&self, cells: impl Iterator<Item = &'c [u8]>, ahead: &mut Vec<Ahead>) {
        let first = ahead.len();
        ahead.extend(cells.map(|cell| match memchr::memchr(b'@', cell) {
            Some(at) => Ahead { at: Some(at), domain: self.domains.hash(&cell[at + 1..]) },
            None => Ahead::default(),
        }));
        std::hint::black_box(self.domains.look_ahead(ahead[first..].iter().map(|ahead| ahead.domain)));
    }

    /// Judges a cell that is an address and nothing else, as far as its bytes go; none where anything has to be looked at
    /// more closely. `ahead` is what [`look_ahead`](Self::look_ahead) gave for it.
    #[inline]
    pub fn judge_plain(&mut self, cell: &[u8], ahead: Ahead) -> Option<Judged> {
        let scan = Scan::before(ahead.at?, cell, Some(ahead.domain))?;
        // A percent sign or an ampersand may encode something.
        if scan.separates && memchr::memchr2(b'%', b'&', &cell[..scan.at]).is_some() {
            return None;
        }
        self.quick(cell, scan)
    }

    /// The key under `same` of the address that is the whole `cell`, with its verdict, and nothing else: none where
    /// [`judge_plain`](Self::judge_plain) knows none, and where the domain was not met before. Afterwards no address is held.
    #[inline]
    pub fn judge_key<'a>(
        &'a mut self,
        cell: &'a [u8],
        ahead: Ahead,
        same: SameMailbox,
    ) -> Option<(&'a [u8], Verdict)> {
        let scan = Scan::before(ahead.at?, cell, Some(ahead.domain))?;
        let by_the_rules = self.policy.grammar == Grammar::Smtp && self.policy.lists.is_empty();
        if scan.separates || !by_the_rules || cell.len() > 254 {
            return None;
        }
        let facts = self.domains.known(ahead.domain).filter(|facts| !facts.needs_a_closer_look())?;
        (self.at, self.plain) = (0, false);
        self.address.clear();
        let (written, domain) = (&cell[..scan.at], &cell[scan.at + 1..]);
        self.folded.clear();
        if scan.upper_local {
            self.folded.extend(written.iter().map(u8::to_ascii_lowercase));
        }
        let folded = if scan.upper_local { &self.folded } else { written };
        let codes = facts.codes().union(self.local_codes(folded, domain, scan.plus, facts));
        let verdict = self.policy.verdict(codes.without(self.policy.off));
        if same == SameMailbox::Exact || !scan.upper_local && is_key(same, facts) {
            return Some((cell, verdict));
        }
        self.key.clear();
        let rule = &self.policy.rules[usize::from(facts.rule)];
        KeyParts { written, folded, domain, facts, rule }.write(same, &mut self.key);
        Some((&self.key, verdict))
    }

    /// Judges what was found in a text: like [`judge`](Self::judge), without looking again at what was seen on the way.
    pub fn judge_hit(&mut self, hit: &Hit<'_>) -> Judged {
        match hit.scan {
            Some(scan) => self.quick(&hit.text, scan).unwrap_or_else(|| self.thorough(&hit.text)),
            None => self.judge(&hit.text),
        }
    }

    /// What was probably meant by `text`, whose findings are `codes`, as [`suggest`](crate::suggest()) has it. The address
    /// judged last is then another one.
    pub fn suggest(&mut self, text: &[u8], codes: CodeSet) -> Option<Suggestion> {
        suggest_by(text, codes, self.policy, |draft| {
            let accepted = self.judge(draft).verdict == Verdict::Accept;
            accepted.then(|| String::from_utf8_lossy(&self.address).into_owned())
        })
    }

    /// Whether the ending of `domain`, as it is written in characters of the classes `seen`, is in the root zone or trusted;
    /// none where it is not plain ASCII.
    #[inline]
    pub(crate) fn knows_ending(&mut self, domain: &[u8], seen: u16) -> Option<bool> {
        if seen & HIGH != 0 || domain.len() > 253 {
            return None;
        }
        if seen & UPPER == 0 {
            return Some(self.domains.facts(domain, self.policy).is(Fact::KnownEnding));
        }
        let mut lower = [0; 253];
        let lower = &mut lower[..domain.len()];
        lower.copy_from_slice(domain);
        lower.make_ascii_lowercase();
        Some(self.domains.facts(lower, self.policy).is(Fact::KnownEnding))
    }

    /// The standard form of the address judged last; empty where its syntax is at fault.
    pub fn address(&self) -> &[u8] {
        &self.address
    }

    /// Whether the address judged last is all of the characters that need no quotes anywhere: letters, digits, dots, and the
    /// other signs that RFC 5322 §3.2.3 calls *atext*. Some such addresses are not known to be.
    pub fn is_plain(&self) -> bool {
        self.plain
    }

    /// The local part of the address judged last, in standard form.
    pub fn local_part(&self) -> &[u8] {
        &self.address[..self.at]
    }

    /// The domain of the address judged last, in standard form.
    pub fn domain(&self) -> &[u8] {
        self.address.get(self.at + 1..).unwrap_or_default()
    }

    /// Appends the key of the address judged last under `same` to `out`; nothing where its syntax is at fault.
    pub fn key(&self, same: SameMailbox, out: &mut Vec<u8>) {
        if self.address.is_empty() {
            return;
        }
        KeyParts {
            written: self.written(),
            folded: self.folded(),
            domain: self.domain(),
            facts: self.facts,
            rule: &self.policy.rules[usize::from(self.facts.rule)],
        }
        .write(same, out);
    }

    /// The key of the address judged last under `same`, as [`key`](Self::key) gives it: the standard form itself where that
    /// is the key, else written to `scratch`.
    #[inline]
    pub fn key_in<'a>(&'a self, same: SameMailbox, scratch: &'a mut Vec<u8>) -> &'a [u8] {
        let as_it_stands = self.one_case && is_key(same, self.facts);
        if as_it_stands {
            return &self.address;
        }
        scratch.clear();
        self.key(same, scratch);
        scratch
    }

    /// The local part of the address judged last, as it was written.
    pub(crate) fn written(&self) -> &[u8] {
        if self.one_case { self.local_part() } else { &self.written }
    }

    /// The mailbox rule of its domain, as an index in the policy.
    pub(crate) fn rule(&self) -> u8 {
        self.facts.rule
    }

    /// The hash of the domain of the address judged last.
    pub fn domain_hash(&self) -> u128 {
        self.domain_hash
    }

    /// The local part in lower case.
    #[inline]
    fn folded(&self) -> &[u8] {
        if self.one_case { self.local_part() } else { &self.folded }
    }

    /// Judges what has no fault and is plain ASCII; anything else is left to the thorough path.
    fn quick(&mut self, text: &[u8], scan: Scan) -> Option<Judged> {
        if self.policy.grammar != Grammar::Smtp || text.len() > 254 {
            return None;
        }
        let Scan { at, upper_local, plus, .. } = scan;
        self.address.clear();
        self.address.extend_from_slice(text);
        self.at = at;
        let (facts, upper_domain) = self.domain_facts(scan)?;
        if facts.needs_a_closer_look() {
            return None;
        }
        self.plain = true;
        let keep = self.policy.letter_case == LetterCase::Keep;
        self.one_case = !upper_local;
        if upper_local {
            self.written.clear();
            self.written.extend_from_slice(&text[..at]);
            self.folded.clear();
            self.folded.extend(self.written.iter().map(u8::to_ascii_lowercase));
            if !keep {
                self.address[..at].copy_from_slice(&self.folded);
            }
        }
        self.facts = facts;
        let mut repairs = Repairs::NONE;
        if upper_local && !keep {
            repairs.insert(Repair::LocalCase);
        }
        if upper_domain {
            repairs.insert(Repair::DomainCase);
        }
        let of_local = self.local_codes(self.folded(), self.domain(), plus, facts);
        let mut codes = facts.codes().union(of_local);
        let mut class = facts.class();
        if facts.is(Fact::Listed) {
            codes = codes.union(self.policy.lists.codes_of_domain(self.domain()));
        }
        if self.policy.lists.by_address {
            (class, codes) = self.asked(|asked| self.policy.lists.settle(asked, class, codes));
        }
        let codes = codes.without(self.policy.off);
        Some(Judged {
            codes,
            verdict: self.policy.verdict(codes),
            class,
            operator: facts.operator,
            repairs,
            well_formed: true,
        })
    }

    /// The facts of the domain of the address in hand, and whether it was written with capitals, which it is then brought
    /// out of; none where it has other characters than letters, digits, hyphens and dots.
    #[inline]
    fn domain_facts(&mut self, scan: Scan) -> Option<(DomainFacts, bool)> {
        let domain = &mut self.address[scan.at + 1..];
        // A domain that was met before needs no second look at its characters.
        self.domain_hash = scan.domain.unwrap_or_else(|| self.domains.hash(domain));
        if let Some(facts) = self.domains.known(self.domain_hash) {
            return Some((facts, false));
        }
        let other = |b: &u8| !bytes::is(*b, LDH | DOT);
        if !scan.domain_seen && domain.iter().any(other) {
            return None;
        }
        let upper = domain.iter().any(u8::is_ascii_uppercase);
        domain.make_ascii_lowercase();
        let facts = self.domains.facts(domain, self.policy);
        self.domain_hash = self.domains.last_hash();
        Some((facts, upper))
    }

    /// The codes of a plain local part in lower case at a domain of these facts.
    #[inline]
    fn local_codes(&self, local: &[u8], domain: &[u8], plus: bool, facts: DomainFacts) -> CodeSet {
        let mut codes = CodeSet::EMPTY;
        let tagged = plus || facts.rule > 0;
        let base = if tagged { meaning_base(local, facts.rule, self.policy) } else { local };
        if base.len() < local.len() {
            codes.insert(Code::Tagged);
        }
        if let Some(code) = local_words::code(base, domain)
            && !self.policy.lists.replaced.contains(code)
        {
            codes.insert(code);
        }
        if starts_like_web(local) {
            codes.insert(Code::TypingSlip);
        }
        if facts.rule > 0 && !self.policy.rules[usize::from(facts.rule)].can_issue(base) {
            codes.insert(Code::NotIssued);
        }
        if self.policy.max_length.is_some_and(|most| local.len() + 1 + domain.len() > most) {
            codes.insert(Code::TooLongForHouse);
        }
        codes
    }

    /// The entry of the list at that place that speaks of the address judged last; none where its syntax is at fault.
    pub fn entry_in(&self, list: usize) -> Option<usize> {
        if self.address.is_empty() {
            return None;
        }
        self.asked(|asked| self.policy.lists.get(list).find_any(asked))
    }

    /// Asks about the address judged last.
    fn asked<T>(&self, ask: impl FnOnce(Asked<'_>) -> T) -> T {
        let mut scratch = Vec::new();
        let key = match self.policy.lists.by_key {
            true => self.key_in(self.policy.same, &mut scratch),
            false => &[],
        };
        let folded = self.folded();
        let base = meaning_base(folded, self.facts.rule, self.policy);
        let at = folded.len();
        if folded == self.local_part() {
            return ask(Asked { address: &self.address, at, base, key });
        }
        let mut address = Vec::with_capacity(self.address.len());
        self.folded_address(&mut address);
        ask(Asked { address: &address, at, base, key })
    }

    /// Appends the standard form of the address judged last, its local part in lower case.
    pub(crate) fn folded_address(&self, out: &mut Vec<u8>) {
        out.extend_from_slice(self.folded());
        out.push(b'@');
        out.extend_from_slice(self.domain());
    }

    #[cold]
    fn thorough(&mut self, text: &[u8]) -> Judged {
        let examined = examine(text, self.policy);
        self.take(&examined);
        Judged {
            codes: examined.codes,
            verdict: examined.verdict,
            class: examined.class,
            operator: examined.operator,
            repairs: examined.repairs,
            well_formed: examined.is_well_formed(),
        }
    }

    fn take(&mut self, examined: &Examined) {
        self.address.clear();
        self.at = 0;
        (self.one_case, self.plain) = (false, false);
        if let Some(standard) = &examined.standard {
            self.address.extend_from_slice(standard.address.as_bytes());
            self.at = standard.at;
            self.written.clone_from(&examined.written);
            self.folded.clone_from(&examined.folded);
        }
        self.facts = examined.domain.facts;
        self.domain_hash = self.domains.hash(self.address.get(self.at + 1..).unwrap_or_default());
    }
}

/// Whether an address in lower case at a domain of these facts is its own key under `same`.
#[inline]
fn is_key(same: SameMailbox, facts: DomainFacts) -> bool {
    match same {
        SameMailbox::Exact | SameMailbox::Everywhere => false,
        SameMailbox::Case => true,
        SameMailbox::Provider => facts.rule == 0 && !facts.is(Fact::Joined),
    }
}

/// What one pass over an address tells whose local part is a plain dot-string.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Scan {
    at: usize,
    upper_local: bool,
    plus: bool,
    /// The local part has one of the rarer signs.
    separates: bool,
    /// The domain is known to have only letters, digits, hyphens and dots.
    domain_seen: bool,
    /// The hash of the domain as it is written, where it was taken already.
    domain: Option<u128>,
}

impl Scan {
    /// For an @ at `at` behind characters of the classes `local`.
    #[inline]
    pub(crate) fn of(at: usize, local: u16, domain_seen: bool) -> Self {
        let has = |class| local & class != 0;
        Scan {
            at,
            upper_local: has(UPPER),
            plus: has(PLUS),
            separates: has(SEPARATES),
            domain_seen,
            domain: None,
        }
    }

    /// Reads `text` up to its first @; none where something is not plain: another character, a misplaced dot, a wrong
    /// length.
    #[inline]
    fn new(text: &[u8]) -> Option<Self> {
        Scan::before(memchr::memchr(b'@', text)?, text, None)
    }

    /// The same for a text whose first @ stands at `at`, before a domain of that hash.
    #[inline]
    fn before(at: usize, text: &[u8], domain: Option<u128>) -> Option<Self> {
        // `before` starts as a dot, so that one in the first place counts as double.
        let (mut seen, mut before, mut double, mut other) = (0, DOT, 0, false);
        if at > 64 {
            return None;
        }
        for &b in &text[..at] {
            let class = CLASS[usize::from(b)];
            other |= class & (ATEXT | DOT) == 0;
            double |= before & class;
            before = class;
            seen |= class;
        }
        let well_placed = (double | before) & DOT == 0;
        (well_placed && !other).then(|| Scan { domain, ..Scan::of(at, seen, false) })
    }
}

/// What was looked up of a cell before it is judged.
#[derive(Clone, Copy, Debug, Default)]
pub struct Ahead {
    /// Where its first @ stands.
    at: Option<usize>,
    /// The hash of what stands behind.
    domain: u128,
}
