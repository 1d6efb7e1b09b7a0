//! Reads a list of one's own from its file.

use std::path::Path;

use serde::Serialize;
use ypogram_core::Judge;
use ypogram_core::lists::{Added, List, Of, Purpose, Several};
use ypogram_io::csv::Header;
use ypogram_io::{
    Batch, Chunk, Decode, Error, Fingerprint, OpenOptions, Record, Result, Source, open, some_of,
};

use crate::lists::spec::ListSpec;

/// What was found while a list was read.
#[derive(Clone, Debug, Default, Serialize)]
pub struct ListReport {
    /// The list's name.
    pub name: String,
    /// Where it comes from.
    pub from: String,
    /// Entries that count.
    pub entries: u64,
    /// Entries that stand there more than once: line, line of the first.
    pub twice: Vec<(u64, u64)>,
    /// Entries that stand there more than once with other cells.
    pub with_several_cells: u64,
    /// The cells of all of these count, rather than those of the first.
    pub joins: bool,
    /// Entries that are not what the list is of: line, entry, reason.
    pub unfit: Vec<(u64, String, String)>,
    /// Bytes of the file.
    pub bytes: u64,
    /// BLAKE3 of the file.
    pub blake3: String,
}

/// A list file as records, its comments and blank lines left out.
pub(crate) struct ListFile {
    source: Box<dyn Source>,
    decoder: Box<dyn Decode>,
    /// What the header names, where there is one.
    pub(crate) header: Option<Vec<String>>,
    /// The column of the entries.
    pub(crate) entry: usize,
    first: Option<Chunk>,
    lines: u64,
}

/// An entry of a list file with its place.
#[derive(Clone, Copy)]
pub(crate) struct Row<'a> {
    /// From 1.
    pub(crate) line: u64,
    /// Bytes before its record in the file.
    pub(crate) start: usize,
    pub(crate) entry: &'a [u8],
    pub(crate) record: Record<'a>,
}

/// How many records are looked at to find the column of the entries.
const LOOKED_AT: usize = 100;

impl ListFile {
    /// Opens the file of a list and finds its header and the column of its entries.
    ///
    /// # Errors
    /// Where it cannot be read, or a column that was named is not there.
    pub(crate) fn open(path: &Path, spec: &ListSpec, judge: &mut Judge<'_>) -> Result<Self> {
        let source = open(path, &OpenOptions { header: Header::Missing, ..OpenOptions::default() })?;
        let decoder = source.decoder();
        let lines = source.schema().lines_before;
        let mut file = ListFile { source, decoder, header: None, entry: 0, first: None, lines };
        let mut chunk = Chunk::default();
        if file.source.next_chunk(&mut chunk)? {
            let mut batch = Batch::default();
            file.decoder.decode(&chunk, &mut batch)?;
            let rows = batch.records(&chunk).filter(|record| !is_comment(*record)).take(LOOKED_AT);
            let rows: Vec<Vec<&[u8]>> = rows.map(|record| record.cells().collect()).collect();
            file.find_columns(&rows, spec, judge)?;
            file.first = Some(chunk);
        }
        Ok(file)
    }

    fn find_columns(&mut self, rows: &[Vec<&[u8]>], spec: &ListSpec, judge: &mut Judge<'_>) -> Result<()> {
        let Some(first) = rows.first() else { return Ok(()) };
        let names: Vec<String> =
            first.iter().map(|cell| String::from_utf8_lossy(cell.trim_ascii()).into_owned()).collect();
        let is_named = |name: &String| names.iter().any(|cell| cell.eq_ignore_ascii_case(name));
        let mut wanted = spec.entry_column.iter().chain(spec.columns.iter().map(|column| &column.column));
        let of_values = matches!(spec.of, Of::Values | Of::LocalParts);
        if !of_values {
            let fitting = |column: usize| {
                rows.iter()
                    .filter(|row| row.get(column).is_some_and(|cell| is_entry(cell, spec, judge)))
                    .count()
            };
            let counts: Vec<usize> = (0..first.len()).map(fitting).collect();
            self.entry = (0..counts.len()).rev().max_by_key(|&column| counts[column]).unwrap_or(0);
        }
        let matched = spec.matching.as_ref().is_some_and(|matching| is_named(&matching.field));
        let no_entry = !of_values && !first.get(self.entry).is_some_and(|cell| is_entry(cell, spec, judge));
        if wanted.any(is_named) || matched || (no_entry && !self.source.schema().is_text()) {
            self.header = Some(names);
        }
        if let Some(column) = &spec.entry_column {
            self.entry = self.place_of(column, spec)?;
        }
        Ok(())
    }

    /// The place of the column of that name.
    ///
    /// # Errors
    /// Where there is no header, or no such column.
    pub(crate) fn place_of(&self, column: &str, spec: &ListSpec) -> Result<usize> {
        let Some(header) = &self.header else {
            return Err(Error::unusable(
                format!(
                    "{}{}: there is no header that would name the column ‘{column}’",
                    spec.place, spec.from
                ),
                "put a line with the names of the columns on top of the list",
            ));
        };
        header.iter().position(|name| name.eq_ignore_ascii_case(column)).ok_or_else(|| {
            Error::unusable(
                format!("{}{}: there is no column ‘{column}’", spec.place, spec.from),
                format!("its columns are: {}", some_of(header)),
            )
        })
    }

