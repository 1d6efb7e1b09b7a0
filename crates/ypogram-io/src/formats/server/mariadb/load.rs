//! Rows loaded into a table: as a file that the server asks for, where it does, else in statements.

use std::io::Write as _;
use std::sync::{Arc, Mutex, PoisonError};

use mysql::prelude::Queryable as _;
use mysql::{Conn, LocalInfileHandler};

use crate::formats::server::copy_text::{NULL, raw_cells, write_text};
use crate::formats::server::mariadb::sql::{failed, quoted};
use crate::formats::server::table_writer::Block;
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result};
use crate::records::value::Value;

/// Loads blocks of rows into columns of a table.
pub(super) struct Loader {
    pub(super) conn: Conn,
    /// The database, as it is shown.
    name: String,
    table: String,
    columns: Vec<String>,
    types: Vec<ColumnType>,
    /// Whether the server takes rows as a file; else they are sent in statements, which takes it twice as long.
    takes_files: bool,
    /// The file that it is to read next.
    file: Arc<Mutex<Vec<u8>>>,
}

impl Loader {
    pub(super) fn new(
        mut conn: Conn,
        (name, table): (&str, &str),
        columns: Vec<String>,
        types: Vec<ColumnType>,
    ) -> Self {
        let file = Arc::new(Mutex::new(Vec::new()));
        let read = Arc::clone(&file);
        conn.set_local_infile_handler(Some(LocalInfileHandler::new(move |_, to| {
            to.write_all(&read.lock().unwrap_or_else(PoisonError::into_inner))
        })));
        let (name, table) = (name.to_owned(), table.to_owned());
        Loader { conn, name, table, columns, types, takes_files: true, file }
    }

    /// Sends a block.
    ///
    /// # Errors
    /// Where the connection is cut, or the server cannot hold a cell as it is.
    pub(super) fn send(&mut self, block: Block) -> Result<()> {
        const NO_FILES: [u16; 3] = [1148, 3948, 4166];
        let before = block.before;
        *self.file.lock().unwrap_or_else(PoisonError::into_inner) = block.bytes;
        if self.takes_files {
            match self.conn.query_drop(self.load()) {
                Err(mysql::Error::MySqlError(told)) if NO_FILES.contains(&told.code) => {
                    self.takes_files = false
                }
                loaded => loaded.map_err(|error| self.failed_at(error, before))?,
            }
        }
        if !self.takes_files {
            let insert = self.insert();
            self.conn.query_drop(insert).map_err(|error| self.failed_at(error, before))?;
        }
        if self.conn.warnings() == 0 {
            return Ok(());
        }
        // What is written should be what was there, and not something like it.
        let warning: Option<(String, u16, String)> =
            self.conn.query_first("SHOW WARNINGS LIMIT 1").map_err(|error| failed(&self.name, &error))?;
        let told = warning.map_or_else(String::new, |(_, _, told)| with_its_row(&told, before));
        Err(Error::output(
            format!("{}: {told}", self.name),
            "the server cannot hold it as it is; mend the cell, or leave the column out with --columns",
        ))
    }

    fn failed_at(&self, error: mysql::Error, before: u64) -> Error {
        match error {
            mysql::Error::MySqlError(mut told) => {
                told.message = with_its_row(&told.message, before);
                failed(&self.name, &mysql::Error::MySqlError(told))
            }
            error => failed(&self.name, &error),
        }
    }

    /// The statement that has the server ask for the rows as a file.
    fn load(&self) -> String {
        let (mut columns, mut bytes) = (Vec::new(), Vec::new());
        for (nth, (column, of)) in self.columns.iter().zip(&self.types).enumerate() {
            let column = quoted(column);
            match of {
                ColumnType::Bytes => {
                    bytes.push(format!("{column} = UNHEX(@c{nth})"));
                    columns.push(format!("@c{nth}"));
                }
                _ => columns.push(column),
            }
        }
        let set = if bytes.is_empty() { String::new() } else { format!(" SET {}", bytes.join(", ")) };
        let table = quoted(&self.table);
        format!(
            "LOAD DATA LOCAL INFILE 'rows' INTO TABLE {table} CHARACTER SET utf8mb4 ({}){set}",
            columns.join(", ")
        )
    }

    /// The statement that has the rows in it. What is escaped in a file is so in a text, but for the mark that ends one.
    fn insert(&self) -> String {
        let columns: Vec<String> = self.columns.iter().map(|column| quoted(column)).collect();
        let mut sql =
            format!("INSERT INTO {} ({}) VALUES ", quoted(&self.table), columns.join(", ")).into_bytes();
        let file = self.file.lock().unwrap_or_else(PoisonError::into_inner);
        let lines = file.strip_suffix(b"\n").unwrap_or(&file).split(|byte| *byte == b'\n');
        for (nth, line) in lines.enumerate() {
            sql.extend_from_slice(if nth > 0 { b",(" } else { b"(" });
            for (nth, (cell, of)) in raw_cells(line).zip(&self.types).enumerate() {
                sql.extend_from_slice(if nth > 0 { b"," } else { b"" });
                match (cell, of) {
                    (NULL, _) => sql.extend_from_slice(b"NULL"),
                    (cell, of) => {
                        sql.extend_from_slice(if *of == ColumnType::Bytes { b"X'" } else { b"'" });
                        cell.iter().for_each(|byte| match byte {
                            b'\'' => sql.extend_from_slice(b"''"),
                            byte => sql.push(*byte),
                        });
                        sql.push(b'\'');
                    }
                }
            }
            sql.push(b')');
        }
        String::from_utf8(sql).expect("cells are UTF-8")
    }
}

/// The message of a server that counts the rows of a block, with its rows counted from the first of all.
fn with_its_row(message: &str, before: u64) -> String {
    let counted =
        message.rsplit_once(" at row ").and_then(|(what, row)| Some((what, row.parse::<u64>().ok()?)));
    counted.map_or_else(|| message.to_owned(), |(what, row)| format!("{what} at row {}", before + row))
}

/// Appends a cell as it stands in a file.
pub(super) fn write_cell(
    value: Value<'_>,
    text: &[u8],
    of: ColumnType,
    out: &mut Vec<u8>,
) -> std::result::Result<(), String> {
    match (value, of) {
        (Value::Missing | Value::Null, _) => out.extend_from_slice(NULL),
        (Value::Bytes(bytes), ColumnType::Bytes) => {
            out.extend_from_slice(data_encoding::HEXLOWER.encode(bytes).as_bytes());
        }
        (_, of) if text.is_empty() && of != ColumnType::Text => out.extend_from_slice(NULL),
        (_, ColumnType::Bytes) => {
            out.extend_from_slice(data_encoding::HEXLOWER.encode(text).as_bytes());
        }
        (_, ColumnType::Bool) if matches!(text, b"true" | b"false") => {
            out.push(if text == b"true" { b'1' } else { b'0' });
        }
        _ => write_text(text, out),
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_of_a_block_are_counted_from_the_first_of_all() {
        for (message, told) in [
            ("Data too long for column 'no' at row 3", "Data too long for column 'no' at row 1003"),
            ("Duplicate entry ' at row ' for key 'PRIMARY'", "Duplicate entry ' at row ' for key 'PRIMARY'"),
            ("Server shutdown in progress", "Server shutdown in progress"),
        ] {
            assert_eq!(with_its_row(message, 1000), told);
        }
    }
}
