//! A piece of an input, and the stretches of text in it.

use std::fs::File;
use std::ops::Range;
use std::sync::Arc;

use encoding_rs::Encoding;

use crate::formats::csv::{self, Dialect, numbered_field};
use crate::formats::pieces::{Counted, Kind, Limits, Places, Segment, json, mail};
use crate::input::file_input::cut_off;
use crate::records::batch::Batch;
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};
use crate::records::packed::PackedDecoder;
use crate::records::source::Decode as _;

/// A piece of an input.
#[derive(Debug, Default)]
pub struct Piece {
    /// Its bytes, with what overlaps its neighbours.
    pub bytes: Vec<u8>,
    /// The part of them that is its own.
    pub body: Range<usize>,
    /// Where its first byte stands in the decompressed input.
    pub offset: u64,
    /// Lines before it, where they are counted.
    pub lines_before: u64,
    /// Lines that it covers, where its bytes do not tell.
    pub lines: Option<u64>,
    /// About how many bytes of the source it is, where its own tell nothing about that.
    pub source_bytes: Option<u64>,
    /// What it is a piece of.
    pub kind: Option<Arc<Kind>>,
    /// Still to be read from the file by the worker.
    pub load: Option<Load>,
    /// How much of a message is decoded.
    pub limits: Limits,
    /// The encoding that its bytes were decoded from, in whose bytes every place is counted; none where they are those of the input.
    pub encoding: Option<&'static Encoding>,
    /// The field of a table that distinguishes records, by place.
    pub id: Option<usize>,
    /// The input ended inside a quoted cell: line breaks of the piece before its quote.
    pub unclosed: Option<u64>,
}

/// The worker reads this part of the file itself, so that reading has as many hands as judging.
#[derive(Clone, Debug)]
pub struct Load {
    pub(super) file: Arc<File>,
    pub(super) start: u64,
    pub(super) len: usize,
}

impl Piece {
    /// Reads what the worker has to read itself.
    ///
    /// # Errors
    /// Where the file cannot be read.
    pub fn load(&mut self, name: &str) -> Result<()> {
        let Some(load) = self.load.take() else { return Ok(()) };
        self.bytes.resize(load.len, 0);
        read_exact_at(&load.file, &mut self.bytes, load.start).map_err(|error| match error.kind() {
            std::io::ErrorKind::UnexpectedEof => Error::reading(name, &cut_off()),
            _ => Error::reading(name, &error),
        })
    }

