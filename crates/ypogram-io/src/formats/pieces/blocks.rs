//! Opens an input as pieces: recognises its format, and cuts it.

use std::fs::File;
use std::path::Path;
use std::sync::Arc;

use crate::formats::csv::{self, Dialect, Header, SortOf};
use crate::formats::open::{OpenOptions, TableShape, decoded_from_utf16, read_table, table_in_text};
use crate::formats::pieces::{Kind, Limits, Load, Piece, bytes_in_utf16, mail};
use crate::input::borders::record_too_long;
use crate::input::file_input::{Compression, Input, open_file};
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
    /// The field of a table that tells records apart.
    pub id: Option<String>,
    /// Publish what could be read of an input that breaks off.
    pub salvage: bool,
    /// How long a record may be, and how deep and of how many parts a message.
    pub limits: Limits,
}

/// A whole document is held in memory, up to this size.
const LARGEST_DOCUMENT: usize = 512 << 20;

/// An input cut into pieces.
pub struct Opened {
    input: Input,
    kind: Arc<Kind>,
    options: PieceOptions,
    /// Read by the workers themselves, where the file allows it: its size and how far it was handed out.
    direct: Option<(Arc<File>, u64)>,
    handed_out: u64,
    /// Lines in that, where they are counted.
    lines_handed_out: u64,
    /// Read, but not handed out.
    rest: Vec<u8>,
    /// For text: what of `rest` was handed out before and is there for overlap only.
    overlap_before: usize,
    /// Lines of a table's header, and those without anything above it.
    lines_before: u64,
    blank_lines_before: u64,
    /// What people call the format of a table that was recognised.
    described: Option<String>,
    /// Bytes of a byte-order mark.
    mark: u64,
    /// What is read is the UTF-8 of a table in UTF-16.
    from_utf16: bool,
    at_end: bool,
}

/// How much is looked at to recognise format, dialect and encoding.
const SAMPLE: usize = 64 << 10;

impl Opened {
    /// Opens the file at `path`, or standard input where that is `-`.
    ///
    /// # Errors
    /// Where it is missing, a folder, empty, or may not be read.
    pub fn open(path: &Path, options: &PieceOptions) -> Result<Self> {
        let mut input = Input::open(path, false, options.salvage)?;
        let mut rest = Vec::new();
        let at_end = input.fill(&mut rest, SAMPLE)? < SAMPLE;
        if rest.is_empty() {
            return Err(Error::empty(&input.name));
        }
        let mut kind = options.kind.clone().unwrap_or_else(|| Kind::of_path(path));
        let mut offset = 0;
        let mut from_utf16 = false;
        if let Some(big) =
            [(&b"\xFF\xFE"[..], false), (b"\xFE\xFF", true)].iter().find(|(mark, _)| rest.starts_with(mark))
        {
            offset = 2;
            if Opened::is_table_in_utf16(path, &kind, &rest, big.1, options) {
                (input, rest) = decoded_from_utf16(input, rest)?;
                from_utf16 = true;
            } else {
                kind = Kind::Utf16(big.1);
                rest.drain(..2);
            }
        } else if rest.starts_with(b"\xEF\xBB\xBF") {
            rest.drain(..3);
            offset = 3;
        }
        let mut opened = Opened {
            input,
            kind: Arc::new(Kind::Text),
            options: options.clone(),
            direct: None,
            handed_out: offset,
            lines_handed_out: 0,
            rest,
            overlap_before: 0,
            lines_before: 0,
            blank_lines_before: 0,
            described: None,
            mark: offset,
            from_utf16,
            at_end: at_end && !from_utf16,
        };
        if kind == Kind::Text && options.kind.is_none() {
            kind = opened.table_in_text(path).unwrap_or(kind);
        }
        if let Kind::Table { dialect, fields } = &mut kind {
            opened.read_header(dialect, fields)?;
        }
        if kind == Kind::Text && opened.input.compression == Compression::None && path != Path::new("-") {
            let file = open_file(path)?;
            let metadata = file.metadata().map_err(|error| Error::reading(&opened.input.name, &error))?;
            opened.direct = metadata.is_file().then(|| (Arc::new(file), metadata.len()));
        }
        opened.kind = Arc::new(kind);
        Ok(opened)
    }

