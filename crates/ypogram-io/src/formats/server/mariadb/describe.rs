//! A table, as MariaDB describes it.

use std::path::Path;

use mysql::prelude::Queryable as _;

use crate::formats::server::describe::TableDescription;
use crate::formats::server::mariadb::connect::connect;
use crate::formats::server::mariadb::source::{primary_key, tables};
use crate::formats::server::mariadb::sql::{failed, text};
use crate::formats::sql::{is_no_table, meant};
use crate::records::error::Result;

/// Describes the table that is called so.
///
/// # Errors
/// Where nobody answers, or there is no such table or it is a view.
pub(crate) fn describe(path: &Path, name: &str, of: &str) -> Result<TableDescription> {
    let failed = |error: mysql::Error| failed(name, &error);
    let mut conn = connect(path)?;
    let all = tables(&mut conn).map_err(failed)?;
    let found = meant(name, Some(of), &all)?.clone();
    let mut names = |what: &str, from: &str, condition: &str| -> Result<Vec<String>> {
        let query = format!("SELECT {what} FROM information_schema.{from} {condition} = {}", text(&found));
        conn.query(query).map_err(failed)
    };
    const HERE: &str = "WHERE table_schema = DATABASE() AND table_name";
    if names("table_type", "tables", HERE)?.iter().any(|kind| kind.contains("VIEW")) {
        return Err(is_no_table(name, &found));
    }
    let referring = "WHERE referenced_table_schema = DATABASE() AND referenced_table_name";
    Ok(TableDescription {
        columns: names("column_name", "columns", HERE)?,
        referring: names("DISTINCT table_name", "key_column_usage", referring)?,
        indexes: names("DISTINCT index_name", "statistics", HERE)?,
        key: primary_key(&mut conn, &found).map_err(failed)?,
        table: found,
    })
}
