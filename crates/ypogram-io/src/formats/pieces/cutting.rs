//! How an input is cut into pieces: parts of a file that the workers read themselves, blocks that overlap, whole records, one document.

use std::fs::File;
use std::sync::Arc;

use encoding_rs::Encoding;

use crate::formats::pieces::{Load, Piece};
use crate::input::borders::Chunks;
use crate::input::encoding::{Guessed, bytes_in};
use crate::input::file_input::Input;
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};
use crate::records::source::Source;

/// A whole document is held in memory, up to this size.
pub(super) const LARGEST_DOCUMENT: usize = 512 << 20;

/// Bytes of a piece, and those that pieces of text overlap on both sides.
#[derive(Clone, Copy, Debug)]
pub(super) struct Sizes {
    pub(super) piece: usize,
    pub(super) overlap: usize,
}

/// Cuts an input.
pub(super) trait CutPieces: Send {
    /// Fills bytes and places of `piece`; false at the end.
    fn next(&mut self, piece: &mut Piece) -> Result<bool>;

    /// Why the input broke off, where it did and was salvaged.
    fn broken_off(&self) -> Option<String>;

    /// What else there is to say once all is cut.
    fn remarks(&self) -> Vec<String> {
        Vec::new()
    }
}

/// What the bytes that are read were decoded from.
#[derive(Clone, Debug, Default)]
pub(super) struct Decoded {
    /// Where it is known from the start.
    pub(super) known: Option<&'static Encoding>,
    /// What is guessed on the way.
    pub(super) guessed: Guessed,
}

impl Decoded {
    /// The encoding, other than UTF-8.
    pub(super) fn encoding(&self) -> Option<&'static Encoding> {
        self.known.or_else(|| self.guessed.get()?.encoding)
    }

    /// How many bytes of the input `text` is.
    pub(super) fn bytes_of(&self, text: &[u8]) -> u64 {
        self.encoding().map_or(text.len() as u64, |encoding| bytes_in(encoding, text))
    }
}

/// A file of text, read by the workers themselves.
pub(super) struct Direct {
    pub(super) file: Arc<File>,
    pub(super) bytes: u64,
    /// Bytes of a byte-order mark.
    pub(super) mark: u64,
    pub(super) handed_out: u64,
    pub(super) sizes: Sizes,
}

impl CutPieces for Direct {
    fn next(&mut self, piece: &mut Piece) -> Result<bool> {
        if self.handed_out >= self.bytes {
            return Ok(false);
        }
        let overlap = self.sizes.overlap as u64;
        let end = (self.handed_out + self.sizes.piece as u64).min(self.bytes);
        let start = self.handed_out.saturating_sub(overlap).max(self.mark);
        let len = ((end + overlap).min(self.bytes) - start) as usize;
        // The worker overwrites the bytes of the piece.
        piece.load = Some(Load { file: Arc::clone(&self.file), start, len });
        piece.body = (self.handed_out - start) as usize..(end - start) as usize;
        piece.offset = start;
        self.handed_out = end;
        Ok(true)
    }

    fn broken_off(&self) -> Option<String> {
        None
    }
}

/// Text that cannot be read at any place, such as compressed text.
pub(super) struct Overlapping {
    input: Input,
    sizes: Sizes,
    /// Read, but not handed out.
    rest: Vec<u8>,
    /// What of `rest` was handed out before and is there for overlap only.
    overlap_before: usize,
    handed_out: u64,
    at_end: bool,
    decoded: Decoded,
}

impl Overlapping {
    /// Over `input`, of which `rest` was read, up to `offset` for other use.
    pub(super) fn new((input, decoded): (Input, Decoded), sizes: Sizes, rest: Vec<u8>, offset: u64) -> Self {
        // An even number keeps the units of UTF-16 together.
        let (piece, overlap) = (sizes.piece.next_multiple_of(2), sizes.overlap.next_multiple_of(2));
        let sizes = Sizes { piece, overlap };
        Overlapping { input, sizes, rest, overlap_before: 0, handed_out: offset, at_end: false, decoded }
    }
}

