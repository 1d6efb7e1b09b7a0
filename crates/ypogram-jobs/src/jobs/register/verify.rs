//! Whether a register is whole, and each mailbox under the key that it would get today.

use serde::Serialize;
use ypogram_core::{Policy, examine};
use ypogram_io::Result;

use crate::jobs::register::store::Store;

/// What was found.
#[derive(Clone, Debug, Default, Serialize)]
pub struct VerifyReport {
    /// Mailboxes that were looked at.
    pub mailboxes: u64,
    /// What is wrong with the file.
    pub file: Vec<String>,
    /// Addresses whose key is another today, with the key that is in the register and the one that it would get.
    pub other_keys: Vec<(String, String, String)>,
}

impl VerifyReport {
    /// Whether all is as it should be.
    pub fn is_good(&self) -> bool {
        self.file.is_empty() && self.other_keys.is_empty()
    }
}

/// Checks the file, and works out every key again.
///
/// # Errors
/// Where it cannot be read.
pub fn verify(store: &Store, policy: &Policy) -> Result<VerifyReport> {
    let mut report = VerifyReport { file: store.integrity()?, ..VerifyReport::default() };
    if !report.file.is_empty() {
        return Ok(report);
    }
    store.each(|entry| {
        report.mailboxes += 1;
        let key = examine(entry.address.as_bytes(), policy).key(store.rule(), policy).unwrap_or_default();
        if key != entry.key {
            report.other_keys.push((entry.address, entry.key, key));
        }
        Ok(())
    })?;
    Ok(report)
}
