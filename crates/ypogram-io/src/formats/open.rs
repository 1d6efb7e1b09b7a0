//! Opens a source: finds its format, its dialect and its fields.

use std::path::Path;

use crate::formats::begin::{Begun, SAMPLE};
use crate::formats::contacts;
use crate::formats::csv::{self, Dialect, Header, SortOf, TableStart};
use crate::formats::json;
use crate::formats::kept_table::KeptTable;
use crate::formats::mail;
use crate::formats::options::OpenOptions;
use crate::formats::text::Text;
use crate::formats::text_lines;
use crate::input::borders::{record_too_long, size};
use crate::input::file_input::Input;
use crate::input::on_disk::OnDisk;
use crate::input::row_thread::RowInput;
use crate::records::error::{Error, Result};
use crate::records::fingerprint::Fingerprint;
use crate::records::format::{Format, extension_of, on_server};
use crate::records::place::SourcePlace;
use crate::records::source::Source;

/// How much is looked at to see whether text is a table.
const TABLE_SAMPLE: usize = 8 << 10;

/// Opens the source at `path`, or standard input where that is `-`; behind a `#` may stand a sheet or a table of it.
///
/// # Errors
/// Where it is missing, a folder, empty, nothing that is read, or damaged.
pub fn open(path: &Path, options: &OpenOptions) -> Result<Box<dyn Source>> {
    let place = SourcePlace::of(path);
    if let Some(server) = on_server(&place.file) {
        return match options.kept_file(path) {
            Some(kept) => {
                let options = OpenOptions { fingerprint: false, kept: Vec::new(), ..options.clone() };
                let rows =
                    open_begun(Begun::at(kept, &options)?, &file_alone(kept), Format::JsonLines, &options)?;
                Ok(Box::new(KeptTable::of(rows, name_on_server(&place), server)))
            }
            None => open_on_server(&place, server, options),
        };
    }
    let mut begun = Begun::at(&place.file, options)?;
    let format = begun.format(&place.file, options.format)?;
    open_begun(begun, &place, format, options)
}

fn file_alone(file: &Path) -> SourcePlace {
    SourcePlace { file: file.to_path_buf(), part: None }
}

/// What a table on a server is called: without the options of its address.
fn name_on_server(place: &SourcePlace) -> String {
    let address = place.file.display().to_string();
    let bare = address.split('?').next().unwrap_or_default();
    place.part.as_ref().map_or_else(|| bare.to_owned(), |part| format!("{bare}#{part}"))
}

/// Opens a table of a database on a server.
pub(crate) fn open_on_server(
    place: &SourcePlace,
    server: Format,
    options: &OpenOptions,
) -> Result<Box<dyn Source>> {
    if let Some((feature, false)) = server.entry().feature {
        return Err(Error::unusable(
            format!(
                "{}: this build of the program does not read {}",
                place.file.display(),
                server.entry().called
            ),
            format!("build it with --features {feature}"),
        ));
    }
    let name = name_on_server(place);
    // A database on a server has neither a length nor a hash.
    let on_disk = OnDisk { path: place.file.clone(), copy: None, fingerprint: Some(Fingerprint::default()) };
    let part = place.part.clone().or_else(|| options.sheet.clone());
    open_part(row_input(name, on_disk, options), server, part, options)
}

/// Opens a source of that format, of which the start was read.
///
/// # Errors
/// Where it is empty, or damaged, or is no table.
pub(crate) fn open_begun(
    begun: Begun,
    place: &SourcePlace,
    format: Format,
    options: &OpenOptions,
) -> Result<Box<dyn Source>> {
    let (file, part) = (&place.file, place.part.clone());
    if part.is_some() && !format.has_parts() {
        return Err(Error::unusable(
            format!("{}: {} has no sheets or tables to choose from", begun.input.name, format.entry().called),
            "leave out what stands behind ‘#’",
        ));
    }
    match format {
        Format::JsonLines | Format::Json => open_json(begun, format == Format::Json, options),
        Format::Xlsx | Format::Xls | Format::Ods | Format::Sqlite => {
            let name = begun.input.name.clone();
            let on_disk = begun.on_disk(options.most_unpacked)?;
            let part = part.or_else(|| options.sheet.clone());
            open_part(row_input(name, on_disk, options), format, part, options)
        }
        Format::Vcard | Format::Ldif => {
            let name = begun.input.name.clone();
            let on_disk = begun.on_disk(options.most_unpacked)?;
            Ok(Box::new(contacts::open(row_input(name, on_disk, options), format)?))
        }
        Format::Mail | Format::Mailbox => {
            let name = begun.input.name.clone();
            let on_disk = begun.on_disk(options.most_unpacked)?;
            Ok(Box::new(mail::open(row_input(name, on_disk, options), format)?))
        }
        Format::Parquet | Format::Arrow | Format::ArrowStream => open_columns(begun, format, options),
        Format::Csv | Format::Tsv | Format::Text => open_text(begun, file, format, options),
        _ => Err(Error::unusable(
            format!("{}: {} is not read as a table", begun.input.name, format.entry().called),
            "get the addresses out of it with ypogram extract",
        )),
    }
}

