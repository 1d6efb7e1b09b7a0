//! The table that is to be guarded, as the database describes it.

use std::path::Path;

use rusqlite::{Connection, OpenFlags, OptionalExtension as _};
use ypogram_io::{Error, Result, SourcePlace, SqlDialect, TableDescription, describe_table, nearest};

use crate::sql::functions::SqlFunctions as _;

/// The table that is to be guarded.
#[derive(Clone, Debug)]
pub(super) struct GuardedTable {
    /// The SQL of its database.
    pub(super) sql: SqlDialect,
    /// Its name, as it is written in the database.
    pub(super) table: String,
    /// The column with the addresses.
    pub(super) column: String,
    /// What tells a row from all others: expressions of SQL.
    pub(super) row_id: Vec<String>,
    /// Tables with rows that refer to those of this one.
    pub(super) referring: Vec<String>,
    /// The names of all its columns.
    columns: Vec<String>,
    /// The names of all indexes of the database.
    indexes: Vec<String>,
}

impl GuardedTable {
    /// Reads the description of `table` in the database at `path`, whose `column` holds addresses.
    ///
    /// # Errors
    /// Where it is no database or is damaged, there is no such table or column (the nearest is named), or it is a view.
    pub(super) fn read(path: &Path, table: &str, column: &str) -> Result<Self> {
        let place = SourcePlace::of(path);
        let guarded = match SqlDialect::of(&place) {
            SqlDialect::Sqlite => GuardedTable::of_sqlite(path, table, column)?,
            sql => GuardedTable::of_server(&place, sql, table)?,
        };
        guarded.with_column(&path.display().to_string(), column)
    }

    /// A table of a server, whose rows the primary key identifies.
    fn of_server(place: &SourcePlace, sql: SqlDialect, table: &str) -> Result<Self> {
        let TableDescription { table, columns, key, referring, indexes } = describe_table(place, table)?;
        if key.is_empty() {
            return Err(Error::unusable(
                format!(
                    "{}: the table ‘{table}’ has no primary key, which would identify its rows",
                    place.file.display()
                ),
                "give it one",
            ));
        }
        let row_id = key.iter().map(|column| sql.name(column)).collect();
        Ok(GuardedTable { sql, table, column: String::new(), row_id, referring, columns, indexes })
    }

    /// The same with the column of that name, in whatever letter case.
    fn with_column(mut self, shown: &str, column: &str) -> Result<Self> {
        let (columns, table) = (&self.columns, &self.table);
        let Some(column) = columns.iter().find(|known| known.eq_ignore_ascii_case(column)).cloned() else {
            let hint = match nearest(column, columns.iter().map(String::as_str)) {
                Some(like) => format!("did you mean {shown}#{table}.{like}?"),
                None => format!("its columns are: {}", columns.join(", ")),
            };
            return Err(Error::unusable(format!("{shown}: ‘{table}’ has no column ‘{column}’"), hint));
        };
        self.column = column;
        Ok(self)
    }

