//! Opens an input as pieces: recognises its format, and cuts it.

use std::fs::File;
use std::path::Path;
use std::sync::Arc;

use crate::formats::begin::Begun;
use crate::formats::csv::{self, Dialect, TableStart};
use crate::formats::open::{TableShape, open_begun, open_on_server, read_table, table_in_text};
use crate::formats::options::OpenOptions;
use crate::formats::parts::Parts;
use crate::formats::pieces::cutting::{
    CutPieces, Decoded, Direct, Document, LARGEST_DOCUMENT, Overlapping, Records, Sizes, Typed, too_large,
};
use crate::formats::pieces::{Kind, Limits, Piece, mail};
use crate::formats::text::{Text, is_marked_utf16};
use crate::formats::text_lines;
use crate::input::borders::{Chunks, FindBorder};
use crate::input::encoding::Guess;
use crate::input::file_input::{Compression, Input, open_file};
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};
use crate::records::format::{Format, on_server};
use crate::records::place::SourcePlace;
use crate::records::source::Source;

/// How to cut inputs.
#[derive(Clone, Debug)]
pub struct PieceOptions {
    /// How to open them; a chunk is a piece.
    pub open: OpenOptions,
    /// Bytes that pieces of text overlap on both sides.
    pub overlap: usize,
    /// The field of a table that distinguishes records.
    pub id: Option<String>,
    /// How deep and of how many parts a message may be.
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
    decoded: Decoded,
    /// The sheets or tables of it that are not open, where it is one of them.
    parts: Option<Parts>,
}

impl Opened {
    /// Opens the file at `path`, or standard input where that is `-`.
    ///
    /// # Errors
    /// Where it is missing, a folder, empty, or may not be read.
    pub fn open(path: &Path, options: &PieceOptions) -> Result<Self> {
        let place = SourcePlace::of(path);
        if let Some(server) = on_server(&place.file) {
            if Parts::are_all_meant(server, &place, &options.open) {
                let parts = Parts::on_server(&place.file, server, &options.open)?;
                return Ok(Self::of_next(parts, options)?.expect("it holds something"));
            }
            return Self::of_typed(open_on_server(&place, server, &options.open)?, options);
        }
        let mut begun = Begun::at(&place.file, &OpenOptions { fingerprint: false, ..options.open.clone() })?;
        let format = begun.format(&place.file, options.open.format)?;
        let file = begun.file.clone();
        if Parts::are_all_meant(format, &place, &options.open) {
            let parts = Parts::of(begun, format, &options.open)?;
            return Ok(Self::of_next(parts, options)?.expect("it holds something"));
        }
        if format.entry().uses.by_cells {
            return Self::of_typed(open_begun(begun, &place, format, &options.open)?, options);
        }
        let Start { mut input, mut bytes, mut kind, mark, decoded } =
            Start::of(begun, &place.file, format, options)?;
        if kind == Kind::Text
            && options.open.format.is_none()
            && let Some(dialect) = table_in_text(path, &bytes, &options.open)
        {
            kind = Kind::Table { dialect, fields: vec![] };
        }
        let table = match &mut kind {
            Kind::Table { dialect, fields } => {
                let table = read_header(&mut input, &mut bytes, *dialect, &options.open)?;
                *dialect = table.dialect;
                fields.clone_from(&table.fields);
                Some(table)
            }
            _ => None,
        };
        let (lines_before, blank_lines_before, first_record) = match &table {
            Some(table) => (lines_above(table, &bytes), table.blank_lines, table.first_record),
            None => (0, 0, 0),
        };
        let name = input.name.clone();
        let offset = mark + decoded.bytes_of(&bytes[..first_record]);
        bytes.drain(..first_record);
        let remaining = Remaining { input, bytes, offset, decoded: decoded.clone() };
        let cut = remaining.cut(&file, &kind, options)?;
        Ok(Opened {
            name,
            id: id_place(&kind, options),
            kind: Arc::new(kind),
            cut,
            limits: options.limits,
            lines_before,
            blank_lines_before,
            described: table.map(|table| table.described),
            decoded,
            parts: None,
        })
    }

