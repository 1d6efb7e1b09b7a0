//! Nothing in a text makes looking for addresses panic, and each that is found lies in it, behind the one before.

use ypogram_core::{Grammar, text};

use super::judges::policy_by;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn text(bytes: &[u8]) {
    let mut end = 0;
    text::find(bytes, policy_by(Grammar::Smtp), |hit| {
        assert!(hit.bare.start >= end && hit.as_found.end <= bytes.len());
        end = hit.bare.end;
    });
}
