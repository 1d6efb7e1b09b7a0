//! A judged address as programs get it. The names are the same wherever one appears.

use serde::Serialize;
use ypogram_core::{
    Class, Finding, Form, Found, Kind, Policy, SameMailbox, Severity, Suggestion, Verdict, cell, examine,
    providers::Operator, suggest,
};
use ypogram_core::{Code, CodeSet, Examined};

/// A judged address.
#[derive(Clone, Debug, Serialize)]
pub struct JudgedAddress {
    /// The standard form; none where the syntax is at fault.
    pub address: Option<String>,
    /// How it stood, its wrapping included. Bytes that are not UTF-8 show as U+FFFD.
    pub as_found: String,
    /// The same in hexadecimal, where it is not UTF-8.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub as_found_hex: Option<String>,
    /// The form it stood in.
    pub form: Form,
    /// Accept, review or reject.
    pub verdict: Verdict,
    /// What was noticed, by place.
    pub findings: Vec<FindingOut>,
    /// What was changed to reach the standard form.
    pub repairs: Vec<ypogram_core::Repair>,
    /// What was probably meant.
    pub suggestion: Option<Suggestion>,
    /// What kind of mailbox the domain gives.
    pub class: Option<Class>,
    /// Who runs the domain.
    pub operator: Operator,
    /// The local part of the standard form.
    pub local_part: Option<String>,
    /// The domain of the standard form.
    pub domain: Option<String>,
    /// The keys under the four rules; none where the syntax is at fault.
    pub keys: Option<Keys>,
}

/// One finding.
#[derive(Clone, Debug, Serialize)]
pub struct FindingOut {
    /// What was noticed.
    pub code: Code,
    /// What it is about.
    pub kind: Kind,
    /// How much it weighs in this job.
    pub severity: Severity,
    /// First byte in `as_found`.
    pub start: usize,
    /// Behind the last byte in `as_found`.
    pub end: usize,
    /// A sentence.
    pub message: String,
}

/// The keys under the four rules.
#[derive(Clone, Debug, Serialize)]
pub struct Keys {
    /// Local part as written.
    pub exact: String,
    /// Letter case ignored.
    pub case: String,
    /// What the domain's own provider documents.
    pub provider: String,
    /// Dots and plus tags ignored at every domain.
    pub everywhere: String,
}

impl JudgedAddress {
    /// The addresses in `cell`, judged: at least one, be it of an empty text.
    pub fn all_in(cell: &[u8], policy: &Policy) -> Vec<(JudgedAddress, Examined)> {
        let mut found = Vec::new();
        cell::read(cell, policy, &mut found);
        if found.is_empty() {
            let examined = examine(b"", policy);
            return vec![(JudgedAddress::of(cell, None, &examined, policy), examined)];
        }
        let one = |found: &Found<'_>| {
            let examined = examine(&found.text, policy);
            (JudgedAddress::of(cell, Some(found), &examined, policy), examined)
        };
        found.iter().map(one).collect()
    }

    /// The address `text`, found in the stretch `as_found` with its wrapping.
    pub(crate) fn of_text(as_found: &[u8], text: &[u8], policy: &Policy) -> Self {
        let examined = examine(text, policy);
        let mut found = Vec::new();
        cell::read(as_found, policy, &mut found);
        match found.iter().find(|found| *found.text == *text) {
            Some(found) => JudgedAddress::of(as_found, Some(found), &examined, policy),
            None => JudgedAddress::of(as_found, None, &examined, policy),
        }
    }

    fn of(cell: &[u8], found: Option<&Found<'_>>, examined: &Examined, policy: &Policy) -> Self {
        let as_found = found.map_or(cell, |found| found.as_found.of(cell));
        let start = found.map_or(0, |found| found.as_found.start);
        let codes = found.map_or(CodeSet::EMPTY, |found| policy.in_force(found.codes));
        let whole = Finding::plain(Code::WordBeside, 0..as_found.len());
        let of_form =
            codes.iter().map(|code| Finding { code, message: code.info().sentence.into(), ..whole.clone() });
        let placed = examined.findings.iter().map(|finding| {
            let place = found.map_or(finding.span, |found| found.locate(finding.span));
            let inside = |at: usize| at.saturating_sub(start).min(as_found.len());
            Finding { span: (inside(place.start)..inside(place.end)).into(), ..finding.clone() }
        });
        let all = examined.codes.union(codes);
        let verdict = policy.verdict(all);
        let standard = examined.standard.as_ref();
        let suggestion = match found {
            Some(_) if codes.contains(Code::WordBeside) => cell::suggest_joined(cell, policy),
            Some(found) if verdict != Verdict::Accept => suggest(&found.text, all, policy),
            _ => None,
        };
        let key = |same| examined.key(same, policy).unwrap_or_default();
        JudgedAddress {
            address: standard.map(|standard| standard.address.clone()),
            as_found: String::from_utf8_lossy(as_found).into_owned(),
            as_found_hex: std::str::from_utf8(as_found).is_err().then(|| hex(as_found)),
            form: found.map_or(Form::Plain, |found| found.form),
            verdict,
            findings: of_form.chain(placed).map(|finding| FindingOut::of(finding, policy)).collect(),
            repairs: found
                .map_or(examined.repairs, |found| examined.repairs.union(found.repairs))
                .iter()
                .collect(),
            suggestion,
            class: examined.class,
            operator: examined.operator,
            local_part: standard.map(|standard| standard.local_part().to_owned()),
            domain: standard.map(|standard| standard.domain().to_owned()),
            keys: standard.map(|_| Keys {
                exact: key(SameMailbox::Exact),
                case: key(SameMailbox::Case),
                provider: key(SameMailbox::Provider),
                everywhere: key(SameMailbox::Everywhere),
            }),
        }
    }
}

impl FindingOut {
    fn of(finding: Finding, policy: &Policy) -> Self {
        FindingOut {
            code: finding.code,
            kind: finding.code.info().kind,
            severity: policy.severity(finding.code),
            start: finding.span.start,
            end: finding.span.end,
            message: finding.message.into_owned(),
        }
    }
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}
