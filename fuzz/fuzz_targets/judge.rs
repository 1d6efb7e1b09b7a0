//! No input makes the heart panic, and the quick path says what the thorough one says.
//!
//! `cargo +nightly fuzz run judge`
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_core::{Grammar, Hasher, Judge, Policy, cell, examine, suggest, text};

fuzz_target!(|bytes: &[u8]| {
    for grammar in [Grammar::Smtp, Grammar::Header, Grammar::Html] {
        let mut policy = Policy::default();
        policy.grammar = grammar;
        let examined = examine(bytes, &policy);
        let judged = Judge::new(&policy, Hasher::with_key(1)).judge(bytes);
        assert_eq!(judged.codes, examined.codes);
        suggest(bytes, examined.codes, &policy);
    }
    let policy = Policy::default();
    let mut found = Vec::new();
    cell::read(bytes, &policy, &mut found);
    for address in &found {
        for finding in examine(&address.text, &policy).findings {
            let place = address.locate(finding.span);
            assert!(place.start <= place.end && place.end <= bytes.len());
        }
    }
    text::find(bytes, &policy, |hit| assert!(hit.as_found.end <= bytes.len()));
});
