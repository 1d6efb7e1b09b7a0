//! A sheet of a workbook as a source.

use std::collections::HashMap;
use std::fs::File;
use std::io::BufReader;
use std::path::Path;

use calamine::{Dimensions, Ods, Reader, Sheet, SheetVisible, Sheets, Xls, Xlsx};

use crate::formats::csv::{Header, SortOf, field_names, numbered_field, place_of_header};
use crate::formats::spreadsheet::cell::SheetCell;
use crate::formats::spreadsheet::parts;
use crate::input::row_thread::{Ended, RowInput, RowSink, RowThread};
use crate::records::batch::{Batch, Record};
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result, some_of};
use crate::records::format::Format;
use crate::records::nearest::nearest;
use crate::records::packed::{PackedDecoder, PackedRow, write_link};
use crate::records::source::{Decode as _, Schema, SourceKind};

/// What is asked of a workbook.
#[derive(Clone, Debug)]
pub(crate) struct SheetRequest {
    /// The sheet, by its name or its number from 1; the first that holds something where none is named.
    pub(crate) sheet: Option<String>,
    pub(crate) header: Header,
    pub(crate) sort_of: Option<SortOf>,
    /// Bytes that the workbook may unpack to.
    pub(crate) most_unpacked: u64,
}

/// Rows that are looked at for the header.
const SAMPLE_ROWS: usize = 200;

/// Opens a sheet of the workbook that `input` names.
///
/// # Errors
/// Where it is damaged or protected, has no such sheet, or nothing in it.
pub(crate) fn open(input: RowInput, format: Format, request: SheetRequest) -> Result<RowThread> {
    let (path, name) = (input.on_disk.path.clone(), input.name.clone());
    RowThread::start(input, move |sink| read(&path, &name, format, &request, sink))
}

fn read(
    path: &Path,
    name: &str,
    format: Format,
    request: &SheetRequest,
    sink: &mut RowSink,
) -> std::result::Result<(), Ended> {
    let is_packed = format != Format::Xls;
    let parts = match is_packed {
        true => parts::look_through(path, name, request.most_unpacked)?,
        false => parts::Parts::default(),
    };
    let mut hidden = match format {
        Format::Ods => parts::open_document_rows(path, name)?,
        _ => 0,
    };
    let mut workbook = open_workbook(path, name, format)?;
    let (sheet, others) = chosen_sheet(&mut workbook, name, request.sheet.as_deref())?;
    if format == Format::Xlsx && parts.may_hide_rows {
        hidden = parts::hidden_rows(path, name, &sheet)?.len() as u64;
    }
    let merged = match &mut workbook {
        Sheets::Xlsx(book) if parts.may_have_merged => {
            book.merge_cells_by_sheet_name(&sheet).unwrap_or_default()
        }
        Sheets::Xls(book) => book.merge_cells_by_sheet_name(&sheet).unwrap_or_default(),
        _ => Vec::new(),
    };
    let links = match &mut workbook {
        Sheets::Xlsx(book) if parts.may_have_links => mail_links(book, &sheet),
        _ => HashMap::new(),
    };
    let mut rows = Rows::new(Reading { name, sheet: &sheet, format, request, sink }, merged, links);
    match &mut workbook {
        Sheets::Xlsx(book) => {
            let mut cells = book.worksheet_cells_reader(&sheet).map_err(|error| unreadable(name, &error))?;
            rows.reading.sink.expect(u64::from(cells.dimensions().end.0) + 1);
            let decimals: Vec<Option<usize>> = cells.styles().iter().map(percent_decimals).collect();
            while let Some((cell, style)) =
                cells.next_cell_with_style_id().map_err(|error| unreadable(name, &error))?
            {
                let (row, column) = cell.get_position();
                let decimals = decimals.get(style).copied().flatten();
                rows.cell(row, column, cell.get_value().clone().into(), decimals)?;
            }
        }
        other => {
            let range = other.worksheet_range(&sheet).map_err(|error| unreadable(name, &error))?;
            rows.reading.sink.expect(u64::from(range.end().unwrap_or_default().0) + 1);
            let (top, left) = range.start().unwrap_or_default();
            for (row, column, data) in range.used_cells() {
                rows.cell(top + row as u32, left + column as u32, data.into(), None)?;
            }
        }
    }
    rows.finish()?;
    if hidden > 0 {
        sink.remark(format!(
            "{hidden} {} hidden in the sheet ‘{sheet}’ and read like the others",
            if hidden == 1 { "row is" } else { "rows are" }
        ))?;
    }
    if !others.is_empty() {
        sink.remark(format!(
            "the sheet ‘{sheet}’ was read; --sheet reads another one: {}",
            some_of(&others)
        ))?;
    }
    Ok(())
}

