//! What reading and writing have in common: names, and errors.

use rusqlite::{Connection, Statement};

use crate::formats::sql_dialect::SqlDialect;
use crate::records::error::{Error, Result};

/// A name as SQL has it.
pub(super) fn quoted(name: &str) -> String {
    SqlDialect::Sqlite.name(name)
}

/// The columns of `statement`. Their names come out of the definitions in the database `name`, whose bytes SQLite does not look at.
///
/// # Errors
/// Where a definition is not UTF-8, or cannot be read.
pub(super) fn columns_of(
    statement: &Statement<'_>,
    database: &Connection,
    name: &str,
) -> Result<Vec<String>> {
    let failed = |error: rusqlite::Error| failed(name, &error);
    let mut definitions = database.prepare("SELECT name, sql FROM sqlite_schema").map_err(failed)?;
    let mut rows = definitions.query([]).map_err(failed)?;
    while let Some(row) = rows.next().map_err(failed)? {
        let bytes =
            |column| row.get_ref(column).ok().and_then(|cell| cell.as_bytes().ok()).unwrap_or_default();
        if std::str::from_utf8(bytes(1)).is_err() {
            let of = String::from_utf8_lossy(bytes(0));
            return Err(Error::unusable(
                format!("{name}: the definition of ‘{of}’ is not in UTF-8"),
                "give its columns names in UTF-8, as with ALTER TABLE … RENAME COLUMN; damage can show like that too",
            ));
        }
    }
    Ok(statement.column_names().map(str::to_owned).collect())
}

/// The error of a database, and what to do where more is known than SQLite says.
pub(super) fn failed(name: &str, error: &rusqlite::Error) -> Error {
    let text = error.to_string();
    let hint = match error.sqlite_error_code() {
        Some(rusqlite::ErrorCode::NotADatabase | rusqlite::ErrorCode::DatabaseCorrupt) => {
            "the database is damaged; see what `PRAGMA integrity_check` says about it"
        }
        Some(rusqlite::ErrorCode::DatabaseBusy | rusqlite::ErrorCode::DatabaseLocked) => {
            "another program writes to it; try again once it is done"
        }
        Some(rusqlite::ErrorCode::DiskFull) => "make room, or choose another place",
        Some(rusqlite::ErrorCode::ReadOnly) => "choose a place that can be written to",
        Some(rusqlite::ErrorCode::CannotOpen) => {
            "see whether it can be opened, and whether files can be made beside it: SQLite keeps a journal there"
        }
        _ => "",
    };
    Error::unusable(format!("{name}: {text}"), hint)
}
