//! Edits the file of a list: entries are added, changed and removed; comments, order and everything else stay as they are.

use std::ops::Range;
use std::path::Path;

use serde::Serialize;
use ypogram_core::Judge;
use ypogram_core::lists::{Added, List, Purpose};
use ypogram_io::csv::write_cell;
use ypogram_io::{Error, OutputFile, Result, SourceKind, lock_current, some_of};

use crate::lists::load::{ListFile, is_empty};
use crate::lists::spec::ListSpec;

/// What is to be done with entries.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Action {
    /// Those that are not there are appended.
    Add,
    /// Those that are there get other cells.
    Change,
    /// Those that are there go.
    Remove,
}

/// An entry to add, change or remove, with cells by the name of their column.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Wish {
    /// The entry.
    pub entry: String,
    /// What it is to become, where it is changed.
    pub becomes: Option<String>,
    /// Column and cell.
    pub cells: Vec<(String, String)>,
}

/// What was done.
#[derive(Clone, Debug, Default, Serialize)]
pub struct EditReport {
    /// Entries that were appended.
    pub new: Vec<String>,
    /// Entries that were changed.
    pub changed: Vec<String>,
    /// Entries that went.
    pub removed: Vec<String>,
    /// Entries that were as wished already, with their line.
    pub there: Vec<(String, u64)>,
    /// Entries to add that are there with other cells, with their line.
    pub differ: Vec<(String, u64)>,
    /// Entries to change or remove that are not there.
    pub missing: Vec<String>,
    /// Entries that are not what the list is of, with the reason.
    pub unfit: Vec<(String, String)>,
}

impl EditReport {
    /// Whether the file was changed.
    pub fn changes_something(&self) -> bool {
        !(self.new.is_empty() && self.changed.is_empty() && self.removed.is_empty())
    }
}

/// A stretch of the file, its line end included, and what takes its place.
pub(crate) struct Edit {
    pub(crate) span: Range<usize>,
    pub(crate) bytes: Vec<u8>,
}

impl Edit {
    pub(crate) fn keep(row: &EditableRow) -> Self {
        Edit { span: row.span.start..row.span.start, bytes: Vec::new() }
    }
}

/// One entry of the file.
#[derive(Clone)]
pub(crate) struct EditableRow {
    /// The record with its line end.
    pub(crate) span: Range<usize>,
    pub(crate) line: u64,
    /// As it is written.
    pub(crate) entry: Vec<u8>,
    /// As it is shown; none where it is unfit.
    pub(crate) shown: Option<String>,
    /// It is the first of its kind.
    pub(crate) first: bool,
    pub(crate) cells: Vec<Vec<u8>>,
}

/// A list's file and where its entries stand in it.
pub(crate) struct Editable {
    pub(crate) bytes: Vec<u8>,
    pub(crate) rows: Vec<EditableRow>,
    /// The entries of `rows` that can be looked up, in the order of the file.
    list: List,
    /// For each entry of the list, its row.
    row_of: Vec<usize>,
    header: Option<Vec<String>>,
    entry: usize,
    delimiter: u8,
    line_end: &'static [u8],
    is_text: bool,
    width: usize,
}

/// The error of a file that is read, and not edited in place.
fn not_editable(from: &str, why: &str) -> Error {
    Error::unusable(
        format!("{from}: the file is {why}, and cannot be edited in place"),
        "save it as plain UTF-8 text",
    )
}

