//! A table of a database, or the rows of one SELECT, as a source.

use std::io::BufRead as _;
use std::path::Path;

use jiff::civil::{Date, DateTime, Time};
use postgres::types::Type;
use postgres::{Client, Statement};

use crate::formats::server::postgres::connect::{begin_reading, connect};
use crate::formats::server::postgres::copy_text;
use crate::formats::server::postgres::sql::{failed, table};
use crate::formats::server::postgres::types::column_type;
use crate::formats::sql::{meant, not_one_select};
use crate::input::row_thread::{Ended, RowInput, RowSink, RowThread};
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result};
use crate::records::format::Format;
use crate::records::packed::write_cell;
use crate::records::place::SourcePlace;
use crate::records::source::{Schema, SourceKind};
use crate::records::value::Value;

/// Opens the table that is called so, or the query; the only table where nothing is named.
///
/// # Errors
/// Where nobody answers, there is no such table, or the query is more than one SELECT.
pub(crate) fn open(input: RowInput, part: Option<String>) -> Result<RowThread> {
    let (path, name) = (input.on_disk.path.clone(), input.name.clone());
    RowThread::start(input, move |sink| read(&path, &name, part.as_deref(), sink))
}

fn read(path: &Path, name: &str, part: Option<&str>, sink: &mut RowSink) -> std::result::Result<(), Ended> {
    let failed = |error: postgres::Error| Ended::Failed(failed(name, &error));
    let mut client = connect(path)?;
    begin_reading(&mut client, path)?;
    let (query, described) = query_of(&mut client, name, part)?;
    let statement = client.prepare(&query).map_err(failed)?;
    if statement.columns().is_empty() || !statement.params().is_empty() {
        return Err(Ended::Failed(not_one_select(name)));
    }
    let types: Vec<ColumnType> = types_of(&statement);
    sink.begin(Schema {
        fields: statement.columns().iter().map(|column| column.name().to_owned()).collect(),
        types: types.clone(),
        described,
        kind: SourceKind::Typed(Format::Postgres),
        ..Schema::default()
    })?;
    let mut rows = client.copy_out(&copy_of(&query, &statement)).map_err(failed)?;
    let (mut line, mut scratch, mut text) = (Vec::new(), Vec::new(), Vec::new());
    let mut number = 0;
    loop {
        line.clear();
        let read =
            rows.read_until(b'\n', &mut line).map_err(|error| Ended::Failed(broke_off(name, &error)))?;
        if read == 0 {
            return Ok(());
        }
        sink.row(number, |out| {
            let raw = copy_text::raw_cells(line.strip_suffix(b"\n").unwrap_or(&line));
            for (raw, of) in raw.zip(&types) {
                pack(copy_text::cell(raw, &mut scratch), *of, &mut text, out);
            }
        })?;
        number += 1;
    }
}

fn types_of(statement: &Statement) -> Vec<ColumnType> {
    statement.columns().iter().map(|column| column_type(column.type_(), column.type_modifier())).collect()
}

/// The rows of a query as text that is understood; lists as JSON arrays.
fn copy_of(query: &str, statement: &Statement) -> String {
    let column = |(nth, column): (usize, &postgres::Column)| match *column.type_() {
        Type::TEXT_ARRAY | Type::VARCHAR_ARRAY => format!("to_json(c{nth})"),
        _ => format!("c{nth}"),
    };
    let columns = statement.columns();
    let wanted: Vec<String> = columns.iter().enumerate().map(column).collect();
    let names: Vec<String> = (0..columns.len()).map(|nth| format!("c{nth}")).collect();
    format!("COPY (SELECT {} FROM ({query}\n) AS q ({})) TO STDOUT", wanted.join(", "), names.join(", "))
}

#[cold]
fn broke_off(name: &str, error: &std::io::Error) -> Error {
    Error::unusable(
        format!("{name}: the connection broke off: {error}"),
        "nothing was published; see whether the server runs, and run it again",
    )
}

