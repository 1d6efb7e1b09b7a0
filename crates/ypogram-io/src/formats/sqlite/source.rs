//! A table of a database, or the rows of one SELECT, as a source.

use std::path::Path;

use rusqlite::limits::Limit;
use rusqlite::types::ValueRef;
use rusqlite::{Connection, OpenFlags};

use crate::formats::sql::{Asked, meant, not_one_select};
use crate::formats::sql_dialect::SqlDialect;
use crate::formats::sqlite::sql::{columns_of, failed};
use crate::input::row_thread::{Ended, RowInput, RowSink, RowThread};
use crate::records::error::Result;
use crate::records::format::Format;
use crate::records::packed::write_cell;
use crate::records::source::{Schema, SourceKind};
use crate::records::value::Value;

/// Opens the table that is called so, or the query; the only table where nothing is named.
///
/// # Errors
/// Where the database is damaged, has no such table, or the query is more than one SELECT.
pub(crate) fn open(input: RowInput, part: Option<String>) -> Result<RowThread> {
    let (path, name, longest) = (input.on_disk.path.clone(), input.name.clone(), input.sizes.1);
    RowThread::start(input, move |sink| read(&path, &name, longest, part.as_deref(), sink))
}

fn read(
    path: &Path,
    name: &str,
    longest: usize,
    part: Option<&str>,
    sink: &mut RowSink,
) -> std::result::Result<(), Ended> {
    let failed = |error: rusqlite::Error| Ended::Failed(failed(name, &error));
    let database = connect(path).map_err(failed)?;
    let _ = database.set_limit(Limit::SQLITE_LIMIT_LENGTH, i32::try_from(longest).unwrap_or(i32::MAX));
    let asked = asked(&database, name, part)?;
    let query = &asked.query;
    // Quick for a table; of anything else only its rows tell.
    let highest = query.strip_prefix("SELECT * FROM ").map(|table| format!("SELECT max(rowid) FROM {table}"));
    if let Some(rows) =
        highest.and_then(|query| database.query_row(&query, [], |row| row.get::<_, i64>(0)).ok())
    {
        sink.expect(u64::try_from(rows).unwrap_or_default());
    }
    let mut statement = database.prepare(query).map_err(|error| match error {
        rusqlite::Error::MultipleStatement => Ended::Failed(not_one_select(name)),
        error => failed(error),
    })?;
    if !statement.readonly() || statement.column_count() == 0 {
        return Err(Ended::Failed(not_one_select(name)));
    }
    let fields = columns_of(&statement, &database, name)?;
    let width = fields.len();
    let kind = SourceKind::Typed(Format::Sqlite);
    let key = asked.key_among(&fields);
    sink.begin(Schema { key, fields, described: asked.described, kind, ..Schema::default() })?;
    let mut rows = statement.raw_query();
    let mut line = 0;
    while let Some(row) = rows.next().map_err(failed)? {
        sink.row(line, |out| {
            for column in 0..width {
                pack(row.get_ref(column).unwrap_or(ValueRef::Null), out);
            }
        })?;
        line += 1;
    }
    Ok(())
}

/// Opens a database so that nothing of it can be changed, and nothing in it runs.
pub(super) fn connect(path: &Path) -> rusqlite::Result<Connection> {
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let database = Connection::open_with_flags(path, flags)?;
    database
        .execute_batch("PRAGMA trusted_schema = OFF; PRAGMA query_only = ON; PRAGMA cell_size_check = ON;")?;
    Ok(database)
}

fn asked(database: &Connection, name: &str, part: Option<&str>) -> Result<Asked> {
    const CALLED: &str = "an SQLite database";
    if let Some(query) = Asked::of_query(part, CALLED) {
        return Ok(query);
    }
    let tables = tables(database).map_err(|error| failed(name, &error))?;
    let table = meant(name, part, &tables)?;
    let key = primary_key(database, table).map_err(|error| failed(name, &error))?;
    Ok(Asked::of_table(SqlDialect::Sqlite, table, CALLED, key))
}

/// The columns of a table's primary key, in its order.
fn primary_key(database: &Connection, table: &str) -> rusqlite::Result<Vec<String>> {
    let mut key = database.prepare("SELECT name FROM pragma_table_info(?1) WHERE pk > 0 ORDER BY pk")?;
    key.query_map([table], |row| row.get(0))?.collect()
}

/// The names of the tables of the database at `path`, or of its views where there are only these.
///
/// # Errors
/// Where it is damaged.
pub(crate) fn table_names(path: &Path, name: &str) -> Result<Vec<String>> {
    let failed = |error: rusqlite::Error| failed(name, &error);
    let database = connect(path).map_err(failed)?;
    let query = "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid";
    let mut statement = database.prepare(query).map_err(failed)?;
    let names = statement.query_map([], |row| row.get(0)).and_then(Iterator::collect).map_err(failed)?;
    let names: Vec<String> = names;
    if names.is_empty() { tables(&database).map_err(failed) } else { Ok(names) }
}

/// The tables and views, those of SQLite itself left out.
fn tables(database: &Connection) -> rusqlite::Result<Vec<String>> {
    let query = "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' \
                 ORDER BY type, rowid";
    let mut statement = database.prepare(query)?;
    let names = statement.query_map([], |row| row.get(0))?;
    names.collect()
}

fn pack(value: ValueRef<'_>, out: &mut Vec<u8>) {
    match value {
        ValueRef::Null => write_cell(Value::Null, b"", out),
        ValueRef::Integer(number) => {
            write_cell(Value::Integer(number), itoa::Buffer::new().format(number).as_bytes(), out);
        }
        // With its decimals, as a database shows it.
        ValueRef::Real(number) => write_cell(Value::Float(number), format!("{number:?}").as_bytes(), out),
        ValueRef::Text(text) => write_cell(Value::Text(text), text, out),
        ValueRef::Blob(bytes) => {
            let value = Value::Bytes(bytes);
            if std::str::from_utf8(bytes).is_ok() {
                return write_cell(value, bytes, out);
            }
            let mut text = Vec::new();
            value.write_text(&mut text);
            write_cell(value, &text, out);
        }
    }
}
