//! The quick path: judges address after address, each domain once, without the heap where nothing is at fault.

mod faults;
mod list_entries;
mod plain;
mod plain_address;

use crate::characters::bytes::{self, DOT, HIGH, LDH, PLUS, UPPER};
use crate::characters::hash::Hasher;
use crate::data::providers::Certainty;
use crate::judge::domain_cache::DomainCache;
use crate::judge::examination::Examination;
use crate::judge::examine::examine;
use crate::judge::facts::{DomainFacts, Fact};
use crate::judge::key::KeyParts;
use crate::judge::local_traits::{Folded, may_have_rare_traits};
use crate::judge::meaning::meaning_base;
use crate::judge::scan::Scan;
use crate::judge::suggest::{Confidence, Suggestion, suggest_by};
use crate::judge::summary::Summary;
use crate::judge::summary_key::{SummaryFlag, SummaryKey};
use crate::model::codes::CodeSet;
use crate::model::found::Found;
use crate::model::grammar_choice::Grammar;
use crate::model::same_mailbox::SameMailbox;
use crate::model::severity::Verdict;
use crate::policy::job_policy::{LetterCase, Policy};
use crate::policy::lists::Asked;
pub use plain_address::Plain;

/// As many bytes an address has at most (RFC 5321 §4.5.3.1.3, less the brackets).
const LONGEST: usize = 254;

/// Judges addresses one after the other. One for each thread: it remembers the domains it has seen.
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
    pub(crate) domains: DomainCache,
    pub(crate) hand: Current,
    /// What is in hand while others are judged aside.
    spare: Current,
    /// The key that was asked for alone.
    key: Vec<u8>,
}

/// The address judged last.
pub(crate) struct Current {
    /// Its standard form.
    pub(crate) address: Vec<u8>,
    at: usize,
    /// Its local part as written and in lower case, where the standard form has not both.
    written: Vec<u8>,
    folded: Vec<u8>,
    /// The local part is in lower case as written, so that the standard form has both.
    one_case: bool,
    plain: bool,
    facts: DomainFacts,
    pub(crate) domain_hash: u64,
}

impl Current {
    fn nothing() -> Self {
        Current {
            address: Vec::with_capacity(320),
            at: 0,
            written: Vec::with_capacity(64),
            folded: Vec::with_capacity(64),
            one_case: true,
            plain: false,
            facts: DomainFacts::default(),
            domain_hash: 0,
        }
    }
}

impl<'p> Judge<'p> {
    /// A judge by `policy`.
    pub fn new(policy: &'p Policy, hasher: Hasher) -> Self {
        let (hand, spare) = (Current::nothing(), Current::nothing());
        let (domains, key) = (DomainCache::new(hasher), Vec::with_capacity(320));
        Judge { policy, domains, hand, spare, key }
    }

    /// Has other addresses judged; afterwards the one judged last is the same as before.
    ///
    /// ```
    /// # use ypogram_core::{Hasher, Judge, Policy, Verdict};
    /// # let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// judge.judge(b"ada@fernhollow.org");
    /// assert_eq!(judge.aside(|judge| judge.judge(b"bea@fernhollow.org").verdict), Verdict::Accept);
    /// assert_eq!(judge.address(), b"ada@fernhollow.org");
    /// ```
    pub fn aside<T>(&mut self, judge_others: impl FnOnce(&mut Self) -> T) -> T {
        std::mem::swap(&mut self.hand, &mut self.spare);
        let told = judge_others(self);
        std::mem::swap(&mut self.hand, &mut self.spare);
        told
    }

