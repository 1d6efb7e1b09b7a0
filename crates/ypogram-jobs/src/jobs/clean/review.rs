//! The columns of the outputs in which somebody decides.

use ypogram_io::RowSpec;

use crate::plan::columns::{Column, ColumnSet};

/// What whoever decides needs, in the order in which it stands behind the record's own fields.
const ASKED: &[Column] = &[
    Column::Record,
    Column::Decision,
    Column::Why,
    Column::Suggestion,
    Column::Confidence,
    Column::Reason,
    Column::SameAs,
    Column::Address,
    Column::Findings,
];

/// The columns of such an output, where others have `added`.
pub(super) fn columns(added: &[Column]) -> Vec<Column> {
    let others = added.iter().filter(|column| !ASKED.contains(column));
    ASKED.iter().chain(others).copied().collect()
}

/// How the rows of such an output are arranged, where others are as in `spec`: no column that is needed is left out or called
/// otherwise.
pub(super) fn arranged(spec: &RowSpec, columns: &ColumnSet) -> RowSpec {
    let mut arranged = spec.with_whole_names(&columns.names().collect::<Vec<_>>());
    let needed: Vec<String> = columns.names().take(ASKED.len()).collect();
    arranged.left_out.retain(|name| !needed.contains(name));
    if !arranged.columns.is_empty() {
        arranged.columns.retain(|(name, _)| !needed.contains(name));
        arranged.columns.extend(needed.into_iter().map(|name| (name.clone(), name)));
    }
    arranged
}
