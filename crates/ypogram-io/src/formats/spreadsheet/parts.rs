//! The parts of a packed workbook, looked through before anything is held of them: how large they are unpacked, how far a sheet
//! reaches, which of its rows are hidden.

use std::fs::File;
use std::io::{BufRead, BufReader, Read};
use std::path::Path;

use quick_xml::events::{BytesStart, Event};
use quick_xml::{Reader, XmlVersion};
use zip::ZipArchive;

use crate::input::borders::size;
use crate::records::error::{Error, Result};

/// As many cells of a sheet are held at once, where they have to be.
const MOST_CELLS: u64 = 12_000_000;

/// What there is to know of the parts.
#[derive(Debug, Default)]
pub(super) struct Parts {
    /// Some part says that rows are hidden.
    pub(super) may_hide_rows: bool,
    /// Some part has merged cells.
    pub(super) may_have_merged: bool,
    /// Some part has links.
    pub(super) may_have_links: bool,
}

/// Unpacks the XML of the workbook at `path` once, in a little memory.
///
/// # Errors
/// Where it cannot be unpacked, or to more than `most` bytes.
pub(super) fn look_through(path: &Path, name: &str, most: u64) -> Result<Parts> {
    let mut archive = archive(path, name)?;
    let (mut parts, mut unpacked) = (Parts::default(), 0);
    for nth in 0..archive.len() {
        let mut part = archive.by_index(nth).map_err(|error| damaged(name, &error))?;
        if !part.name().is_ok_and(|name| name.ends_with(".xml")) {
            continue;
        }
        // Needles may lie across two blocks.
        let (mut block, mut kept) = (vec![0; OVERLAP + (64 << 10)], 0);
        loop {
            let read = part.read(&mut block[kept..]).map_err(|error| damaged(name, &error))?;
            if read == 0 {
                break;
            }
            unpacked += read as u64;
            if unpacked > most {
                return Err(too_large(name, most));
            }
            let seen = &block[..kept + read];
            let has = |needle: &str| memchr::memmem::find(seen, needle.as_bytes()).is_some();
            parts.may_hide_rows |= has("hidden=\"") || has("table:visibility=\"");
            parts.may_have_merged |= has("<mergeCell ");
            parts.may_have_links |= has("<hyperlink ");
            let keep = seen.len().min(OVERLAP);
            let from = seen.len() - keep;
            block.copy_within(from..from + keep, 0);
            kept = keep;
        }
    }
    Ok(parts)
}

/// Bytes of a block that are looked at again with the next one.
const OVERLAP: usize = 32;

fn archive(path: &Path, name: &str) -> Result<ZipArchive<BufReader<File>>> {
    let file = File::open(path).map_err(|error| Error::reading(name, &error))?;
    ZipArchive::new(BufReader::new(file)).map_err(|error| damaged(name, &error))
}

fn part<'a>(
    archive: &'a mut ZipArchive<BufReader<File>>,
    part: &str,
    name: &str,
) -> Result<Reader<impl BufRead + 'a>> {
    let part = archive.by_name(part).map_err(|error| damaged(name, &error))?;
    Ok(Reader::from_reader(BufReader::new(part)))
}

