//! Where a table's header stands, and what stands above it.

use crate::formats::csv::Dialect;
use crate::formats::csv::decode::decode;
use crate::records::batch::{Batch, Record};
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};

/// Where the names of a table's fields stand.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Header {
    /// Where the first rows show it: below a title block, and nowhere where the first row is a record.
    #[default]
    Recognised,
    /// In the row that starts in this line, counted from 1; what stands above it is left out.
    Line(u64),
    /// Nowhere: the fields are called field1, field2, …
    Missing,
}

/// What a cell says about its row.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CellSort {
    /// There is nothing in it.
    Empty,
    /// It may name a field.
    Words,
    /// It is a value, such as a date, which may stand in a header now and then. The word says what it is.
    Value(&'static str),
    /// It is a value that never stands in a header.
    RecordOnly(&'static str),
}

/// Tells cells of a header from those of records.
pub type SortOf = fn(&[u8]) -> CellSort;

/// What a table begins with.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct TableStart {
    pub(crate) dialect: Dialect,
    /// The fields' names.
    pub(crate) fields: Vec<String>,
    /// The header as it stands there, without its line end; none where there is none.
    pub(crate) header: Option<Vec<u8>>,
    /// Where the first record starts, in bytes.
    pub(crate) first_record: usize,
    /// Lines before the first record.
    pub(crate) lines_before: u64,
    /// Lines without anything in them above the header.
    pub(crate) blank_lines: u64,
    /// What people call it, such as `comma-separated, with a header`.
    pub(crate) described: String,
}

/// So many rows are looked at.
const LOOKED_AT: usize = 200;

/// A title block has at most so many rows.
const LONGEST_TITLE: usize = 30;

/// The separator that a first line such as `sep=;` names, and where the next line starts.
pub(crate) fn named_separator(bytes: &[u8]) -> Option<(u8, usize)> {
    let end = memchr::memchr2(b'\n', b'\r', bytes)?;
    let line = &bytes[..end];
    let line = line.strip_prefix(b"\"").and_then(|line| line.strip_suffix(b"\"")).unwrap_or(line);
    let separator = match line {
        [s, e, p, b'=', separator] if [*s, *e, *p].eq_ignore_ascii_case(b"sep") => *separator,
        _ => return None,
    };
    let can_separate = separator == b'\t' || separator.is_ascii_punctuation() && separator != b'"';
    let next = if bytes[end..].starts_with(b"\r\n") { end + 2 } else { end + 1 };
    can_separate.then_some((separator, next))
}

impl TableStart {
    /// Reads the start of a table, which holds at least its header. `dialect` is that of the rows from `from` on.
    ///
    /// # Errors
    /// Where no row starts in the line that was named.
    pub(crate) fn read(
        name: &str,
        bytes: &[u8],
        from: usize,
        dialect: Dialect,
        (header, sort_of): (Header, Option<SortOf>),
    ) -> Result<Self> {
        let chunk = Chunk { bytes: bytes[from..].to_vec(), ..Chunk::default() };
        let mut batch = Batch::default();
        decode(&chunk.bytes, dialect, &mut batch);
        batch.look_for_formulas(&chunk.bytes);
        let lines_above = memchr::memchr_iter(b'\n', &bytes[..from]).count() as u64;
        let rows: Vec<Record<'_>> = batch.records(&chunk).collect();
        let (place, how) = place_of_header(name, &rows, lines_above, (header, sort_of))?;
        let separator = if from > 0 { " by its line sep=" } else { "" };
        let described = format!("{}{separator}, {how}", dialect.described());
        let named = place.and_then(|place| rows.get(place));
        let Some(row) = named else {
            let width = rows.first().map_or(0, |row| row.len());
            let fields = (0..width).map(numbered_field).collect();
            let first_record = if rows.is_empty() { bytes.len() } else { from };
            let lines_before = lines_above;
            return Ok(TableStart {
                dialect,
                fields,
                header: None,
                first_record,
                lines_before,
                // What stands above the first record is cut with it.
                blank_lines: 0,
                described,
            });
        };
        let mut above = Batch::default();
        decode(&chunk.bytes[..row.start_in_chunk() as usize], dialect, &mut above);
        let first_record = from + row.offset_behind();
        Ok(TableStart {
            dialect,
            fields: field_names(*row),
            header: Some(row.raw().to_vec()),
            first_record,
            blank_lines: above.blank_lines,
            lines_before: (memchr::memchr_iter(b'\n', &bytes[..first_record]).count() as u64).max(1),
            described,
        })
    }
}

