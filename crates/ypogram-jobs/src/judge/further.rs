//! Further usable addresses of records: which of them are in no kept record.

use std::collections::HashSet;

/// What was found of them, by the hash of their mailbox.
#[derive(Debug, Default)]
pub(crate) struct Further {
    /// Of records that were kept.
    kept: HashSet<u128>,
    /// Of others.
    others: HashSet<u128>,
}

impl Further {
    /// Adds one of a record that was kept, or was not.
    pub(crate) fn add(&mut self, mailbox: u128, kept: bool) {
        if kept { &mut self.kept } else { &mut self.others }.insert(mailbox);
    }

    /// How many mailboxes are in no kept record, neither as its address nor beside it; `is_kept` tells the former.
    pub(crate) fn in_no_kept_record(&self, is_kept: impl Fn(u128) -> bool) -> u64 {
        self.others.difference(&self.kept).filter(|&&mailbox| !is_kept(mailbox)).count() as u64
    }
}
