//! Errors, both of reading and of writing.

use crate::records::error::Error;

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
        _ => "",
    };
    Error::unusable(format!("{name}: {text}"), hint)
}