fn open_workbook(path: &Path, name: &str, format: Format) -> Result<Sheets<BufReader<File>>> {
    let file = File::open(path).map_err(|error| Error::reading(name, &error))?;
    let file = BufReader::new(file);
    Ok(match format {
        Format::Xls => Sheets::Xls(Xls::new(file).map_err(|error| unreadable(name, &error))?),
        Format::Ods => Sheets::Ods(Ods::new(file).map_err(|error| unreadable(name, &error))?),
        _ => Sheets::Xlsx(Xlsx::new(file).map_err(|error| unreadable(name, &error))?),
    })
}

/// The error of a workbook that its reader does not take.
fn unreadable(name: &str, error: &dyn std::fmt::Display) -> Error {
    let text = error.to_string();
    if text.to_ascii_lowercase().contains("password") {
        return Error::unusable(
            format!("{name}: the workbook is protected by a password"),
            "open it, save it without a password, and try again",
        );
    }
    parts::damaged(name, &text)
}

/// The addresses that cells of a sheet have links to, percent signs decoded.
fn mail_links(book: &mut Xlsx<BufReader<File>>, sheet: &str) -> HashMap<(u32, u32), String> {
    let links = book.hyperlinks_by_sheet_name(sheet).unwrap_or_default();
    let address = |target: String| {
        let (scheme, rest) = target.split_once(':')?;
        let address = rest.split('?').next().unwrap_or_default();
        let is_mail = scheme.eq_ignore_ascii_case("mailto") && !address.is_empty();
        is_mail.then(|| percent_encoding::percent_decode_str(address).decode_utf8_lossy().into_owned())
    };
    links.into_iter().filter_map(|link| Some((link.range.start, address(link.target?)?))).collect()
}

/// The name of the sheet to read, and those of others that hold something.
fn chosen_sheet(
    workbook: &mut Sheets<BufReader<File>>,
    name: &str,
    wanted: Option<&str>,
) -> Result<(String, Vec<String>)> {
    let sheets: Vec<Sheet> = workbook.sheets_metadata().to_vec();
    let names: Vec<String> = sheets.iter().map(|sheet| sheet.name.clone()).collect();
    if let Some(wanted) = wanted {
        let numbered = || wanted.parse::<usize>().ok().and_then(|number| names.get(number.checked_sub(1)?));
        let found = names.iter().find(|name| *name == wanted);
        let found = found.or_else(|| names.iter().find(|name| name.eq_ignore_ascii_case(wanted)));
        return match found.or_else(numbered) {
            Some(found) => Ok((found.clone(), Vec::new())),
            None => Err(Error::unusable(
                format!("{name}: there is no sheet ‘{wanted}’"),
                match nearest(wanted, names.iter().map(String::as_str)) {
                    Some(meant) => format!("did you mean ‘{meant}’? Its sheets are: {}", some_of(&names)),
                    None => format!("its sheets are: {}", some_of(&names)),
                },
            )),
        };
    }
    let mut filled = filled(workbook, &sheets).into_iter();
    match filled.next() {
        Some(first) => Ok((first, filled.collect())),
        None => Err(Error::empty(name)),
    }
}

/// The names of the sheets that hold something in the workbook at `path`, which may unpack to `most` bytes.
///
/// # Errors
/// Where it is damaged, or protected.
pub(crate) fn filled_sheets(path: &Path, name: &str, format: Format, most: u64) -> Result<Vec<String>> {
    if format != Format::Xls {
        parts::look_through(path, name, most)?;
    }
    let mut workbook = open_workbook(path, name, format)?;
    let sheets: Vec<Sheet> = workbook.sheets_metadata().to_vec();
    Ok(filled(&mut workbook, &sheets))
}

