//! The grammar of mail headers: comments, folding, quoted names, obsolete forms.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_core::{Grammar, Hasher, Judge, Policy, cell, examine};

fuzz_target!(|bytes: &[u8]| {
    let mut policy = Policy::default();
    policy.grammar = Grammar::Header;
    let examined = examine(bytes, &policy);
    assert_eq!(Judge::new(&policy, Hasher::with_key(1)).judge(bytes).codes, examined.codes);
    assert!(examined.findings.iter().all(|finding| finding.span.end <= bytes.len()));
    let mut found = Vec::new();
    cell::read(bytes, &policy, &mut found);
    assert!(found.iter().all(|address| address.as_found.end <= bytes.len()));
});