/// What is asked of the database, and what people call that.
fn query_of(client: &mut Client, name: &str, part: Option<&str>) -> Result<(String, String)> {
    if let Some(query) = part.filter(|part| SourcePlace::is_query(part)) {
        let query = query.trim_end().trim_end_matches(';').to_owned();
        return Ok((query, "a query of a PostgreSQL database".to_owned()));
    }
    let tables = tables(client).map_err(|error| failed(name, &error))?;
    let found = meant(name, part, &tables)?;
    Ok((format!("SELECT * FROM {}", table(found)), format!("table ‘{found}’ of a PostgreSQL database")))
}

/// The names of the tables of the database at `path` that the user sees.
///
/// # Errors
/// Where nobody answers.
pub(crate) fn table_names(path: &Path, name: &str) -> Result<Vec<String>> {
    let mut client = connect(path)?;
    tables(&mut client).map_err(|error| failed(name, &error))
}

/// Tables and views; those of other schemas than the first of the search path with the name of theirs in front.
fn tables(client: &mut Client) -> std::result::Result<Vec<String>, postgres::Error> {
    const TABLES: &str = "SELECT CASE WHEN n.nspname = current_schema() THEN '' ELSE n.nspname || '.' END || c.relname \
        FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace \
        WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname NOT IN ('pg_catalog', 'information_schema') \
        AND n.nspname NOT LIKE 'pg\\_%' AND has_table_privilege(c.oid, 'SELECT') ORDER BY 1";
    Ok(client.query(TABLES, &[])?.iter().map(|row| row.get(0)).collect())
}

fn pack(cell: Option<&[u8]>, of: ColumnType, text: &mut Vec<u8>, out: &mut Vec<u8>) {
    let Some(cell) = cell else { return write_cell(Value::Null, b"", out) };
    let bytes;
    let value = match of {
        ColumnType::Bytes => {
            match data_encoding::HEXLOWER_PERMISSIVE.decode(cell.strip_prefix(b"\\x").unwrap_or(cell)) {
                Ok(decoded) => {
                    bytes = decoded;
                    Value::Bytes(&bytes)
                }
                Err(_) => Value::Text(cell),
            }
        }
        _ => value(cell, of),
    };
    match value {
        Value::Bytes(bytes) if std::str::from_utf8(bytes).is_ok() => write_cell(value, bytes, out),
        Value::Text(_) | Value::Decimal(_) | Value::Json(_) | Value::Integer(_) | Value::Float(_) => {
            write_cell(value, cell, out);
        }
        _ => {
            text.clear();
            value.write_text(text);
            write_cell(value, text, out);
        }
    }
}

/// What a cell holds; a text where it is nothing of its type, such as a day before Christ.
fn value(cell: &[u8], of: ColumnType) -> Value<'_> {
    if of == ColumnType::Text {
        return Value::Text(cell);
    }
    let text = std::str::from_utf8(cell).unwrap_or_default();
    let epoch = Date::constant(1970, 1, 1);
    let read = match of {
        ColumnType::Bool => Some(Value::Bool(cell == b"t")),
        ColumnType::Integer { .. } => text.parse().ok().map(Value::Integer),
        ColumnType::Float { .. } => text.parse().ok().map(Value::Float),
        ColumnType::Decimal { .. } | ColumnType::Number => {
            text.starts_with(|c: char| c == '-' || c.is_ascii_digit()).then_some(Value::Decimal(cell))
        }
        ColumnType::Date => text
            .parse::<Date>()
            .ok()
            .map(|date| Value::Date(date.duration_since(epoch).as_secs().div_euclid(86_400) as i32)),
        ColumnType::DateTime { .. } => {
            let time = text.strip_suffix("+00").unwrap_or(text).parse::<DateTime>().ok();
            time.map(|time| Value::DateTime(time.duration_since(epoch.into()).as_micros() as i64))
        }
        ColumnType::Time => {
            let time = text.parse::<Time>().ok();
            time.map(|time| Value::Time(time.duration_since(Time::midnight()).as_micros() as i64))
        }
        ColumnType::Json | ColumnType::TextArray => Some(Value::Json(cell)),
        ColumnType::Text | ColumnType::Bytes | ColumnType::Uuid => None,
    };
    read.unwrap_or(Value::Text(cell))
}
