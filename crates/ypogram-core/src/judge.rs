//! The quick path: judges address after address, each domain once, without the heap where nothing is at fault.

use crate::bytes::{ATEXT, CLASS, DOT, LDH, UPPER};
use crate::class::Class;
use crate::codes::{Code, CodeSet};
use crate::domain_cache::DomainCache;
use crate::examine::{Examined, examine, meaning_base};
use crate::facts::DomainFacts;
use crate::grammar::Grammar;
use crate::hash::Hasher;
use crate::key::{KeyParts, SameMailbox};
use crate::local_words;
use crate::policy::{LetterCase, Policy};
use crate::providers::Operator;
use crate::repair::{Repair, Repairs};
use crate::severity::Verdict;
use crate::suggest::starts_like_web;

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
    facts: DomainFacts,
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
            facts: DomainFacts::default(),
        }
    }

    /// The policy it judges by.
    pub fn policy(&self) -> &'p Policy {
        self.policy
    }

    /// Judges `text`, an address without anything around it.
    pub fn judge(&mut self, text: &[u8]) -> Judged {
        self.quick(text).unwrap_or_else(|| self.thorough(text))
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
            written: &self.written,
            folded: &self.folded,
            domain: self.domain(),
            facts: self.facts,
            rule: &self.policy.rules[usize::from(self.facts.rule)],
        }
        .write(same, out);
    }

    /// Judges what has no fault and is plain ASCII; anything else is left to the thorough path.
    fn quick(&mut self, text: &[u8]) -> Option<Judged> {
        if self.policy.grammar != Grammar::Smtp || text.len() > 254 {
            return None;
        }
        let at = memchr::memchr(b'@', text)?;
        let (local, domain) = (&text[..at], &text[at + 1..]);
        let upper_local = scan(local, ATEXT | DOT)?;
        let upper_domain = scan(domain, LDH | DOT)?;
        if local.is_empty() || local.len() > 64 || crate::local_part::has_bad_dots(local) {
            return None;
        }
        self.written.clear();
        self.written.extend_from_slice(local);
        self.folded.clear();
        self.folded.extend_from_slice(local);
        self.folded.make_ascii_lowercase();
        self.address.clear();
        let keep = self.policy.letter_case == LetterCase::Keep;
        self.address.extend_from_slice(if keep { local } else { &self.folded });
        self.address.push(b'@');
        self.address.extend_from_slice(domain);
        self.address[at + 1..].make_ascii_lowercase();
        self.at = at;

        let facts = self.domains.facts(&self.address[at + 1..], self.policy);
        if facts.faulty || facts.non_ascii {
            return None;
        }
        self.facts = facts;
        let mut repairs = Repairs::NONE;
        if upper_local && !keep {
            repairs.insert(Repair::LocalCase);
        }
        if upper_domain {
            repairs.insert(Repair::DomainCase);
        }
        let codes = facts.codes().union(self.local_codes()).without(self.policy.off);
        Some(Judged {
            codes,
            verdict: self.policy.verdict(codes),
            class: facts.class,
            operator: facts.operator,
            repairs,
            well_formed: true,
        })
    }

    /// The codes of a plain local part at a domain without fault.
    #[inline]
    fn local_codes(&self) -> CodeSet {
        let mut codes = CodeSet::EMPTY;
        let base = meaning_base(&self.folded, self.facts.rule, self.policy);
        if base.len() < self.folded.len() {
            codes.insert(Code::Tagged);
        }
        if let Some(code) = local_words::code(base, self.domain()) {
            codes.insert(code);
        }
        if starts_like_web(&self.folded) {
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

    #[cold]
    fn thorough(&mut self, text: &[u8]) -> Judged {
        let examined = examine(text, self.policy);
        self.take(&examined);
        let mut repairs = examined.repairs;
        if examined.domain_span.of(text).iter().any(u8::is_ascii_uppercase) && examined.is_well_formed() {
            repairs.insert(Repair::DomainCase);
        }
        Judged {
            codes: examined.codes,
            verdict: examined.verdict,
            class: examined.class,
            operator: examined.operator,
            repairs,
            well_formed: examined.is_well_formed(),
        }
    }

    fn take(&mut self, examined: &Examined) {
        self.address.clear();
        self.at = 0;
        if let Some(standard) = &examined.standard {
            self.address.extend_from_slice(standard.address.as_bytes());
            self.at = standard.at;
            self.written.clone_from(&examined.written);
            self.folded.clone_from(&examined.folded);
        }
        self.facts = examined.domain.facts;
    }
}

/// Whether `part` is only of bytes in `mask`; tells whether capitals are among them.
#[inline]
fn scan(part: &[u8], mask: u8) -> Option<bool> {
    let mut seen = 0;
    for &b in part {
        let class = CLASS[usize::from(b)];
        if class & mask == 0 {
            return None;
        }
        seen |= class;
    }
    Some(seen & UPPER != 0)
}
