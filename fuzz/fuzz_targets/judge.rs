//! Nothing makes judging panic, the quick path says what the thorough one says, and a standard form is its own.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_core::{Grammar, Hasher, Judge, Policy, examine, suggest};

fuzz_target!(|bytes: &[u8]| {
    for grammar in [Grammar::Smtp, Grammar::Html] {
        let mut policy = Policy::default();
        policy.grammar = grammar;
        let examined = examine(bytes, &policy);
        let judged = Judge::new(&policy, Hasher::with_key(1)).judge(bytes);
        assert_eq!(judged.codes, examined.codes);
        assert!(examined.findings.iter().all(|finding| finding.span.end <= bytes.len()));
        suggest(bytes, examined.codes, &policy);
        if let Some(standard) = examined.standard {
            let again = examine(standard.address.as_bytes(), &policy).standard;
            assert_eq!(again.map(|again| again.address), Some(standard.address));
        }
    }
});
