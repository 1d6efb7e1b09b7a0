//! Rows as a new table of a database.

use std::io::{self, Read as _};
use std::path::Path;
use std::sync::Arc;

use rusqlite::Connection;
use rusqlite::types::{ToSqlOutput, ValueRef};
use tempfile::TempDir;

use crate::formats::sql::{columns_to_fill, refuse_same_names, table_is_not_there, table_is_there};
use crate::formats::sqlite::sql::{columns_of, failed, quoted};
use crate::output::temporary_folder;
use crate::records::error::{Error, Result};
use crate::records::packed::PackedRows;
use crate::records::value::Value;
use crate::rows::{
    Enclose, EncodeRows, IfThere, MakeEnclosure, OutputPlace, OwnFields, PackedRowEncoder, Projection,
    TakeBytes,
};

/// Writes rows as a table.
pub(crate) fn encoder(own: Vec<OwnFields>, projection: Arc<Projection>) -> Box<dyn EncodeRows> {
    let columns: Vec<String> = projection.names().map(str::to_owned).collect();
    let make: MakeEnclosure = Arc::new(move |place| Ok(Box::new(TableFile::new(place, columns.clone())?)));
    Box::new(PackedRowEncoder::new(own, projection, make))
}

/// The column of what a record has beyond its fields, as a JSON array; it is added by the first record that has more.
const SURPLUS: &str = "yp_surplus";

/// Takes packed rows into one transaction: of a database of its own, which is given out at the end, or of one that is there.
struct TableFile {
    database: Connection,
    /// Where the new database is; none where the table goes into one that is there.
    folder: Option<TempDir>,
    /// What to call it in messages.
    name: String,
    table: String,
    columns: Vec<String>,
    insert: String,
    has_surplus: bool,
    /// Whether rows are added to a table that was there.
    is_added_to: bool,
    rows: u64,
}

impl TableFile {
    fn new(place: &OutputPlace, columns: Vec<String>) -> Result<Self> {
        // Names that differ in letter case alone are one.
        refuse_same_names(&columns, str::to_lowercase)?;
        let name =
            place.path.as_deref().map_or_else(|| "the output".to_owned(), |path| path.display().to_string());
        let stem =
            place.path.as_deref().and_then(Path::file_stem).map(|stem| stem.to_string_lossy().into_owned());
        let table = place.part.clone().or(stem).unwrap_or_else(|| "rows".to_owned());
        let output = |error: rusqlite::Error| not_written(&name, &error);
        let (database, folder) = match (&place.path, place.is_in_place) {
            (Some(path), true) => {
                let database = Connection::open(path).map_err(output)?;
                // A source may be read from it meanwhile, which only the end of the transaction has to wait for.
                database.execute_batch("PRAGMA cache_spill = OFF;").map_err(output)?;
                (database, None)
            }
            _ => {
                let folder = temporary_folder()?;
                let database = Connection::open(folder.path().join("new")).map_err(output)?;
                let quick = "PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF;";
                database.execute_batch(quick).map_err(output)?;
                (database, Some(folder))
            }
        };
        let mut file = TableFile {
            database,
            folder,
            name: name.clone(),
            table,
            columns,
            insert: String::new(),
            has_surplus: false,
            is_added_to: false,
            rows: 0,
        };
        file.create(place.if_there)?;
        Ok(file)
    }

    fn create(&mut self, if_there: IfThere) -> Result<()> {
        let output = |error: rusqlite::Error| not_written(&self.name, &error);
        self.database.execute_batch("BEGIN IMMEDIATE").map_err(output)?;
        let there = "SELECT count(*) FROM sqlite_schema WHERE name = ?1 COLLATE NOCASE";
        let there: i64 = self.database.query_row(there, [&self.table], |row| row.get(0)).map_err(output)?;
        match (there > 0, if_there) {
            (true, IfThere::Refuse) => return Err(table_is_there(&self.name, &self.table)),
            (false, IfThere::Append) => return Err(table_is_not_there(&self.name, &self.table)),
            (true, IfThere::Append) => return self.fill_what_is_there(),
            _ => {}
        }
        let table = quoted(&self.table);
        let columns: Vec<String> = self.columns.iter().map(|column| quoted(column)).collect();
        let drop = if there > 0 { format!("DROP TABLE {table};") } else { String::new() };
        let create = format!("{drop} CREATE TABLE {table} ({})", columns.join(", "));
        self.database.execute_batch(&create).map_err(output)?;
        self.insert = insert(&table, self.columns.len());
        Ok(())
    }

