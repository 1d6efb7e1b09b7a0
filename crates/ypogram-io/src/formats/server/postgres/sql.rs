//! What reading and writing have in common: the names of tables, and errors.

use crate::formats::sql_dialect::SqlDialect;
use crate::records::error::Error;

/// A name as SQL has it.
pub(super) fn quoted(name: &str) -> String {
    SqlDialect::Postgres.name(name)
}

/// A table that may stand behind the name of its schema.
pub(super) fn table(name: &str) -> String {
    SqlDialect::Postgres.table(name)
}

/// The error of a server, and what to do where more is known.
pub(super) fn failed(name: &str, error: &postgres::Error) -> Error {
    let (text, hint) = match error.as_db_error() {
        Some(told) => {
            let detail = told.detail().map_or_else(String::new, |detail| format!(" ({detail})"));
            let hint = match told.code().code() {
                "28P01" | "28000" => {
                    "see user and password: PGPASSWORD, or a line in the password file; docs/databases.md"
                }
                "42501" => "ask for the right to it, or take another user",
                "57014" | "57P01" => "somebody or a limit of the server ended it; run it again",
                _ => told.hint().unwrap_or_default(),
            };
            let row =
                told.where_().and_then(copied_row).map_or_else(String::new, |row| format!("row {row}: "));
            (format!("{row}{}{detail}", told.message()), hint.to_owned())
        }
        None if error.is_closed() || is_cut(error) => return cut(name, &whole(error)),
        None => (whole(error), String::new()),
    };
    Error::unusable(format!("{name}: {text}"), hint)
}

/// The row at which COPY stopped, of a text such as `COPY people, line 7, column mail: "x"`.
fn copied_row(place: &str) -> Option<u64> {
    let (_, behind) = place.strip_prefix("COPY ")?.split_once(", line ")?;
    behind.split(|c: char| !c.is_ascii_digit()).next()?.parse().ok()
}

/// The error where rows could not be sent or did not come: that of the server, where there is one.
#[cold]
pub(super) fn broke_off(name: &str, error: &std::io::Error) -> Error {
    match error.get_ref().and_then(|inner| inner.downcast_ref::<postgres::Error>()) {
        Some(error) => failed(name, error),
        None => cut(name, &error.to_string()),
    }
}

fn cut(name: &str, why: &str) -> Error {
    Error::unusable(
        format!("{name}: the connection broke off: {why}"),
        "nothing was published; see whether the server runs, and run it again",
    )
}

fn is_cut(error: &postgres::Error) -> bool {
    std::error::Error::source(error).is_some_and(|source| source.downcast_ref::<std::io::Error>().is_some())
}

/// The error with what caused it.
pub(super) fn whole(error: &dyn std::error::Error) -> String {
    let mut text = error.to_string();
    let mut cause = error.source();
    while let Some(error) = cause {
        let told = error.to_string();
        if !text.contains(&told) {
            text = format!("{text}: {told}");
        }
        cause = error.source();
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_row_at_which_copy_stopped() {
        for (place, row) in [
            ("COPY people, line 7, column mail: \"x\"", Some(7)),
            ("COPY sales.people, line 12", Some(12)),
            ("COPY people, line x", None),
            ("PL/pgSQL function f() line 3 at RAISE", None),
        ] {
            assert_eq!(copied_row(place), row, "{place}");
        }
    }
}