/// The names of those of the sheets that hold something, hidden ones last.
fn filled(workbook: &mut Sheets<BufReader<File>>, sheets: &[Sheet]) -> Vec<String> {
    let visible = sheets.iter().filter(|sheet| sheet.visible == SheetVisible::Visible);
    let hidden = sheets.iter().filter(|sheet| sheet.visible != SheetVisible::Visible);
    let names = visible.chain(hidden).map(|sheet| sheet.name.clone());
    names.filter(|sheet| has_cells(workbook, sheet)).collect()
}

/// Whether a sheet holds something; one that cannot be read does, so that reading it says why not.
fn has_cells(workbook: &mut Sheets<BufReader<File>>, sheet: &str) -> bool {
    match workbook {
        Sheets::Xlsx(book) => {
            let Ok(mut cells) = book.worksheet_cells_reader(sheet) else { return false };
            loop {
                match cells.next_cell() {
                    Ok(Some(cell)) if SheetCell::from(cell.get_value().clone()).is_empty() => {}
                    Ok(found) => return found.is_some(),
                    Err(_) => return true,
                }
            }
        }
        other => other.worksheet_range(sheet).is_ok_and(|range| range.used_cells().next().is_some()),
    }
}

/// The decimals of a number format of percentages.
fn percent_decimals(style: &calamine::Style) -> Option<usize> {
    let code = &style.number_format.as_ref()?.format_code;
    let first = code.split(';').next().unwrap_or_default();
    let is_percent = first.contains('%');
    let decimals = || match first.split_once('.') {
        Some((_, behind)) => behind.bytes().take_while(|digit| matches!(digit, b'0' | b'#' | b'?')).count(),
        None => 0,
    };
    is_percent.then(decimals)
}

/// What rows are read from, and where they go.
struct Reading<'a> {
    name: &'a str,
    sheet: &'a str,
    format: Format,
    request: &'a SheetRequest,
    sink: &'a mut RowSink,
}

/// A row with its cells packed.
struct SheetRow {
    line: u64,
    cells: usize,
    packed: Vec<u8>,
}

/// Gathers cells into rows, and finds the header among the first of them.
struct Rows<'a> {
    reading: Reading<'a>,
    /// Where cells of the row in hand end, by column; those behind one another are packed.
    row: Option<SheetRow>,
    /// The first rows, until the header is found.
    sample: Vec<SheetRow>,
    /// How many fields there are, once the header is found.
    width: Option<usize>,
    /// Blocks of merged cells, by their first one.
    merged: HashMap<(u32, u32), Dimensions>,
    /// The addresses that cells have links to.
    links: HashMap<(u32, u32), String>,
    /// Those whose first cell was read.
    begun: Vec<Merged>,
}

/// A block of merged cells, and what its first one holds.
struct Merged {
    place: Dimensions,
    packed: Vec<u8>,
}

impl<'a> Rows<'a> {
    fn new(reading: Reading<'a>, merged: Vec<Dimensions>, links: HashMap<(u32, u32), String>) -> Self {
        let merged = merged.into_iter().map(|place| (place.start, place)).collect();
        Rows { reading, row: None, sample: Vec::new(), width: None, merged, links, begun: Vec::new() }
    }

    /// Adds the next cell, in the order of rows and columns.
    fn cell(
        &mut self,
        row: u32,
        column: u32,
        cell: SheetCell<'_>,
        decimals: Option<usize>,
    ) -> std::result::Result<(), Ended> {
        if cell.is_empty() {
            return Ok(());
        }
        let (line, column) = (u64::from(row), column as usize);
        if self.row.as_ref().is_some_and(|current| current.line != line) {
            self.end_row()?;
        }
        let in_order = |current: &SheetRow| current.line == line && current.cells <= column;
        let current = self.row.get_or_insert_with(|| SheetRow { line, cells: 0, packed: Vec::new() });
        if !in_order(current) {
            return Err(Ended::Failed(parts::damaged(
                self.reading.name,
                &format!("the cells of row {} are not in order", line + 1),
            )));
        }
        while current.cells < column {
            SheetCell::Empty.write(None, &mut current.packed);
            current.cells += 1;
        }
        let start = current.packed.len();
        cell.write(decimals, &mut current.packed);
        current.cells += 1;
        if let Some(place) = self.merged.remove(&(row, column as u32)) {
            self.begun.push(Merged { place, packed: current.packed[start..].to_vec() });
        }
        if let Some(address) = self.links.get(&(row, column as u32)) {
            write_link(address.as_bytes(), &mut current.packed);
        }
        Ok(())
    }