    /// Calls `see` with every record that is no comment and no header.
    ///
    /// # Errors
    /// Where the file cannot be read.
    pub(crate) fn each(&mut self, mut see: impl FnMut(Row<'_>) -> Result<()>) -> Result<()> {
        let mut batch = Batch::default();
        let mut chunk = Chunk::default();
        let is_text = self.source.schema().is_text();
        let mut header = self.header.is_some();
        loop {
            match self.first.take() {
                Some(first) => chunk = first,
                None if self.source.next_chunk(&mut chunk)? => {}
                None => return Ok(()),
            }
            batch.clear();
            self.decoder.decode(&chunk, &mut batch)?;
            for record in batch.records(&chunk).filter(|record| !is_comment(*record)) {
                if std::mem::take(&mut header) {
                    continue;
                }
                let cell = record.cell(self.entry).unwrap_or_default();
                let entry = if is_text { without_comment(cell) } else { cell };
                if !entry.trim_ascii().is_empty() {
                    let line = self.lines + record.line_in_chunk() + 1;
                    let start = (chunk.offset + record.start_in_chunk()) as usize;
                    see(Row { line, start, entry, record })?;
                }
            }
            self.lines += batch.lines;
        }
    }

    /// What there is to say about the file once it is read.
    pub(crate) fn remarks(&self) -> Vec<String> {
        self.source.remarks()
    }

    pub(crate) fn schema(&self) -> &ypogram_io::Schema {
        self.source.schema()
    }

    fn fingerprint(&self) -> Fingerprint {
        self.source.fingerprint()
    }
}

/// Whether the record is a line for people.
pub(crate) fn is_comment(record: Record<'_>) -> bool {
    record.beginning().first() == Some(&b'#')
}

/// A line of text up to the comment behind white space.
pub(crate) fn without_comment(line: &[u8]) -> &[u8] {
    let mut comments = memchr::memchr_iter(b'#', line);
    let start = comments.find(|&at| at > 0 && matches!(line[at - 1], b' ' | b'\t'));
    &line[..start.unwrap_or(line.len())]
}

fn is_entry(cell: &[u8], spec: &ListSpec, judge: &mut Judge<'_>) -> bool {
    let mut probe = List::new(Purpose { of: spec.of, ..Purpose::default() });
    let looks_like_one = cell.iter().any(|b| matches!(b, b'.' | b'@'));
    looks_like_one && probe.add(1, cell, [], judge) == Added::New
}

/// Reads the list that `spec` describes. Keys are made by the judge's policy.
///
/// # Errors
/// Where its file cannot be read, or lacks a column that was named; the message starts with where the list was named.
pub fn load(spec: &ListSpec, judge: &mut Judge<'_>) -> Result<(List, ListReport)> {
    let mut list = List::new(Purpose {
        name: spec.name.clone(),
        from: spec.from.clone(),
        of: spec.of,
        class: spec.class,
        finding: spec.finding,
        built_in: spec.built_in,
        columns: spec.columns.iter().map(|column| column.column.clone()).collect(),
        several: spec.several,
    });
    let mut report = ListReport { name: spec.name.clone(), from: spec.from.clone(), ..ListReport::default() };
    for (line, entry) in (1..).zip(&spec.entries) {
        let added = list.add(line, entry.as_bytes(), [], judge);
        report.note(line, entry.as_bytes(), added);
    }
    if let Some(path) = spec.file.as_ref().filter(|path| !is_empty(path)) {
        let at_place = |error: Error| Error { message: format!("{}{}", spec.place, error.message), ..error };
        let mut file = ListFile::open(path, spec, judge).map_err(at_place)?;
        let places = spec.columns.iter().map(|column| file.place_of(&column.column, spec));
        let places = places.collect::<Result<Vec<usize>>>()?;
        file.each(|Row { line, entry, record, .. }| {
            let cells = places.iter().map(|&place| record.cell(place).unwrap_or_default());
            let added = list.add(line, entry, cells, judge);
            report.note(line, entry, added);
            Ok(())
        })
        .map_err(at_place)?;
        let fingerprint = file.fingerprint();
        (report.bytes, report.blake3) = (fingerprint.bytes, fingerprint.blake3);
    }
    report.entries = list.len() as u64;
    (report.with_several_cells, report.joins) =
        (list.with_several_cells() as u64, spec.several == Several::All);
    Ok((list, report))
}

/// Whether the file is there and has nothing in it: a list may be empty.
pub(crate) fn is_empty(path: &Path) -> bool {
    std::fs::metadata(path).is_ok_and(|metadata| metadata.is_file() && metadata.len() == 0)
}

impl ListReport {
    fn note(&mut self, line: u64, entry: &[u8], added: Added) {
        match added {
            Added::New => {}
            Added::Twice { line: first } => self.twice.push((line, first)),
            Added::Unfit(reason) => {
                self.unfit.push((line, String::from_utf8_lossy(entry.trim_ascii()).into_owned(), reason));
            }
        }
    }
}
