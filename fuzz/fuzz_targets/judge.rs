//! Nothing makes judging panic, the quick path says what the thorough one says, and a standard form is its own.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_core::{Grammar, examine, suggest};
use ypogram_fuzz::{policy_by, with_judge_by};

fuzz_target!(|bytes: &[u8]| {
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
});