    fn of_sqlite(path: &Path, table: &str, column: &str) -> Result<Self> {
        let shown = path.display().to_string();
        let failed = |error: rusqlite::Error| Error::unusable(format!("{shown}: {error}"), "");
        if !path.is_file() {
            return Err(Error::unusable(format!("{shown}: file not found"), "name a database that is there"));
        }
        let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
        let database = Connection::open_with_flags(path, flags).map_err(failed)?;
        let names = |query: &str, of: &[&str]| -> Result<Vec<String>> {
            let mut statement = database.prepare(query).map_err(failed)?;
            let rows = statement.query_map(rusqlite::params_from_iter(of), |row| row.get(0));
            rows.and_then(Iterator::collect).map_err(failed)
        };
        let found: Option<(String, String, bool)> = database
            .query_row(
                "SELECT name, type, wr FROM pragma_table_list WHERE schema = 'main' AND name = ?1 COLLATE NOCASE",
                [table],
                |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)),
            )
            .optional()
            .map_err(failed)?;
        let Some((table, kind, without_rowid)) = found else {
            let query = "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\'";
            let tables = names(query, &[])?;
            let hint = match nearest(table, tables.iter().map(String::as_str)) {
                Some(like) => format!("did you mean {shown}#{like}.{column}?"),
                None => format!("its tables are: {}", tables.join(", ")),
            };
            return Err(Error::unusable(format!("{shown}: there is no table ‘{table}’"), hint));
        };
        if kind != "table" {
            return Err(Error::unusable(
                format!("{shown}: ‘{table}’ is a {kind}, and holds no rows of its own"),
                "name the table whose rows it shows",
            ));
        }
        let columns = names("SELECT name FROM pragma_table_xinfo(?1)", &[&table])?;
        let row_id = match without_rowid {
            true => {
                let key =
                    names("SELECT name FROM pragma_table_info(?1) WHERE pk > 0 ORDER BY pk", &[&table])?;
                key.iter().map(|column| SqlDialect::Sqlite.name(column)).collect()
            }
            false => {
                let is_free = |id: &&str| !columns.iter().any(|column| column.eq_ignore_ascii_case(id));
                let free = ["rowid", "_rowid_", "oid"].into_iter().find(is_free);
                vec![free.unwrap_or("rowid").to_owned()]
            }
        };
        let referring = names(
            "SELECT DISTINCT l.name FROM pragma_table_list AS l JOIN pragma_foreign_key_list(l.name) AS f \
             WHERE l.schema = 'main' AND f.\"table\" = ?1 COLLATE NOCASE ORDER BY l.name",
            &[&table],
        )?;
        let indexes = names("SELECT name FROM sqlite_schema WHERE type = 'index'", &[])?;
        let (sql, column) = (SqlDialect::Sqlite, String::new());
        Ok(GuardedTable { sql, table, column, row_id, referring, columns, indexes })
    }

    /// The name of the key column: the one that was asked for, else the column's with `_key` behind it.
    ///
    /// # Errors
    /// Where there is one of that name.
    pub(super) fn key_column(&self, asked: Option<&str>) -> Result<String> {
        let key = asked.map_or_else(|| format!("{}_key", self.column), str::to_owned);
        match self.columns.iter().any(|column| column.eq_ignore_ascii_case(&key)) {
            true => Err(Error::unusable(
                format!("‘{}’ has a column ‘{key}’ already", self.table),
                "where it is guarded, nothing is left to do; else name the column with --key-column NAME",
            )),
            false => Ok(key),
        }
    }

    /// A name for the index that no other has.
    pub(super) fn index_name(&self, key: &str) -> String {
        let plain = format!("{}_{key}", self.table);
        let is_free = |name: &String| !self.indexes.iter().any(|index| index.eq_ignore_ascii_case(name));
        let numbered = (2..).map(|nth| format!("{plain}_{nth}"));
        std::iter::once(plain.clone()).chain(numbered).find(is_free).unwrap_or(plain)
    }

    /// The rows with what tells them apart, the address as SQL has it, and the key that the database makes of it, before all columns.
    pub(super) fn query(&self, key: &str) -> String {
        let sql = self.sql;
        let ids: Vec<String> = self.row_id.iter().map(|id| sql.quoted(id)).collect();
        let between: Vec<&str> = ids.iter().flat_map(|id| [sql.separator(), id]).skip(1).collect();
        let ids = sql.joined(&between);
        let (column, table) = (sql.name(&self.column), sql.table(&self.table));
        let order = self.row_id.join(", ");
        // MariaDB wants a name before the star where other columns stand in front.
        let all = format!("{table}.*");
        format!(
            "SELECT {ids} AS {ROW_ID}, {} AS {VALUE}, {key} AS {KEY}, {all} FROM {table} ORDER BY {order}",
            sql.quoted(&column)
        )
    }

    /// What holds for one row alone; `literals` are those of [`query`](Self::query).
    pub(super) fn is_row(&self, literals: &str) -> String {
        let ids = self.row_id.iter().zip(literals.split('\u{1F}'));
        ids.map(|(id, literal)| format!("{id} = {literal}")).collect::<Vec<_>>().join(" AND ")
    }
}

/// What the columns are called that stand before those of the table.
pub(super) const ROW_ID: &str = "yp_guard_row";
/// The address as SQL has it.
pub(super) const VALUE: &str = "yp_guard_value";
/// The key that the database makes of it.
pub(super) const KEY: &str = "yp_guard_key";