    /// The next of the parts of a source.
    fn of_next(mut parts: Parts, options: &PieceOptions) -> Result<Option<Self>> {
        let Some(source) = parts.open_next(&options.open)? else { return Ok(None) };
        Ok(Some(Opened { parts: Some(parts), ..Self::of_typed(source, options)? }))
    }

    /// The records of a source whose cells have types.
    fn of_typed(source: Box<dyn Source>, options: &PieceOptions) -> Result<Self> {
        let schema = source.schema();
        let kind = Kind::Typed { fields: schema.fields.clone() };
        Ok(Opened {
            name: source.name().to_owned(),
            id: id_place(&kind, options),
            kind: Arc::new(kind),
            limits: options.limits,
            lines_before: schema.lines_before,
            blank_lines_before: schema.blank_lines_before,
            described: Some(schema.described.clone()),
            decoded: Decoded::default(),
            parts: None,
            cut: Box::new(Typed { source, chunk: Chunk::default() }),
        })
    }

    /// Opens the sheet or table behind this one; none behind the last, or where it is none.
    ///
    /// # Errors
    /// Where it cannot be read.
    pub fn next_part(self, options: &PieceOptions) -> Result<Option<Self>> {
        self.parts.map_or(Ok(None), |parts| Self::of_next(parts, options))
    }

    /// Whether it is one of several sheets or tables, which need not have the same fields.
    pub fn is_one_of_several(&self) -> bool {
        self.parts.as_ref().is_some_and(Parts::is_one_of_several)
    }

    /// The name of the file that it is, or is a part of.
    pub fn file_name(&self) -> &str {
        self.parts.as_ref().map_or(&self.name, Parts::of_source)
    }

    /// The name to call it by; of one of several sheets or tables `file#sheet`.
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

    /// What else there is to say about it once all is cut.
    pub fn remarks(&self) -> Vec<String> {
        let guess = self.decoded.guessed.get().and_then(Guess::remark);
        self.cut.remarks().into_iter().chain(guess).collect()
    }

    /// Fills `piece` with the next part; false at the end.
    ///
    /// # Errors
    /// Where the input cannot be read, breaks off, or is too large a document.
    pub fn next(&mut self, piece: &mut Piece) -> Result<bool> {
        (piece.load, piece.unclosed, piece.lines, piece.id) = (None, None, None, self.id);
        piece.kind = Some(Arc::clone(&self.kind));
        (piece.limits, piece.encoding, piece.source_bytes) = (self.limits, None, None);
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
    decoded: Decoded,
}

impl Start {
    fn of(mut begun: Begun, path: &Path, format: Format, options: &PieceOptions) -> Result<Self> {
        let kind = Kind::of(format);
        if let Some(big) = is_marked_utf16(&begun.start)
            && !is_table_in_utf16(path, &kind, &begun.start, big, options)
        {
            begun.start.drain(..2);
            let Begun { input, start: bytes, .. } = begun;
            return Ok(Start { input, bytes, kind: Kind::Utf16(big), mark: 2, decoded: Decoded::default() });
        }
        // Documents name their encoding themselves; what addresses consist of is the same in all of them.
        if !matches!(kind, Kind::Text | Kind::Table { .. }) {
            let Begun { input, start: mut bytes, .. } = begun;
            let mark = if bytes.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 };
            bytes.drain(..mark);
            return Ok(Start { input, bytes, kind, mark: mark as u64, decoded: Decoded::default() });
        }
        let text = Text::of(begun, path, &options.open)?;
        let decoded = Decoded { known: text.known_encoding(), guessed: text.guessed };
        Ok(Start { input: text.input, bytes: text.start, kind, mark: text.mark, decoded })
    }
}

/// Where the pieces of an input begin.
struct Remaining {
    input: Input,
    /// Read, but not used so far.
    bytes: Vec<u8>,
    /// Where they stand in the input.
    offset: u64,
    decoded: Decoded,
}

