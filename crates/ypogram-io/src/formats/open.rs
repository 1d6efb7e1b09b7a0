//! Opens a source: finds its format, its dialect and its fields.

use std::io::Read as _;
use std::path::{Path, PathBuf};

use encoding_rs_io::DecodeReaderBytesBuilder;

use crate::formats::csv::{self, Dialect, Header, SortOf, TableStart};
use crate::formats::jsonl;
use crate::formats::text_lines;
use crate::input::borders::{LONGEST_RECORD, record_too_long, size};
use crate::input::file_input::{Input, can_be_read_but_once, keep_source};
use crate::output::temporary_folder;
use crate::records::error::{Error, Result};
use crate::records::format::{Format, extension_of};
use crate::records::source::Source;

/// How to open a source.
#[derive(Clone, Debug)]
pub struct OpenOptions {
    /// The format; by the extension where none is given.
    pub format: Option<Format>,
    /// The separator of cells; recognised where none is given.
    pub delimiter: Option<u8>,
    /// Where the names of a table's fields stand.
    pub header: Header,
    /// Tells the cells of a header from those of records; without it, the first row is the header where none is named, and
    /// text is not looked at whether it is a table.
    pub sort_of: Option<SortOf>,
    /// How many bytes a chunk should have.
    pub chunk_bytes: usize,
    /// How many bytes a record may have.
    pub longest_record: usize,
    /// As many records are read in all, where there is a limit.
    pub first: Option<u64>,
    /// Take the BLAKE3 of what is read, which not every job tells.
    pub fingerprint: bool,
    /// Publish what could be read of an input that breaks off.
    pub salvage: bool,
    /// Sources that can be read but once, and the files that they were put into.
    pub kept: Vec<(PathBuf, PathBuf)>,
}

impl Default for OpenOptions {
    fn default() -> Self {
        OpenOptions {
            format: None,
            delimiter: None,
            header: Header::Recognised,
            sort_of: None,
            chunk_bytes: 128 << 10,
            longest_record: LONGEST_RECORD,
            first: None,
            fingerprint: true,
            salvage: false,
            kept: Vec::new(),
        }
    }
}

/// How much is looked at to recognise dialect and encoding.
const SAMPLE: usize = 64 << 10;

/// How much is looked at to see whether text is a table.
const TABLE_SAMPLE: usize = 8 << 10;

/// Opens the file at `path`, or standard input where that is `-`.
///
/// # Errors
/// Where it is missing, a folder, empty, not text, or in an encoding that is not read.
pub fn open(path: &Path, options: &OpenOptions) -> Result<Box<dyn Source>> {
    let format = options.format.unwrap_or_else(|| Format::of_path(path));
    if format == Format::JsonLines {
        return open_json_lines(path, options);
    }
    let Begun { mut input, mut start, offset } = begin(path, None, options)?;
    let sizes = (options.chunk_bytes, options.longest_record);
    let table_in_text = match options.format {
        None if format == Format::Text => table_in_text(path, &start, options),
        _ => None,
    };
    if !matches!(format, Format::Csv | Format::Tsv) && table_in_text.is_none() {
        return Ok(Box::new(text_lines::open(input, sizes, start, offset)));
    }
    let given = options.delimiter.or((format == Format::Tsv).then_some(b'\t'));
    let shape = TableShape { delimiter: given, header: options.header, sort_of: options.sort_of };
    let mut table = read_table(&mut input, &mut start, shape, options.longest_record)?;
    if table_in_text.is_some() {
        table.described = table.described.replacen(',', " by its content,", 1);
    }
    Ok(Box::new(csv::open(input, table, sizes, start, offset)))
}

/// An input of which the start was read.
struct Begun {
    input: Input,
    /// Without a byte-order mark.
    start: Vec<u8>,
    /// Bytes in front of that.
    offset: u64,
}

/// Opens the source at `path`, or its copy, and looks whether it can be read.
fn begin(path: &Path, copy: Option<&Path>, options: &OpenOptions) -> Result<Begun> {
    let kept = options.kept.iter().find(|(source, _)| source == path).map(|(_, kept)| &**kept);
    let mut input = match copy.or(kept) {
        Some(kept) => Input::open_kept(path, kept, options.fingerprint, options.salvage)?,
        None => Input::open(path, options.fingerprint, options.salvage)?,
    };
    let mut start = Vec::new();
    input.fill(&mut start, SAMPLE)?;
    if start.starts_with(b"\xFF\xFE") || start.starts_with(b"\xFE\xFF") {
        (input, start) = decoded_from_utf16(input, start)?;
    }
    refuse_unreadable(&input.name, &start)?;
    let marked = start.starts_with(b"\xEF\xBB\xBF");
    if marked {
        start.drain(..3);
    }
    if start.iter().all(|b| matches!(b, b'\r' | b'\n')) {
        return Err(Error::empty(&input.name));
    }
    Ok(Begun { input, start, offset: if marked { 3 } else { 0 } })
}

