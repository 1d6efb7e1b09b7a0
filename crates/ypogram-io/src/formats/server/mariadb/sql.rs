//! What reading and writing have in common: names and texts in SQL, and errors.

use crate::formats::sql_dialect::SqlDialect;
use crate::records::error::Error;

/// What is behind the name of a table while it is being filled, or is about to be removed.
pub(super) const UNFINISHED: &str = "~ypogram";
pub(super) const REPLACED: &str = "~replaced";

/// Whether a run was filling that table, or replacing it.
pub(super) fn is_unfinished(table: &str) -> bool {
    table.ends_with(UNFINISHED) || table.ends_with(REPLACED)
}

/// What does not fit into a column is refused, and nothing counts before COMMIT.
pub(super) const STRICTLY: &str =
    "SET sql_mode = 'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,NO_AUTO_VALUE_ON_ZERO', autocommit = 0";

/// A name as SQL has it.
pub(super) fn quoted(name: &str) -> String {
    SqlDialect::MariaDb.name(name)
}

/// A text as SQL has it.
pub(super) fn text(text: &str) -> String {
    SqlDialect::MariaDb.text(text)
}

/// The error of a server or of the way to it, and what to do where more is known.
pub(super) fn failed(name: &str, error: &mysql::Error) -> Error {
    let hint = match error {
        mysql::Error::MySqlError(told) => match told.code {
            1045 | 1698 => "see user and password: MYSQL_PWD, or [client] in ~/.my.cnf; docs/databases.md",
            1044 | 1142 | 1143 | 1227 => "ask for the right to it, or take another user",
            1153 | 1301 => "raise max_allowed_packet on the server, or leave the column out with --columns",
            1205 | 1213 => "another program holds the rows; run it again",
            1317 | 1927 | 1053 => "somebody or a limit of the server ended it; run it again",
            _ => "",
        },
        mysql::Error::IoError(_) | mysql::Error::CodecError(_) | mysql::Error::DriverError(_) => {
            return Error::unusable(
                format!("{name}: the connection broke off: {}", told(error)),
                "nothing was published; see whether the server runs, and run it again",
            );
        }
        _ => "",
    };
    Error::unusable(format!("{name}: {}", told(error)), hint)
}

/// What an error says.
pub(super) fn told(error: &mysql::Error) -> String {
    match error {
        mysql::Error::MySqlError(error) => error.message.clone(),
        mysql::Error::IoError(error) => error.to_string(),
        mysql::Error::TlsError(error) => error.to_string(),
        mysql::Error::DriverError(error) => error.to_string(),
        error => error.to_string(),
    }
}