    /// The policy it judges by.
    pub fn policy(&self) -> &'p Policy {
        self.policy
    }

    /// Judges `text`, an address without anything around it.
    pub fn judge(&mut self, text: &[u8]) -> Summary {
        let quick = Scan::new(text).and_then(|scan| self.quick(text, scan));
        quick.unwrap_or_else(|| self.otherwise(text))
    }

    /// What was probably meant by `text`, whose findings are `codes`, as [`suggest`](crate::suggest()) has it. The address
    /// judged last is then another one.
    pub fn suggest(&mut self, text: &[u8], codes: CodeSet) -> Option<Suggestion> {
        suggest_by(text, codes, self.policy, |draft| {
            let accepted = self.judge(draft).verdict == Verdict::Accept;
            accepted.then(|| String::from_utf8_lossy(&self.hand.address).into_owned())
        })
    }

    /// The same for an address found in a cell, as [`suggest_found`](crate::suggest_found) has it.
    pub fn suggest_found(&mut self, found: &Found<'_>, codes: CodeSet) -> Option<Suggestion> {
        let Some(meant) = &found.meant else { return self.suggest(&found.text, codes) };
        (self.judge(&meant.text).verdict == Verdict::Accept).then(|| Suggestion {
            address: String::from_utf8_lossy(&self.hand.address).into_owned(),
            reason: meant.reason.to_owned(),
            confidence: Confidence::Likely,
        })
    }

    /// Whether the TLD of `domain`, as it is written in characters of the classes `seen`, is in the root zone or trusted;
    /// none where it is not plain ASCII.
    #[inline]
    pub(crate) fn knows_tld(&mut self, domain: &[u8], seen: u16) -> Option<bool> {
        if seen & HIGH != 0 || domain.len() > 253 {
            return None;
        }
        if seen & UPPER == 0 {
            return Some(self.domains.facts(domain, self.policy).is(Fact::KnownTld));
        }
        let mut lower = [0; 253];
        let lower = &mut lower[..domain.len()];
        lower.copy_from_slice(domain);
        lower.make_ascii_lowercase();
        Some(self.domains.facts(lower, self.policy).is(Fact::KnownTld))
    }

    /// The standard form of the address judged last; empty where its syntax is at fault.
    pub fn address(&self) -> &[u8] {
        &self.hand.address
    }

    /// Whether the address judged last is all of the characters that need no quotes anywhere: letters, digits, dots, and the
    /// other signs that RFC 5322 §3.2.3 calls *atext*. Some such addresses are not known to be.
    pub fn is_plain(&self) -> bool {
        self.hand.plain
    }

    /// The local part of the address judged last, in standard form.
    pub fn local_part(&self) -> &[u8] {
        &self.hand.address[..self.hand.at]
    }

    /// The domain of the address judged last, in standard form.
    pub fn domain(&self) -> &[u8] {
        self.hand.address.get(self.hand.at + 1..).unwrap_or_default()
    }

    /// Appends the key of the address judged last under `same` to `out`; nothing where its syntax is at fault.
    pub fn key(&self, same: SameMailbox, out: &mut Vec<u8>) {
        if self.hand.address.is_empty() {
            return;
        }
        KeyParts {
            written: self.written(),
            folded: self.folded(),
            domain: self.domain(),
            facts: self.hand.facts,
            rule: &self.policy.rules[usize::from(self.hand.facts.rule)],
        }
        .write(same, out);
    }

    /// The key of the address judged last under `same`, as [`key`](Self::key) gives it: the standard form itself where that
    /// is the key, else written to `scratch`.
    #[inline]
    pub fn key_in<'a>(&'a self, same: SameMailbox, scratch: &'a mut Vec<u8>) -> &'a [u8] {
        let as_it_stands = self.hand.one_case && is_key(same, self.hand.facts);
        if as_it_stands {
            return &self.hand.address;
        }
        scratch.clear();
        self.key(same, scratch);
        scratch
    }

    /// The local part of the address judged last, as it was written.
    pub(crate) fn written(&self) -> &[u8] {
        if self.hand.one_case { self.local_part() } else { &self.hand.written }
    }

    /// The mailbox rule of its domain, as an index in the policy.
    pub(crate) fn rule(&self) -> u8 {
        self.hand.facts.rule
    }

    /// The hash of the domain of the address judged last.
    pub fn domain_hash(&self) -> u64 {
        self.hand.domain_hash
    }

    /// The local part in lower case.
    #[inline]
    fn folded(&self) -> &[u8] {
        if self.hand.one_case { self.local_part() } else { &self.hand.folded }
    }

    /// Judges what is plain ASCII without faults but of its domain's name; anything else is left to the others.
    pub(crate) fn quick(&mut self, text: &[u8], scan: Scan) -> Option<Summary> {
        let is_rare = may_have_rare_traits(&text[..scan.at], scan.local);
        if self.policy.grammar != Grammar::Smtp || text.len() > LONGEST || is_rare {
            return None;
        }
        self.hand.address.clear();
        self.hand.address.extend_from_slice(text);
        self.hand.at = scan.at;
        let (facts, upper_domain) = self.domain_facts(scan)?;
        if facts.needs_a_closer_look() {
            return None;
        }
        self.hand.plain = true;
        self.hand.one_case = !scan.has(UPPER);
        if scan.has(UPPER) {
            self.lower(text, scan.at);
        }
        self.hand.facts = facts;
        let folded = self.folded();
        let plus = if scan.has(PLUS) { memchr::memchr(b'+', folded).filter(|&at| at > 0) } else { None };
        let summary_key =
            SummaryKey::of(Folded { text: folded, plus, signs: true }, self.domain(), facts, self.policy)
                .with(SummaryFlag::LocalCapitals, scan.has(UPPER))
                .with(SummaryFlag::DomainCapitals, upper_domain);
        let mut judged = summary_key.summary(self.policy);
        if facts.is(Fact::Listed) || self.policy.lists.by_address {
            self.hold_against_lists(summary_key, &mut judged);
        }
        Some(judged)
    }

    /// What the job's own lists say of the address in hand.
    fn hold_against_lists(&self, summary_key: SummaryKey, judged: &mut Summary) {
        let mut codes = summary_key.codes();
        if self.hand.facts.is(Fact::Listed) {
            codes = codes.union(self.policy.codes_of_domain(self.domain()));
        }
        if self.policy.lists.by_address {
            let of_domain = judged.class;
            (judged.class, codes) = self.asked(|asked| self.policy.lists.settle(asked, of_domain, codes));
            if judged.class != of_domain {
                judged.certainty = Certainty::Known;
            }
        }
        judged.codes = self.policy.in_force(codes);
        judged.verdict = self.policy.verdict(judged.codes);
    }

    /// Keeps the local part of `text`, which ends at `at`, as it is written and in lower case, and brings the address in hand to
    /// its letter case.
    fn lower(&mut self, text: &[u8], at: usize) {
        self.hand.written.clear();
        self.hand.written.extend_from_slice(&text[..at]);
        self.hand.folded.clear();
        self.hand.folded.extend(self.hand.written.iter().map(u8::to_ascii_lowercase));
        if !self.keeps_case() {
            self.hand.address[..at].copy_from_slice(&self.hand.folded);
        }
    }

    pub(crate) fn keeps_case(&self) -> bool {
        self.policy.letter_case == LetterCase::Keep
    }

    /// The facts of the domain of the address in hand, and whether it was written with capitals, which it is then brought
    /// out of; none where it has other characters than letters, digits, hyphens and dots.
    #[inline]
    fn domain_facts(&mut self, scan: Scan) -> Option<(DomainFacts, bool)> {
        let domain = &mut self.hand.address[scan.at + 1..];
        // A domain that was seen before needs no second look at its characters.
        self.hand.domain_hash = scan.domain.unwrap_or_else(|| self.domains.hash(domain));
        if let Some(facts) = self.domains.known(self.hand.domain_hash) {
            return Some((facts, false));
        }
        let other = |b: &u8| !bytes::is(*b, LDH | DOT);
        if !scan.domain_seen && domain.iter().any(other) {
            return None;
        }
        let upper = domain.iter().any(u8::is_ascii_uppercase);
        domain.make_ascii_lowercase();
        let facts = self.domains.facts(domain, self.policy);
        self.hand.domain_hash = self.domains.last_hash();
        Some((facts, upper))
    }

    /// The entry of the list at that place that speaks of the address judged last; none where its syntax is at fault.
    pub fn entry_in(&self, list: usize) -> Option<usize> {
        if self.hand.address.is_empty() {
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
        let base = meaning_base(folded, self.hand.facts.rule, self.policy);
        let at = folded.len();
        if folded == self.local_part() {
            return ask(Asked { address: &self.hand.address, at, base, key });
        }
        let mut address = Vec::with_capacity(self.hand.address.len());
        self.folded_address(&mut address);
        ask(Asked { address: &address, at, base, key })
    }

    /// Appends the standard form of the address judged last, its local part in lower case.
    pub(crate) fn folded_address(&self, out: &mut Vec<u8>) {
        out.extend_from_slice(self.folded());
        out.push(b'@');
        out.extend_from_slice(self.domain());
    }

    /// Judges what is not judged quickly.
    pub(crate) fn otherwise(&mut self, text: &[u8]) -> Summary {
        self.faulty(text).unwrap_or_else(|| self.thorough(text))
    }

    #[cold]
    fn thorough(&mut self, text: &[u8]) -> Summary {
        let examined = examine(text, self.policy);
        self.take(&examined);
        Summary {
            codes: examined.codes,
            verdict: examined.verdict,
            class: examined.class,
            certainty: examined.certainty(),
            operator: examined.operator,
            repairs: examined.repairs,
            has_standard_form: examined.has_standard_form(),
        }
    }

    fn take(&mut self, examined: &Examination) {
        self.hold_nothing(examined.domain.facts);
        if let Some(standard) = &examined.standard {
            self.hand.address.extend_from_slice(standard.address.as_bytes());
            self.hand.at = standard.at;
            self.hand.written.clone_from(&examined.written);
            self.hand.folded.clone_from(&examined.folded);
            self.hand.domain_hash = self.domains.hash(standard.domain().as_bytes());
        }
    }

    /// No address is in hand any more; where there was a domain, these are its facts.
    fn hold_nothing(&mut self, facts: DomainFacts) {
        self.forget();
        self.hand.one_case = false;
        self.hand.facts = facts;
        self.hand.domain_hash = self.domains.hash(b"");
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
