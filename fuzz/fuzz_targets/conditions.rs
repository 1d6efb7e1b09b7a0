//! Conditions as they stand behind `--only`, values put into them, and what `split` is asked to cut and compose.
#![no_main]

use libfuzzer_sys::fuzz_target;
use ypogram_core::Pattern;
use ypogram_io::Error;
use ypogram_jobs::{Composed, Conditions, Cut};

fuzz_target!(|text: &str| {
    let pattern =
        |name: &str| Pattern::new(name, name, true, false).map_err(|message| Error::unusable(message, ""));
    let _ = (Conditions::read(text), Cut::read(text, pattern), Composed::read(text));
    assert!(Conditions::read(&format!("value={}", Conditions::quoted(text))).is_ok());
});
