//! What `clean` reports: figures that add up.

use std::collections::BTreeMap;
use std::path::PathBuf;

use serde::Serialize;
use ypogram_core::{Class, Code, Form, Repair, Words};
use ypogram_io::NotUtf8;

use crate::decisions::AnswerKind;
use crate::duplicates::merge::FilledCount;
use crate::engine::reading::SourceReport;
use crate::jobs::clean::earlier::UnclearCells;
use crate::jobs::clean::since::Since;
use crate::jobs::receipt::OutputReport;
use crate::judge::decided::DecidedRecord;
use crate::judge::rule_counts::RuleCounts;
use crate::judge::selection::Selection;
use crate::judge::tally::{Tally, Usable, by_verdict, named};
use crate::plan::fields::FieldPlan;
use crate::plan::outcome::Outcome;
use crate::plan::shown_record::ShownRecord;

/// Kinds of decisions, those from memory included.
pub(super) const DECISIONS: usize = AnswerKind::ALL.len() + 1;
/// The place of decisions from memory among them.
pub(super) const FROM_MEMORY: usize = AnswerKind::ALL.len();

/// Every count of a run.
#[derive(Clone, Debug)]
pub struct CleanCounts {
    /// Records read.
    pub records: u64,
    /// Lines without anything in them; they are not records.
    pub blank_lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub formula_cells: u64,
    /// Records by outcome.
    pub outcomes: [u64; 6],
    /// What was found in them.
    pub tally: Tally,
    /// Distinct mailboxes among the usable records.
    pub mailboxes: u64,
    /// Records whose mailbox an earlier record of another person has.
    pub shared: u64,
    /// Those of them about which somebody decided.
    pub shared_decided: u64,
    /// Mailboxes of further usable addresses that are in no kept record.
    pub further_not_kept: u64,
    /// Records kept or for review, by class.
    pub handed_over: [u64; Class::COUNT],
    /// The first records whose number of cells is not that of the fields: source, line, cells.
    pub ragged_lines: Vec<(usize, u64, usize)>,
    /// Records about which somebody decided, by kind of decision; the last are remembered from earlier runs.
    pub decisions: [u64; DECISIONS],
    /// The records about which somebody decided in this run, as far as there is something to remember.
    pub decided: Vec<DecidedRecord>,
    /// Suggestions by how sure they are, for records for review and rejected ones.
    pub suggestions: [u64; 2],
    /// Where something stands first that is not UTF-8: source, place in it.
    pub not_utf8: Option<(usize, NotUtf8)>,
}

/// What `clean` reports.
#[derive(Clone, Debug)]
pub struct CleanReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// The fields that were looked at.
    pub plan: FieldPlan,
    /// Every count.
    pub counts: CleanCounts,
    /// Which usable records were wanted.
    pub selection: Selection,
    /// The house's own words.
    pub words: Words,
    /// What else is to be known.
    pub notes: Vec<String>,
    /// What was written.
    pub outputs: Vec<OutputReport>,
    /// The folder it was written to.
    pub folder: PathBuf,
    /// What the names of added columns start with.
    pub prefix: String,
    /// What changed since an earlier run, where that was asked for.
    pub since: Option<Since>,
    /// How much was filled from duplicates, where that was asked for.
    pub filled: Option<FilledCount>,
    /// Cells by which records should be preferred.
    pub unclear: UnclearCells,
    /// The first records behind each figure, by its name, where they were asked for.
    pub behind: BTreeMap<String, Vec<ShownRecord>>,
    /// What it takes to take decisions later was kept.
    pub keeps: bool,
}

