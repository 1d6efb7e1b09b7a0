//! The part behind the @: RFC 5321 §4.1.2 *Domain*, IDNA as of UTS #46 with its strict rules.

use crate::characters::idna_form::{ascii_of, needs_idna};
use crate::characters::labels::Labels;
use crate::data::reserved;
use crate::judge::facts::{self, DomainFacts, Fact, Name, NameFault};
use crate::judge::local_traits::once;
use crate::model::class::Class;
use crate::model::codes::{Code, CodeSet};
use crate::model::finding::Finding;
use crate::policy::job_policy::Policy;
use crate::syntax::{self, literal};

/// What the examination of a domain gives.
#[derive(Clone, Debug, Default)]
pub(crate) struct DomainReport {
    /// The standard form: lower-case A-labels, or a literal; what there is of it where the domain is ill-formed.
    pub(crate) ascii: String,
    /// It is an address literal.
    pub(crate) literal: bool,
    /// It was written with ASCII capitals.
    pub(crate) has_capitals: bool,
    /// IDNA changed more than letter case.
    pub(crate) mapped: bool,
    pub(crate) name: Name,
    pub(crate) facts: DomainFacts,
}

/// Names every fault of the domain `text`, which starts at byte `at` of the address, and reads its name.
pub(crate) fn examine(text: &[u8], at: usize, policy: &Policy, findings: &mut Vec<Finding>) -> DomainReport {
    let before = findings.len();
    let mut report = DomainReport {
        ascii: lower(text),
        has_capitals: text.iter().any(u8::is_ascii_uppercase),
        ..DomainReport::default()
    };
    if text.is_empty() {
        findings.push(Finding::plain(Code::EmptyDomain, at.saturating_sub(1)..at));
        report.facts.set(Fact::Faulty, true);
        return report;
    }
    if text[0] == b'[' {
        report.literal = true;
        match literal::check(text) {
            Ok(()) => findings.push(Finding::plain(Code::AddressLiteral, at..at + text.len())),
            Err(message) => findings.push(Finding::told(Code::BadLiteral, at..at + text.len(), message)),
        }
        report.facts.set(Fact::Faulty, true);
        return report;
    }
    if Labels::of(text).is_plain() {
        read_name(text, at, policy, &mut report, findings);
        report.facts.set(Fact::Faulty, findings.len() > before);
        return report;
    }
    syntax::domain::check(text, at, findings);
    // Faults that are let pass keep nothing from being read.
    let goes_on = |findings: &[Finding]| !policy.is_kept_from_writing(&findings[before..]);
    let dotless = text.strip_suffix(b".").filter(|_| goes_on(findings));
    if dotless.is_some() {
        report.ascii.pop();
    }
    let text = dotless.unwrap_or(text);
    if goes_on(findings)
        && let Some(ascii) = syntax::domain::to_ascii(text, at, findings)
    {
        (report.ascii, report.mapped) = (ascii, !text.is_ascii());
    }
    if report.ascii.len() > 253 && goes_on(findings) {
        let message = format!("The domain has {} bytes; 253 is the most.", report.ascii.len());
        findings.push(Finding::told(Code::DomainTooLong, at..at + text.len(), message));
    }
    if goes_on(findings) {
        read_name(text, at, policy, &mut report, findings);
    }
    report.facts.set(Fact::Faulty, findings.len() > before);
    report
}

fn lower(text: &[u8]) -> String {
    let mut lower = String::from_utf8_lossy(text).into_owned();
    lower.make_ascii_lowercase();
    lower
}

fn read_name(
    text: &[u8],
    at: usize,
    policy: &Policy,
    report: &mut DomainReport,
    findings: &mut Vec<Finding>,
) {
    let ascii = report.ascii.as_bytes();
    let labels = Labels::of(ascii);
    report.name = facts::name_of(labels, policy);
    let Some(code) = report.name.fault else {
        report.facts = facts::of_usable(labels, report.name, policy);
        report.facts.set(Fact::NonAscii, needs_idna(ascii));
        return;
    };
    let tld = text.iter().rposition(|&b| b == b'.').map_or(0, |dot| dot + 1);
    let shown = String::from_utf8_lossy(&text[tld..]);
    let finding = match code {
        Code::ReservedName => {
            let (name, standard) = reserved::find(ascii).expect("it was found reserved");
            report.facts.set_class(Some(Class::Reserved));
            let message = format!("‘{name}’ is reserved ({standard}) and can have no mailbox.");
            Finding::told(code, at + text.len() - name.len().min(text.len())..at + text.len(), message)
        }
        Code::UnknownTld => Finding::told(
            code,
            at + tld..at + text.len(),
            format!("There is no top-level domain ‘.{}’.", shown.to_lowercase()),
        ),
        Code::NumericTld => Finding::plain(code, at + tld..at + text.len()),
        _ => Finding::plain(code, at..at + text.len()),
    };
    findings.push(finding);
}

/// The facts of a domain in lower-case ASCII without capitals, without naming its faults; no heap is used for one that
/// has neither faults nor A-labels.
pub(crate) fn quick_facts(domain: &[u8], policy: &Policy) -> DomainFacts {
    let labels = Labels::of(domain);
    let name = facts::name_of(labels, policy);
    let known_tld = name.has_known_tld(domain);
    let mut faulty = DomainFacts::default().with(Fact::Faulty, true).with(Fact::KnownTld, known_tld);
    let mut non_ascii = false;
    if !labels.is_plain() {
        let mut faults = CodeSet::EMPTY;
        syntax::domain::check(domain, 0, &mut faults);
        if domain.len() > 253 || !faults.is_empty() {
            return faulty;
        }
        non_ascii = needs_idna(domain);
        if non_ascii && ascii_of(domain).is_none_or(|ascii| ascii.as_bytes() != domain) {
            return faulty;
        }
    }
    if let Some(fault) = name.fault {
        faulty.set_class((fault == Code::ReservedName).then_some(Class::Reserved));
        faulty.set_name_fault(NameFault::of(fault));
        return faulty.with(Fact::NonAscii, non_ascii);
    }
    facts::of_usable(labels, name, policy)
        .with(Fact::NonAscii, non_ascii)
        .with(Fact::KnownTld, known_tld)
        // What stands twice has a place to be reported.
        .with(Fact::Faulty, once(domain).is_some())
}