/// Reads through JSON lines once for their fields, and opens them again for their records; what can be read but once is copied first.
fn open_json_lines(path: &Path, options: &OpenOptions) -> Result<Box<dyn Source>> {
    let is_kept = options.kept.iter().any(|(source, _)| source == path);
    let folder = (!is_kept && can_be_read_but_once(path)).then(temporary_folder).transpose()?;
    let copy = folder.as_ref().map(|folder| folder.path().join("lines"));
    if let Some(copy) = &copy {
        keep_source(path, copy)?;
    }
    let chunks = |options: &OpenOptions| -> Result<_> {
        let Begun { input, start, offset } = begin(path, copy.as_deref(), options)?;
        Ok(text_lines::chunks(input, (options.chunk_bytes, options.longest_record), start, offset))
    };
    let unhashed = OpenOptions { fingerprint: false, ..options.clone() };
    let fields = jsonl::gather(&mut chunks(&unhashed)?)?;
    Ok(Box::new(jsonl::open(chunks(options)?, fields, folder)))
}

/// How cells are separated in what has no extension that tells, where it is a table.
pub(crate) fn table_in_text(path: &Path, start: &[u8], options: &OpenOptions) -> Option<Dialect> {
    let may_be = path == Path::new("-") || matches!(extension_of(path).as_str(), "" | "txt");
    if !may_be {
        return None;
    }
    // The first lines tell enough.
    let sample = match memchr::memrchr(b'\n', &start[..start.len().min(TABLE_SAMPLE)]) {
        Some(end) if start.len() > TABLE_SAMPLE => &start[..=end],
        _ => start,
    };
    match (csv::named_separator(sample), options.delimiter) {
        (_, Some(delimiter)) => Some(Dialect { delimiter }),
        (Some((delimiter, _)), None) => Some(Dialect { delimiter }),
        // What has a header is a table.
        (None, None) if matches!(options.header, Header::Line(_)) => Some(Dialect::recognise(sample)),
        (None, None) => Dialect::of_a_table(sample, options.sort_of?),
    }
}

/// What is known of a table before it is read.
#[derive(Clone, Copy, Debug)]
pub(crate) struct TableShape {
    pub(crate) delimiter: Option<u8>,
    pub(crate) header: Header,
    pub(crate) sort_of: Option<SortOf>,
}

/// Reads on until the header of the table is whole in `start`, and then what the table begins with; a record may have `longest` bytes.
pub(crate) fn read_table(
    input: &mut Input,
    start: &mut Vec<u8>,
    shape: TableShape,
    longest: usize,
) -> Result<TableStart> {
    let TableShape { delimiter, header, sort_of } = shape;
    if let Some(shown) = delimiter.filter(|byte| *byte == b'"' || byte.is_ascii_alphanumeric()) {
        return Err(Error::unusable(
            format!("‘{}’ cannot separate cells", shown as char),
            "take a comma, semicolon, tab or bar",
        ));
    }
    loop {
        let (named, from) = match csv::named_separator(start) {
            Some((named, from)) => (Some(named), from),
            None => (None, 0),
        };
        let dialect = match delimiter.or(named) {
            Some(delimiter) => Dialect { delimiter },
            None => Dialect::recognise(&whole_records(start)[from..]),
        };
        // A header longer than the sample, or one far below: read on until it is whole.
        let border = csv::last_border(start, dialect.delimiter, false).end;
        let read = start.len();
        if csv::reaches_behind(header, start, border) || input.fill(start, read.max(SAMPLE))? == 0 {
            return TableStart::read(&input.name, start, from, dialect, (header, sort_of));
        }
        if start.len() > longest {
            return Err(match header {
                Header::Line(line) => Error::unusable(
                    format!("{}: line {line} is not among the first {}", input.name, size(longest)),
                    "give the line of the row that names the fields, counted from 1",
                ),
                _ => record_too_long(&input.name, 0, longest),
            });
        }
    }
}

/// UTF-16 is decoded on the way and comes out in UTF-8.
pub(crate) fn decoded_from_utf16(input: Input, start: Vec<u8>) -> Result<(Input, Vec<u8>)> {
    let mut input = input.through(|rest| {
        let whole = std::io::Cursor::new(start).chain(rest);
        Box::new(DecodeReaderBytesBuilder::new().bom_sniffing(true).build(whole))
    });
    let mut start = Vec::new();
    input.fill(&mut start, SAMPLE)?;
    Ok((input, start))
}

/// The sample up to its last line end, so that a record cut off by the sample's end does not count.
fn whole_records(sample: &[u8]) -> &[u8] {
    match memchr::memrchr(b'\n', sample) {
        Some(end) if sample.len() >= SAMPLE => &sample[..=end],
        _ => sample,
    }
}

fn refuse_unreadable(name: &str, start: &[u8]) -> Result<()> {
    if start.is_empty() {
        return Err(Error::empty(name));
    }
    if start.starts_with(b"\xFF\xFE") || start.starts_with(b"\xFE\xFF") {
        return Err(Error::unusable(
            format!("{name}: the file is in UTF-16"),
            "save it as UTF-8 and try again",
        ));
    }
    let known: [(&[u8], &str, &str); 3] = [
        (b"PK\x03\x04", "a spreadsheet or zip archive", "save the sheet as CSV and try again"),
        (b"\xD0\xCF\x11\xE0", "an old office document", "save the sheet as CSV and try again"),
        (b"%PDF-", "a PDF document", "copy its text into a file"),
    ];
    if let Some((_, what, hint)) = known.iter().find(|(magic, ..)| start.starts_with(magic)) {
        return Err(Error::unusable(format!("{name}: this is {what}"), *hint));
    }
    if let Some(nul) = memchr::memchr(0, start) {
        let message = format!("{name}: this is a binary file (a zero byte at byte {nul})");
        return Err(Error::unusable(message, "give a text file or a table; see --from"));
    }
    Ok(())
}
