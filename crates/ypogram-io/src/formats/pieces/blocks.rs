//! Opens an input as pieces: recognises its format, and cuts it.

use std::fs::File;
use std::path::Path;
use std::sync::Arc;

use crate::formats::csv::{self, Dialect, Header, SortOf, TableStart};
use crate::formats::open::{OpenOptions, TableShape, decoded_from_utf16, read_table, table_in_text};
use crate::formats::pieces::cutting::{
    CutPieces, Direct, Document, LARGEST_DOCUMENT, Overlapping, Records, Sizes, too_large,
};
use crate::formats::pieces::{Kind, Limits, Piece, bytes_in_utf16, mail};
use crate::formats::text_lines;
use crate::input::borders::{Chunks, FindBorder};
use crate::input::file_input::{Compression, Input, open_file};
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};

/// How to cut inputs.
#[derive(Clone, Debug)]
pub struct PieceOptions {
    /// The kind, where the extension of the file does not tell. Dialect and fields of a table are found anyway.
    pub kind: Option<Kind>,
    /// The separator of cells; recognised where none is given.
    pub delimiter: Option<u8>,
    /// Where the names of a table's fields stand.
    pub header: Header,
    /// Tells the cells of a header from those of records.
    pub sort_of: Option<SortOf>,
    /// Bytes of a piece.
    pub piece_bytes: usize,
    /// Bytes that pieces of text overlap on both sides.
    pub overlap: usize,
    /// The field of a table that distinguishes records.
    pub id: Option<String>,
    /// Publish what could be read of an input that breaks off.
    pub salvage: bool,
    /// How long a record may be, and how deep and of how many parts a message.
    pub limits: Limits,
}

/// An input cut into pieces.
pub struct Opened {
    name: String,
    kind: Arc<Kind>,
    cut: Box<dyn CutPieces>,
    limits: Limits,
    /// The place of the field of a table that distinguishes its records.
    id: Option<usize>,
    /// Lines of a table's header, and those without anything above it.
    lines_before: u64,
    blank_lines_before: u64,
    /// What people call the format of a table that was recognised.
    described: Option<String>,
    /// What is read is the UTF-8 of a table in UTF-16.
    from_utf16: bool,
    looks_binary: bool,
}

/// How much is looked at to recognise format, dialect and encoding.
const SAMPLE: usize = 64 << 10;

impl Opened {
    /// Opens the file at `path`, or standard input where that is `-`.
    ///
    /// # Errors
    /// Where it is missing, a folder, empty, or may not be read.
    pub fn open(path: &Path, options: &PieceOptions) -> Result<Self> {
        let Start { mut input, mut bytes, mut kind, mark, from_utf16 } = Start::read(path, options)?;
        if kind == Kind::Text
            && options.kind.is_none()
            && let Some(dialect) = dialect_in_text(path, &bytes, options)
        {
            kind = Kind::Table { dialect, fields: vec![] };
        }
        let table = match &mut kind {
            Kind::Table { dialect, fields } => {
                let table = read_header(&mut input, &mut bytes, *dialect, options)?;
                *dialect = table.dialect;
                fields.clone_from(&table.fields);
                Some(table)
            }
            _ => None,
        };
        let id = match (&kind, &options.id) {
            (Kind::Table { fields, .. }, Some(id)) => fields.iter().position(|field| field == id),
            _ => None,
        };
        let (lines_before, blank_lines_before, first_record) = match &table {
            Some(table) => (lines_above(table, &bytes), table.blank_lines, table.first_record),
            None => (0, 0, 0),
        };
        let name = input.name.clone();
        let looks_binary = !matches!(kind, Kind::Utf16(_)) && bytes.contains(&0);
        let header = &bytes[..first_record];
        let offset = mark + if from_utf16 { bytes_in_utf16(header) } else { header.len() as u64 };
        bytes.drain(..first_record);
        let remaining = Remaining { input, bytes, offset, from_utf16 };
        let cut = remaining.cut(path, &kind, options)?;
        Ok(Opened {
            name,
            kind: Arc::new(kind),
            cut,
            limits: options.limits,
            id,
            lines_before,
            blank_lines_before,
            described: table.map(|table| table.described),
            from_utf16,
            looks_binary,
        })
    }

