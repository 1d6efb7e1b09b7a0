#![no_main]

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| ypogram_fuzz::mail(bytes));