/// Opens a table of separated values, or text.
fn open_text(begun: Begun, path: &Path, format: Format, options: &OpenOptions) -> Result<Box<dyn Source>> {
    let text = Text::of(begun, path, options)?;
    let offset = text.offset();
    let Text { mut input, mut start, guessed, .. } = text;
    let sizes = (options.chunk_bytes, options.longest_record);
    let table_in_text = match options.format {
        None if format == Format::Text => table_in_text(path, &start, options),
        _ => None,
    };
    if format == Format::Text && table_in_text.is_none() {
        return Ok(Box::new(text_lines::open(input, sizes, start, offset).guessed(guessed)));
    }
    let given = options.delimiter.or((format == Format::Tsv).then_some(b'\t'));
    let shape = TableShape { delimiter: given, header: options.header, sort_of: options.sort_of };
    let mut table = read_table(&mut input, &mut start, shape, options.longest_record)?;
    if table_in_text.is_some() {
        table.described = table.described.replacen(',', " by its content,", 1);
    }
    Ok(Box::new(csv::open(input, table, sizes, start, offset).guessed(guessed)))
}

/// Reads through JSON objects once for their fields, and opens them again for their records; what can be read but once is copied first.
fn open_json(begun: Begun, in_array: bool, options: &OpenOptions) -> Result<Box<dyn Source>> {
    let (name, salvage) = (begun.input.name.clone(), options.salvage);
    if in_array && !json::begins_array(&begun.start) {
        return Err(Error::unusable(
            format!("{name}: this JSON document is no array of objects, and so no table"),
            "get the addresses out of it with ypogram extract",
        ));
    }
    let OnDisk { path, copy, fingerprint } = begun.into_reopenable(options.most_unpacked)?;
    let chunks = |hash: bool| -> Result<_> {
        let mut input = Input::open_kept(name.as_ref(), &path, hash, salvage)?;
        if in_array {
            input = input.through(|rest| Box::new(json::ArrayLines::new(rest)));
        }
        let mut start = Vec::new();
        input.fill(&mut start, SAMPLE)?;
        let text = Text::of(Begun::over(input, start), name.as_ref(), options)?;
        let offset = text.offset();
        let Text { input, start, .. } = text;
        Ok(text_lines::chunks(input, (options.chunk_bytes, options.longest_record), start, offset))
    };
    let fields = json::gather(&mut chunks(false)?, if in_array { "element" } else { "line" })?;
    let hash = options.fingerprint && fingerprint.is_none();
    Ok(Box::new(json::open(chunks(hash)?, fields, (copy, fingerprint), in_array)))
}

/// Opens a sheet of a workbook, or a table of a database.
#[cfg_attr(not(feature = "spreadsheet"), allow(unused_variables, reason = "options are those of workbooks"))]
pub(crate) fn open_part(
    input: RowInput,
    format: Format,
    part: Option<String>,
    options: &OpenOptions,
) -> Result<Box<dyn Source>> {
    match format {
        #[cfg(feature = "spreadsheet")]
        Format::Xlsx | Format::Xls | Format::Ods => {
            use crate::formats::spreadsheet::{self, SheetRequest};
            let request = SheetRequest {
                sheet: part,
                header: options.header,
                sort_of: options.sort_of,
                most_unpacked: options.most_unpacked,
            };
            Ok(Box::new(spreadsheet::open(input, format, request)?))
        }
        #[cfg(feature = "sqlite")]
        Format::Sqlite => Ok(Box::new(crate::formats::sqlite::open(input, part)?)),
        #[cfg(feature = "mysql")]
        Format::MariaDb => {
            let read = crate::formats::server::mariadb::read;
            Ok(Box::new(crate::formats::server::source::open(input, part, options.not_read.clone(), read)?))
        }
        #[cfg(feature = "postgres")]
        Format::Postgres => {
            let read = crate::formats::server::postgres::read;
            Ok(Box::new(crate::formats::server::source::open(input, part, options.not_read.clone(), read)?))
        }
        _ => unreachable!("{}: {part:?} is no part that this build reads", input.name),
    }
}

#[cfg(feature = "parquet")]
fn open_columns(begun: Begun, format: Format, options: &OpenOptions) -> Result<Box<dyn Source>> {
    let name = begun.input.name.clone();
    let on_disk = begun.on_disk(options.most_unpacked)?;
    let only = options.only.clone();
    Ok(Box::new(crate::formats::columnar::open(row_input(name, on_disk, options), format, only)?))
}

#[cfg(not(feature = "parquet"))]
fn open_columns(begun: Begun, _: Format, _: &OpenOptions) -> Result<Box<dyn Source>> {
    unreachable!("{}: a build without Parquet refuses them before", begun.input.name)
}

/// What a thread reads rows from.
fn row_input(name: String, on_disk: OnDisk, options: &OpenOptions) -> RowInput {
    RowInput {
        name,
        sizes: (options.chunk_bytes, options.longest_record),
        fingerprint: options.fingerprint,
        on_disk,
    }
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

/// The sample up to its last line end, so that a record cut off by the sample's end does not count.
fn whole_records(sample: &[u8]) -> &[u8] {
    match memchr::memrchr(b'\n', sample) {
        Some(end) if sample.len() >= SAMPLE => &sample[..=end],
        _ => sample,
    }
}