    /// The name to call it by.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Its format.
    pub fn kind(&self) -> &Kind {
        &self.kind
    }

    /// What people call the format of a table, such as `comma-separated, with a header`.
    pub fn described(&self) -> Option<&str> {
        self.described.as_deref()
    }

    /// Lines before the first piece: those of a table's header.
    pub fn lines_before(&self) -> u64 {
        self.lines_before
    }

    /// Lines without anything in them above a table's header.
    pub fn blank_lines_before(&self) -> u64 {
        self.blank_lines_before
    }

    /// Why it broke off, where it did and was salvaged.
    pub fn broken_off(&self) -> Option<String> {
        self.cut.broken_off()
    }

    /// Whether its first bytes hold a zero, as those of binary files do.
    pub fn looks_binary(&self) -> bool {
        self.looks_binary
    }

    /// Fills `piece` with the next part; false at the end.
    ///
    /// # Errors
    /// Where the input cannot be read, breaks off, or is too large a document.
    pub fn next(&mut self, piece: &mut Piece) -> Result<bool> {
        (piece.load, piece.unclosed, piece.id) = (None, None, self.id);
        piece.kind = Some(Arc::clone(&self.kind));
        (piece.limits, piece.from_utf16) = (self.limits, self.from_utf16);
        self.cut.next(piece)
    }
}

/// What an input starts with, and what that tells.
struct Start {
    input: Input,
    /// Without a byte-order mark.
    bytes: Vec<u8>,
    kind: Kind,
    /// Bytes of the byte-order mark.
    mark: u64,
    from_utf16: bool,
}

impl Start {
    fn read(path: &Path, options: &PieceOptions) -> Result<Self> {
        let mut input = Input::open(path, false, options.salvage)?;
        let mut bytes = Vec::new();
        input.fill(&mut bytes, SAMPLE)?;
        if bytes.is_empty() {
            return Err(Error::empty(&input.name));
        }
        let kind = options.kind.clone().unwrap_or_else(|| Kind::of_path(path));
        let marks = [(&b"\xFF\xFE"[..], false), (b"\xFE\xFF", true)];
        let big = marks.iter().find(|(mark, _)| bytes.starts_with(mark)).map(|(_, big)| *big);
        match big {
            Some(big) if is_table_in_utf16(path, &kind, &bytes, big, options) => {
                let (input, bytes) = decoded_from_utf16(input, bytes)?;
                Ok(Start { input, bytes, kind, mark: 2, from_utf16: true })
            }
            Some(big) => {
                bytes.drain(..2);
                Ok(Start { input, bytes, kind: Kind::Utf16(big), mark: 2, from_utf16: false })
            }
            None => {
                let mark = if bytes.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 };
                bytes.drain(..mark);
                Ok(Start { input, bytes, kind, mark: mark as u64, from_utf16: false })
            }
        }
    }
}

/// Where the pieces of an input begin.
struct Remaining {
    input: Input,
    /// Read, but not used so far.
    bytes: Vec<u8>,
    /// Where they stand in the input.
    offset: u64,
    from_utf16: bool,
}

