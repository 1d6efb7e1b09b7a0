//! What came of it.

use std::collections::BTreeMap;

use serde::Serialize;

use crate::engine::reading::SourceReport;
use crate::plan::fields::HowChosen;
use crate::plan::read_columns::ReadColumns;

/// What the domain name system says of a domain.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct DnsCells {
    /// The answer.
    pub answer: &'static str,
    /// Who runs the mail host.
    pub hosted_by: String,
    /// When it was asked.
    pub asked: String,
}

/// A domain and what is known of it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct DomainRow {
    /// Itself, in lower-case A-labels.
    pub domain: String,
    /// Records with an address there.
    pub count: u64,
    /// Its class; empty where it is unusable.
    pub class: &'static str,
    /// Who runs it.
    pub operator: &'static str,
    /// The public suffix and one label more.
    pub registrable: String,
    /// The domain that it is probably a slip of.
    pub slip_of: String,
    /// What the domain name system says, who runs the mail host, and when that was asked; where it was.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub dns: Option<DnsCells>,
    /// The first and the last date at which it was seen, as they stand there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seen: Option<(String, String)>,
}

/// What came of it.
#[derive(Clone, Debug, Default)]
pub struct DomainsReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// Where addresses were looked for.
    pub columns: ReadColumns,
    /// How their fields were chosen.
    pub how: HowChosen,
    /// Records read.
    pub records: u64,
    /// Records that have no address with a domain.
    pub without: u64,
    /// Distinct domains.
    pub domains: u64,
    /// Domains that are in the table: those that the other list does not have, where there is one.
    pub written: u64,
    /// Domains that are probably slips of others.
    pub slips: u64,
    /// Their records.
    pub slip_records: u64,
    /// Domains by what the domain name system says of them.
    pub answers: BTreeMap<&'static str, u64>,
    /// Domains by class.
    pub classes: BTreeMap<&'static str, u64>,
    /// The first of the table.
    pub first: Vec<DomainRow>,
    /// The most frequent slips.
    pub first_slips: Vec<DomainRow>,
    /// What is to be known of the dates.
    pub notes: Vec<String>,
}
