//! Rows as JSON lines.

use std::sync::Arc;

use crate::formats::json::enclose::json_array;
use crate::records::batch::{JsonCell, Record};
use crate::records::value::Value;
use crate::rows::{
    ColumnSource, EncodeRows, MakeEnclosure, OutRow, OwnFields, Projection, Template, TemplateCell,
};

/// Writes rows as JSON lines. Where all columns come out as they stand, an object of a source in JSON lines is kept whole, and the added
/// columns are appended to it as keys.
pub(crate) struct JsonRows {
    /// They are the elements of an array.
    in_array: bool,
    own: Vec<OwnFields>,
    projection: Arc<Projection>,
    templates: Vec<Template>,
    /// The key of each column, as it stands in a row, with its colon.
    keys: Vec<Vec<u8>>,
    scratch: Vec<u8>,
}

impl JsonRows {
    /// With `own` for each source; as the elements of an array, or one a line.
    pub(crate) fn new(own: Vec<OwnFields>, projection: Arc<Projection>, in_array: bool) -> Self {
        let key = |name: &str| {
            let mut key = Vec::new();
            write_string(name.as_bytes(), &mut key);
            key.push(b':');
            key
        };
        let keys = projection.names().map(key).collect();
        JsonRows { in_array, own, projection, templates: Vec::new(), keys, scratch: Vec::new() }
    }

    /// The object of a record as it stands, but for cells in place of others, without its closing brace.
    fn object_as_found(&self, row: &OutRow<'_>, record: Record<'_>, out: &mut Vec<u8>) {
        let object = record.raw().trim_ascii();
        let inside = object.strip_suffix(b"}").unwrap_or(object).trim_ascii_end();
        if row.replaced.is_empty() {
            return out.extend_from_slice(inside);
        }
        let own = &self.own[row.source()];
        let start = record.place_in_chunk().start;
        let place = |cell: JsonCell| ((cell.start - start) as usize, (cell.end - start) as usize);
        let changed = row.replaced.iter().filter(|(field, text)| self.is_changed(row, *field, text));
        let (mut there, mut missing) = (Vec::new(), Vec::new());
        for (field, text) in changed {
            let cell = own.places[*field].and_then(|place| record.json_cell(place));
            match cell.filter(|cell| !cell.is_missing()) {
                Some(cell) => there.push((place(cell), text)),
                None => missing.push((*field, text)),
            }
        }
        there.sort_unstable();
        // The object starts where the record does, but for white space.
        let (raw, mut at) = (record.raw(), record.raw().len() - record.raw().trim_ascii_start().len());
        let end = at + inside.len();
        for ((from, to), text) in there {
            out.extend_from_slice(&raw[at..from]);
            write_string(text, out);
            at = to;
        }
        out.extend_from_slice(&raw[at..end]);
        for (field, text) in missing {
            self.next_key(field, out);
            write_string(text, out);
        }
    }

    /// Whether a cell in place of another is not what that says.
    fn is_changed(&self, row: &OutRow<'_>, field: usize, text: &[u8]) -> bool {
        let own = &self.own[row.source()];
        let found = row.record.and_then(|record| record.cell(own.places[field]?));
        found.unwrap_or_default() != text
    }

    /// Appends the key of a column, behind a comma where it is not the first.
    #[inline]
    fn next_key(&self, column: usize, out: &mut Vec<u8>) {
        if !out.ends_with(b"{") {
            out.push(b',');
        }
        out.extend_from_slice(&self.keys[column]);
    }

    fn own_column(&mut self, column: usize, field: usize, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let own = &self.own[row.source()];
        let is_replaced = row.replaced.iter().any(|(replaced, _)| *replaced == field);
        let change = self.projection.columns[column].change;
        let cell = row.record.and_then(|record| record.json_cell(own.places[field]?));
        match (cell, row.record) {
            (Some(cell), _) if cell.is_missing() && !is_replaced => {}
            (Some(cell), Some(record)) if !is_replaced && change.is_none() => {
                self.next_key(column, out);
                out.extend_from_slice(record.json_text(cell));
            }
            _ => {
                let (text, value) = (row.own_cell(field, own), row.own_value(field, own));
                self.next_key(column, out);
                match change {
                    Some(change) => write_string(&change(text), out),
                    None => write_value(value, text, out),
                }
            }
        }
    }

