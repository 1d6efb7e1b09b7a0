//! The thorough path: every finding of one address with its place, its parts, and its standard form.

use crate::judge::examination::Examination;
use crate::judge::grammar::smtp::smtp;
use crate::judge::grammar::{header, html};
use crate::model::codes::CodeSet;
use crate::model::grammar_choice::Grammar;
use crate::model::severity::Severity;
use crate::policy::job_policy::Policy;

/// Examines `text`, an address without anything around it.
///
/// ```
/// use ypogram_core::{Code, Policy, Verdict, examine};
/// let examined = examine(b"ada..lovell@fernhollow.org", &Policy::default());
/// assert_eq!(examined.verdict, Verdict::Reject);
/// assert_eq!(examined.findings[0].code, Code::DoubleDot);
/// assert_eq!(examined.findings[0].span.of(b"ada..lovell@fernhollow.org"), b"..");
/// ```
pub fn examine(text: &[u8], policy: &Policy) -> Examination {
    let mut out = Examination::default();
    match policy.grammar {
        Grammar::Smtp => smtp(text, policy, &mut out),
        Grammar::Header => header::examine(text, policy, &mut out),
        Grammar::Html => html::examine(text, policy, &mut out),
    }
    settle(policy, &mut out);
    out
}

fn settle(policy: &Policy, out: &mut Examination) {
    out.findings.retain(|finding| policy.severity(finding.code) != Severity::Off);
    out.findings.sort_by_key(|finding| (finding.span.start, finding.span.end, finding.code));
    out.codes = out.findings.iter().fold(CodeSet::EMPTY, |set, finding| set.with(finding.code));
    out.verdict = policy.verdict(out.codes);
}
