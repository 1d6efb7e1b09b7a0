//! The thorough path: every finding of one address with its place, its parts, and its standard form.

use std::borrow::Cow;

use unicode_normalization::UnicodeNormalization;
use unicode_security::{MixedScript, RestrictionLevel, RestrictionLevelDetection, skeleton};

use crate::class::Class;
use crate::codes::{Code, CodeSet};
use crate::domain::{self, DomainReport};
use crate::facts::Fact;
use crate::finding::Finding;
use crate::grammar::{Grammar, header, html};
use crate::key::{self, KeyParts, SameMailbox};
use crate::lists::{Asked, EntryKind, Of, Purpose};
use crate::local_part::{self, LocalReport};
use crate::local_traits::{self, local_traits, rare_traits};
use crate::local_words::{self, Desk, LocalWord};
use crate::no_address;
use crate::policy::{LetterCase, Policy};
use crate::providers::{Certainty, Operator};
use crate::repair::{Repair, Repairs};
use crate::severity::{Severity, Verdict};
use crate::span::Span;
use crate::suggest::starts_like_web;

/// Everything there is to tell about one address.
#[derive(Debug, Default)]
pub struct Examined {
    /// Every finding that is not switched off, by place.
    pub findings: Vec<Finding>,
    /// Their codes.
    pub codes: CodeSet,
    /// The worst severity among them.
    pub verdict: Verdict,
    /// What kind of mailbox the domain gives; none where it is unusable.
    pub class: Option<Class>,
    /// Who runs the domain.
    pub operator: Operator,
    /// What the standard form changes.
    pub repairs: Repairs,
    /// Where the local part stands in the text.
    pub local_span: Span,
    /// Where the domain stands in the text.
    pub domain_span: Span,
    /// The standard form; none where the syntax is at fault.
    pub standard: Option<Standard>,
    pub(crate) domain: DomainReport,
    pub(crate) written: Vec<u8>,
    pub(crate) folded: Vec<u8>,
}

/// An address in standard form: domain in lower-case A-labels, no quotes that are not needed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Standard {
    /// The whole address.
    pub address: String,
    /// Where its @ stands.
    pub at: usize,
}

impl Standard {
    /// The local part.
    pub fn local_part(&self) -> &str {
        &self.address[..self.at]
    }

    /// The domain.
    pub fn domain(&self) -> &str {
        &self.address[self.at + 1..]
    }
}

/// Examines `text`, an address without anything around it.
///
/// ```
/// use ypogram_core::{Code, Policy, Verdict, examine};
/// let examined = examine(b"ada..lovell@fernhollow.org", &Policy::default());
/// assert_eq!(examined.verdict, Verdict::Reject);
/// assert_eq!(examined.findings[0].code, Code::DoubleDot);
/// assert_eq!(examined.findings[0].span.of(b"ada..lovell@fernhollow.org"), b"..");
/// ```
pub fn examine(text: &[u8], policy: &Policy) -> Examined {
    let mut out = Examined::default();
    match policy.grammar {
        Grammar::Smtp => smtp(text, policy, &mut out),
        Grammar::Header => header::examine(text, policy, &mut out),
        Grammar::Html => html::examine(text, policy, &mut out),
    }
    settle(policy, &mut out);
    out
}

/// Where the parts of an address stand, and how many @ there are outside quotes.
pub(crate) struct Cut {
    pub(crate) local: Span,
    pub(crate) domain: Span,
    pub(crate) second_at: Option<usize>,
}

/// Cuts `text` at its @; none where there is no @ outside quotes.
pub(crate) fn cut(text: &[u8]) -> Option<Cut> {
    if text.first() == Some(&b'"')
        && let Some(close) = local_part::closing_quote(text)
        && text.get(close + 1) == Some(&b'@')
    {
        let domain = Span::new(close + 2, text.len());
        let second_at = memchr::memchr(b'@', domain.of(text)).map(|i| domain.start + i);
        return Some(Cut { local: Span::new(0, close + 1), domain, second_at });
    }
    let first = memchr::memchr(b'@', text)?;
    let last = memchr::memrchr(b'@', text)?;
    let second_at = memchr::memchr(b'@', &text[first + 1..]).map(|i| first + 1 + i);
    Some(Cut { local: Span::new(0, first), domain: Span::new(last + 1, text.len()), second_at })
}

