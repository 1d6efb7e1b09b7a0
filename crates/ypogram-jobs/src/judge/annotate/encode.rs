//! Rows encoded, once it is settled where they go.

use ypogram_io::OutRow;

use crate::engine::reading::Task;
use crate::judge::annotate::part::SameAs;
use crate::judge::annotate::{Annotator, Part};
use crate::plan::columns::Column;

/// As many templates are remembered; a list of one's own may bring more.
const MOST_TEMPLATES: usize = 4096;

impl Annotator<'_> {
    /// Encodes the rows of a chunk, those of each outcome apart where records are sorted by it.
    pub(super) fn encode_rows(&mut self, task: &Task, part: &mut Part) {
        self.set_late_values(task, part);
        if self.templates.len() > MOST_TEMPLATES {
            self.templates.clear();
            self.writer.forget_templates();
        }
        let (added, writer) = (&self.added, &mut self.writer);
        let mut template_of =
            |key| *self.templates.entry(key).or_insert_with(|| writer.add_template(added.template(&key)));
        let templates: Vec<usize> = part.keys.iter().map(|key| template_of(*key)).collect();
        for row in &part.rows {
            let output = if self.by_outcome { row.outcome as usize } else { 0 };
            let out = OutRow {
                record: Some(part.batch.record(&task.chunk, row.record as usize)),
                template: templates[row.template as usize],
                values: part.values.of_row(row.values as usize),
                values_are_simple: row.values_are_simple,
                record_is_simple: row.record_is_simple,
                replaced: &[],
            };
            self.writer.row(&out, &mut part.encoded[output]);
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
        let Some(value) = self.added.value_of(Column::SameAs) else { return };
        for (nth, same_as) in part.same_as.drain(..) {
            let row = part.rows[nth].values as usize;
            match same_as {
                SameAs::Record(number) => part.values.set_number(row, value, number),
                SameAs::Named(place) => part.values.set(row, value, place),
            }
        }
    }
}
