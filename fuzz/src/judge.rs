//! Nothing makes judging panic, the quick path says what the thorough one says, and a standard form is its own.

use ypogram_core::{Grammar, examine, suggest};

use super::judges::policy_by;
use super::judges::with_judge_by;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn judge(bytes: &[u8]) {
    for grammar in [Grammar::Smtp, Grammar::Html] {
        let policy = policy_by(grammar);
        let examined = examine(bytes, policy);
        assert_eq!(with_judge_by(grammar, |judge| judge.judge(bytes).codes), examined.codes);
        assert!(examined.findings.iter().all(|finding| finding.span.end <= bytes.len()));
        suggest(bytes, examined.codes, policy);
        if let Some(standard) = examined.standard {
            let again = examine(standard.address.as_bytes(), policy).standard;
            assert_eq!(again.map(|again| again.address), Some(standard.address));
        }
    }
}
