//! Rows of `dedupe` encoded, each in the columns of the output it goes to.

use ypogram_io::{OutRow, RowWriter};

use crate::engine::reading::Task;
use crate::jobs::dedupe::part::{Goes, OUTPUTS, Part};

/// The writers of a worker, by output.
pub(crate) struct OutputWriters {
    /// Each with one template a source; none where there is no such output.
    pub(super) writers: [Option<RowWriter>; OUTPUTS],
}

impl OutputWriters {
    /// Encodes the rows of a part that was settled.
    pub(super) fn encode(&mut self, task: &Task, part: &mut Part) {
        let mut merged = part.merged.iter().peekable();
        for (nth, (row, Goes { to, values })) in part.rows.iter().zip(&part.goes).enumerate() {
            let replaced = merged.next_if(|(row, _)| *row == nth).map(|(_, cells)| &cells[..]);
            let Some(writer) = &mut self.writers[*to as usize] else { continue };
            let values = values.map(|row| part.values.of_row(row as usize));
            let out = OutRow {
                record: Some(part.batch.record(&task.chunk, nth)),
                template: task.source,
                values: values.unwrap_or_default(),
                values_are_simple: false,
                record_is_simple: row.is_simple,
                replaced: replaced.unwrap_or_default(),
            };
            writer.row(&out, &mut part.encoded[*to as usize]);
        }
    }
}
