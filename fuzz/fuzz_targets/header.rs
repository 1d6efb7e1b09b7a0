//! The grammar of mail headers: comments, folding, quoted names, obsolete forms.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_core::{Grammar, cell, examine};
use ypogram_fuzz::{policy_by, with_judge_by};

fuzz_target!(|bytes: &[u8]| {
    let policy = policy_by(Grammar::Header);
    let examined = examine(bytes, policy);
    assert_eq!(with_judge_by(Grammar::Header, |judge| judge.judge(bytes).codes), examined.codes);
    assert!(examined.findings.iter().all(|finding| finding.span.end <= bytes.len()));
    let mut found = Vec::new();
    cell::read(bytes, policy, &mut found);
    assert!(found.iter().all(|address| address.as_found.end <= bytes.len()));
});
