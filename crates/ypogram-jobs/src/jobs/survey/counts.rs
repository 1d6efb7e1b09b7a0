//! The counts of a survey, named as in every other summary.

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use ypogram_core::Verdict;

use crate::engine::distinct::DistinctCount;

/// The counts of a survey. Records unless said otherwise.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct SurveyCounts {
    /// Records surveyed.
    pub records: u64,
    /// Lines without anything in them.
    pub blank_lines: u64,
    /// Records without any address.
    pub no_address: u64,
    /// Usable records: as they stood, after repair, from text fields.
    pub usable: UsableFigures,
    /// By verdict of their address.
    pub verdicts: IndexMap<String, u64>,
    /// By finding.
    pub findings: IndexMap<String, u64>,
    /// Usable ones by repair, the most frequent first.
    pub repairs: IndexMap<String, u64>,
    /// By form of their address.
    pub forms: IndexMap<String, u64>,
    /// Usable ones by class, the most frequent first.
    pub classes: IndexMap<String, u64>,
    /// Usable ones by operator, the most frequent first.
    pub operators: IndexMap<String, u64>,
    /// Distinct mailboxes of usable addresses.
    pub mailboxes: u64,
    /// Distinct domains of usable addresses.
    pub usable_domains: u64,
    /// Distinct shapes of the cells in the address fields.
    pub shapes: u64,
    /// The names of those counts that are estimates, such as `mailboxes`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub estimated: Vec<String>,
}

/// Usable records.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct UsableFigures {
    /// Their address stood in standard form.
    pub as_it_stood: u64,
    /// It had to be repaired.
    pub after_repair: u64,
    /// It comes from a text field.
    pub from_text: u64,
    /// All of them.
    pub total: u64,
}

impl SurveyCounts {
    /// Records with an address of that verdict.
    pub fn of(&self, verdict: Verdict) -> u64 {
        self.verdicts.get(verdict.word()).copied().unwrap_or_default()
    }

    /// Distinct mailboxes.
    pub fn distinct_mailboxes(&self) -> DistinctCount {
        self.distinct("mailboxes", self.mailboxes)
    }

    /// Distinct domains.
    pub fn distinct_domains(&self) -> DistinctCount {
        self.distinct("usable_domains", self.usable_domains)
    }

    /// Distinct shapes.
    pub fn distinct_shapes(&self) -> DistinctCount {
        self.distinct("shapes", self.shapes)
    }

    fn distinct(&self, name: &str, count: u64) -> DistinctCount {
        DistinctCount { count, exact: !self.estimated.iter().any(|estimated| estimated == name) }
    }
}