/// Examines `text` as *Mailbox* of RFC 5321 §4.1.2.
pub(crate) fn smtp(text: &[u8], policy: &Policy, out: &mut Examined) {
    let Some(cut) = cut(text) else {
        out.findings.push(Finding::plain(no_address::code(text), 0..text.len()));
        // What else is wrong with it is worth telling only where it is one word.
        return;
    };
    if let Some(second) = cut.second_at {
        let message: Cow<'static, str> = match memchr::memchr_iter(b'@', text).count() {
            2 => "There are 2 @ signs; an address has one.".into(),
            count => format!("There are {count} @ signs; an address has one.").into(),
        };
        out.findings.push(Finding::told(Code::SeveralAtSigns, second..second + 1, message));
    }
    out.local_span = cut.local;
    out.domain_span = cut.domain;
    let local = local_part::examine(cut.local.of(text), cut.local.start, &mut out.findings);
    out.domain = domain::examine(cut.domain.of(text), cut.domain.start, policy, &mut out.findings);
    put_together(local, policy, out);
}

/// Builds the standard form of what is well formed, holds it against the lengths, and reads its meaning.
pub(crate) fn put_together(local: LocalReport, policy: &Policy, out: &mut Examined) {
    put_together_by(local, policy, out, true);
}

/// Like [`put_together`], for a grammar that knows no lengths and no quotes.
pub(crate) fn put_together_as_it_is(local: LocalReport, policy: &Policy, out: &mut Examined) {
    put_together_by(local, policy, out, false);
}

fn put_together_by(local: LocalReport, policy: &Policy, out: &mut Examined, strict: bool) {
    out.class = out.domain.facts.class();
    out.operator = out.domain.facts.operator;
    if keeps_from_writing(&out.findings, policy) {
        length_of_local(local.content.len(), out);
        return;
    }
    let content = String::from_utf8(local.content).expect("what is not UTF-8 is not written");
    let composed: String = if content.is_ascii() { content.clone() } else { content.nfc().collect() };
    // What is not quoted needs no quotes, or has a fault of order that is let pass as it stands.
    let written = match strict && local.quoted {
        true => local_part::written(composed.as_bytes()),
        false => composed.clone().into_bytes(),
    };
    let folded = if written.first() == Some(&b'"') {
        local_part::written(key::folded(&composed).as_bytes())
    } else {
        key::folded(&composed).into_bytes()
    };
    let kept = if policy.letter_case == LetterCase::Keep { &written } else { &folded };
    let whole = kept.len() + 1 + out.domain.ascii.len();
    if strict {
        length_of_local(kept.len(), out);
    }
    if strict && whole > 254 {
        let message = format!("The address has {whole} octets; 254 is the most.");
        let span = Span::new(out.local_span.start, out.domain_span.end);
        out.findings.push(Finding::told(Code::AddressTooLong, span, message));
    }
    if keeps_from_writing(&out.findings, policy) {
        return;
    }
    let quoted = written.first() == Some(&b'"');
    let mut repairs = out.repairs;
    for (made, repair) in [
        (local.quoted && !quoted, Repair::Quotes),
        (content != composed, Repair::UnicodeForm),
        (kept != &written, Repair::LocalCase),
        (out.domain.has_capitals, Repair::DomainCase),
        (out.domain.mapped, Repair::ALabel),
    ] {
        if made {
            repairs.insert(repair);
        }
    }
    out.repairs = repairs;
    let address = String::from_utf8(kept.clone()).expect("UTF-8 from UTF-8") + "@" + &out.domain.ascii;
    out.standard = Some(Standard { at: kept.len(), address });
    (out.written, out.folded) = (written, folded);
    read_meaning(quoted, policy, out);
}

pub(crate) fn keeps_from_writing(findings: &[Finding], policy: &Policy) -> bool {
    findings.iter().any(|finding| policy.keeps_from_writing(finding.code))
}

fn length_of_local(octets: usize, out: &mut Examined) {
    if octets > 64 {
        let message = format!("The local part has {octets} octets; 64 is the most.");
        out.findings.push(Finding::told(Code::LocalPartTooLong, out.local_span, message));
    }
}

