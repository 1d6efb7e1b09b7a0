//! Tables put into a database that others use, all in one transaction.

use std::path::Path;

use rusqlite::types::ToSqlOutput;
use rusqlite::{Connection, OpenFlags, OptionalExtension as _};

use crate::formats::sqlite::rows::not_written;
use crate::formats::sqlite::source::{connect, table_names};
use crate::formats::sqlite::sql::{failed, quoted};
use crate::records::error::Result;

/// Whether the database at `path` has a table, a view or an index of that name.
///
/// # Errors
/// Where it is no database, or is damaged.
pub fn has_table(path: &Path, table: &str) -> Result<bool> {
    let there = "SELECT 1 FROM sqlite_schema WHERE name = ?1 COLLATE NOCASE";
    let asked = connect(path).and_then(|database| database.query_row(there, [table], |_| Ok(())).optional());
    asked.map(|there| there.is_some()).map_err(|error| failed(&path.display().to_string(), &error))
}

/// A database into which tables are put. Dropped before it is committed, it leaves the database as it was.
pub struct DatabaseUpdate {
    database: Connection,
    name: String,
}

impl DatabaseUpdate {
    /// Begins to write into the database at `path`, which is there; nobody else writes to it until that is done.
    ///
    /// # Errors
    /// Where it cannot be opened, or another program writes to it.
    pub fn begin(path: &Path) -> Result<Self> {
        let name = path.display().to_string();
        let begun = || {
            let flags = OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX;
            let database = Connection::open_with_flags(path, flags)?;
            // Others go on reading until it is committed.
            database.execute_batch("PRAGMA cache_spill = OFF; BEGIN IMMEDIATE")?;
            Ok(database)
        };
        match begun() {
            Ok(database) => Ok(DatabaseUpdate { database, name }),
            Err(error) => Err(not_written(&name, &error)),
        }
    }

    /// Puts every table of the database `from` into this one, in the place of those of their names.
    ///
    /// # Errors
    /// Where `from` is damaged, or this one cannot be written.
    pub fn take_tables(&mut self, from: &Path) -> Result<()> {
        for table in table_names(from, &from.display().to_string())? {
            self.take_table(from, &table).map_err(|error| not_written(&self.name, &error))?;
        }
        Ok(())
    }

    fn take_table(&mut self, from: &Path, table: &str) -> rusqlite::Result<()> {
        let from = connect(from)?;
        let made = "SELECT sql FROM sqlite_schema WHERE type = 'table' AND name = ?1";
        let made: String = from.query_row(made, [table], |row| row.get(0))?;
        let there = "SELECT type FROM sqlite_schema WHERE name = ?1 COLLATE NOCASE";
        let there: Option<String> = self.database.query_row(there, [table], |row| row.get(0)).optional()?;
        let name = quoted(table);
        let drop = there.map_or_else(String::new, |kind| format!("DROP {kind} {name};"));
        self.database.execute_batch(&format!("{drop} {made}"))?;
        let mut rows = from.prepare(&format!("SELECT * FROM {name}"))?;
        let width = rows.column_count();
        let insert = format!("INSERT INTO {name} VALUES ({})", vec!["?"; width].join(", "));
        let mut insert = self.database.prepare(&insert)?;
        let mut rows = rows.query([])?;
        while let Some(row) = rows.next()? {
            for column in 0..width {
                insert.raw_bind_parameter(column + 1, ToSqlOutput::Borrowed(row.get_ref(column)?))?;
            }
            insert.raw_execute()?;
        }
        Ok(())
    }

    /// Makes it count.
    ///
    /// # Errors
    /// Where it cannot be written, or somebody reads it for long.
    pub fn commit(self) -> Result<()> {
        self.database.execute_batch("COMMIT").map_err(|error| not_written(&self.name, &error))
    }
}
