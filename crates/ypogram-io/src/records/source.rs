//! What every format gives: a source of chunks, a decoder for them, an encoder for records with added cells.

use std::collections::HashMap;

use crate::records::batch::Batch;
use crate::records::chunk::Chunk;
use crate::records::column_type::ColumnType;
use crate::records::dialect::TextLayout;
use crate::records::error::Result;
use crate::records::fingerprint::Fingerprint;
use crate::records::format::Format;

/// The fields of a source, and what its records are written in.
#[derive(Clone, Debug, Default)]
pub struct Schema {
    /// The fields' names, in order.
    pub fields: Vec<String>,
    /// The types of the fields, where the source has some for whole columns.
    pub types: Vec<ColumnType>,
    /// The fields that identify its records, as places among the fields: the primary key of a table.
    pub key: Vec<usize>,
    /// What people call the format, such as `comma-separated, with a header`.
    pub described: String,
    /// Lines before the first record.
    pub lines_before: u64,
    /// Those of them above the header without anything in them.
    pub blank_lines_before: u64,
    /// What its records are written in.
    pub kind: SourceKind,
}

/// What the records of a source are written in.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum SourceKind {
    /// Text, one record a line.
    #[default]
    Lines,
    /// A table of separated values.
    Separated {
        /// How it looks.
        layout: TextLayout,
        /// The header as it stands there, without its line end; none where there is no header row.
        header: Option<Vec<u8>>,
    },
    /// JSON objects, one a line or all in one array.
    Json {
        /// They are in an array.
        in_array: bool,
    },
    /// Cells with types: a sheet, a table of a database, columns.
    Typed(Format),
}

impl Schema {
    /// Text of lines rather than a table.
    pub fn is_text(&self) -> bool {
        self.kind == SourceKind::Lines
    }

    /// How it looks, where it is a table of separated values.
    pub fn layout(&self) -> Option<TextLayout> {
        match &self.kind {
            SourceKind::Separated { layout, .. } => Some(*layout),
            _ => None,
        }
    }

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

    /// What there is to say about it once all is read, such as that some rows are hidden in a sheet.
    fn remarks(&self) -> Vec<String> {
        Vec::new()
    }

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
