//! A file of separated values as a source.

use crate::formats::csv::TextLayout;
use crate::formats::csv::decode::CsvDecoder;
use crate::formats::csv::header::TableStart;
use crate::formats::csv::last_border;
use crate::input::borders::Chunks;
use crate::input::chunked::ChunkedSource;
use crate::input::encoding::Guessed;
use crate::input::file_input::Input;
use crate::records::source::{Schema, SourceKind};

/// A table over `input`, of which `start`, without byte-order mark, was read so far, and `table` in that; `sizes` are those of a chunk and
/// of the longest record.
pub(crate) fn open(
    input: Input,
    table: TableStart,
    sizes: (usize, usize),
    mut start: Vec<u8>,
    offset: u64,
) -> ChunkedSource {
    let dialect = table.dialect;
    let layout =
        TextLayout { delimiter: dialect.delimiter, line_end: line_end(&start), byte_order_mark: offset > 0 };
    let schema = Schema {
        fields: table.fields,
        described: table.described,
        lines_before: table.lines_before,
        blank_lines_before: table.blank_lines,
        kind: SourceKind::Separated { layout, header: table.header },
        types: Vec::new(),
        key: Vec::new(),
    };
    start.drain(..table.first_record);
    let find = move |bytes: &[u8], at_end: bool| last_border(bytes, dialect.delimiter, at_end);
    let offset = offset + table.first_record as u64;
    let chunks = Chunks::new(input, Box::new(find), sizes, start, offset);
    ChunkedSource {
        chunks,
        schema,
        make_decoder: Box::new(move || Box::new(CsvDecoder { dialect })),
        fingerprint: None,
        guessed: Guessed::default(),
        _kept: None,
    }
}

fn line_end(start: &[u8]) -> &'static [u8] {
    match memchr::memchr2(b'\n', b'\r', start).map(|i| &start[i..]) {
        Some([b'\r', b'\n', ..]) => b"\r\n",
        Some([b'\r', ..]) => b"\r",
        _ => b"\n",
    }
}
