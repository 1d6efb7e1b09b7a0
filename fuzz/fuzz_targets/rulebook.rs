//! Rulebooks, and all that is read out of them.
#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| ypogram::fuzzing::read_rulebook(text));