fn read_meaning(quoted: bool, policy: &Policy, out: &mut Examined) {
    let (local, whole) = (out.local_span, Span::new(out.local_span.start, out.domain_span.end));
    let facts = out.domain.facts;
    let mut notes = Vec::new();
    if quoted {
        notes.push(Finding::plain(Code::QuotedLocalPart, local));
    }
    if !out.folded.is_ascii() {
        notes.push(Finding::plain(Code::NonAsciiLocal, local));
    }
    if let Some(most) = policy.max_length
        && let Some(standard) = &out.standard
        && standard.address.len() > most
    {
        let message = format!("The address has {} octets; this job allows {most}.", standard.address.len());
        notes.push(Finding::told(Code::TooLongForHouse, whole, message));
    }
    if looks_alike(std::str::from_utf8(&out.folded).unwrap_or_default()) {
        notes.push(Finding::plain(Code::LookAlikeLetters, local));
    }
    let unicode = domain::to_unicode(&out.domain.ascii);
    if !unicode.is_ascii() && unicode.split('.').any(looks_alike) {
        notes.push(Finding::plain(Code::LookAlikeLetters, out.domain_span));
    }
    if !quoted {
        meaning_of_local(policy, out, &mut notes);
    }
    if let Some(once) = local_traits::once(out.domain.ascii.as_bytes()) {
        let message = format!("Its ending, or all of it, stands twice: ‘{}’.", String::from_utf8_lossy(once));
        notes.push(Finding::told(Code::Residue, out.domain_span, message));
    }
    if policy.lists.is_empty() {
        notes.extend(facts.codes().iter().map(|code| domain_note(code, policy, out)));
    } else {
        out.class = read_lists(policy, out, &mut notes).or(out.class);
    }
    out.findings.append(&mut notes);
}

/// What the domain and the job's own lists say; gives the class.
fn read_lists(policy: &Policy, out: &Examined, notes: &mut Vec<Finding>) -> Option<Class> {
    let facts = out.domain.facts;
    let folded = [&out.folded[..], b"@", out.domain.ascii.as_bytes()].concat();
    let mut key = Vec::new();
    if policy.lists.by_key {
        out.key_parts(policy).write(policy.same, &mut key);
    }
    let base = meaning_base(&out.folded, facts.rule, policy);
    let asked = Asked { address: &folded, at: out.folded.len(), base, key: &key };
    let mut codes = facts.codes();
    if facts.is(Fact::Listed) {
        codes = codes.union(policy.lists.codes_of_domain(asked.domain()));
    }
    let (class, codes) = policy.lists.settle(asked, facts.class(), codes);
    for code in codes.iter() {
        notes.push(list_note(code, asked, policy, out).unwrap_or_else(|| domain_note(code, policy, out)));
    }
    class
}

/// What a list of the job's own says, with the entry and its place; none where the finding comes from elsewhere.
fn list_note(code: Code, asked: Asked<'_>, policy: &Policy, out: &Examined) -> Option<Finding> {
    let (list, entry) = policy.lists.raising(code, asked)?;
    let span = match (list.kind(entry), list.purpose.of) {
        (EntryKind::Domain { .. }, _) => out.domain_span,
        (_, Of::LocalParts) => out.local_span,
        _ => Span::new(out.local_span.start, out.domain_span.end),
    };
    let Purpose { name, from, .. } = &list.purpose;
    let (entry, line) = (list.shown(entry), list.line(entry));
    Some(Finding::told(code, span, format!("Your list ‘{name}’ has ‘{entry}’ ({from}, line {line}).")))
}

fn meaning_of_local(policy: &Policy, out: &Examined, notes: &mut Vec<Finding>) {
    let (local, folded) = (out.local_span, &out.folded[..]);
    let plus = memchr::memchr(b'+', folded).filter(|&at| at > 0);
    let (domain, facts) = (out.domain.ascii.as_bytes(), out.domain.facts);
    let traits = local_traits(folded, plus, true, domain, facts, policy);
    let base = traits.tag.map_or(folded, |tag| &folded[..tag]);
    let told = traits.codes().union(rare_traits(&out.written));
    notes.extend(told.iter().map(|code| local_note(code, local, base)));
}

