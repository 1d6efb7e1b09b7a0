//! A table of a database, or the rows of one SELECT, as a source.

use std::collections::HashMap;
use std::path::Path;

use mysql::prelude::{Protocol, Queryable as _};
use mysql::{Column, Conn, QueryResult, Value};

use crate::formats::server::cells::pack;
use crate::formats::server::mariadb::connect::connect;
use crate::formats::server::mariadb::snapshot::Reading;
use crate::formats::server::mariadb::sql::{failed, is_unfinished, quoted, text};
use crate::formats::server::mariadb::types::column_type;
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
    let failed = |error: mysql::Error| Ended::Failed(failed(name, &error));
    let mut reading = Reading::begin(path)?;
    let conn = reading.conn();
    let mut asked = asked(conn, name, part.as_deref())?;
    let mut columns = columns_of(conn, name, &asked.query)?;
    if !not_read.is_empty() {
        columns.retain(|column| !not_read.contains(&column.name_str().into_owned()));
        let names: Vec<String> = columns.iter().map(|column| quoted(&column.name_str())).collect();
        asked.only(&names);
    }
    let types = types_of(conn, &columns).map_err(failed)?;
    let fields: Vec<String> = columns.iter().map(|column| column.name_str().into_owned()).collect();
    sink.begin(Schema {
        key: asked.key_among(&fields),
        fields,
        types: types.clone(),
        described: asked.described.clone(),
        kind: SourceKind::Typed(Format::MariaDb),
        ..Schema::default()
    })?;
    let id = conn.connection_id();
    let mut rows = conn.query_iter(&asked.query).map_err(failed)?;
    match hand_over(&mut rows, name, &columns, &types, sink) {
        Ok(()) => Ok(()),
        Err(ended) => {
            // Else all the rest would be sent to nobody. Where even that fails, the connection is of no more use.
            let stopped = connect(path)
                .map(|mut other| other.query_drop(format!("KILL QUERY {id}")).is_ok())
                .unwrap_or(false);
            drop(rows);
            if !stopped || matches!(ended, Ended::Failed(_)) {
                reading.give_up();
            }
            Err(ended)
        }
    }
}

fn hand_over<P: Protocol>(
    rows: &mut QueryResult<'_, '_, '_, P>,
    name: &str,
    columns: &[Column],
    types: &[ColumnType],
    sink: &mut RowSink,
) -> std::result::Result<(), Ended> {
    let is_bits: Vec<bool> = columns
        .iter()
        .map(|column| column.column_type() == mysql::consts::ColumnType::MYSQL_TYPE_BIT)
        .collect();
    let mut scratch = Vec::new();
    for (line, row) in rows.enumerate() {
        let row = row.map_err(|error| Ended::Failed(failed(name, &error)))?;
        sink.row(line as u64, |out| {
            for (nth, of) in types.iter().enumerate() {
                match row.as_ref(nth) {
                    Some(Value::Bytes(bits)) if is_bits[nth] => {
                        let number = bits.iter().fold(0_u64, |number, byte| number << 8 | u64::from(*byte));
                        pack(Some(itoa::Buffer::new().format(number).as_bytes()), *of, &mut scratch, out);
                    }
                    Some(Value::Bytes(cell)) => pack(Some(cell), *of, &mut scratch, out),
                    _ => pack(None, *of, &mut scratch, out),
                }
            }
        })?;
    }
    Ok(())
}

/// The columns of a query that only reads.
fn columns_of(conn: &mut Conn, name: &str, query: &str) -> std::result::Result<Vec<Column>, Ended> {
    let failed = |error: mysql::Error| Ended::Failed(failed(name, &error));
    // Only one statement can be prepared, and only one that writes nowhere can stand in another one.
    let statement = conn.prep(query).map_err(failed)?;
    if statement.columns().is_empty() || !statement.params().is_empty() {
        return Err(Ended::Failed(not_one_select(name)));
    }
    const SAME_NAMES: u16 = 1060;
    const SYNTAX: u16 = 1064;
    match conn.prep(format!("SELECT 1 FROM (\n{query}\n) AS q")) {
        Err(mysql::Error::MySqlError(told)) if told.code == SAME_NAMES => {}
        Err(mysql::Error::MySqlError(told)) if told.code == SYNTAX => {
            return Err(Ended::Failed(not_one_select(name)));
        }
        prepared => drop(prepared.map_err(failed)?),
    }
    Ok(statement.columns().to_vec())
}