/// The counts under their names, as the receipt and `--json` give them.
#[derive(Clone, Debug, Serialize)]
pub struct Summed {
    records: u64,
    blank_lines: u64,
    formula_cells: u64,
    no_address: u64,
    outcomes: BTreeMap<&'static str, u64>,
    usable: Usable,
    verdicts: BTreeMap<&'static str, u64>,
    repairs: BTreeMap<&'static str, u64>,
    forms: BTreeMap<&'static str, u64>,
    findings: BTreeMap<&'static str, u64>,
    rejected: BTreeMap<&'static str, u64>,
    review: BTreeMap<&'static str, u64>,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    set_aside: BTreeMap<String, u64>,
    classes: BTreeMap<&'static str, u64>,
    classes_handed_over: BTreeMap<&'static str, u64>,
    mailboxes: u64,
    shared_mailbox: u64,
    #[serde(skip_serializing_if = "is_zero")]
    shared_mailbox_decided: u64,
    #[serde(flatten)]
    by_rule: RuleCounts,
    further_addresses: u64,
    further_addresses_in_no_kept_record: u64,
    rows_added: u64,
    at_sign_left: u64,
    reachable: BTreeMap<String, u64>,
    short_records: u64,
    long_records: u64,
    records_not_utf8: u64,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    decisions: BTreeMap<&'static str, u64>,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde asks so")]
fn is_zero(count: &u64) -> bool {
    *count == 0
}

impl CleanCounts {
    pub(crate) fn new(tally: Tally) -> Self {
        CleanCounts {
            records: 0,
            blank_lines: 0,
            formula_cells: 0,
            outcomes: [0; 6],
            tally,
            mailboxes: 0,
            shared: 0,
            shared_decided: 0,
            further_not_kept: 0,
            handed_over: [0; Class::COUNT],
            ragged_lines: Vec::new(),
            decisions: [0; DECISIONS],
            decided: Vec::new(),
            suggestions: [0; 2],
            not_utf8: None,
        }
    }

    /// Records about which somebody decided, by kind of decision, those of which there are any.
    pub fn decisions_by_kind(&self) -> BTreeMap<&'static str, u64> {
        let words = AnswerKind::ALL.map(AnswerKind::word).into_iter().chain(["from_memory"]);
        words.zip(self.decisions).filter(|&(_, count)| count > 0).collect()
    }

    /// Rows: one for each record, and those of further addresses.
    pub fn rows(&self) -> u64 {
        self.records + self.tally.rows_added
    }

    /// Rows that ended in `outcome`.
    pub fn of(&self, outcome: Outcome) -> u64 {
        self.outcomes[outcome as usize]
    }
}

impl CleanReport {
    /// Whether decisions about its records can be taken later.
    pub fn is_settled_later(&self) -> bool {
        self.keeps && self.outputs.iter().any(|output| output.blake3.is_some())
    }

    /// The counts under their names.
    pub fn summed(&self) -> Summed {
        let counts = &self.counts;
        let tally = &counts.tally;
        let codes = |counts: &[u64]| named(Code::all().map(Code::name), counts);
        let classes = |counts: &[u64]| named(Class::all().map(Class::word), counts);
        let reachable = self.plan.fields.iter().cloned().zip(tally.reachable.iter().copied());
        Summed {
            records: counts.records,
            blank_lines: counts.blank_lines,
            formula_cells: counts.formula_cells,
            no_address: counts.of(Outcome::NoAddress),
            outcomes: Outcome::ALL.iter().map(|outcome| (outcome.word(), counts.of(*outcome))).collect(),
            usable: Usable::of(tally),
            verdicts: by_verdict(&tally.verdicts),
            repairs: named(Repair::ALL.iter().map(|repair| repair.name()), &tally.repairs),
            forms: named(Form::ALL.iter().map(|form| form.word()), &tally.forms),
            findings: codes(&tally.findings),
            rejected: codes(&tally.rejected),
            review: codes(&tally.review),
            set_aside: tally.set_aside_by_reason(&self.selection),
            classes: classes(&tally.classes),
            classes_handed_over: classes(&counts.handed_over),
            mailboxes: counts.mailboxes,
            shared_mailbox: counts.shared,
            shared_mailbox_decided: counts.shared_decided,
            by_rule: RuleCounts::of(tally),
            further_addresses: tally.more,
            further_addresses_in_no_kept_record: counts.further_not_kept,
            rows_added: tally.rows_added,
            at_sign_left: tally.at_sign_left,
            reachable: reachable.filter(|(_, count)| *count > 0).collect(),
            short_records: tally.short,
            long_records: tally.long,
            records_not_utf8: tally.not_utf8,
            decisions: counts.decisions_by_kind(),
        }
    }
}
