//! Records of typed cells in bytes: how formats without a text of their own pass them on, to the workers and from the workers to whoever
//! writes the file.
//!
//! A record is its length, its line, and its cells one behind the other; a cell is its kind, what that takes, and its text.

use crate::records::batch::Batch;
use crate::records::chunk::Chunk;
use crate::records::error::Result;
use crate::records::source::Decode;
use crate::records::typed_cell::TypedCell;
use crate::records::value::Value;

/// Bytes in front of the cells of a record.
const HEAD: usize = 8;

/// A record that is being written; to be [ended](Self::end).
#[derive(Debug)]
pub(crate) struct PackedRow {
    start: usize,
}

impl PackedRow {
    /// Starts a record at the end of `out`; so many lines of the chunk are above it.
    pub(crate) fn start(out: &mut Vec<u8>, line: u32) -> Self {
        let start = out.len();
        out.extend_from_slice(&[0; 4]);
        out.extend_from_slice(&line.to_le_bytes());
        PackedRow { start }
    }

    /// Ends it.
    pub(crate) fn end(self, out: &mut [u8]) {
        let length = (out.len() - self.start - HEAD) as u32;
        out[self.start..self.start + 4].copy_from_slice(&length.to_le_bytes());
    }
}

/// Appends a cell, with the text that a person sees.
pub(crate) fn write_cell(value: Value<'_>, text: &[u8], out: &mut Vec<u8>) {
    let (kind, bits) = match value {
        Value::Missing => (0, None),
        Value::Null => (1, None),
        Value::Text(_) => (2, None),
        Value::Bool(yes) => (3, Some(i64::from(yes))),
        Value::Integer(number) => (4, Some(number)),
        Value::Float(number) => (5, Some(number.to_bits() as i64)),
        Value::Decimal(_) => (6, None),
        Value::Date(days) => (7, Some(i64::from(days))),
        Value::DateTime(micros) => (8, Some(micros)),
        Value::Time(micros) => (9, Some(micros)),
        Value::Bytes(bytes) => (10, Some(bytes.len() as i64)),
        Value::Json(_) => (11, None),
    };
    out.push(kind);
    if let Some(bits) = bits {
        out.extend_from_slice(&bits.to_le_bytes());
    }
    if let Value::Bytes(bytes) = value {
        out.extend_from_slice(bytes);
    }
    out.extend_from_slice(&(text.len() as u32).to_le_bytes());
    out.extend_from_slice(text);
}

/// Appends what the record is written as in its source, behind its cells.
pub(crate) fn write_original(original: &[u8], out: &mut Vec<u8>) {
    out.push(ORIGINAL);
    out.extend_from_slice(&(original.len() as u32).to_le_bytes());
    out.extend_from_slice(original);
}

/// Appends the address that the link of a cell goes to, behind the cell.
pub(crate) fn write_link(address: &[u8], out: &mut Vec<u8>) {
    out.push(LINK);
    out.extend_from_slice(&(address.len() as u32).to_le_bytes());
    out.extend_from_slice(address);
}

/// The kinds of what is no cell: the record as it is written, behind its cells, and the link of a cell, behind that.
const ORIGINAL: u8 = 12;
const LINK: u8 = 13;

/// Packed records, read one behind the other.
pub(crate) struct PackedRows<'b> {
    bytes: &'b [u8],
    at: usize,
}

impl<'b> PackedRows<'b> {
    /// Those in `bytes`.
    pub(crate) fn of(bytes: &'b [u8]) -> Self {
        PackedRows { bytes, at: 0 }
    }

    /// Goes to the next record: where its cells start and end, and the lines above it; none at the end.
    pub(crate) fn next_row(&mut self) -> Option<(usize, usize, u32)> {
        let head = self.bytes.get(self.at..self.at + HEAD)?;
        let number = |at: usize| u32::from_le_bytes(head[at..at + 4].try_into().expect("four bytes"));
        let start = self.at + HEAD;
        let end = start + number(0) as usize;
        self.at = end;
        Some((start, end, number(4)))
    }

