//! What reading and writing have in common: names, and errors.

use crate::formats::sql_dialect::SqlDialect;
use crate::records::error::Error;

/// A name as SQL has it.
pub(super) fn quoted(name: &str) -> String {
    SqlDialect::Sqlite.name(name)
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