    fn end_row(&mut self) -> std::result::Result<(), Ended> {
        let Some(row) = self.row.take() else { return Ok(()) };
        match self.width {
            Some(width) => self.send(row, width),
            None => {
                self.sample.push(row);
                if self.sample.len() < SAMPLE_ROWS { Ok(()) } else { self.find_header() }
            }
        }
    }

    /// Sends a row: cells that it lacks are empty, those of merged blocks hold what the first one holds.
    fn send(&mut self, mut row: SheetRow, width: usize) -> std::result::Result<(), Ended> {
        while row.cells < width {
            SheetCell::Empty.write(None, &mut row.packed);
            row.cells += 1;
        }
        let line = row.line as u32;
        self.begun.retain(|block| block.place.end.0 >= line);
        if self.begun.iter().any(|block| block.place.start.0 <= line) {
            row.packed = with_merged(&row, &self.begun);
        }
        self.reading.sink.row(row.line, |out| out.extend_from_slice(&row.packed))
    }

    /// Finds the header among the first rows, and sends those below it.
    fn find_header(&mut self) -> std::result::Result<(), Ended> {
        let mut chunk = Chunk::default();
        for row in &self.sample {
            let packed = PackedRow::start(&mut chunk.bytes, row.line as u32);
            chunk.bytes.extend_from_slice(&row.packed);
            packed.end(&mut chunk.bytes);
        }
        let mut batch = Batch::default();
        PackedDecoder.decode(&chunk, &mut batch)?;
        let records: Vec<Record<'_>> = batch.records(&chunk).collect();
        let Reading { name, sheet, format, request, .. } = &self.reading;
        if records.is_empty() {
            return Err(Ended::Failed(Error::empty(name)));
        }
        let (place, how) = place_of_header(name, &records, 0, (request.header, request.sort_of))?;
        let fields = match place {
            Some(place) => field_names(records[place]),
            None => (0..records[0].len()).map(numbered_field).collect(),
        };
        let header_line = place.map_or(0, |place| records[place].line_in_chunk() + 1);
        let schema = Schema {
            described: format!("sheet ‘{sheet}’, {}", how.replace("line ", "row ")),
            lines_before: header_line,
            kind: SourceKind::Typed(*format),
            fields,
            ..Schema::default()
        };
        // A title or a name that reaches over several cells is no value of the records below.
        self.begun.retain(|block| u64::from(block.place.start.0) >= header_line);
        let width = schema.fields.len();
        self.width = Some(width);
        self.reading.sink.begin(schema)?;
        let first = place.map_or(0, |place| place + 1);
        for row in std::mem::take(&mut self.sample).into_iter().skip(first) {
            self.send(row, width)?;
        }
        Ok(())
    }

    fn finish(&mut self) -> std::result::Result<(), Ended> {
        self.end_row()?;
        if self.width.is_none() {
            self.find_header()?;
        }
        Ok(())
    }
}

/// The cells of a row, with what the first cells of merged blocks hold in the others of them.
fn with_merged(row: &SheetRow, blocks: &[Merged]) -> Vec<u8> {
    let mut bytes = Vec::new();
    let packed = PackedRow::start(&mut bytes, 0);
    bytes.extend_from_slice(&row.packed);
    packed.end(&mut bytes);
    let mut rows = crate::records::packed::PackedRows::of(&bytes);
    let (mut at, end, _) = rows.next_row().expect("there is one row");
    let (mut out, mut column) = (Vec::new(), 0);
    while at < end {
        let (cell, text) = rows.cell(at);
        if !cell.is_cell() {
            out.extend_from_slice(&bytes[at..text.end]);
            at = text.end;
            continue;
        }
        let place = (row.line as u32, column);
        let block = blocks.iter().find(|block| block.place.contains(place.0, place.1));
        match block {
            Some(block) => out.extend_from_slice(&block.packed),
            None => out.extend_from_slice(&bytes[at..text.end]),
        }
        at = text.end;
        column += 1;
    }
    out
}
