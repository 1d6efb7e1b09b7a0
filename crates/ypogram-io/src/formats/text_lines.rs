//! Plain text: one record a line, in one field called `line`.

use crate::input::borders::{Border, Chunks};
use crate::input::chunked::ChunkedSource;
use crate::input::encoding::Guessed;
use crate::input::file_input::Input;
use crate::records::batch::Batch;
use crate::records::chunk::Chunk;
use crate::records::error::Result;
use crate::records::source::{Decode, Schema};
use crate::rows::{EncodeRows, OutRow, Template};
use ypogram_bytes::BytePlaces;

/// The name of the one field of text.
pub(crate) const FIELD: &str = "line";

/// Text over `input`, of which `rest` was read already; `sizes` are those of a chunk and of the longest line.
pub(crate) fn open(input: Input, sizes: (usize, usize), rest: Vec<u8>, offset: u64) -> ChunkedSource {
    let schema = Schema {
        fields: vec![FIELD.into()],
        described: "text, one record a line".into(),
        ..Schema::default()
    };
    let chunks = chunks(input, sizes, rest, offset);
    ChunkedSource {
        chunks,
        schema,
        make_decoder: Box::new(|| Box::new(Lines)),
        fingerprint: None,
        guessed: Guessed::default(),
        _kept: None,
    }
}

/// Chunks of whole lines.
pub(crate) fn chunks(input: Input, sizes: (usize, usize), rest: Vec<u8>, offset: u64) -> Chunks {
    Chunks::new(input, Box::new(last_line_end), sizes, rest, offset)
}

/// Where the last whole line ends.
pub(crate) fn last_line_end(bytes: &[u8], _at_end: bool) -> Border {
    Border { end: memchr::memrchr(b'\n', bytes).map_or(0, |i| i + 1), open_quote: None }
}

struct Lines;

impl Decode for Lines {
    fn decode(&mut self, chunk: &Chunk, batch: &mut Batch) -> Result<()> {
        decode(&chunk.bytes, batch);
        batch.count_formulas(&chunk.bytes);
        Ok(())
    }
}

/// Fills `batch` with the lines of `bytes`, but for those without anything.
pub(crate) fn decode(bytes: &[u8], batch: &mut Batch) {
    batch.of_lines = true;
    let mut start = 0;
    let unended = (!bytes.is_empty() && !bytes.ends_with(b"\n")).then_some(bytes.len());
    for end in BytePlaces::of(bytes, [b'\n']).chain(unended) {
        let bare = if end > start && bytes[end - 1] == b'\r' { end - 1 } else { end };
        if bare == start {
            batch.blank_lines += 1;
        } else {
            let first = batch.cell_count();
            batch.push_cell(start, bare);
            batch.push_record(start, bare, first, batch.lines);
        }
        batch.lines += u64::from(end < bytes.len());
        start = end + 1;
    }
}

/// Writes records of text as they stand, each with a line feed.
pub struct LineRows;

impl EncodeRows for LineRows {
    fn start(&self, _: &mut Vec<u8>) {}

    fn add_template(&mut self, _: &Template) {}

    fn forget_templates(&mut self) {}

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        if let Some(record) = row.record {
            record.append_line(out);
        }
    }
}
