//! Outputs read by others: by the libraries of their formats, and not by the program that is tried.

use std::path::Path;

use calamine::{Data, Reader as _};
use indexmap::{IndexMap, IndexSet};
use serde_json::Value;

/// The endings of outputs that are read back.
pub(super) const TAKEN: [&str; 6] = ["csv", "tsv", "jsonl", "json", "xlsx", "sqlite"];

/// The names of a table and its rows.
pub(super) type Rows = (Vec<String>, Vec<Vec<String>>);

/// What is in the file at `path`, of which `part` is a sheet or table; nothing where it is not there.
///
/// # Panics
/// Where it is not of the format that its ending names.
pub(super) fn read(path: &Path, part: Option<&str>) -> Option<Rows> {
    let ending = path.extension()?.to_str()?;
    match ending {
        "xlsx" => sheet(path, part),
        "sqlite" => table(path, part.unwrap_or("list")),
        "jsonl" => {
            let text = std::fs::read_to_string(path).ok()?;
            Some(objects(text.lines().map(|line| serde_json::from_str(line).expect("JSON")).collect()))
        }
        "json" => Some(objects(serde_json::from_slice(&std::fs::read(path).ok()?).expect("JSON"))),
        _ => Some(separated(&std::fs::read(path).ok()?)),
    }
}

fn separated(bytes: &[u8]) -> Rows {
    let bytes = bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(bytes);
    let header_end = bytes.iter().position(|&b| b == b'\n').unwrap_or(bytes.len());
    let delimiter = bytes[..header_end].iter().find(|b| b",;\t|".contains(b)).copied().unwrap_or(b',');
    let mut reader = csv::ReaderBuilder::new().delimiter(delimiter).flexible(true).from_reader(bytes);
    let names = reader.headers().expect("a header").iter().map(str::to_owned).collect();
    let row = |record: csv::StringRecord| record.iter().map(str::to_owned).collect();
    (names, reader.records().map(|record| row(record.expect("UTF-8"))).collect())
}

/// Rows that are objects; names are those of all, in the order in which they first come.
fn objects(objects: Vec<IndexMap<String, Value>>) -> Rows {
    let names: IndexSet<&String> = objects.iter().flat_map(IndexMap::keys).collect();
    let row = |object: &IndexMap<String, Value>| {
        names.iter().map(|name| object.get(*name).map_or_else(String::new, text)).collect()
    };
    (names.iter().copied().cloned().collect(), objects.iter().map(row).collect())
}

fn text(value: &Value) -> String {
    match value {
        Value::Null => String::new(),
        Value::String(text) => text.clone(),
        Value::Array(values) => values.iter().map(text).collect::<Vec<_>>().join(" "),
        other => other.to_string(),
    }
}

fn sheet(path: &Path, part: Option<&str>) -> Option<Rows> {
    let mut book: calamine::Xlsx<_> = calamine::open_workbook(path).ok()?;
    let name = match part {
        Some(part) => book.sheet_names().iter().find(|name| name.as_str() == part)?.clone(),
        None => book.sheet_names().first()?.clone(),
    };
    let range = book.worksheet_range(&name).expect("a sheet");
    let (height, width) = range.end().map_or((0, 0), |(row, column)| (row + 1, column + 1));
    let cell = |row: u32, column: u32| match range.get_value((row, column)) {
        Some(Data::Bool(is)) => is.to_string(),
        Some(cell) => cell.to_string(),
        None => String::new(),
    };
    let mut rows = (0..height).map(|row| (0..width).map(|column| cell(row, column)).collect::<Vec<_>>());
    Some((rows.next().unwrap_or_default(), rows.collect()))
}

fn table(path: &Path, name: &str) -> Option<Rows> {
    if !path.exists() {
        return None;
    }
    let database = rusqlite::Connection::open(path).expect("a database");
    let mut query = database.prepare(&format!("SELECT * FROM \"{name}\" ORDER BY rowid")).ok()?;
    let names: Vec<String> = query.column_names().map(str::to_owned).collect();
    let row = |row: &rusqlite::Row<'_>| {
        let cell = |column| match row.get_ref(column)? {
            rusqlite::types::ValueRef::Null => Ok(String::new()),
            rusqlite::types::ValueRef::Integer(number) => Ok(number.to_string()),
            rusqlite::types::ValueRef::Real(number) => Ok(number.to_string()),
            other => Ok(String::from_utf8_lossy(other.as_bytes()?).into_owned()),
        };
        (0..row.as_ref().column_count()).map(cell).collect::<rusqlite::Result<Vec<String>>>()
    };
    let rows = query.query_map([], row).expect("rows").collect::<rusqlite::Result<Vec<_>>>().expect("text");
    Some((names, rows))
}