impl Remaining {
    /// Cuts it in the way of its kind.
    fn cut(self, path: &Path, kind: &Kind, options: &PieceOptions) -> Result<Box<dyn CutPieces>> {
        let sizes = Sizes { piece: options.open.chunk_bytes, overlap: options.overlap };
        let longest = (sizes.piece, options.open.longest_record);
        let largest = (sizes.piece, LARGEST_DOCUMENT);
        Ok(match kind {
            Kind::Text => match self.readable_anywhere(path)? {
                Some((file, bytes)) => {
                    let (mark, handed_out) = (self.offset, self.offset);
                    Box::new(Direct { file: Arc::new(file), bytes, mark, handed_out, sizes })
                }
                None => Box::new(self.overlapping(sizes)),
            },
            Kind::Utf16(_) => Box::new(self.overlapping(sizes)),
            &Kind::Table { dialect: Dialect { delimiter }, .. } => {
                let find = move |bytes: &[u8], at_end| csv::last_border(bytes, delimiter, at_end);
                Box::new(self.records(Box::new(find), longest))
            }
            Kind::JsonLines => {
                let records = self.records(Box::new(text_lines::last_line_end), largest);
                Box::new(Records { lines: Some(0), ..records })
            }
            Kind::Mailbox => Box::new(self.records(Box::new(mail::last_message_start), largest)),
            Kind::Html | Kind::Json | Kind::Mail | Kind::Typed { .. } => {
                Box::new(Document { input: self.input, rest: self.bytes, offset: self.offset })
            }
        })
    }

    /// The file and its size, where workers can read their parts of it themselves.
    fn readable_anywhere(&self, path: &Path) -> Result<Option<(File, u64)>> {
        if self.input.compression != Compression::None
            || path == Path::new("-")
            || self.decoded.encoding().is_some()
        {
            return Ok(None);
        }
        let reading = |error| Error::reading(&self.input.name, &error);
        let mut file = open_file(path)?;
        let metadata = file.metadata().map_err(reading)?;
        // Where the start is ASCII, its encoding shows later.
        let is_utf8 = |guess: Option<Guess>| guess.is_none_or(|guess| guess.encoding.is_none());
        let can_be = metadata.is_file()
            && (self.decoded.guessed.get().is_some() || is_utf8(Guess::of_file(&mut file).map_err(reading)?));
        Ok(can_be.then_some((file, metadata.len())))
    }

    fn overlapping(self, sizes: Sizes) -> Overlapping {
        Overlapping::new((self.input, self.decoded), sizes, self.bytes, self.offset)
    }

    fn records(self, find: FindBorder, sizes: (usize, usize)) -> Records {
        let Remaining { input, bytes, offset, decoded } = self;
        let mut chunks = Chunks::new(input, find, sizes, bytes, offset);
        if sizes.1 == LARGEST_DOCUMENT {
            chunks.refuse_longer_as(too_large);
        }
        Records { chunks, chunk: Chunk::default(), decoded, handed_out: offset, lines: None }
    }
}

/// Reads the header of a table; `known` is how the extension of its file says that cells are separated.
fn read_header(
    input: &mut Input,
    start: &mut Vec<u8>,
    known: Dialect,
    options: &OpenOptions,
) -> Result<TableStart> {
    let known = Some(known.delimiter).filter(|&delimiter| delimiter != 0);
    let OpenOptions { delimiter, header, sort_of, longest_record, .. } = *options;
    let shape = TableShape { delimiter: delimiter.or(known), header, sort_of };
    read_table(input, start, shape, longest_record)
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
    match (kind, &options.open.format) {
        (Kind::Table { .. }, _) => true,
        (Kind::Text, None) => {
            table_in_text(path, decoded().collect::<String>().as_bytes(), &options.open).is_some()
        }
        _ => false,
    }
}

/// The place of the field that distinguishes records.
fn id_place(kind: &Kind, options: &PieceOptions) -> Option<usize> {
    let id = options.id.as_ref()?;
    kind.fields()?.iter().position(|field| field == id)
}
