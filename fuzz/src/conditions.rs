//! Conditions as they stand behind `--only`, values put into them, and what `split` is asked to cut and compose.

use ypogram_core::Pattern;
use ypogram_io::Error;
use ypogram_jobs::{Composed, Conditions, Cut};

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn conditions(bytes: &[u8]) {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let pattern =
        |name: &str| Pattern::new(name, name, true, false).map_err(|message| Error::unusable(message, ""));
    let _ = (Conditions::read(text), Cut::read(text, pattern), Composed::read(text));
    assert!(Conditions::read(&format!("value={}", Conditions::quoted(text))).is_ok());
}
