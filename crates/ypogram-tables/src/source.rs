//! What every format gives: a source of chunks, a decoder for them, an encoder for records with added cells.

use std::collections::HashMap;

use crate::batch::{Batch, Record};
use crate::chunk::Chunk;
use crate::error::Result;
use crate::input::Fingerprint;

/// The fields of a source, and how its records are told apart.
#[derive(Clone, Debug, Default)]
pub struct Schema {
    /// The fields' names, in order.
    pub fields: Vec<String>,
    /// The header as it stands in the source, without its terminator; none where the source has no header row.
    pub header: Option<Vec<u8>>,
    /// What people call the format, such as `comma-separated, with a header`.
    pub described: String,
    /// The source starts with a byte-order mark, and so do outputs like it.
    pub byte_order_mark: bool,
    /// Lines before the first record.
    pub lines_before: u64,
    /// Those of them above the header without anything in them.
    pub blank_lines_before: u64,
    /// Text of lines rather than a table.
    pub is_text: bool,
    /// The separator of cells; a comma for text, whose outputs become CSV.
    pub delimiter: u8,
    /// What ends a line.
    pub line_end: &'static [u8],
}

impl Schema {
    /// The place of each field by its name; of two of one name, that of the first.
    pub fn places(&self) -> HashMap<&str, usize> {
        self.fields.iter().enumerate().rev().map(|(place, field)| (&**field, place)).collect()
    }
}

/// Where records come from. Cuts its input serially and cheaply; decoding is left to the workers.
pub trait Source: Send {
    /// The source's fields.
    fn schema(&self) -> &Schema;

    /// The name to call it by in messages and outputs.
    fn name(&self) -> &str;

    /// Fills `into` with the next whole records; false where there are no more.
    ///
    /// # Errors
    /// Where the input cannot be read, or a record is longer than the limit.
    fn next_chunk(&mut self, into: &mut Chunk) -> Result<bool>;

    /// A decoder of its chunks, one for each worker.
    fn decoder(&self) -> Box<dyn Decode>;

    /// Why the input broke off, where it did and was salvaged.
    fn broken_off(&self) -> Option<String>;

    /// Size and hash of what was read; complete once [`next_chunk`](Source::next_chunk) has given false.
    fn fingerprint(&self) -> Fingerprint;
}

/// Turns chunks into cells.
pub trait Decode: Send {
    /// Fills `batch`, which is empty, with the records of `chunk`.
    ///
    /// # Errors
    /// Where the chunk is not what the format says.
    fn decode(&mut self, chunk: &Chunk, batch: &mut Batch) -> Result<()>;
}

/// Writes records with added cells.
pub trait Encode: Send {
    /// Appends the record's own fields, unaltered, to `out`; the added cells follow through [`Encode::cell`].
    fn own(&mut self, record: Record<'_>, out: &mut Vec<u8>);

    /// Appends one more cell.
    fn cell(&mut self, cell: &[u8], out: &mut Vec<u8>);

    /// Ends the record: what the source had beyond its fields, then the line end.
    fn end(&mut self, record: Record<'_>, out: &mut Vec<u8>);
}
