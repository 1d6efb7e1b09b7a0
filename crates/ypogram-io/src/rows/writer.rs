//! Rows encoded one behind the other, with what they are sorted by.

use std::sync::Arc;

use crate::rows::{ColumnSource, EncodeRows, Opening, OutRow, OwnFields, Projection, Template};

/// Rows of one output, encoded.
#[derive(Clone, Debug, Default)]
pub struct EncodedRows {
    /// One behind the other.
    pub bytes: Vec<u8>,
    /// How many they are.
    pub rows: u64,
    /// What they are sorted by, one behind the other, where they are sorted.
    pub(crate) keys: Vec<u8>,
    /// Where key and row end, for each, where they are sorted.
    pub(crate) ends: Vec<(usize, usize)>,
}

impl EncodedRows {
    /// Makes it empty.
    pub fn clear(&mut self) {
        self.bytes.clear();
        self.rows = 0;
        self.keys.clear();
        self.ends.clear();
    }

    /// Each row with what it is sorted by.
    pub(crate) fn sorted(&self) -> impl Iterator<Item = (&[u8], &[u8])> {
        let starts = std::iter::once(&(0, 0)).chain(&self.ends);
        starts.zip(&self.ends).map(|(start, end)| (&self.keys[start.0..end.0], &self.bytes[start.1..end.1]))
    }
}

/// Encodes rows in one format, with what they are sorted by. One for each thread.
pub struct RowWriter {
    encoder: Box<dyn EncodeRows>,
    own: Vec<OwnFields>,
    projection: Arc<Projection>,
    templates: Vec<Template>,
    cell: Vec<u8>,
}

impl RowWriter {
    /// Over the encoder of a format; `own` for each source.
    pub fn new(encoder: Box<dyn EncodeRows>, own: Vec<OwnFields>, projection: Arc<Projection>) -> Self {
        RowWriter { encoder, own, projection, templates: Vec::new(), cell: Vec::new() }
    }

    /// How an output of such rows begins.
    pub fn opening(&self) -> Opening {
        let mut bytes = Vec::new();
        self.encoder.start(&mut bytes);
        Opening { bytes, enclosure: self.encoder.enclosure() }
    }

    /// Prepares for rows with such added cells; gives the number of the template.
    pub fn add_template(&mut self, template: Template) -> usize {
        self.encoder.add_template(&template);
        self.templates.push(template);
        self.templates.len() - 1
    }

    /// Forgets all templates.
    pub fn forget_templates(&mut self) {
        self.encoder.forget_templates();
        self.templates.clear();
    }

    /// Appends a row.
    #[inline]
    pub fn row(&mut self, row: &OutRow<'_>, out: &mut EncodedRows) {
        self.encoder.row(row, &mut out.bytes);
        out.rows += 1;
        if self.projection.is_sorted() {
            self.add_key(row, out);
        }
    }

    /// Appends the key of a row: cell by cell, each ended so that a longer one comes behind.
    fn add_key(&mut self, row: &OutRow<'_>, out: &mut EncodedRows) {
        let keys = &mut out.keys;
        for (source, by) in &self.projection.sort_by {
            let cell = match *source {
                ColumnSource::Own(field) => row.own_cell(field, &self.own[row.source()]),
                ColumnSource::Added(column) => {
                    self.cell.clear();
                    self.templates[row.template].write_text(column, row.values, &mut self.cell);
                    &self.cell
                }
            };
            if cell.trim_ascii().is_empty() {
                keys.push(1);
                continue;
            }
            keys.push(0);
            let start = keys.len();
            (by.key)(cell, keys);
            end_key(keys, start);
            if by.downwards {
                keys[start..].iter_mut().for_each(|byte| *byte = !*byte);
            }
        }
        out.ends.push((out.keys.len(), out.bytes.len()));
    }
}

/// Ends the key from `start` on, so that one that goes on comes behind it whatever follows: zeros in it become two bytes.
fn end_key(key: &mut Vec<u8>, start: usize) {
    if key[start..].contains(&0) {
        let escaped: Vec<u8> = key[start..]
            .iter()
            .flat_map(|&byte| if byte == 0 { vec![0, 0xFF] } else { vec![byte] })
            .collect();
        key.truncate(start);
        key.extend_from_slice(&escaped);
    }
    key.extend_from_slice(&[0, 0]);
}