    /// The cell at `at`, where its text stands, and where the next one starts.
    pub(crate) fn cell(&self, at: usize) -> (TypedCell, std::ops::Range<usize>) {
        let kind = self.bytes[at];
        let mut cell = TypedCell { kind, ..TypedCell::default() };
        let mut at = at + 1;
        if matches!(kind, 3..=5 | 7..=10) {
            cell.bits = i64::from_le_bytes(self.bytes[at..at + 8].try_into().expect("eight bytes"));
            at += 8;
        }
        if kind == 10 {
            (cell.start, cell.end) = (at as u32, (at as i64 + cell.bits) as u32);
            at = cell.end as usize;
        }
        let length = u32::from_le_bytes(self.bytes[at..at + 4].try_into().expect("four bytes")) as usize;
        (cell, at + 4..at + 4 + length)
    }

    /// Calls `take` with the cells of each record, in order.
    pub(crate) fn each_row(
        mut self,
        mut take: impl FnMut(&[(Value<'b>, &'b [u8])]) -> Result<()>,
    ) -> Result<()> {
        let mut cells = Vec::new();
        while self.next_cells(&mut |value, text| cells.push((value, text))) {
            take(&cells)?;
            cells.clear();
        }
        Ok(())
    }

    /// Calls `see` with each cell of the next record; false where there is none.
    pub(crate) fn next_cells(&mut self, see: &mut dyn FnMut(Value<'b>, &'b [u8])) -> bool {
        let Some((mut at, end, _)) = self.next_row() else { return false };
        while at < end {
            let (cell, text) = self.cell(at);
            at = text.end;
            let text = &self.bytes[text];
            see(cell.value(self.bytes, text), text);
        }
        true
    }
}

/// Decodes chunks of packed records.
pub(crate) struct PackedDecoder;

impl Decode for PackedDecoder {
    fn decode(&mut self, chunk: &Chunk, batch: &mut Batch) -> Result<()> {
        let mut rows = PackedRows::of(&chunk.bytes);
        while let Some((start, end, line)) = rows.next_row() {
            let first = batch.cell_count();
            let mut at = start;
            while at < end {
                let (cell, text) = rows.cell(at);
                at = text.end;
                match cell.kind {
                    ORIGINAL => batch.push_original(text),
                    LINK => batch.push_link(text),
                    _ => batch.push_typed_cell(cell, &chunk.bytes, text),
                }
            }
            batch.push_record(start - HEAD, end, first, u64::from(line));
        }
        batch.lines = chunk.lines.unwrap_or(batch.len() as u64);
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_kind_comes_back() {
        let values = [
            Value::Missing,
            Value::Null,
            Value::Text("Ünï".as_bytes()),
            Value::Bool(true),
            Value::Integer(-7),
            Value::Float(0.1),
            Value::Decimal(b"12345678901234567890.5"),
            Value::Date(-1),
            Value::DateTime(i64::MIN),
            Value::Time(1),
            Value::Bytes(b"\x00\xFF"),
            Value::Json(b"[1]"),
        ];
        let (mut bytes, mut batch) = (Vec::new(), Batch::default());
        for line in [0, 4] {
            let row = PackedRow::start(&mut bytes, line);
            for value in values {
                let mut text = Vec::new();
                value.write_text(&mut text);
                write_cell(value, &text, &mut bytes);
            }
            row.end(&mut bytes);
        }
        let chunk = Chunk { bytes, ..Chunk::default() };
        PackedDecoder.decode(&chunk, &mut batch).unwrap();
        assert_eq!(batch.len(), 2);
        for record in batch.records(&chunk) {
            for (nth, value) in values.iter().enumerate() {
                assert_eq!(record.value(nth), *value);
                let mut text = Vec::new();
                value.write_text(&mut text);
                assert_eq!(record.cell(nth), Some(&text[..]));
            }
            assert_eq!(record.value(values.len()), Value::Missing);
        }
        assert_eq!(batch.record(&chunk, 1).line_in_chunk(), 4);
    }
}
