//! What `compare` reports.

use indexmap::IndexMap;
use serde::Serialize;

use crate::engine::reading::SourceReport;
use crate::jobs::compare::near::NearReport;
use crate::jobs::compare::state::State;
use crate::jobs::receipt::OutputReport;
use crate::plan::fields::FieldPlan;

/// What `compare` reports.
#[derive(Clone, Debug)]
pub struct CompareReport {
    /// The new records' sources.
    pub sources: Vec<SourceReport>,
    /// What is known.
    pub known_sources: Vec<SourceReport>,
    /// The fields that were looked at in the new records.
    pub plan: FieldPlan,
    /// Those of what is known.
    pub known_plan: Option<FieldPlan>,
    /// Every count.
    pub counts: CompareCounts,
    /// What was written.
    pub outputs: Vec<OutputReport>,
    /// Lists of which only hashes are known, each with how many.
    pub hashed: Vec<(String, u64)>,
}

/// Every count.
#[derive(Clone, Debug, Default, Serialize)]
pub struct CompareCounts {
    /// New records read.
    pub records: u64,
    /// Lines without anything in them.
    pub blank_lines: u64,
    /// New records by state.
    #[serde(serialize_with = "by_word")]
    pub states: [u64; 5],
    /// Known records, those of lists of hashes included.
    pub known_records: u64,
    /// Of them, without a usable address.
    pub known_unusable: u64,
    /// Of them, whose mailbox a new record has.
    pub known_in_both: u64,
    /// Of them, whose mailbox no new record has.
    pub known_missing: u64,
    /// Mailboxes in both of which a field differs, by field.
    pub changed: IndexMap<String, u64>,
    /// Probable twins among the known records, where these were asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub near: Option<NearReport>,
}

impl CompareCounts {
    /// New records of that state.
    pub fn of(&self, state: State) -> u64 {
        self.states[state as usize]
    }
}

fn by_word<S: serde::Serializer>(states: &[u64; 5], serializer: S) -> Result<S::Ok, S::Error> {
    serializer.collect_map(State::ALL.map(|state| (state.word(), states[state as usize])))
}
