//! A file of separated values as a source.

use crate::batch::Batch;
use crate::borders::Chunks;
use crate::chunk::Chunk;
use crate::chunked::ChunkedSource;
use crate::csv::decode::{CsvDecoder, decode};
use crate::csv::{Dialect, last_border};
use crate::input::Input;
use crate::source::Schema;

/// A table over `input`. `start` is what was read of it so far, without byte-order mark; it holds at least the header.
pub(crate) fn open(
    input: Input,
    dialect: Dialect,
    header: bool,
    chunk_size: usize,
    start: Vec<u8>,
    offset: u64,
) -> ChunkedSource {
    let (mut schema, rest, used) = read_header(start, dialect, header);
    schema.byte_order_mark = offset > 0;
    let delimiter = dialect.delimiter;
    let find = move |bytes: &[u8], at_end: bool| last_border(bytes, delimiter, at_end);
    let chunks = Chunks::new(input, Box::new(find), chunk_size, rest, offset + used);
    ChunkedSource { chunks, schema, make_decoder: Box::new(move || Box::new(CsvDecoder { dialect })) }
}

fn read_header(start: Vec<u8>, dialect: Dialect, header: bool) -> (Schema, Vec<u8>, u64) {
    let line_end: &'static [u8] = match memchr::memchr2(b'\n', b'\r', &start).map(|i| &start[i..]) {
        Some([b'\r', b'\n', ..]) => b"\r\n",
        Some([b'\r', ..]) => b"\r",
        _ => b"\n",
    };
    let chunk = Chunk { bytes: start, ..Chunk::default() };
    let mut batch = Batch::default();
    decode(&chunk.bytes, dialect, &mut batch);
    let first = batch.records(&chunk).next();
    let width = first.map_or(0, |record| record.len());
    let numbered = |index: usize| format!("field{}", index + 1);
    let described = |what: &str| format!("{}, {what}", dialect.described());
    let mut schema = Schema { delimiter: dialect.delimiter, line_end, ..Schema::default() };
    if !header {
        schema.fields = (0..width).map(numbered).collect();
        schema.described = described("without a header");
        return (schema, chunk.bytes, 0);
    }
    schema.described = described("with a header");
    let Some(record) = first else { return (schema, Vec::new(), chunk.bytes.len() as u64) };
    for (index, cell) in record.cells().enumerate() {
        let name = String::from_utf8_lossy(cell).trim().to_owned();
        schema.fields.push(if name.is_empty() { numbered(index) } else { name });
    }
    schema.header = Some(record.raw().to_vec());
    let rest = record.offset_behind();
    schema.lines_before = memchr::memchr_iter(b'\n', &chunk.bytes[..rest]).count().max(1) as u64;
    (schema, chunk.bytes[rest..].to_vec(), rest as u64)
}
