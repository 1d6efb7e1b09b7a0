//! The grammar of mail headers: comments, folding, quoted names, obsolete forms.

use ypogram_core::{Grammar, cell, examine};

use super::judges::policy_by;
use super::judges::with_judge_by;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn header(bytes: &[u8]) {
    let policy = policy_by(Grammar::Header);
    let examined = examine(bytes, policy);
    assert_eq!(with_judge_by(Grammar::Header, |judge| judge.judge(bytes).codes), examined.codes);
    assert!(examined.findings.iter().all(|finding| finding.span.end <= bytes.len()));
    let mut found = Vec::new();
    cell::read(bytes, policy, &mut found);
    assert!(found.iter().all(|address| address.as_found.end <= bytes.len()));
}
