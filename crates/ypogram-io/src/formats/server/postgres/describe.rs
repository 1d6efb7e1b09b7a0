//! A table, as PostgreSQL describes it.

use std::path::Path;

use crate::formats::server::describe::TableDescription;
use crate::formats::server::postgres::connect::connect;
use crate::formats::server::postgres::source::{names_of, primary_key, tables};
use crate::formats::server::postgres::sql::{failed, table};
use crate::formats::sql::{is_no_table, meant};
use crate::records::error::Result;

/// Describes the table that is called so.
///
/// # Errors
/// Where nobody answers, or there is no such table or it is a view.
pub(crate) fn describe(path: &Path, name: &str, of: &str) -> Result<TableDescription> {
    let failed = |error: postgres::Error| failed(name, &error);
    let mut client = connect(path)?;
    let all = tables(&mut client).map_err(failed)?;
    let found = meant(name, Some(of), &all)?.clone();
    let quoted = table(&found);
    let mut names = |query: &str| -> Result<Vec<String>> {
        Ok(client.query(query, &[&quoted]).map_err(failed)?.iter().map(|row| row.get(0)).collect())
    };
    const KIND: &str =
        "SELECT relkind::text FROM pg_class WHERE oid = to_regclass($1) AND relkind IN ('r', 'p')";
    if names(KIND)?.is_empty() {
        return Err(is_no_table(name, &found));
    }
    const REFERRING: &str = "SELECT DISTINCT conrelid::regclass::text FROM pg_constraint WHERE confrelid = to_regclass($1) AND contype = 'f' ORDER BY 1";
    const INDEXES: &str = "SELECT relname::text FROM pg_class \
        WHERE relnamespace = (SELECT relnamespace FROM pg_class WHERE oid = to_regclass($1)) ORDER BY 1";
    let (referring, indexes) = (names(REFERRING)?, names(INDEXES)?);
    let statement = client.prepare(&format!("SELECT * FROM {quoted}")).map_err(failed)?;
    let key = primary_key(&mut client, &found).map_err(failed)?;
    Ok(TableDescription { table: found, columns: names_of(&statement), key, referring, indexes })
}
