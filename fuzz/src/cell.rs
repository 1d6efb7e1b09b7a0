//! Nothing in a cell makes reading it panic, and each finding leads to a place in the cell.

use ypogram_core::{Grammar, cell, examine, masked, shown, value};

use super::judges::policy_by;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn cell(bytes: &[u8]) {
    let policy = policy_by(Grammar::Smtp);
    let mut found = Vec::new();
    cell::read(bytes, policy, &mut found);
    for address in &found {
        assert!(address.as_found.end <= bytes.len());
        for finding in examine(&address.text, policy).findings {
            let place = address.locate(finding.span);
            assert!(place.start <= place.end && place.end <= bytes.len());
        }
    }
    let _ = (value::read(bytes), masked(&String::from_utf8_lossy(bytes)), shown(bytes));
}