impl CutPieces for Overlapping {
    fn next(&mut self, piece: &mut Piece) -> Result<bool> {
        let wanted = self.overlap_before + self.sizes.piece + self.sizes.overlap;
        if self.rest.len() < wanted && !self.at_end {
            let missing = wanted - self.rest.len();
            self.at_end = self.input.fill(&mut self.rest, missing)? < missing;
        }
        if self.rest.len() <= self.overlap_before {
            return Ok(false);
        }
        let last = self.at_end && self.rest.len() <= wanted;
        let end = if last { self.rest.len() } else { self.overlap_before + self.sizes.piece };
        let seen = if last { end } else { (end + self.sizes.overlap).min(self.rest.len()) };
        piece.bytes.clear();
        piece.bytes.extend_from_slice(&self.rest[..seen]);
        piece.body = self.overlap_before..end;
        piece.encoding = self.decoded.encoding();
        piece.offset = self.handed_out - self.decoded.bytes_of(&self.rest[..self.overlap_before]);
        self.handed_out += self.decoded.bytes_of(&self.rest[self.overlap_before..end]);
        let keep = end.saturating_sub(self.sizes.overlap);
        self.overlap_before = end - keep;
        self.rest.drain(..keep);
        Ok(true)
    }

    fn broken_off(&self) -> Option<String> {
        self.input.broken_off().map(str::to_owned)
    }
}

/// Whole records: rows of a table, lines of JSON, messages of a mailbox.
pub(super) struct Records {
    pub(super) chunks: Chunks,
    pub(super) chunk: Chunk,
    pub(super) decoded: Decoded,
    /// Bytes of the input handed out.
    pub(super) handed_out: u64,
    /// Lines in them, where they are counted.
    pub(super) lines: Option<u64>,
}

impl CutPieces for Records {
    fn next(&mut self, piece: &mut Piece) -> Result<bool> {
        // The buffers of the piece before are filled again.
        std::mem::swap(&mut self.chunk.bytes, &mut piece.bytes);
        let more = self.chunks.next(&mut self.chunk)?;
        std::mem::swap(&mut self.chunk.bytes, &mut piece.bytes);
        if !more {
            return Ok(false);
        }
        piece.body = 0..piece.bytes.len();
        piece.offset = self.handed_out;
        piece.lines_before = self.lines.unwrap_or_default();
        piece.unclosed = self.chunk.unclosed.map(|unclosed| unclosed.lines_before);
        piece.encoding = self.decoded.encoding();
        self.handed_out += self.decoded.bytes_of(&piece.bytes);
        if let Some(lines) = &mut self.lines {
            *lines += memchr::memchr_iter(b'\n', &piece.bytes).count() as u64;
        }
        Ok(true)
    }

    fn broken_off(&self) -> Option<String> {
        self.chunks.broken_off()
    }
}

/// One document, held whole.
pub(super) struct Document {
    pub(super) input: Input,
    pub(super) rest: Vec<u8>,
    pub(super) offset: u64,
}

impl CutPieces for Document {
    fn next(&mut self, piece: &mut Piece) -> Result<bool> {
        if self.rest.is_empty() {
            return Ok(false);
        }
        let missing = (LARGEST_DOCUMENT + 1).saturating_sub(self.rest.len());
        self.input.fill(&mut self.rest, missing)?;
        if self.rest.len() > LARGEST_DOCUMENT {
            return Err(too_large(&self.input.name, self.offset, LARGEST_DOCUMENT));
        }
        piece.bytes.clear();
        piece.bytes.append(&mut self.rest);
        piece.body = 0..piece.bytes.len();
        piece.offset = self.offset;
        Ok(true)
    }

    fn broken_off(&self) -> Option<String> {
        self.input.broken_off().map(str::to_owned)
    }
}

/// The error of a document or message that is larger than can be held.
pub(super) fn too_large(name: &str, offset: u64, largest: usize) -> Error {
    Error::unusable(
        format!("{name}: a document or message at byte {offset} is larger than {} MiB", largest >> 20),
        "read it as plain text with --from text",
    )
}

/// The records of a source whose cells have types.
pub(super) struct Typed {
    pub(super) source: Box<dyn Source>,
    pub(super) chunk: Chunk,
}

impl CutPieces for Typed {
    fn next(&mut self, piece: &mut Piece) -> Result<bool> {
        if !self.source.next_chunk(&mut self.chunk)? {
            return Ok(false);
        }
        std::mem::swap(&mut self.chunk.bytes, &mut piece.bytes);
        piece.body = 0..piece.bytes.len();
        (piece.lines, piece.source_bytes) = (self.chunk.lines, self.chunk.source_bytes);
        Ok(true)
    }

    fn broken_off(&self) -> Option<String> {
        self.source.broken_off()
    }

    fn remarks(&self) -> Vec<String> {
        self.source.remarks()
    }
}
