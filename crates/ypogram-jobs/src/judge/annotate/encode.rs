//! Rows encoded, once it is settled where they go.

use ypogram_io::OutRow;

use crate::engine::reading::Task;
use crate::judge::annotate::part::Late;
use crate::judge::annotate::{Annotator, Part};
use crate::plan::columns::Column;
use crate::plan::outcome::Outcome;

impl Annotator<'_> {
    /// Encodes the rows of a chunk, those of each outcome apart where records are sorted by it.
    pub(super) fn encode_rows(&mut self, task: &Task, part: &mut Part) {
        self.set_late_values(task, part);
        let templates: Vec<Vec<usize>> =
            self.writers.iter_mut().map(|writer| writer.templates(&part.keys)).collect();
        let of_review = self.writers.len() - 1;
        let into = self.wanted.into.zip(self.added.value_of(Column::Address));
        let mut merged = part.merged.iter().peekable();
        for (nth, row) in part.rows.iter().enumerate() {
            let (output, writer) = match self.by_outcome {
                true if row.outcome.is_decided_about() => (usize::from(row.output), of_review),
                true => (usize::from(row.output), 0),
                false => (0, 0),
            };
            let values = part.values.of_row(row.values as usize);
            // An address that is doubtful waits for a decision.
            let is_accepted = !row.outcome.is_decided_about() && row.outcome != Outcome::NoAddress;
            let mut replaced =
                merged.next_if(|(at, _)| *at == nth).map(|(_, cells)| cells.clone()).unwrap_or_default();
            if let Some((field, address)) = into.filter(|_| is_accepted) {
                replaced.retain(|(filled, _)| *filled != field);
                replaced.push((field, values.get(address).to_vec()));
            }
            let out = OutRow {
                record: Some(part.batch.record(&task.chunk, row.record as usize)),
                template: templates[writer][row.template as usize],
                values,
                values_are_simple: row.values_are_simple,
                record_is_simple: row.record_is_simple && replaced.is_empty(),
                replaced: &replaced,
            };
            self.writers[writer].row(&out, &mut part.encoded[output]);
        }
    }

    /// Fills in the values that depend on the records before.
    fn set_late_values(&self, task: &Task, part: &mut Part) {
        for column in [Column::Line, Column::Record] {
            let Some(value) = self.added.value_of(column) else { continue };
            for row in &part.rows {
                let number = match column {
                    Column::Line => {
                        let record = part.batch.record(&task.chunk, row.record as usize);
                        part.lines_before + record.line_in_chunk() + 1
                    }
                    _ => part.records_before + u64::from(row.record) + 1,
                };
                part.values.set_number(row.values as usize, value, number);
            }
        }
        for (nth, column, late) in part.late.drain(..) {
            let Some(value) = self.added.value_of(column) else { continue };
            let row = part.rows[nth].values as usize;
            match late {
                Late::Number(number) => part.values.set_number(row, value, number),
                Late::Text(place) => part.values.set(row, value, place),
            }
        }
    }
}