impl Editable {
    /// Opens the file of the list that `spec` describes.
    ///
    /// # Errors
    /// Where it cannot be read, or is compressed or in UTF-16.
    pub(crate) fn open(spec: &ListSpec, judge: &mut Judge<'_>) -> Result<Self> {
        let path = spec.file.as_deref().expect("the list has a file");
        let mut out = Editable {
            bytes: std::fs::read(path).map_err(|error| Error::reading(&spec.from, &error))?,
            rows: Vec::new(),
            list: List::new(Purpose { of: spec.of, ..Purpose::default() }),
            row_of: Vec::new(),
            header: None,
            entry: 0,
            delimiter: b',',
            line_end: b"\n",
            is_text: true,
            width: 1,
        };
        if is_empty(path) {
            return Ok(out);
        }
        let packed: [&[u8]; 4] = [b"\x1F\x8B", b"\x28\xB5\x2F\xFD", b"\xFF\xFE", b"\xFE\xFF"];
        if packed.iter().any(|start| out.bytes.starts_with(start)) {
            return Err(not_editable(&spec.from, "compressed or in UTF-16"));
        }
        let mut file = ListFile::open(path, spec, judge)?;
        if !matches!(file.schema().kind, SourceKind::Lines | SourceKind::Separated { .. }) {
            return Err(not_editable(&spec.from, "neither text nor separated values"));
        }
        out.header.clone_from(&file.header);
        out.entry = file.entry;
        let schema = file.schema();
        let layout = schema.layout().unwrap_or_default();
        (out.delimiter, out.line_end, out.is_text) = (layout.delimiter, layout.line_end, schema.is_text());
        out.width = out.header.as_ref().map_or(out.entry + 1, Vec::len);
        file.each(|row| {
            let end = row.start + row.record.raw().len();
            let line_end = out.bytes[end..].iter().take_while(|b| **b == b'\r').count();
            let line_end = line_end + usize::from(out.bytes.get(end + line_end) == Some(&b'\n'));
            let added = out.list.add(row.line, row.entry, [], judge);
            let shown = match &added {
                Added::Unfit(_) => None,
                Added::New => Some(out.list.len() - 1),
                Added::Twice { .. } => out.list.position(&String::from_utf8_lossy(row.entry), judge),
            };
            if added == Added::New {
                out.row_of.push(out.rows.len());
            }
            out.width = out.width.max(row.record.len());
            out.rows.push(EditableRow {
                span: row.start..end + line_end,
                line: row.line,
                entry: row.entry.trim_ascii().to_vec(),
                shown: shown.map(|entry| out.list.shown(entry)),
                first: added == Added::New,
                cells: row.record.cells().map(<[u8]>::to_vec).collect(),
            });
            Ok(())
        })?;
        // What was decoded on the way stands elsewhere in the file itself.
        match file.remarks().is_empty() {
            true => Ok(out),
            false => Err(not_editable(&spec.from, "in another encoding than UTF-8")),
        }
    }

    /// The row with `entry` in the place of its own, its line end included.
    pub(crate) fn with_entry(&self, row: &EditableRow, entry: &str) -> Vec<u8> {
        if self.is_text {
            let record = &self.bytes[row.span.clone()];
            let behind = record.windows(row.entry.len().max(1)).position(|part| part == row.entry);
            let at = behind.unwrap_or(0);
            return [&record[..at], entry.as_bytes(), &record[at + row.entry.len()..]].concat();
        }
        let mut cells = row.cells.clone();
        cells[self.entry] = entry.as_bytes().to_vec();
        self.row(&cells, row)
    }

    fn row(&self, cells: &[Vec<u8>], row: &EditableRow) -> Vec<u8> {
        let end = &self.bytes[row.span.clone()];
        let line_end = end.iter().rev().take_while(|b| matches!(b, b'\r' | b'\n')).count();
        let mut out = encoded(cells.iter().map(|cell| &cell[..]), self.delimiter);
        out.extend_from_slice(&end[end.len() - line_end..]);
        out
    }

    /// Carries the edits out, which are in the order of the file.
    pub(crate) fn apply(&mut self, edits: Vec<Edit>) {
        let mut out = Vec::with_capacity(self.bytes.len());
        let mut done = 0;
        for edit in edits {
            out.extend_from_slice(&self.bytes[done..edit.span.start]);
            out.extend_from_slice(&edit.bytes);
            done = edit.span.end;
        }
        out.extend_from_slice(&self.bytes[done..]);
        self.bytes = out;
    }

    /// The row at `place`, and those that say the same.
    fn rows_like(&self, place: usize) -> impl Iterator<Item = usize> {
        let shown = |at: usize| self.rows[at].shown.as_ref();
        let is_like = move |&at: &usize| at == place || shown(at).is_some() && shown(at) == shown(place);
        (0..self.rows.len()).filter(is_like)
    }

    fn place_of(&self, column: &str, spec: &ListSpec) -> Result<usize> {
        let header = self.header.iter().flatten();
        header.clone().position(|name| name.eq_ignore_ascii_case(column)).ok_or_else(|| {
            let names: Vec<&str> = header.map(String::as_str).collect();
            let hint = match names.is_empty() {
                true => "it has no header, and so no columns that could be named".to_owned(),
                false => format!("its columns are: {}", some_of(&names)),
            };
            Error::unusable(format!("{}: there is no column ‘{column}’", spec.from), hint)
        })
    }
}

/// Does `action` with every entry of `wishes`, in the file of the list that `spec` describes. The file is replaced whole, and
/// only where something changes.
///
/// # Errors
/// Where the file cannot be read or written, or a column does not exist. Nothing is then changed.
pub fn edit(spec: &ListSpec, action: Action, wishes: &[Wish], judge: &mut Judge<'_>) -> Result<EditReport> {
    let path = spec.file.as_deref().expect("the list has a file");
    refuse_what_is_no_list(path, spec)?;
    // Nobody else changes it until it is replaced.
    let _lock = lock_current(path).map_err(|error| Error::reading(&spec.from, &error))?;
    let file = Editable::open(spec, judge)?;
    refuse_strange_entries(&file, spec)?;
    let before = file.bytes.clone();
    let (report, edits, appended) = (EditReport::default(), Vec::new(), Vec::new());
    let mut editing = Editing { file, spec, report, edits, appended };
    for wish in wishes {
        editing.fulfil(action, wish, judge)?;
    }
    let (bytes, report) = editing.finish();
    if report.changes_something() {
        replace(path, &before, &bytes)?;
    }
    Ok(report)
}

