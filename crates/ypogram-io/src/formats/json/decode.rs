//! From lines to cells.

use std::collections::HashMap;
use std::sync::Arc;

use crate::formats::json::walk::walk;
use crate::formats::text_lines;
use crate::records::batch::{Batch, JsonCell};
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};
use crate::records::source::Decode;

/// Decodes JSON lines into the cells of their fields.
pub(crate) struct JsonDecoder {
    pub(crate) name: String,
    /// The place of each field.
    pub(crate) places: Arc<HashMap<String, usize>>,
    /// Lines without their cells.
    pub(crate) lines: Batch,
    /// The values of the record in hand.
    pub(crate) values: Vec<Option<(usize, usize)>>,
}

impl Decode for JsonDecoder {
    fn decode(&mut self, chunk: &Chunk, batch: &mut Batch) -> Result<()> {
        self.lines.clear();
        text_lines::decode(&chunk.bytes, &mut self.lines);
        for record in self.lines.records(chunk) {
            self.values.clear();
            self.values.resize(self.places.len(), None);
            let start = chunk.bytes.as_ptr() as usize;
            let mut unknown = false;
            let (places, values) = (&self.places, &mut self.values);
            let mut take = |path: &str, text: &str| match places.get(path) {
                Some(&place) => {
                    let at = text.as_ptr() as usize - start;
                    values[place] = Some((at, at + text.len()));
                }
                None => unknown = true,
            };
            // All lines were objects, and all fields known, when the fields were gathered.
            let walked = std::str::from_utf8(record.raw()).ok().map(|text| walk(text, &mut take));
            if unknown || !matches!(walked, Some(Ok(()))) {
                return Err(changed(&self.name));
            }
            let (range, line) = (record.place_in_chunk(), record.line_in_chunk());
            let first = batch.cell_count();
            for value in &self.values {
                push_value(*value, &chunk.bytes, batch);
            }
            batch.push_record(range.start as usize, range.end as usize, first, line);
        }
        (batch.lines, batch.blank_lines) = (self.lines.lines, self.lines.blank_lines);
        batch.count_formula_cells(&chunk.bytes);
        Ok(())
    }
}

/// Adds the cell of a value: a string as it reads, a list with its entries joined, and anything else as it stands.
fn push_value(value: Option<(usize, usize)>, bytes: &[u8], batch: &mut Batch) {
    let Some((start, end)) = value else {
        batch.push_json_cell(JsonCell::MISSING);
        return batch.push_cell(0, 0);
    };
    batch.push_json_cell(JsonCell { start: start as u32, end: end as u32 });
    let text = &bytes[start..end];
    match text.first() {
        Some(b'"') if memchr::memchr(b'\\', text).is_none() => batch.push_cell(start + 1, end - 1),
        Some(b'"') => batch.push_decoded_cell(|out| out.extend_from_slice(string(text).as_bytes())),
        Some(b'n') => batch.push_cell(start, start),
        Some(b'[') => match joined(text) {
            Some(joined) => batch.push_decoded_cell(|out| out.extend_from_slice(joined.as_bytes())),
            None => batch.push_cell(start, end),
        },
        _ => batch.push_cell(start, end),
    }
}

/// What a JSON string says.
fn string(text: &[u8]) -> String {
    // The text was parsed before; a half of a surrogate pair alone is no text.
    serde_json::from_slice(text).unwrap_or_else(|_| String::from_utf8_lossy(text).into_owned())
}

/// The entries of a list as a person would write them, separated by commas; none where it holds lists or objects.
fn joined(list: &[u8]) -> Option<String> {
    let entries: Vec<serde_json::Value> = serde_json::from_slice(list).ok()?;
    let text = |entry: serde_json::Value| match entry {
        serde_json::Value::Null => Some(String::new()),
        serde_json::Value::String(text) => Some(text),
        serde_json::Value::Array(_) | serde_json::Value::Object(_) => None,
        other => Some(other.to_string()),
    };
    Some(entries.into_iter().map(text).collect::<Option<Vec<_>>>()?.join(", "))
}

fn changed(name: &str) -> Error {
    Error::unusable(
        format!("{name}: the file changed while it was read"),
        "see whether another program writes to it, and try again",
    )
}