    /// Adds the rows to the table that is there.
    fn fill_what_is_there(&mut self) -> Result<()> {
        let output = |error: rusqlite::Error| not_written(&self.name, &error);
        let table = quoted(&self.table);
        let of_table: Vec<String> = {
            let statement = self.database.prepare(&format!("SELECT * FROM {table}")).map_err(output)?;
            columns_of(&statement, &self.database, &self.name)?
        };
        let places = columns_to_fill(&self.name, &self.table, &self.columns, &of_table)?;
        let columns: Vec<String> = places.iter().map(|place| quoted(&of_table[*place])).collect();
        self.insert = insert(&format!("{table} ({})", columns.join(", ")), columns.len());
        self.is_added_to = true;
        Ok(())
    }

    fn add_surplus_column(&mut self) -> Result<()> {
        if self.is_added_to {
            return Err(Error::output(
                format!("{}: a record has more cells than its table has columns", self.name),
                "mend the record, or write a table of its own",
            ));
        }
        let table = quoted(&self.table);
        let alter = format!("ALTER TABLE {table} ADD COLUMN {}", quoted(SURPLUS));
        self.database.execute_batch(&alter).map_err(|error| not_written(&self.name, &error))?;
        self.insert = insert(&table, self.columns.len() + 1);
        self.has_surplus = true;
        Ok(())
    }
}

fn insert(table: &str, columns: usize) -> String {
    format!("INSERT INTO {table} VALUES ({})", vec!["?"; columns].join(", "))
}

impl Enclose for TableFile {
    fn rows(&mut self, rows: &[u8], _: &mut dyn TakeBytes) -> Result<()> {
        PackedRows::of(rows).each_row(|cells| {
            let width = self.columns.len();
            if cells.len() > width && !self.has_surplus {
                self.add_surplus_column()?;
            }
            let name = &self.name;
            let output = |error: rusqlite::Error| not_written(name, &error);
            let mut statement = self.database.prepare_cached(&self.insert).map_err(output)?;
            for (column, (value, text)) in cells.iter().take(width).enumerate() {
                statement.raw_bind_parameter(column + 1, stored(*value, text)).map_err(output)?;
            }
            if self.has_surplus {
                let surplus = (cells.len() > width).then(|| json_of(&cells[width..]));
                statement.raw_bind_parameter(width + 1, surplus).map_err(output)?;
            }
            self.rows += 1;
            let row = self.rows;
            let refused = |error| not_written(&format!("{name}: row {row}"), &error);
            statement.raw_execute().map(drop).map_err(refused)
        })
    }

    fn end(&mut self, out: &mut dyn TakeBytes) -> Result<()> {
        let output = |error: rusqlite::Error| not_written(&self.name, &error);
        self.database.flush_prepared_statement_cache();
        self.database.execute_batch("COMMIT").map_err(output)?;
        let Some(folder) = &self.folder else { return Ok(()) };
        let failed = |error: io::Error| Error::temporary(folder.path(), &error);
        let mut file = std::fs::File::open(folder.path().join("new")).map_err(failed)?;
        let mut block = vec![0; 64 << 10];
        loop {
            match file.read(&mut block).map_err(failed)? {
                0 => return Ok(()),
                read => out.take(&block[..read])?,
            }
        }
    }
}

/// What is stored of a cell: dates and times as text, yes and no as 1 and 0.
fn stored<'v>(value: Value<'v>, text: &'v [u8]) -> ToSqlOutput<'v> {
    ToSqlOutput::Borrowed(match value {
        Value::Missing | Value::Null => ValueRef::Null,
        Value::Bool(yes) => ValueRef::Integer(yes.into()),
        Value::Integer(number) => ValueRef::Integer(number),
        Value::Float(number) => ValueRef::Real(number),
        Value::Bytes(bytes) => ValueRef::Blob(bytes),
        Value::Text(_) | Value::Decimal(_) | Value::Json(_) => ValueRef::Text(text),
        Value::Date(_) | Value::DateTime(_) | Value::Time(_) => ValueRef::Text(text),
    })
}

/// Cells as a JSON array of texts.
fn json_of(cells: &[(Value<'_>, &[u8])]) -> String {
    let texts: Vec<_> = cells.iter().map(|(_, text)| String::from_utf8_lossy(text)).collect();
    serde_json::to_string(&texts).expect("plain texts")
}

pub(super) fn not_written(name: &str, error: &rusqlite::Error) -> Error {
    let Error { message, hint, .. } = failed(name, error);
    Error::output(message, hint)
}