    /// The name to call it by.
    pub fn name(&self) -> &str {
        &self.input.name
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
    pub fn broken_off(&self) -> Option<&str> {
        self.input.broken_off()
    }

    /// Whether its first bytes hold a zero, as those of binary files do.
    pub fn looks_binary(&self) -> bool {
        !matches!(*self.kind, Kind::Utf16(_)) && self.rest.contains(&0)
    }

    /// What has no extension that tells may be a table.
    fn table_in_text(&self, path: &Path) -> Option<Kind> {
        let dialect = dialect_in_text(path, &self.rest, &self.options)?;
        Some(Kind::Table { dialect, fields: vec![] })
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

    /// How many bytes of the input the `bytes` that were read of it are.
    fn input_bytes_of(&self, bytes: &[u8]) -> u64 {
        if self.from_utf16 { bytes_in_utf16(bytes) } else { bytes.len() as u64 }
    }

    fn read_header(&mut self, dialect: &mut Dialect, fields: &mut Vec<String>) -> Result<()> {
        let known = Some(dialect.delimiter).filter(|&delimiter| delimiter != 0);
        let PieceOptions { delimiter, header, sort_of, limits, .. } = self.options;
        let shape = TableShape { delimiter: delimiter.or(known), header, sort_of };
        let table = read_table(&mut self.input, &mut self.rest, shape, limits.longest_record)?;
        (*dialect, *fields) = (table.dialect, table.fields);
        self.handed_out += self.input_bytes_of(&self.rest[..table.first_record]);
        self.lines_before = match table.header {
            // A single carriage return ends no line here.
            Some(_) => memchr::memchr_iter(b'\n', &self.rest[..table.first_record]).count() as u64,
            None => table.lines_before,
        };
        self.blank_lines_before = table.blank_lines;
        self.rest.drain(..table.first_record);
        self.described = Some(table.described);
        Ok(())
    }

    /// Fills `piece` with the next part; false at the end.
    ///
    /// # Errors
    /// Where the input cannot be read, breaks off, or is too large a document.
    pub fn next(&mut self, piece: &mut Piece) -> Result<bool> {
        piece.load = None;
        piece.unclosed = None;
        piece.kind = Some(Arc::clone(&self.kind));
        (piece.limits, piece.from_utf16) = (self.options.limits, self.from_utf16);
        piece.id = match (&*self.kind, &self.options.id) {
            (Kind::Table { fields, .. }, Some(id)) => fields.iter().position(|field| field == id),
            _ => None,
        };
        if self.direct.is_some() {
            // What is in it is overwritten.
            return Ok(self.next_direct(piece));
        }
        piece.bytes.clear();
        match &*self.kind {
            Kind::Text | Kind::Utf16(_) => self.next_overlapping(piece),
            Kind::Table { dialect, .. } => {
                let delimiter = dialect.delimiter;
                let longest = self.options.limits.longest_record;
                self.next_records(piece, longest, |bytes, at_end| {
                    let border = csv::last_border(bytes, delimiter, at_end);
                    (border.end, border.open_quote)
                })
            }
            Kind::JsonLines => {
                piece.lines_before = self.lines_handed_out;
                let more = self.next_records(piece, LARGEST_DOCUMENT, |bytes, _| {
                    (memchr::memrchr(b'\n', bytes).map_or(0, |i| i + 1), None)
                })?;
                self.lines_handed_out += memchr::memchr_iter(b'\n', &piece.bytes).count() as u64;
                Ok(more)
            }
            Kind::Mailbox => {
                self.next_records(piece, LARGEST_DOCUMENT, |bytes, _| (mail::last_message_start(bytes), None))
            }
            Kind::Html | Kind::Json | Kind::Mail => self.next_document(piece),
        }
    }

    fn next_direct(&mut self, piece: &mut Piece) -> bool {
        let (file, size) = self.direct.as_ref().expect("the file is read directly");
        if self.handed_out >= *size {
            return false;
        }
        let overlap = self.options.overlap as u64;
        let end = (self.handed_out + self.options.piece_bytes as u64).min(*size);
        let start = self.handed_out.saturating_sub(overlap).max(self.mark);
        let len = ((end + overlap).min(*size) - start) as usize;
        piece.load = Some(Load { file: Arc::clone(file), start, len });
        piece.body = (self.handed_out - start) as usize..(end - start) as usize;
        piece.offset = start;
        self.handed_out = end;
        true
    }

    fn next_overlapping(&mut self, piece: &mut Piece) -> Result<bool> {
        // An even number keeps the units of UTF-16 together.
        let (len, overlap) =
            (self.options.piece_bytes.next_multiple_of(2), self.options.overlap.next_multiple_of(2));
        let wanted = self.overlap_before + len + overlap;
        self.fill_up_to(wanted)?;
        if self.rest.len() <= self.overlap_before {
            return Ok(false);
        }
        let last = self.at_end && self.rest.len() <= wanted;
        let end = if last { self.rest.len() } else { self.overlap_before + len };
        let seen = if last { end } else { (end + overlap).min(self.rest.len()) };
        piece.bytes.extend_from_slice(&self.rest[..seen]);
        piece.body = self.overlap_before..end;
        piece.offset = self.handed_out - self.overlap_before as u64;
        self.handed_out += (end - self.overlap_before) as u64;
        let keep = end.saturating_sub(overlap);
        self.overlap_before = end - keep;
        self.rest.drain(..keep);
        Ok(true)
    }

    fn next_records(
        &mut self,
        piece: &mut Piece,
        longest: usize,
        border: impl Fn(&[u8], bool) -> (usize, Option<usize>),
    ) -> Result<bool> {
        let mut wanted = self.options.piece_bytes;
        loop {
            self.fill_up_to(wanted)?;
            if self.rest.is_empty() {
                return Ok(false);
            }
            let window = self.rest.len().min(wanted);
            let last = self.at_end && window == self.rest.len();
            let (end, open) = border(&self.rest[..window], last);
            let end = if last { window } else { end };
            if end > 0 {
                piece.bytes.extend_from_slice(&self.rest[..end]);
                piece.body = 0..end;
                piece.offset = self.handed_out;
                let open = open.filter(|_| last).map(|quote| &piece.bytes[..quote]);
                piece.unclosed = open.map(|before| memchr::memchr_iter(b'\n', before).count() as u64);
                self.handed_out += self.input_bytes_of(&piece.bytes);
                self.rest.drain(..end);
                return Ok(true);
            }
            if wanted >= longest {
                return Err(match longest {
                    LARGEST_DOCUMENT => self.too_large(),
                    _ => record_too_long(self.name(), self.handed_out, longest),
                });
            }
            wanted = (wanted * 2).min(longest);
        }
    }

    fn next_document(&mut self, piece: &mut Piece) -> Result<bool> {
        if self.rest.is_empty() {
            return Ok(false);
        }
        self.fill_up_to(LARGEST_DOCUMENT + 1)?;
        if self.rest.len() > LARGEST_DOCUMENT {
            return Err(self.too_large());
        }
        piece.bytes.append(&mut self.rest);
        piece.body = 0..piece.bytes.len();
        piece.offset = self.handed_out;
        self.handed_out += piece.bytes.len() as u64;
        Ok(true)
    }

    fn fill_up_to(&mut self, wanted: usize) -> Result<()> {
        if self.rest.len() < wanted && !self.at_end {
            let missing = wanted - self.rest.len();
            self.at_end = self.input.fill(&mut self.rest, missing)? < missing;
        }
        Ok(())
    }

    fn too_large(&self) -> Error {
        Error::unusable(
            format!(
                "{}: a document or record at byte {} is larger than {} MiB",
                self.name(),
                self.handed_out,
                LARGEST_DOCUMENT >> 20
            ),
            "read it as plain text with --from text",
        )
    }
}

/// How cells are separated in what has no extension that tells, where it is a table.
fn dialect_in_text(path: &Path, start: &[u8], options: &PieceOptions) -> Option<Dialect> {
    let PieceOptions { delimiter, header, sort_of, .. } = *options;
    table_in_text(path, start, &OpenOptions { delimiter, header, sort_of, ..OpenOptions::default() })
}
