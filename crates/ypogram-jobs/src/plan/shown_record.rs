//! A record as people are shown it behind a figure.

use ypogram_io::Record;

use crate::engine::shortened::shortened_to;
use crate::plan::fields::FieldPlan;

/// A record as people are shown it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ShownRecord {
    /// The source, by place among all.
    pub source: usize,
    /// The line it starts at, from 1.
    pub line: u64,
    /// Its cells in the order of the fields, very long ones cut.
    pub cells: Vec<String>,
}

/// As many characters of a cell are shown.
const MOST_CHARACTERS: usize = 1000;

impl ShownRecord {
    pub(crate) fn new(source: usize, line: u64, record: Record<'_>, plan: &FieldPlan) -> Self {
        let cell = |field| shortened_to(plan.cell(record, field).unwrap_or_default(), MOST_CHARACTERS);
        ShownRecord { source, line, cells: (0..plan.fields.len()).map(cell).collect() }
    }
}
