//! What came of redacting a source.

use serde::Serialize;

use crate::jobs::redact::personal::What;

/// What came of redacting a source.
#[derive(Clone, Debug, Default, Serialize)]
pub struct RedactReport {
    /// The source.
    pub source: String,
    /// Addresses that were replaced.
    pub addresses: u64,
    /// Different ones in their place: mailboxes, where these are tokens.
    pub different: u64,
    /// Words that were meant as addresses and are none, which were replaced as well.
    pub broken: u64,
    /// Values of hidden fields that were replaced.
    pub values: u64,
    /// Different texts that have become the same.
    pub merged: u64,
    /// Places with an @ that are no addresses, which stayed.
    pub passed_over: u64,
}

impl RedactReport {
    pub(super) fn count(&mut self, what: What) {
        match what {
            What::Address => self.addresses += 1,
            What::Broken => self.broken += 1,
            What::Field => self.values += 1,
        }
    }
}