/// The place of the header among `rows`, above which are so many lines, as asked for or recognised, and how that is put into words; no place
/// where there is no header.
///
/// # Errors
/// Where no row starts in the line that was named.
pub(crate) fn place_of_header(
    name: &str,
    rows: &[Record<'_>],
    lines_above: u64,
    (header, sort_of): (Header, Option<SortOf>),
) -> Result<(Option<usize>, String)> {
    let line_of = |row: &Record<'_>| lines_above + row.line_in_chunk() + 1;
    let (place, how) = match header {
        Header::Missing => (None, "without a header".to_owned()),
        Header::Line(line) => {
            let place = rows.iter().position(|row| line_of(row) == line);
            let place = place.ok_or_else(|| no_such_row(name, line))?;
            (Some(place), format!("with a header in line {line}"))
        }
        Header::Recognised => match sort_of {
            None => (Some(0), "with a header".to_owned()),
            Some(sort_of) => recognised(rows, lines_above, sort_of),
        },
    };
    let above = place.and_then(|place| rows.get(place)).map(line_of).filter(|&line| line > 1);
    Ok(match above {
        Some(line) if header == Header::Recognised => (place, format!("{how} in line {line}")),
        _ => (place, how),
    })
}

/// The names of the fields in a header; one without a name is called by its number.
pub(crate) fn field_names(header: Record<'_>) -> Vec<String> {
    let name_of = |(index, cell): (usize, &[u8])| match String::from_utf8_lossy(cell).trim() {
        "" => numbered_field(index),
        name => name.to_owned(),
    };
    header.cells().enumerate().map(name_of).collect()
}

/// The name of a field that has none.
pub(crate) fn numbered_field(index: usize) -> String {
    format!("field{}", index + 1)
}

/// The place of the header among `rows`, above which are so many lines, and how that is put into words; no place where the first row is a record.
fn recognised(rows: &[Record<'_>], lines_above: u64, sort_of: SortOf) -> (Option<usize>, String) {
    let rows = &rows[..rows.len().min(LOOKED_AT)];
    let place = behind_title(rows, sort_of);
    let Some(row) = rows.get(place) else { return (Some(0), "with a header".to_owned()) };
    match why_a_record(*row, &rows[place + 1..], sort_of) {
        Some(why) => {
            (None, format!("without a header: line {} {why}", lines_above + row.line_in_chunk() + 1))
        }
        None => (Some(place), "with a header".to_owned()),
    }
}

/// The place of the header behind a title block: rows with little in them, or with gaps and values, above the first that is
/// as wide as most and holds nothing but words. 0 where there is no such block.
fn behind_title(rows: &[Record<'_>], sort_of: SortOf) -> usize {
    let width = usual_width(rows.iter().map(|row| row.len()));
    let is_title = |row: &Record<'_>| {
        let sorts: Vec<CellSort> = row.cells().map(sort_of).filter(|sort| *sort != CellSort::Empty).collect();
        let has_value = sorts.iter().any(|sort| matches!(sort, CellSort::Value(_)));
        let is_sparse = sorts.len() < 2 || sorts.len() * 2 <= width || sorts.len() < width && has_value;
        is_sparse && !sorts.iter().any(|sort| matches!(sort, CellSort::RecordOnly(_)))
    };
    let is_header = |row: &Record<'_>| {
        let words = row.cells().map(sort_of).filter(|sort| *sort == CellSort::Words).count();
        let only_words =
            row.cells().map(sort_of).all(|sort| matches!(sort, CellSort::Words | CellSort::Empty));
        row.len() >= width && only_words && words * 2 > width
    };
    let place = rows.iter().take(LONGEST_TITLE + 1).position(|row| !is_title(row));
    place.filter(|&place| width > 1 && is_header(&rows[place])).unwrap_or(0)
}

/// The width that most rows have; of equals the greater.
pub(super) fn usual_width(widths: impl Iterator<Item = usize>) -> usize {
    let mut counts = std::collections::BTreeMap::new();
    for width in widths {
        *counts.entry(width).or_insert(0_usize) += 1;
    }
    counts.into_iter().max_by_key(|&(width, count)| (count, width)).map_or(0, |(width, _)| width)
}

/// Why `row` names no fields, where that is so: it holds what stands in records only, nothing but values, or a value of the sort
/// that most rows below it have there.
fn why_a_record(row: Record<'_>, below: &[Record<'_>], sort_of: SortOf) -> Option<String> {
    let sorts: Vec<CellSort> = row.cells().map(sort_of).collect();
    let only = sorts.iter().find_map(|sort| match sort {
        CellSort::RecordOnly(what) => Some(format!("holds {what}")),
        _ => None,
    });
    if only.is_some() {
        return only;
    }
    // A field of what stands in records only has a name; a record may lack it.
    let lacks = sorts.iter().enumerate().find_map(|(place, sort)| match sort {
        CellSort::Empty => mostly_of_records(place, below, sort_of),
        _ => None,
    });
    if let Some(what) = lacks {
        return Some(format!("holds nothing where the lines below it hold {what}"));
    }
    let values = sorts.iter().filter(|sort| matches!(sort, CellSort::Value(_))).count();
    if values > 0 && sorts.iter().all(|sort| !matches!(sort, CellSort::Words)) {
        return Some("holds nothing but values".to_owned());
    }
    sorts.iter().enumerate().find_map(|(place, sort)| match sort {
        // Years name columns of numbers.
        CellSort::Value(what) if *what != NUMBER && is_as_below(*sort, place, below, sort_of) => {
            Some(format!("holds {what}, like the lines below it"))
        }
        _ => None,
    })
}