/// What is told of a local part for a reason of its own, with the place it is about.
fn local_note(code: Code, local: Span, base: &[u8]) -> Finding {
    let start = local.start;
    match (code, local_words::find(base)) {
        (Code::Tagged, _) => Finding::plain(code, start + base.len().min(local.len())..local.end),
        (Code::TypingSlip, _) => Finding::told(code, start..start + 4, "It starts like a web address."),
        (Code::FormulaLike | Code::OddBeginning, _) => Finding::plain(code, start..start + 1),
        (Code::RoleDesk, Some(LocalWord { desk: Desk::Role(purpose), .. })) => Finding::told(
            code,
            local,
            format!("The address belongs to a desk ({purpose}) and not to a person."),
        ),
        _ => Finding::plain(code, local),
    }
}

/// The local part without its tag, as far as meaning goes: where no rule is known, a plus is taken for the separator.
#[inline]
pub(crate) fn meaning_base<'a>(folded: &'a [u8], rule: u8, policy: &Policy) -> &'a [u8] {
    if rule > 0 {
        return policy.rules[usize::from(rule)].base(folded);
    }
    match memchr::memchr(b'+', folded) {
        Some(at) if at > 0 => &folded[..at],
        _ => folded,
    }
}

fn domain_note(code: Code, policy: &Policy, out: &Examined) -> Finding {
    let operator = out.operator.name();
    match code {
        Code::TypingSlip if starts_like_web(out.domain.ascii.as_bytes()) => {
            Finding::told(code, out.domain_span, "The domain is that of a web site.")
        }
        Code::TypingSlip => {
            let meant = crate::slips::of(out.domain.ascii.as_bytes(), || true, policy);
            let message = meant.map_or_else(
                || code.info().sentence.to_owned(),
                |meant| format!("The domain looks like a slip of ‘{}’ ({}).", meant.domain, meant.reason),
            );
            Finding::told(code, out.domain_span, message)
        }
        Code::FreeProvider if out.domain.facts.certainty() == Certainty::Listed => Finding::told(
            code,
            out.domain_span,
            "Published lists have the domain as a free provider; it can have changed hands.",
        ),
        Code::FreeProvider | Code::IspMailbox | Code::PaidMailbox | Code::Relay | Code::Disposable
            if !operator.is_empty() =>
        {
            let sentence = code.info().sentence.trim_end_matches('.');
            Finding::told(code, out.domain_span, format!("{sentence} ({operator})."))
        }
        Code::NoReply => Finding::told(code, out.domain_span, "The domain says that nobody reads there."),
        code => Finding::plain(code, out.domain_span),
    }
}

/// Whether `text` mixes scripts in a way that misleads (UTS #39 §5.2), or is wholly of letters that pass for ASCII ones.
fn looks_alike(text: &str) -> bool {
    if text.is_ascii() {
        return false;
    }
    let mixes =
        !text.check_restriction_level(RestrictionLevel::HighlyRestrictive) && !text.is_single_script();
    let passes_for_ascii = text.chars().all(|c| !c.is_ascii_alphabetic())
        && text.chars().any(char::is_alphabetic)
        && skeleton(text).all(|c| c.is_ascii());
    mixes || passes_for_ascii
}

fn settle(policy: &Policy, out: &mut Examined) {
    out.findings.retain(|finding| policy.severity(finding.code) != Severity::Off);
    out.findings.sort_by_key(|finding| (finding.span.start, finding.span.end, finding.code));
    out.codes = out.findings.iter().fold(CodeSet::EMPTY, |set, finding| set.with(finding.code));
    out.verdict = policy.verdict(out.codes);
}

impl Examined {
    /// Whether no syntax finding rejects it, so that there is a standard form.
    pub fn has_standard_form(&self) -> bool {
        self.standard.is_some()
    }

    /// How certain its class is.
    pub fn certainty(&self) -> Certainty {
        match self.class == self.domain.facts.class() {
            true => self.domain.facts.certainty(),
            false => Certainty::Known,
        }
    }

    /// The key under `same`; none where the syntax is at fault.
    pub fn key(&self, same: SameMailbox, policy: &Policy) -> Option<String> {
        self.standard.as_ref()?;
        let mut key = Vec::new();
        self.key_parts(policy).write(same, &mut key);
        Some(String::from_utf8(key).expect("parts of UTF-8, cut at ASCII"))
    }

    pub(crate) fn key_parts<'a>(&'a self, policy: &'a Policy) -> KeyParts<'a> {
        KeyParts {
            written: &self.written,
            folded: &self.folded,
            domain: self.domain.ascii.as_bytes(),
            facts: self.domain.facts,
            rule: &policy.rules[usize::from(self.domain.facts.rule)],
        }
    }
}
