//! Mailboxes and their duplicates.

use serde::{Deserialize, Serialize};

use crate::engine::distinct::DistinctCount;
use crate::engine::hash_sample::HashSample;

/// How many records share a mailbox, under the rule of the job.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct MailboxFigures {
    /// The rule.
    pub rule: String,
    /// Mailboxes that several records have.
    pub groups: u64,
    /// The records in these.
    pub in_groups: u64,
    /// Records of the largest group; where figures are estimates, at least this many.
    pub largest: u64,
}

/// Up to this many mailboxes are all counted, in some 70 MB.
const EXACT: usize = 3_600_000;

/// Counts records by mailbox.
pub(super) struct Mailboxes {
    counts: HashSample<u32>,
}

impl Mailboxes {
    pub(super) fn new() -> Self {
        Mailboxes { counts: HashSample::new(EXACT) }
    }

    #[inline]
    pub(super) fn add(&mut self, key: u64) {
        if let Some(count) = self.counts.value(key, || 0) {
            *count = count.saturating_add(1);
        }
        self.counts.thin();
    }

    /// How many there are; where that is an estimate, so are the figures of those that records share.
    pub(super) fn distinct(&self) -> DistinctCount {
        DistinctCount { count: self.counts.distinct(), exact: self.counts.is_exact() }
    }

    pub(super) fn figures(&self, rule: &str) -> MailboxFigures {
        let groups = self.counts.iter().map(|(_, count)| u64::from(*count)).filter(|count| *count > 1);
        let (mut number, mut records, mut largest) = (0, 0, 0);
        for count in groups {
            number += 1;
            records += count;
            largest = largest.max(count);
        }
        let scale = self.counts.scale();
        MailboxFigures { rule: rule.into(), groups: number * scale, in_groups: records * scale, largest }
    }
}
