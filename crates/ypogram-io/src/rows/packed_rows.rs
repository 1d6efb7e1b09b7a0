//! Rows as packed records, for formats whose files are written by one hand: workbooks, databases, files in columns.

use std::sync::Arc;

use crate::records::packed::{PackedRow, write_cell};
use crate::records::value::Value;
use crate::rows::enclose::MakeEnclosure;
use crate::rows::{ColumnSource, EncodeRows, OutRow, OwnFields, Projection, Template, TemplateCell};

/// Writes rows as packed records: the columns, and behind them what a record has beyond its fields.
pub(crate) struct PackedRowEncoder {
    own: Vec<OwnFields>,
    projection: Arc<Projection>,
    templates: Vec<Template>,
    /// The packed cells of each template that are the same in all its rows; nothing for the others.
    shared: Vec<Vec<Vec<u8>>>,
    enclosure: MakeEnclosure,
    scratch: Vec<u8>,
}

impl PackedRowEncoder {
    /// With `own` for each source; `enclosure` makes the file of them.
    pub(crate) fn new(own: Vec<OwnFields>, projection: Arc<Projection>, enclosure: MakeEnclosure) -> Self {
        let (templates, shared) = (Vec::new(), Vec::new());
        PackedRowEncoder { own, projection, templates, shared, enclosure, scratch: Vec::new() }
    }

    /// The cells of a template that are the same in all its rows, packed.
    fn shared_cells(template: &Template) -> Vec<Vec<u8>> {
        let packed = |cell: &TemplateCell| {
            let mut out = Vec::new();
            match cell {
                TemplateCell::Nothing => write_cell(Value::Null, b"", &mut out),
                TemplateCell::Text(text) if text.is_empty() => write_cell(Value::Null, b"", &mut out),
                TemplateCell::Text(text) => write_cell(Value::Text(text), text, &mut out),
                TemplateCell::Bool(yes) => {
                    let text: &[u8] = if *yes { b"true" } else { b"false" };
                    write_cell(Value::Bool(*yes), text, &mut out);
                }
                TemplateCell::Value(_) | TemplateCell::Number(_) => {}
            }
            out
        };
        template.cells.iter().map(packed).collect()
    }

    fn added_cell(&mut self, added: usize, column: usize, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let change = self.projection.columns[column].change;
        let shared = &self.shared[row.template][added];
        if change.is_none() && !shared.is_empty() {
            return out.extend_from_slice(shared);
        }
        self.scratch.clear();
        let template = &self.templates[row.template];
        template.write_text(added, row.values, &mut self.scratch);
        if let Some(change) = change {
            let text = change(&self.scratch);
            return write_cell(Value::Text(&text), &text, out);
        }
        let text = &self.scratch[..];
        let value = match &template.cells[added] {
            TemplateCell::Bool(yes) => Value::Bool(*yes),
            TemplateCell::Number(value) => match row.values.number(*value) {
                Some(number) => Value::Integer(number as i64),
                None => Value::Null,
            },
            _ if text.is_empty() => Value::Null,
            _ => Value::Text(text),
        };
        write_cell(value, text, out);
    }
}

impl EncodeRows for PackedRowEncoder {
    fn start(&self, _: &mut Vec<u8>) {}

    fn enclosure(&self) -> Option<MakeEnclosure> {
        Some(Arc::clone(&self.enclosure))
    }

    fn add_template(&mut self, template: &Template) {
        self.shared.push(Self::shared_cells(template));
        self.templates.push(template.clone());
    }

    fn forget_templates(&mut self) {
        self.templates.clear();
        self.shared.clear();
    }

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let packed = PackedRow::start(out, 0);
        for column in 0..self.projection.columns.len() {
            match self.projection.columns[column].source {
                ColumnSource::Own(field) => {
                    let value = row.own_value(field, &self.own[row.source()]);
                    let text = row.own_cell(field, &self.own[row.source()]);
                    match self.projection.columns[column].change {
                        Some(change) => {
                            let text = change(text);
                            write_cell(Value::Text(&text), &text, out);
                        }
                        None => write_cell(value, text, out),
                    }
                }
                ColumnSource::Added(added) => self.added_cell(added, column, row, out),
            }
        }
        if self.projection.with_surplus
            && let Some(record) = row.record
        {
            for place in self.own[row.source()].width..record.len() {
                write_cell(record.value(place), record.cell(place).unwrap_or_default(), out);
            }
        }
        packed.end(out);
    }
}