impl Remaining {
    /// Cuts it in the way of its kind.
    fn cut(self, path: &Path, kind: &Kind, options: &PieceOptions) -> Result<Box<dyn CutPieces>> {
        let sizes = Sizes { piece: options.piece_bytes, overlap: options.overlap };
        let longest = (sizes.piece, options.limits.longest_record);
        let largest = (sizes.piece, LARGEST_DOCUMENT);
        Ok(match kind {
            Kind::Text => match self.readable_anywhere(path)? {
                Some((file, bytes)) => {
                    let (mark, handed_out) = (self.offset, self.offset);
                    Box::new(Direct { file: Arc::new(file), bytes, mark, handed_out, sizes })
                }
                None => Box::new(Overlapping::new(self.input, sizes, self.bytes, self.offset)),
            },
            Kind::Utf16(_) => Box::new(Overlapping::new(self.input, sizes, self.bytes, self.offset)),
            &Kind::Table { dialect: Dialect { delimiter }, .. } => {
                let find = move |bytes: &[u8], at_end| csv::last_border(bytes, delimiter, at_end);
                Box::new(self.records(Box::new(find), longest))
            }
            Kind::JsonLines => {
                let records = self.records(Box::new(text_lines::last_line_end), largest);
                Box::new(Records { lines: Some(0), ..records })
            }
            Kind::Mailbox => Box::new(self.records(Box::new(mail::last_message_start), largest)),
            Kind::Html | Kind::Json | Kind::Mail => {
                Box::new(Document { input: self.input, rest: self.bytes, offset: self.offset })
            }
        })
    }

    /// The file and its size, where workers can read their parts of it themselves.
    fn readable_anywhere(&self, path: &Path) -> Result<Option<(File, u64)>> {
        if self.input.compression != Compression::None || path == Path::new("-") {
            return Ok(None);
        }
        let file = open_file(path)?;
        let metadata = file.metadata().map_err(|error| Error::reading(&self.input.name, &error))?;
        Ok(metadata.is_file().then_some((file, metadata.len())))
    }

    fn records(self, find: FindBorder, sizes: (usize, usize)) -> Records {
        let Remaining { input, bytes, offset, from_utf16 } = self;
        let mut chunks = Chunks::new(input, find, sizes, bytes, offset);
        if sizes.1 == LARGEST_DOCUMENT {
            chunks.refuse_longer_as(too_large);
        }
        Records { chunks, chunk: Chunk::default(), from_utf16, handed_out: offset, lines: None }
    }
}

/// Reads the header of a table; `known` is how the extension of its file says that cells are separated.
fn read_header(
    input: &mut Input,
    start: &mut Vec<u8>,
    known: Dialect,
    options: &PieceOptions,
) -> Result<TableStart> {
    let known = Some(known.delimiter).filter(|&delimiter| delimiter != 0);
    let PieceOptions { delimiter, header, sort_of, limits, .. } = *options;
    let shape = TableShape { delimiter: delimiter.or(known), header, sort_of };
    read_table(input, start, shape, limits.longest_record)
}

/// Lines before the first record of a table that starts with `start`.
fn lines_above(table: &TableStart, start: &[u8]) -> u64 {
    match table.header {
        // A single carriage return ends no line here.
        Some(_) => memchr::memchr_iter(b'\n', &start[..table.first_record]).count() as u64,
        None => table.lines_before,
    }
}

/// Whether what starts with `start`, in UTF-16, is a table: then it is read as what it is in UTF-8.
fn is_table_in_utf16(path: &Path, kind: &Kind, start: &[u8], big: bool, options: &PieceOptions) -> bool {
    let unit = if big { u16::from_be_bytes } else { u16::from_le_bytes };
    let units = start.as_chunks().0.iter().skip(1).map(|&pair| unit(pair));
    let decoded = || char::decode_utf16(units).map(|c| c.unwrap_or(char::REPLACEMENT_CHARACTER));
    match (kind, &options.kind) {
        (Kind::Table { .. }, _) => true,
        (Kind::Text, None) => {
            dialect_in_text(path, decoded().collect::<String>().as_bytes(), options).is_some()
        }
        _ => false,
    }
}

/// How cells are separated in what has no extension that tells, where it is a table.
fn dialect_in_text(path: &Path, start: &[u8], options: &PieceOptions) -> Option<Dialect> {
    let PieceOptions { delimiter, header, sort_of, .. } = *options;
    table_in_text(path, start, &OpenOptions { delimiter, header, sort_of, ..OpenOptions::default() })
}