/// What a number is called.
pub const NUMBER: &str = "a number";

/// What most of the cells at `place` hold, where that stands in records only.
fn mostly_of_records(place: usize, below: &[Record<'_>], sort_of: SortOf) -> Option<&'static str> {
    let filled = sorts_below(place, below, sort_of);
    let what = |sort: &CellSort| match sort {
        CellSort::RecordOnly(what) => Some(*what),
        _ => None,
    };
    let count = filled.iter().filter_map(what).count();
    filled.iter().find_map(what).filter(|_| count * 2 > filled.len())
}

fn is_as_below(sort: CellSort, place: usize, below: &[Record<'_>], sort_of: SortOf) -> bool {
    let filled = sorts_below(place, below, sort_of);
    let alike = filled.iter().filter(|other| **other == sort).count();
    alike > 0 && alike * 2 >= filled.len()
}

/// The sorts of the filled cells at `place`, of the first rows below.
fn sorts_below(place: usize, below: &[Record<'_>], sort_of: SortOf) -> Vec<CellSort> {
    let cells = below.iter().take(20).filter_map(|row| row.cell(place)).map(sort_of);
    cells.filter(|sort| *sort != CellSort::Empty).collect()
}

fn no_such_row(name: &str, line: u64) -> Error {
    Error::unusable(
        format!("{name}: no row starts in line {line}"),
        "give the line of the row that names the fields, counted from 1",
    )
}

/// Whether the last border in `bytes` lies behind the header.
pub(crate) fn reaches_behind(header: Header, bytes: &[u8], last_border: usize) -> bool {
    let lines = || memchr::memchr_iter(b'\n', &bytes[..last_border]).count() as u64;
    match header {
        Header::Line(line) => last_border > 0 && lines() >= line,
        _ => last_border > 0,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sort_of(cell: &[u8]) -> CellSort {
        match cell {
            b"" => CellSort::Empty,
            cell if cell.contains(&b'@') => CellSort::RecordOnly("an address"),
            cell if cell.iter().all(u8::is_ascii_digit) => CellSort::Value(NUMBER),
            cell if cell.iter().all(|b| b.is_ascii_digit() || *b == b'-') => CellSort::Value("a date"),
            _ => CellSort::Words,
        }
    }

    #[test]
    fn where_the_header_stands() {
        // The table, and what its fields are, its lines before the first record, and how that is said.
        for (text, fields, lines, how) in [
            ("name,email\nAnna,a@h\n", "name email", 1, "with a header"),
            ("Anna,a@h\nBruno,b@h\n", "field1 field2", 0, "without a header: line 1 holds an address"),
            ("a@h\nb@h\n", "field1", 0, "without a header: line 1 holds an address"),
            (
                "1,2026-01-01\n2,2026-01-02\n",
                "field1 field2",
                0,
                "without a header: line 1 holds nothing but values",
            ),
            (
                "Anna,2026-01-01\nBruno,2026-01-02\n",
                "field1 field2",
                0,
                "without a header: line 1 holds a date, like the lines below it",
            ),
            ("name,2026-01-01\nAnna,x\nBruno,\n", "name 2026-01-01", 1, "with a header"),
            ("name,2025,2026\nAnna,1,2\n", "name 2025 2026", 1, "with a header"),
            ("Members\n\nname,email\nAnna,a@h\n", "name email", 3, "with a header in line 3"),
            (
                "Members,,\nof,2026-11-01,\nname,email,\nAnna,a@h,\nB,b@h,\n",
                "name email field3",
                3,
                "with a header in line 3",
            ),
            ("\"Members\nof the club\",\nname,email\nAnna,a@h\n", "name email", 3, "with a header in line 3"),
            (
                "Anna,\nBruno,b@h\nCleo,c@h\n",
                "field1 field2",
                0,
                "without a header: line 1 holds nothing where the lines below it hold an address",
            ),
            // Nothing below would name the fields.
            ("email,,\na@h,x,y\nb@h,x,y\n", "email field2 field3", 1, "with a header"),
            ("name,email\n", "name email", 1, "with a header"),
        ] {
            let start = TableStart::read(
                "f",
                text.as_bytes(),
                0,
                Dialect { delimiter: b',' },
                (Header::Recognised, Some(sort_of)),
            );
            let start = start.unwrap();
            assert_eq!(start.fields.join(" "), fields, "{text:?}");
            assert_eq!(start.lines_before, lines, "{text:?}");
            assert_eq!(start.described, format!("comma-separated, {how}"), "{text:?}");
        }
    }

    #[test]
    fn a_header_that_is_named() {
        let text = b"x,y\n\n\"a\nb\",c\nd,e\n";
        let read =
            |header| TableStart::read("f", text, 0, Dialect { delimiter: b',' }, (header, Some(sort_of)));
        let start = read(Header::Line(3)).unwrap();
        assert_eq!((start.fields, start.lines_before), (vec!["a\nb".to_owned(), "c".into()], 4));
        assert!(
            read(Header::Line(2)).is_err()
                && read(Header::Line(4)).is_err()
                && read(Header::Line(9)).is_err()
        );
        assert_eq!(read(Header::Missing).unwrap().first_record, 0);
    }

    #[test]
    fn separators_that_are_named() {
        for (text, separator) in [
            ("sep=;\na;b\n", Some((b';', 6))),
            ("\"SEP=|\"\r\na|b\r\n", Some((b'|', 9))),
            ("sep=\t\na\tb\n", Some((b'\t', 6))),
            ("sep=;x\n", None),
            ("sep=a\n", None),
            ("separate,email\n", None),
        ] {
            assert_eq!(named_separator(text.as_bytes()), separator, "{text:?}");
        }
    }
}
