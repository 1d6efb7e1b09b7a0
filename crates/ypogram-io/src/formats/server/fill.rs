//! The columns of a table on a server that a judgement is written into, beside the rows that were judged.

use std::path::Path;

use crate::formats::server::describe::{TableDescription, describe_table};
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result, some_of};
#[cfg(any(feature = "mysql", feature = "postgres"))]
use crate::records::format::Format;
use crate::records::format::on_server;
use crate::records::place::SourcePlace;

/// A table whose columns are to be filled.
#[derive(Clone, Debug)]
pub struct TableToFill {
    place: SourcePlace,
    /// The database and the table, as they are shown.
    pub name: String,
    /// The columns of its primary key.
    pub key: Vec<String>,
    /// The columns that are filled, and what each holds.
    pub columns: Vec<(String, ColumnType)>,
    /// Those of them that it lacks.
    pub lacking: Vec<String>,
}

impl TableToFill {
    /// The table at `path`, with those columns; nothing is changed yet.
    ///
    /// # Errors
    /// Where it is no table on a server, nobody answers, or it has no primary key.
    pub fn find(path: &Path, columns: Vec<(String, ColumnType)>) -> Result<Self> {
        let place = SourcePlace::of(path);
        let name = path.display().to_string();
        let table = match &place.part {
            Some(part) if place.is_on_server() && !SourcePlace::is_query(part) => part.clone(),
            _ => {
                return Err(Error::unusable(
                    format!("{name}: columns are filled in a table of a PostgreSQL or MariaDB server"),
                    "name the table, as in postgres://user@host/database#people, or write a table of its own with -o",
                ));
            }
        };
        let TableDescription { columns: there, key, .. } = describe_table(&place, &table)?;
        if key.is_empty() {
            return Err(Error::unusable(
                format!(
                    "{name}: the table ‘{table}’ has no primary key, by which its rows could be found again"
                ),
                "give it one, or write a table of its own with -o",
            ));
        }
        if let Some((column, _)) = columns.iter().find(|(column, _)| key.contains(column)) {
            return Err(Error::unusable(
                format!("{name}: the column ‘{column}’ is of the primary key"),
                "give Ypogram's columns another prefix with --prefix",
            ));
        }
        let lacking = columns
            .iter()
            .map(|(column, _)| column)
            .filter(|column| !there.contains(column))
            .cloned()
            .collect();
        Ok(TableToFill { place, name, key, columns, lacking })
    }

    /// What is about to be done, in words: which columns of which table, by which key.
    pub fn described(&self) -> String {
        let names: Vec<String> = self.columns.iter().map(|(column, _)| column.clone()).collect();
        let added = match self.lacking.is_empty() {
            true => String::new(),
            false => format!("; {} would be added", some_of(&self.lacking)),
        };
        format!("{} would be filled, by the primary key {}{added}", names.join(", "), self.key.join(", "))
    }

    /// Adds the columns that the table lacks.
    ///
    /// # Errors
    /// Where that is not allowed.
    pub fn add_columns(&self) -> Result<()> {
        let lacking = |column: &&(String, ColumnType)| self.lacking.contains(&column.0);
        let lacking: Vec<(String, ColumnType)> = self.columns.iter().filter(lacking).cloned().collect();
        if lacking.is_empty() {
            return Ok(());
        }
        let table = self.place.part.clone().unwrap_or_default();
        let added = match on_server(&self.place.file) {
            #[cfg(feature = "postgres")]
            Some(Format::Postgres) => {
                super::postgres::add_columns(&self.place.file, &self.name, &table, &lacking)
            }
            #[cfg(feature = "mysql")]
            Some(Format::MariaDb) => {
                super::mariadb::add_columns(&self.place.file, &self.name, &table, &lacking)
            }
            _ => Err(not_built(&self.name, &table)),
        };
        added.map_err(|Error { message, hint, .. }| Error::output(message, hint))
    }
}

fn not_built(name: &str, table: &str) -> Error {
    Error::unusable(
        format!("{name}: this build of the program cannot fill columns of ‘{table}’"),
        "build it with --features full",
    )
}
