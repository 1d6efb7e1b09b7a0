//! A table on a server, as the server describes it.

use crate::records::error::{Error, Result};
#[cfg(any(feature = "mysql", feature = "postgres"))]
use crate::records::format::Format;
use crate::records::format::on_server;
use crate::records::place::SourcePlace;

/// A table on a server, as the server describes it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct TableDescription {
    /// Its name, as it is written there.
    pub table: String,
    /// All its columns.
    pub columns: Vec<String>,
    /// The columns of its primary key, in its order.
    pub key: Vec<String>,
    /// Tables with rows that refer to those of this one.
    pub referring: Vec<String>,
    /// The names that an index of it cannot have.
    pub indexes: Vec<String>,
}

/// Describes the table that is called `table`, in whatever letter case, in the database at `place`.
///
/// # Errors
/// Where it is no database on a server, nobody answers, or there is no such table or it is a view.
pub fn describe_table(place: &SourcePlace, table: &str) -> Result<TableDescription> {
    let name = place.file.display().to_string();
    match on_server(&place.file) {
        #[cfg(feature = "postgres")]
        Some(Format::Postgres) => super::postgres::describe(&place.file, &name, table),
        #[cfg(feature = "mysql")]
        Some(Format::MariaDb) => super::mariadb::describe(&place.file, &name, table),
        _ => Err(Error::unusable(
            format!("{name}: this build of the program knows no table ‘{table}’ there"),
            "name a table of a server that it reads: docs/databases.md",
        )),
    }
}