/// What columns hold. That a text is JSON or a UUID is told of tables only.
pub(super) fn types_of(conn: &mut Conn, columns: &[Column]) -> mysql::Result<Vec<ColumnType>> {
    let of = |column: &Column| (column.schema_str().into_owned(), column.org_table_str().into_owned());
    let mut tables: Vec<(String, String)> =
        columns.iter().map(of).filter(|(_, table)| !table.is_empty()).collect();
    tables.sort();
    tables.dedup();
    let kinds = if tables.is_empty() { HashMap::new() } else { kinds(conn, &tables)? };
    let of_column = |column: &Column| {
        let (schema, table) = of(column);
        let kind = kinds.get(&(schema, table, column.org_name_str().into_owned()));
        kind.copied().unwrap_or_else(|| column_type(column))
    };
    Ok(columns.iter().map(of_column).collect())
}

/// What the columns of tables hold that are more than the text as which they are sent.
fn kinds(
    conn: &mut Conn,
    tables: &[(String, String)],
) -> mysql::Result<HashMap<(String, String, String), ColumnType>> {
    let pairs: Vec<String> =
        tables.iter().map(|(schema, table)| format!("({}, {})", text(schema), text(table))).collect();
    let pairs = pairs.join(", ");
    let version: Option<String> = conn.query_first("SELECT VERSION()")?;
    let mut query = format!(
        "SELECT table_schema, table_name, column_name, data_type FROM information_schema.columns \
         WHERE (table_schema, table_name) IN ({pairs}) AND data_type IN ('uuid', 'inet4', 'inet6')"
    );
    // Another server knows JSON by itself.
    if version.is_some_and(|version| version.contains("MariaDB")) {
        query.push_str(&format!(
            " UNION ALL SELECT constraint_schema, table_name, constraint_name, 'json' \
             FROM information_schema.check_constraints WHERE (constraint_schema, table_name) IN ({pairs}) \
             AND check_clause = CONCAT('json_valid(`', constraint_name, '`)')"
        ));
    }
    let found: Vec<(String, String, String, String)> = conn.query(query)?;
    let kind = |kind: &str| match kind {
        "uuid" => ColumnType::Uuid,
        "json" => ColumnType::Json,
        _ => ColumnType::Text,
    };
    Ok(found.into_iter().map(|(schema, table, column, of)| ((schema, table, column), kind(&of))).collect())
}

fn asked(conn: &mut Conn, name: &str, part: Option<&str>) -> Result<Asked> {
    const CALLED: &str = "a MariaDB or MySQL database";
    if let Some(query) = Asked::of_query(part, CALLED) {
        return Ok(query);
    }
    let tables = tables(conn).map_err(|error| failed(name, &error))?;
    let found = meant(name, part, &tables)?;
    let key = primary_key(conn, found).map_err(|error| failed(name, &error))?;
    Ok(Asked::of_table(SqlDialect::MariaDb, found, CALLED, key))
}

/// The columns of a table's primary key, in its order.
pub(super) fn primary_key(conn: &mut Conn, table: &str) -> mysql::Result<Vec<String>> {
    let key = "SELECT column_name FROM information_schema.key_column_usage WHERE table_schema = DATABASE() \
               AND constraint_name = 'PRIMARY' AND table_name = ";
    conn.query(format!("{key}{} ORDER BY ordinal_position", text(table)))
}

/// The names of the tables of the database at `path` that the user sees.
///
/// # Errors
/// Where nobody answers.
pub(crate) fn table_names(path: &Path, name: &str) -> Result<Vec<String>> {
    tables(&mut connect(path)?).map_err(|error| failed(name, &error))
}

/// Tables and views, those left out that a run was filling when it was killed.
pub(super) fn tables(conn: &mut Conn) -> mysql::Result<Vec<String>> {
    let query = "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() ORDER BY table_name";
    let mut tables: Vec<String> = conn.query(query)?;
    tables.retain(|table| !is_unfinished(table));
    Ok(tables)
}