/// Calls `see` with each element that begins in a part; false ends it.
fn each_element(
    reader: &mut Reader<impl BufRead>,
    name: &str,
    see: &mut dyn FnMut(&BytesStart<'_>, bool) -> bool,
) -> Result<()> {
    let mut buffer = Vec::new();
    loop {
        buffer.clear();
        let more = match reader.read_event_into(&mut buffer) {
            Ok(Event::Start(element)) => see(&element, true),
            Ok(Event::Empty(element)) => see(&element, false),
            Ok(Event::Eof) => return Ok(()),
            Ok(_) => true,
            Err(error) => return Err(damaged(name, &error)),
        };
        if !more {
            return Ok(());
        }
    }
}

/// The value of an attribute, by its name without a prefix.
fn attribute(element: &BytesStart<'_>, name: &str) -> Option<String> {
    let attribute = element.attributes().flatten().find(|found| found.key.local_name().as_ref() == name)?;
    Some(attribute.normalized_value(XmlVersion::Implicit1_0).ok()?.into_owned())
}

/// The rows of a sheet that are hidden in the workbook (XLSX) at `path`, counted from 0.
///
/// # Errors
/// Where a part cannot be read.
pub(super) fn hidden_rows(path: &Path, name: &str, sheet: &str) -> Result<Vec<u32>> {
    let mut archive = archive(path, name)?;
    let mut id = None;
    each_element(&mut part(&mut archive, "xl/workbook.xml", name)?, name, &mut |element, _| {
        let is_it = element.local_name().as_ref() == "sheet"
            && attribute(element, "name").is_some_and(|name| name == sheet);
        if is_it {
            id = attribute(element, "id");
        }
        !is_it
    })?;
    let mut target = None;
    each_element(&mut part(&mut archive, "xl/_rels/workbook.xml.rels", name)?, name, &mut |element, _| {
        let is_it = attribute(element, "Id").is_some_and(|found| Some(found) == id);
        if is_it {
            target = attribute(element, "Target");
        }
        !is_it
    })?;
    let Some(target) = target else { return Ok(Vec::new()) };
    let target = match target.strip_prefix('/') {
        Some(from_root) => from_root.to_owned(),
        None => format!("xl/{target}"),
    };
    let (mut rows, mut next) = (Vec::new(), 0);
    each_element(&mut part(&mut archive, &target, name)?, name, &mut |element, _| {
        if element.local_name().as_ref() == "row" {
            let row = attribute(element, "r").and_then(|row| row.parse::<u32>().ok());
            let row = row.map_or(next, |row| row.saturating_sub(1));
            next = row + 1;
            if attribute(element, "hidden").is_some_and(|hidden| hidden == "1" || hidden == "true") {
                rows.push(row);
            }
        }
        element.local_name().as_ref() != "mergeCells"
    })?;
    Ok(rows)
}

/// Looks how far the sheets of an open document (ODS) reach, and how many rows of `sheet` are hidden.
///
/// # Errors
/// Where one has more cells than can be held.
pub(super) fn open_document_rows(path: &Path, name: &str) -> Result<u64> {
    let mut archive = archive(path, name)?;
    let mut sheet = Extent::default();
    let (mut hidden, mut failed) = (0, None);
    each_element(&mut part(&mut archive, "content.xml", name)?, name, &mut |element, _| {
        let repeated = |attribute_name| {
            attribute(element, attribute_name).and_then(|text| text.parse::<u64>().ok()).unwrap_or(1)
        };
        match element.local_name().as_ref() {
            "table" => sheet = Extent::default(),
            "table-row" => {
                let rows = repeated("number-rows-repeated");
                sheet.next_row(rows);
                if attribute(element, "visibility").is_some_and(|visibility| visibility != "visible") {
                    hidden += rows;
                }
            }
            "table-cell" | "covered-table-cell" => {
                let is_filled = attribute(element, "value-type").is_some();
                sheet.next_cells(repeated("number-columns-repeated"), is_filled);
            }
            _ => return true,
        }
        if sheet.cells() > MOST_CELLS {
            failed = Some(Error::unusable(
                format!("{name}: a sheet has more than {MOST_CELLS} cells"),
                "save the sheet as CSV or XLSX and try again",
            ));
        }
        failed.is_none()
    })?;
    match failed {
        Some(error) => Err(error),
        // Rows without anything at the end of a sheet are hidden by the million.
        None => Ok(hidden.min(sheet.filled_rows.max(1))),
    }
}

/// How far a sheet reaches.
#[derive(Debug, Default)]
struct Extent {
    rows: u64,
    /// Rows up to the last that holds something.
    filled_rows: u64,
    /// How often the row in hand stands there.
    repeated: u64,
    /// The cell in hand, and the last of a row that holds something.
    column: u64,
    filled_columns: u64,
}

impl Extent {
    fn next_row(&mut self, repeated: u64) {
        (self.rows, self.repeated, self.column) = (self.rows.saturating_add(repeated), repeated, 0);
    }

    fn next_cells(&mut self, repeated: u64, is_filled: bool) {
        self.column = self.column.saturating_add(repeated);
        if is_filled {
            self.filled_rows = self.rows;
            self.filled_columns = self.filled_columns.max(self.column);
        }
    }

    fn cells(&self) -> u64 {
        self.filled_rows.saturating_mul(self.filled_columns)
    }
}

/// The error of a workbook that cannot be read.
pub(super) fn damaged(name: &str, error: &dyn std::fmt::Display) -> Error {
    Error::unusable(
        format!("{name}: the workbook is damaged: {error}"),
        "open it in the program it comes from, and save it again",
    )
}

fn too_large(name: &str, most: u64) -> Error {
    Error::unusable(
        format!("{name}: the workbook unpacks to more than {}", size(most as usize)),
        format!("if that is right, read it with --most-unpacked {}M", (most >> 20).saturating_mul(4)),
    )
}