    /// Calls `see` with every stretch of text in the piece, in order; gives how many records it has, those without text
    /// included, and blank lines between them.
    ///
    /// # Errors
    /// Where the piece is not what its format says.
    pub fn segments(&self, name: &str, see: &mut dyn FnMut(Segment<'_>)) -> Result<Counted> {
        let mut whole = Segment::plain(&self.bytes, 0, "", None);
        match self.kind.as_deref().unwrap_or(&Kind::Text) {
            // Between tags, and in attributes, comments and scripts: quotes and brackets end every address. Character
            // references are left to whoever looks for addresses, so that every place is exact.
            Kind::Text | Kind::Html => {
                whole.body = self.body.clone();
                see(whole);
                Ok(Counted::default())
            }
            Kind::Utf16(big) => {
                let unpaired = self.utf16(*big, see);
                Ok(Counted { unpaired, ..Counted::default() })
            }
            Kind::Table { dialect, fields } => Ok(self.cells(*dialect, fields, see)),
            Kind::Typed { fields } => self.typed_cells(fields, see),
            Kind::Json => json::document(&self.bytes, name, see),
            Kind::JsonLines => json::lines(&self.bytes, self.lines_before, name, see),
            Kind::Mail => {
                let undecoded = u64::from(!mail::message(&self.bytes, 0, 0, self.limits, see));
                Ok(Counted { undecoded, ..Counted::records(1) })
            }
            Kind::Mailbox => Ok(mail::messages(&self.bytes, self.limits, see)),
        }
    }

    /// Gives how many surrogates without the other half of their pair are in the piece's own part.
    fn utf16(&self, big: bool, see: &mut dyn FnMut(Segment<'_>)) -> u64 {
        let units = self.bytes.chunks_exact(2).map(|pair| match big {
            true => u16::from_be_bytes([pair[0], pair[1]]),
            false => u16::from_le_bytes([pair[0], pair[1]]),
        });
        let (mut text, mut places, mut at) = (Vec::new(), Vec::new(), 0);
        let mut unpaired = 0;
        for c in char::decode_utf16(units) {
            unpaired += u64::from(c.is_err() && self.body.contains(&at));
            let c = c.unwrap_or(char::REPLACEMENT_CHARACTER);
            let before = text.len();
            text.extend_from_slice(c.encode_utf8(&mut [0; 4]).as_bytes());
            places.extend(std::iter::repeat_n(at, text.len() - before));
            at += c.len_utf16() * 2;
        }
        places.push(at);
        let inside = |edge: usize| places.partition_point(|&place| place < edge).min(text.len());
        let body = inside(self.body.start)..inside(self.body.end);
        see(Segment {
            text: &text,
            body,
            places: Places::Each(&places),
            field: "",
            record: None,
            line: None,
            id: None,
        });
        unpaired
    }

    fn cells(&self, dialect: Dialect, fields: &[String], see: &mut dyn FnMut(Segment<'_>)) -> Counted {
        // Cells are looked at as they stand, quotes doubled and all, so that every place is exact.
        let mut batch = Batch::default();
        csv::decode(&self.bytes, dialect, &mut batch);
        for (number, (start, raw)) in batch.raw_records(&self.bytes).enumerate() {
            let id = self.id.and_then(|id| batch.cell_and_behind(&self.bytes, number, id));
            let id = id.map(|(from, len)| &from[..len]);
            let mut cell_start = 0;
            for index in 0.. {
                let end = csv::end_of_cell(&raw[cell_start..], 0, dialect.delimiter) + cell_start;
                let cell = &raw[cell_start..end];
                let quoted = cell.len() >= 2 && cell[0] == b'"' && cell[cell.len() - 1] == b'"';
                let inner = if quoted { &cell[1..cell.len() - 1] } else { cell };
                let numbered = numbered_field(index);
                let field = fields.get(index).map_or(&*numbered, String::as_str);
                let start = start + cell_start + usize::from(quoted);
                see(Segment { id, ..Segment::plain(inner, start, field, Some(number as u64)) });
                if end >= raw.len() {
                    break;
                }
                cell_start = end + 1;
            }
        }
        Counted { blank_lines: batch.blank_lines, ..Counted::records(batch.len() as u64) }
    }
}

impl Piece {
    /// The cells of packed records.
    fn typed_cells(&self, fields: &[String], see: &mut dyn FnMut(Segment<'_>)) -> Result<Counted> {
        let chunk = Chunk { bytes: self.bytes.clone(), lines: self.lines, ..Chunk::default() };
        let mut batch = Batch::default();
        PackedDecoder.decode(&chunk, &mut batch)?;
        for record in batch.records(&chunk) {
            let id = self.id.and_then(|id| record.cell(id));
            for (index, text) in record.cells().enumerate() {
                let name = numbered_field(index);
                see(Segment {
                    text,
                    body: 0..text.len(),
                    places: Places::Nowhere,
                    field: fields.get(index).map_or(&*name, String::as_str),
                    record: Some(record.index() as u64),
                    line: Some(record.line_in_chunk() as u32),
                    id,
                });
            }
        }
        Ok(Counted { lines: Some(batch.lines), ..Counted::records(batch.len() as u64) })
    }
}

#[cfg(unix)]
fn read_exact_at(file: &File, buffer: &mut [u8], start: u64) -> std::io::Result<()> {
    use std::os::unix::fs::FileExt as _;
    file.read_exact_at(buffer, start)
}

#[cfg(windows)]
fn read_exact_at(file: &File, mut buffer: &mut [u8], mut start: u64) -> std::io::Result<()> {
    use std::os::windows::fs::FileExt as _;
    while !buffer.is_empty() {
        let read = file.seek_read(buffer, start)?;
        if read == 0 {
            return Err(std::io::ErrorKind::UnexpectedEof.into());
        }
        buffer = &mut buffer[read..];
        start += read as u64;
    }
    Ok(())
}