/// A list while it is edited.
struct Editing<'s> {
    file: Editable,
    spec: &'s ListSpec,
    report: EditReport,
    /// What takes the place of rows, with the row.
    edits: Vec<(usize, Edit)>,
    /// Rows behind the last.
    appended: Vec<u8>,
}

impl Editing<'_> {
    fn fulfil(&mut self, action: Action, wish: &Wish, judge: &mut Judge<'_>) -> Result<()> {
        let place = |(column, cell): &(String, String)| {
            Ok((self.file.place_of(column, self.spec)?, cell.clone().into_bytes()))
        };
        let cells = wish.cells.iter().map(place).collect::<Result<Vec<_>>>()?;
        let shown = match shown_as(&wish.entry, self.spec, judge) {
            Ok(shown) => shown,
            Err(reason) => {
                self.report.unfit.push((wish.entry.clone(), reason));
                return Ok(());
            }
        };
        let entry = self.file.list.position(&wish.entry, judge);
        match (action, entry.map(|entry| self.file.row_of.get(entry).copied())) {
            (Action::Add, None) => self.add(wish, shown, cells, judge),
            // It was added a moment ago.
            (Action::Add, Some(None)) => {}
            (Action::Add, Some(Some(row))) => self.compare(row, shown, &cells),
            (Action::Change, Some(Some(row))) => self.change(row, wish, shown, cells, judge),
            (Action::Remove, Some(Some(row))) => self.remove(row, shown),
            (Action::Change | Action::Remove, _) => self.report.missing.push(shown),
        }
        Ok(())
    }

    fn add(&mut self, wish: &Wish, shown: String, cells: Vec<(usize, Vec<u8>)>, judge: &mut Judge<'_>) {
        let file = &mut self.file;
        let mut row = vec![Vec::new(); file.width];
        row[file.entry] = entry_as_written(&wish.entry, &shown);
        for (place, cell) in cells {
            row[place] = cell;
        }
        self.appended.extend(encoded(row.iter().map(|cell| &cell[..]), file.delimiter));
        self.appended.extend_from_slice(file.line_end);
        file.list.add(0, wish.entry.as_bytes(), [], judge);
        self.report.new.push(shown);
    }

    /// Reports an entry that is there already.
    fn compare(&mut self, row: usize, shown: String, cells: &[(usize, Vec<u8>)]) {
        let row = &self.file.rows[row];
        let own = |place: usize| row.cells.get(place).map(Vec::as_slice).unwrap_or_default();
        let differs = cells.iter().any(|(place, cell)| own(*place) != cell);
        if differs { &mut self.report.differ } else { &mut self.report.there }.push((shown, row.line));
    }

    /// Changes every row that says the same, or the entry would still be there as it was.
    fn change(
        &mut self,
        place: usize,
        wish: &Wish,
        shown: String,
        mut cells: Vec<(usize, Vec<u8>)>,
        judge: &mut Judge<'_>,
    ) {
        let file = &self.file;
        if let Some(becomes) = &wish.becomes {
            match shown_as(becomes, self.spec, judge) {
                Ok(shown) => cells.push((file.entry, entry_as_written(becomes, &shown))),
                Err(reason) => return self.report.unfit.push((becomes.clone(), reason)),
            }
        }
        let edits: Vec<(usize, Edit)> = file
            .rows_like(place)
            .filter_map(|at| {
                let row = &file.rows[at];
                let mut before = row.cells.clone();
                before.resize(before.len().max(file.width), Vec::new());
                let mut changed = before.clone();
                for (place, cell) in &cells {
                    changed[*place].clone_from(cell);
                }
                if changed == before {
                    return None;
                }
                let bytes = match file.is_text && wish.becomes.is_some() {
                    true => file.with_entry(row, &String::from_utf8_lossy(&changed[file.entry])),
                    false => file.row(&changed, row),
                };
                Some((at, Edit { span: row.span.clone(), bytes }))
            })
            .collect();
        match edits.is_empty() {
            true => self.report.there.push((shown, file.rows[place].line)),
            false => self.report.changed.push(shown),
        }
        self.edits.extend(edits);
    }

    /// Removes every row that says the same, or the entry would still be there.
    fn remove(&mut self, place: usize, shown: String) {
        let file = &self.file;
        let edit = |at: usize| Edit { span: file.rows[at].span.clone(), bytes: Vec::new() };
        self.edits.extend(file.rows_like(place).map(|at| (at, edit(at))));
        self.report.removed.push(shown);
    }

    /// What the file is to hold, and what was done.
    fn finish(self) -> (Vec<u8>, EditReport) {
        let Editing { mut file, mut edits, appended, report, .. } = self;
        edits.sort_by_key(|(row, _)| *row);
        edits.dedup_by_key(|(row, _)| *row);
        file.apply(edits.into_iter().map(|(_, edit)| edit).collect());
        if !appended.is_empty() {
            if !file.bytes.is_empty() && !file.bytes.ends_with(b"\n") && !file.bytes.ends_with(b"\r") {
                file.bytes.extend_from_slice(file.line_end);
            }
            file.bytes.extend_from_slice(&appended);
        }
        (file.bytes, report)
    }
}

