//! A table of a database, or the rows of one SELECT, as a source.

use std::io::BufRead;
use std::path::Path;

use postgres::types::Type;
use postgres::{Client, Statement};

use crate::formats::server::cells::pack;
use crate::formats::server::copy_text;
use crate::formats::server::postgres::connect::{begin_reading, connect};
use crate::formats::server::postgres::sql::{broke_off, failed, quoted, table};
use crate::formats::server::postgres::types::column_type;
use crate::formats::server::source::Wanted;
use crate::formats::sql::{Asked, meant, not_one_select};
use crate::formats::sql_dialect::SqlDialect;
use crate::input::row_thread::{Ended, RowSink};
use crate::records::column_type::ColumnType;
use crate::records::error::Result;
use crate::records::format::Format;
use crate::records::source::{Schema, SourceKind};

/// Reads what is wanted.
///
/// # Errors
/// Where nobody answers, there is no such table, or the query is more than one SELECT.
pub(crate) fn read(wanted: &Wanted, sink: &mut RowSink) -> std::result::Result<(), Ended> {
    let Wanted { path, name, part, not_read } = wanted;
    let failed = |error: postgres::Error| Ended::Failed(failed(name, &error));
    let mut client = connect(path)?;
    begin_reading(&mut client, path)?;
    let mut asked = asked(&mut client, name, part.as_deref())?;
    let mut statement = client.prepare(&asked.query).map_err(failed)?;
    if statement.columns().is_empty() || !statement.params().is_empty() {
        return Err(Ended::Failed(not_one_select(name)));
    }
    let mut fields = names_of(&statement);
    if !not_read.is_empty() {
        fields.retain(|field| !not_read.contains(field));
        let columns: Vec<String> = fields.iter().map(|field| quoted(field)).collect();
        asked.only(&columns);
        statement = client.prepare(&asked.query).map_err(failed)?;
    }
    let types: Vec<ColumnType> = types_of(&statement);
    sink.begin(Schema {
        key: asked.key_among(&fields),
        fields,
        types: types.clone(),
        described: asked.described.clone(),
        kind: SourceKind::Typed(Format::Postgres),
        ..Schema::default()
    })?;
    let mut rows = client.copy_out(&copy_of(&asked.query, &statement)).map_err(failed)?;
    let (mut scratch, mut decoded, mut text) = (Vec::new(), Vec::new(), Vec::new());
    each_line(&mut rows, name, |number, line| {
        sink.row(number, |out| {
            for (raw, of) in copy_text::raw_cells(line).zip(&types) {
                let cell = copy_text::cell(raw, &mut scratch).map(|cell| bytes_of(cell, *of, &mut decoded));
                pack(cell, *of, &mut text, out);
            }
        })
    })
}

/// Hands over the lines that COPY gives, with their numbers from 0.
fn each_line(
    rows: &mut impl BufRead,
    name: &str,
    mut take: impl FnMut(u64, &[u8]) -> std::result::Result<(), Ended>,
) -> std::result::Result<(), Ended> {
    let broke_off = |error: std::io::Error| Ended::Failed(broke_off(name, &error));
    let mut line = Vec::new();
    for number in 0.. {
        // A row comes as a message of its own, and is then taken where it lies.
        let message = rows.fill_buf().map_err(broke_off)?;
        if message.is_empty() {
            return Ok(());
        }
        if let Some(end) = memchr::memchr(b'\n', message) {
            take(number, &message[..end])?;
            rows.consume(end + 1);
            continue;
        }
        line.clear();
        rows.read_until(b'\n', &mut line).map_err(broke_off)?;
        take(number, line.strip_suffix(b"\n").unwrap_or(&line))?;
    }
    Ok(())
}

pub(super) fn names_of(statement: &Statement) -> Vec<String> {
    statement.columns().iter().map(|column| column.name().to_owned()).collect()
}

pub(super) fn types_of(statement: &Statement) -> Vec<ColumnType> {
    statement.columns().iter().map(|column| column_type(column.type_(), column.type_modifier())).collect()
}

/// The rows of a query as text that is understood; lists as JSON arrays.
fn copy_of(query: &str, statement: &Statement) -> String {
    let column = |(nth, column): (usize, &postgres::Column)| match *column.type_() {
        Type::TEXT_ARRAY | Type::VARCHAR_ARRAY => format!("to_json(c{nth})"),
        _ => format!("c{nth}"),
    };
    let columns = statement.columns();
    if !columns.iter().any(|column| matches!(*column.type_(), Type::TEXT_ARRAY | Type::VARCHAR_ARRAY)) {
        return format!("COPY ({query}\n) TO STDOUT");
    }
    let wanted: Vec<String> = columns.iter().enumerate().map(column).collect();
    let names: Vec<String> = (0..columns.len()).map(|nth| format!("c{nth}")).collect();
    format!("COPY (SELECT {} FROM ({query}\n) AS q ({})) TO STDOUT", wanted.join(", "), names.join(", "))
}

fn asked(client: &mut Client, name: &str, part: Option<&str>) -> Result<Asked> {
    const CALLED: &str = "a PostgreSQL database";
    if let Some(query) = Asked::of_query(part, CALLED) {
        return Ok(query);
    }
    let tables = tables(client).map_err(|error| failed(name, &error))?;
    let found = meant(name, part, &tables)?;
    let key = primary_key(client, found).map_err(|error| failed(name, &error))?;
    Ok(Asked::of_table(SqlDialect::Postgres, found, CALLED, key))
}

/// The columns of a table's primary key, in its order.
pub(super) fn primary_key(
    client: &mut Client,
    name: &str,
) -> std::result::Result<Vec<String>, postgres::Error> {
    const KEY: &str = "SELECT a.attname::text FROM pg_index i JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = ANY (i.indkey) \
        WHERE i.indrelid = to_regclass($1) AND i.indisprimary ORDER BY array_position(i.indkey::int2[], a.attnum)";
    Ok(client.query(KEY, &[&table(name)])?.iter().map(|row| row.get(0)).collect())
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
pub(super) fn tables(client: &mut Client) -> std::result::Result<Vec<String>, postgres::Error> {
    const TABLES: &str = "SELECT CASE WHEN n.nspname = current_schema() THEN '' ELSE n.nspname || '.' END || c.relname \
        FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace \
        WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname NOT IN ('pg_catalog', 'information_schema') \
        AND n.nspname NOT LIKE 'pg\\_%' AND has_table_privilege(c.oid, 'SELECT') ORDER BY 1";
    Ok(client.query(TABLES, &[])?.iter().map(|row| row.get(0)).collect())
}

/// The bytes of a cell: those of a column of bytes stand there in hexadecimal digits.
fn bytes_of<'c>(cell: &'c [u8], of: ColumnType, decoded: &'c mut Vec<u8>) -> &'c [u8] {
    if of != ColumnType::Bytes {
        return cell;
    }
    let digits = cell.strip_prefix(b"\\x").unwrap_or(cell);
    *decoded = data_encoding::HEXLOWER_PERMISSIVE.decode(digits).unwrap_or_else(|_| cell.to_vec());
    decoded
}
