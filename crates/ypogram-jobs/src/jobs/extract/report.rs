//! What `extract` reports.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::Serialize;
use ypogram_core::Form;
use ypogram_core::text::SkipReason;

use crate::engine::distinct::{DistinctCount, estimates};
use crate::judge::tally::{by_verdict, named};

/// What came of the files themselves.
#[derive(Clone, Debug, Default)]
pub(crate) struct ReadReport {
    pub(crate) files: Vec<Arc<str>>,
    pub(crate) names: Vec<Arc<str>>,
    pub(crate) described: Option<String>,
    pub(crate) not_read: BTreeMap<&'static str, u64>,
    pub(crate) remarks: Vec<String>,
    pub(crate) troubles: Vec<String>,
    pub(crate) broken_off: Vec<String>,
}

/// What `extract` reports.
#[derive(Clone, Debug)]
pub struct ExtractReport {
    /// The files that were read, in order.
    pub files: Vec<Arc<str>>,
    /// What was read of them, in order: the files, or their sheets and tables.
    pub names: Vec<Arc<str>>,
    /// What people call the format of the last table.
    pub described: Option<String>,
    /// Files found in folders that are not read, such as pictures, by what they are.
    pub not_read: BTreeMap<&'static str, u64>,
    /// What else there is to say about single files, such as the encoding that was guessed.
    pub remarks: Vec<String>,
    /// Files found in folders that could not be read, and why.
    pub troubles: Vec<String>,
    /// Inputs that broke off and were salvaged.
    pub broken_off: Vec<String>,
    /// Fields that were named and that no text stands in.
    pub fields_without_text: Vec<String>,
    /// Addresses found.
    pub addresses: u64,
    /// Rows written.
    pub rows: u64,
    /// Cells of all addresses that a spreadsheet would take for formulas.
    pub formula_cells: u64,
    /// Lines of tables without anything in them.
    pub blank_lines: u64,
    /// Surrogates without the other half of their pair (UTF-16, and escapes of JSON).
    pub unpaired_surrogates: u64,
    /// Mail messages past the limits, which were read without decoding their parts.
    pub undecoded_messages: u64,
    /// Distinct mailboxes among the usable ones.
    pub mailboxes: DistinctCount,
    /// Distinct domains of usable addresses.
    pub domains: DistinctCount,
    /// Addresses by verdict.
    pub verdicts: [u64; 3],
    /// Addresses by form.
    pub forms: Vec<u64>,
    /// @ signs that were not taken, by reason.
    pub passed: Vec<u64>,
    /// Matches by pattern, where patterns were looked for.
    pub matches: Vec<(String, u64)>,
}

/// The counts under their names, as `--json` gives them.
#[derive(Clone, Debug, Serialize)]
pub struct ExtractSummed {
    files: u64,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    matches: BTreeMap<String, u64>,
    addresses: u64,
    written: u64,
    blank_lines: u64,
    formula_cells: u64,
    unpaired_surrogates: u64,
    undecoded_messages: u64,
    mailboxes: u64,
    usable_domains: u64,
    /// The names of those counts that are estimates.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    estimated: Vec<&'static str>,
    verdicts: BTreeMap<&'static str, u64>,
    forms: BTreeMap<&'static str, u64>,
    passed_over: BTreeMap<&'static str, u64>,
    files_not_read: BTreeMap<&'static str, u64>,
}

impl ExtractReport {
    /// @ signs that were not taken.
    pub fn passed_over(&self) -> u64 {
        self.passed.iter().sum()
    }

    /// Matches of all patterns.
    pub fn matched(&self) -> u64 {
        self.matches.iter().map(|(_, count)| count).sum()
    }

    /// The counts under their names.
    pub fn summed(&self) -> ExtractSummed {
        ExtractSummed {
            files: self.files.len() as u64,
            matches: self.matches.iter().cloned().collect(),
            addresses: self.addresses,
            written: self.rows,
            blank_lines: self.blank_lines,
            formula_cells: self.formula_cells,
            unpaired_surrogates: self.unpaired_surrogates,
            undecoded_messages: self.undecoded_messages,
            mailboxes: self.mailboxes.count,
            usable_domains: self.domains.count,
            estimated: estimates([("mailboxes", self.mailboxes), ("usable_domains", self.domains)]).collect(),
            verdicts: by_verdict(&self.verdicts),
            forms: named(Form::ALL.iter().map(|form| form.word()), &self.forms),
            passed_over: named(SkipReason::ALL.iter().map(|reason| reason.word()), &self.passed),
            files_not_read: self.not_read.clone(),
        }
    }
}