/// The entry as it is shown.
fn shown_as(entry: &str, spec: &ListSpec, judge: &mut Judge<'_>) -> std::result::Result<String, String> {
    let mut list = List::new(Purpose { of: spec.of, ..Purpose::default() });
    match list.add(1, entry.as_bytes(), [], judge) {
        Added::Unfit(reason) => Err(reason),
        _ => Ok(list.shown(0)),
    }
}

/// A domain in its own letters stays readable; anything else is written as it is looked up.
fn entry_as_written(entry: &str, shown: &str) -> Vec<u8> {
    if entry.is_ascii() { shown.as_bytes().to_vec() } else { entry.trim().as_bytes().to_vec() }
}

/// Puts `bytes` in the place of what was read from the file at `path`.
fn replace(path: &Path, before: &[u8], bytes: &[u8]) -> Result<()> {
    let mut output = OutputFile::create(path)?;
    output.write(bytes)?;
    output.sync()?;
    // Not every file system knows locks, and not everybody asks for them.
    if std::fs::read(path).ok().as_deref() != Some(before) {
        return Err(Error::output(
            format!(
                "{}: the list was changed by somebody else meanwhile; nothing was written",
                path.display()
            ),
            "run it again",
        ));
    }
    output.publish()
}

/// Only an ordinary file is changed.
fn refuse_what_is_no_list(path: &Path, spec: &ListSpec) -> Result<()> {
    match std::fs::metadata(path) {
        Ok(metadata) if !metadata.is_file() => Err(Error::unusable(
            format!("{}: this is not an ordinary file, and so not a list to be changed", spec.from),
            "name the file of a list",
        )),
        _ => Ok(()),
    }
}

/// A file of whose entries most cannot be used was hardly meant.
fn refuse_strange_entries(file: &Editable, spec: &ListSpec) -> Result<()> {
    let unfit = file.rows.iter().filter(|row| row.shown.is_none()).count();
    if unfit * 2 <= file.rows.len() {
        return Ok(());
    }
    Err(Error::unusable(
        format!(
            "{}: this is not a list: {unfit} of its {} entries cannot be used",
            spec.from,
            file.rows.len()
        ),
        "see which with `ypogram lists check`, or name another file",
    ))
}

/// Reads wishes from a file like that of a list: its entries, with every further column that it names.
///
/// # Errors
/// Where it cannot be read.
pub fn wishes_from(path: &Path, spec: &ListSpec, judge: &mut Judge<'_>) -> Result<Vec<Wish>> {
    let plain = ListSpec {
        file: Some(path.to_path_buf()),
        from: path.display().to_string(),
        columns: Vec::new(),
        ..spec.clone()
    };
    let mut file = ListFile::open(path, &plain, judge)?;
    let (header, entry) = (file.header.clone().unwrap_or_default(), file.entry);
    let mut wishes = Vec::new();
    file.each(|row| {
        let text = |cell: &[u8]| String::from_utf8_lossy(cell).into_owned();
        let cells = header.iter().enumerate().filter(|(place, _)| *place != entry);
        wishes.push(Wish {
            entry: text(row.entry.trim_ascii()),
            becomes: None,
            cells: cells
                .map(|(place, name)| (name.clone(), text(row.record.cell(place).unwrap_or_default())))
                .collect(),
        });
        Ok(())
    })?;
    Ok(wishes)
}

/// A cell in a row of its own, for a file with that delimiter.
fn encoded<'c>(cells: impl IntoIterator<Item = &'c [u8]>, delimiter: u8) -> Vec<u8> {
    let mut out = Vec::new();
    for (place, cell) in cells.into_iter().enumerate() {
        if place > 0 {
            out.push(delimiter);
        }
        write_cell(cell, delimiter, &mut out);
    }
    out
}
