//! Nothing in a text makes looking for addresses panic, and each that is found lies in it, behind the one before.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_core::{Grammar, text};
use ypogram_fuzz::policy_by;

fuzz_target!(|bytes: &[u8]| {
    let mut end = 0;
    text::find(bytes, policy_by(Grammar::Smtp), |hit| {
        assert!(hit.as_found.start >= end && hit.as_found.end <= bytes.len());
        end = hit.as_found.end;
    });
});
