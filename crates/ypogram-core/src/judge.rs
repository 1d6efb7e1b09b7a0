//! The quick path: judges address after address, each domain once, without the heap where nothing is at fault.

use crate::bytes::{ATEXT, CLASS, DOT, HIGH, LDH, PLUS, SEPARATES, UPPER};
use crate::class::Class;
use crate::codes::{Code, CodeSet};
use crate::domain_cache::DomainCache;
use crate::examine::{Examined, examine, meaning_base};
use crate::facts::DomainFacts;
use crate::grammar::Grammar;
use crate::hash::Hasher;
use crate::key::{KeyParts, SameMailbox};
use crate::lists::Asked;
use crate::local_words;
use crate::policy::{LetterCase, Policy};
use crate::providers::Operator;
use crate::repair::{Repair, Repairs};
use crate::severity::Verdict;
use crate::suggest::starts_like_web;
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
    /// The local part is in lower case as written, so that the standard form has both.
    one_case: bool,
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
            one_case: true,
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

    /// Judges a cell that is an address and nothing else, as far as its bytes go; none where anything has to be looked at
    /// more closely.
    pub fn judge_plain(&mut self, cell: &[u8]) -> Option<Judged> {
        let scan = Scan::new(cell)?;
        // A percent sign or an ampersand may encode something.
        if scan.separates && memchr::memchr2(b'%', b'&', &cell[..scan.at]).is_some() {
            return None;
        }
        self.quick(cell, scan)
    }

    /// Judges what was found in a text: like [`judge`](Self::judge), without looking again at what was seen on the way.
    pub fn judge_hit(&mut self, hit: &Hit<'_>) -> Judged {
        match hit.scan {
            Some(scan) => self.quick(&hit.text, scan).unwrap_or_else(|| self.thorough(&hit.text)),
            None => self.judge(&hit.text),
        }
    }

    /// Whether the ending of `domain`, as it is written in characters of the classes `seen`, is in the root zone or trusted;
    /// none where it is not plain ASCII.
    #[inline]
    pub(crate) fn knows_ending(&mut self, domain: &[u8], seen: u16) -> Option<bool> {
        if seen & HIGH != 0 || domain.len() > 253 {
            return None;
        }
        if seen & UPPER == 0 {
            return Some(self.domains.facts(domain, self.policy).known_ending);
        }
        let mut lower = [0; 253];
        let lower = &mut lower[..domain.len()];
        lower.copy_from_slice(domain);
        lower.make_ascii_lowercase();
        Some(self.domains.facts(lower, self.policy).known_ending)
    }

    /// The standard form of the address judged last; empty where its syntax is at fault.
    pub fn address(&self) -> &[u8] {
        &self.address
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
        let DomainFacts { rule, joined, .. } = self.facts;
        let as_it_stands = match same {
            SameMailbox::Exact | SameMailbox::Everywhere => false,
            SameMailbox::Case => self.one_case,
            SameMailbox::Provider => self.one_case && rule == 0 && !joined,
        };
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
        let Scan { at, upper_local, plus, upper_domain, .. } = scan;
        self.address.clear();
        self.address.extend_from_slice(text);
        if upper_domain {
            self.address[at + 1..].make_ascii_lowercase();
        }
        self.at = at;
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

        let facts = self.domains.facts(&self.address[at + 1..], self.policy);
        if facts.faulty && facts.name_fault.is_none() || facts.non_ascii {
            return None;
        }
        self.facts = facts;
        self.domain_hash = self.domains.last_hash();
        let mut repairs = Repairs::NONE;
        if upper_local && !keep {
            repairs.insert(Repair::LocalCase);
        }
        if upper_domain {
            repairs.insert(Repair::DomainCase);
        }
        let mut codes = facts.codes().union(self.local_codes(plus));
        let mut class = facts.class;
        if facts.listed {
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

    /// The codes of a plain local part at a domain without fault.
    #[inline]
    fn local_codes(&self, plus: bool) -> CodeSet {
        let mut codes = CodeSet::EMPTY;
        let folded = self.folded();
        let base = if plus { meaning_base(folded, self.facts.rule, self.policy) } else { folded };
        if base.len() < folded.len() {
            codes.insert(Code::Tagged);
        }
        if let Some(code) = local_words::code(base, self.domain())
            && !self.policy.lists.replaced.contains(code)
        {
            codes.insert(code);
        }
        if starts_like_web(folded) {
            codes.insert(Code::TypingSlip);
        }
        let rule = &self.policy.rules[usize::from(self.facts.rule)];
        if self.facts.rule > 0 && !rule.can_issue(base) {
            codes.insert(Code::NotIssued);
        }
        if self.policy.max_length.is_some_and(|most| self.address.len() > most) {
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
        self.one_case = false;
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

/// What one pass over an address tells whose local part is a plain dot-string and whose domain has only letters, digits,
/// hyphens and dots.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Scan {
    at: usize,
    upper_local: bool,
    plus: bool,
    upper_domain: bool,
    /// The local part has one of the rarer signs.
    separates: bool,
}

impl Scan {
    /// For an @ at `at` between characters of these classes.
    #[inline]
    pub(crate) fn of(at: usize, local: u16, domain: u16) -> Self {
        let has = |seen, class| seen & class != 0;
        Scan {
            at,
            upper_local: has(local, UPPER),
            plus: has(local, PLUS),
            upper_domain: has(domain, UPPER),
            separates: has(local, SEPARATES),
        }
    }

    /// Reads `text`; none where something is not plain: another character, a misplaced dot, a wrong length.
    #[inline]
    fn new(text: &[u8]) -> Option<Self> {
        let (mut local, mut before, mut double) = (0, DOT, 0);
        let mut at = 0;
        loop {
            let b = *text.get(at)?;
            let class = CLASS[usize::from(b)];
            if class & (ATEXT | DOT) == 0 {
                if b != b'@' {
                    return None;
                }
                break;
            }
            double |= before & class;
            before = class;
            local |= class;
            at += 1;
        }
        // `before` starts as a dot, so that one in the first place counts as double.
        if (double | before) & DOT != 0 || at > 64 {
            return None;
        }
        let (mut domain, mut other) = (0, false);
        for &b in &text[at + 1..] {
            let class = CLASS[usize::from(b)];
            other |= class & (LDH | DOT) == 0;
            domain |= class;
        }
        (!other).then(|| Scan::of(at, local, domain))
    }
}