    fn added_column(&mut self, column: usize, added: usize, row: &OutRow<'_>, out: &mut Vec<u8>) {
        self.next_key(column, out);
        let cell = &self.templates[row.template].cells[added];
        if let Some(change) = self.projection.columns[column].change {
            self.scratch.clear();
            self.templates[row.template].write_text(added, row.values, &mut self.scratch);
            return write_string(&change(&self.scratch), out);
        }
        match cell {
            TemplateCell::Nothing => out.extend_from_slice(b"null"),
            TemplateCell::Text(text) => write_string(text, out),
            TemplateCell::Bool(true) => out.extend_from_slice(b"true"),
            TemplateCell::Bool(false) => out.extend_from_slice(b"false"),
            TemplateCell::Value(value) => match row.values.get(*value) {
                b"" => out.extend_from_slice(b"null"),
                text if row.values_are_simple => {
                    out.push(b'"');
                    out.extend_from_slice(text);
                    out.push(b'"');
                }
                text => write_string(text, out),
            },
            TemplateCell::Number(value) => match row.values.number(*value) {
                Some(number) => out.extend_from_slice(itoa::Buffer::new().format(number).as_bytes()),
                None => out.extend_from_slice(b"null"),
            },
        }
    }
}

impl JsonRows {
    /// What a record has beyond the fields of its source, under a key of its own.
    fn surplus(&self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let width = self.own[row.source()].width;
        let Some(record) = row.record.filter(|record| record.len() > width && self.projection.own_fields > 0)
        else {
            return;
        };
        out.extend_from_slice(b",\"");
        out.extend_from_slice(SURPLUS.as_bytes());
        out.extend_from_slice(b"\":[");
        for place in width..record.len() {
            if place > width {
                out.push(b',');
            }
            write_value(record.value(place), record.cell(place).unwrap_or_default(), out);
        }
        out.push(b']');
    }
}

/// The key of what a record has beyond its fields.
const SURPLUS: &str = "yp_surplus";

impl EncodeRows for JsonRows {
    fn start(&self, _: &mut Vec<u8>) {}

    fn enclosure(&self) -> Option<MakeEnclosure> {
        self.in_array.then(json_array)
    }

    fn add_template(&mut self, template: &Template) {
        self.templates.push(template.clone());
    }

    fn forget_templates(&mut self) {
        self.templates.clear();
    }

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let keeps_object = self.projection.is_everything && self.projection.own_fields > 0;
        // A source that lacks some of the fields is kept whole as well.
        let object = row.record.filter(|record| keeps_object && record.is_json());
        match object {
            Some(record) => self.object_as_found(row, record, out),
            None => out.push(b'{'),
        }
        for column in 0..self.keys.len() {
            match self.projection.columns[column].source {
                ColumnSource::Own(_) if object.is_some() => {}
                ColumnSource::Own(field) => self.own_column(column, field, row, out),
                ColumnSource::Added(added) => self.added_column(column, added, row, out),
            }
        }
        if object.is_none() && self.projection.with_surplus {
            self.surplus(row, out);
        }
        out.extend_from_slice(b"}\n");
    }
}

/// Appends what a cell holds, in the JSON of its kind; dates, times and bytes are strings.
fn write_value(value: Value<'_>, text: &[u8], out: &mut Vec<u8>) {
    match value {
        Value::Missing
        | Value::Text(_)
        | Value::Bytes(_)
        | Value::Date(_)
        | Value::DateTime(_)
        | Value::Time(_) => {
            write_string(text, out);
        }
        Value::Null => out.extend_from_slice(b"null"),
        Value::Float(number) if !number.is_finite() => out.extend_from_slice(b"null"),
        // What a person sees, such as a percentage, is no number.
        Value::Float(number) => {
            serde_json::to_writer(out, &number).expect("memory takes everything");
        }
        Value::Bool(yes) => out.extend_from_slice(if yes { b"true" } else { b"false" }),
        Value::Integer(_) | Value::Decimal(_) | Value::Json(_) => value.write_text(out),
    }
}

/// Appends a text as a JSON string; bytes that are not UTF-8 become U+FFFD.
fn write_string(text: &[u8], out: &mut Vec<u8>) {
    serde_json::to_writer(out, &String::from_utf8_lossy(text)).expect("memory takes everything");
}
