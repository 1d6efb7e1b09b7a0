//! Plain text: one record a line, in one field called `line`.

use crate::batch::Batch;
use crate::borders::{Border, Chunks};
use crate::chunk::Chunk;
use crate::error::Result;
use crate::input::{Fingerprint, Input};
use crate::source::{Decode, Schema, Source};

/// The name of the one field of text.
pub(crate) const FIELD: &str = "line";

pub(crate) struct TextLines {
    chunks: Chunks,
    schema: Schema,
}

impl TextLines {
    pub(crate) fn new(input: Input, chunk_size: usize, rest: Vec<u8>, offset: u64) -> Self {
        let schema = Schema {
            fields: vec![FIELD.into()],
            header: None,
            described: "text, one record a line".into(),
            byte_order_mark: false,
            lines_before: 0,
            is_text: true,
            delimiter: b',',
            line_end: b"\n",
        };
        let find = |bytes: &[u8], _: bool| Border {
            end: memchr::memrchr(b'\n', bytes).map_or(0, |i| i + 1),
            open_quote: None,
        };
        TextLines { chunks: Chunks::new(input, Box::new(find), chunk_size, rest, offset), schema }
    }
}

impl Source for TextLines {
    fn schema(&self) -> &Schema {
        &self.schema
    }

    fn name(&self) -> &str {
        self.chunks.name()
    }

    fn next_chunk(&mut self, into: &mut Chunk) -> Result<bool> {
        self.chunks.next(into)
    }

    fn decoder(&self) -> Box<dyn Decode> {
        Box::new(Lines)
    }

    fn broken_off(&self) -> Option<String> {
        self.chunks.broken_off()
    }

    fn fingerprint(&self) -> Fingerprint {
        self.chunks.fingerprint()
    }
}

struct Lines;

impl Decode for Lines {
    fn decode(&mut self, chunk: &Chunk, batch: &mut Batch) -> Result<()> {
        let bytes = &chunk.bytes[..];
        let mut start = 0;
        while start < bytes.len() {
            let end = memchr::memchr(b'\n', &bytes[start..]).map_or(bytes.len(), |i| start + i);
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
        Ok(())
    }
}
