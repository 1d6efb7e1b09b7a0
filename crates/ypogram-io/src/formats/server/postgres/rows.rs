//! Rows as a new table of a database: in one transaction, which ends when all are there.

use std::io::Write as _;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread::JoinHandle;

use postgres::Client;

use crate::formats::server::postgres::connect::connect;
use crate::formats::server::postgres::copy_text::escape;
use crate::formats::server::postgres::sql::{failed, table};
use crate::formats::server::postgres::types::declared;
use crate::formats::sql::{quoted, refuse_same_names};
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result};
use crate::records::packed::PackedRows;
use crate::records::value::Value;
use crate::rows::{
    Enclose, EncodeRows, MakeEnclosure, OutputPlace, OwnFields, PackedRowEncoder, Projection, TakeBytes,
};

/// Writes rows as a table.
pub(crate) fn encoder(own: Vec<OwnFields>, projection: Arc<Projection>) -> Box<dyn EncodeRows> {
    let columns: Vec<String> = projection.names().map(str::to_owned).collect();
    let types: Vec<ColumnType> = projection.types().collect();
    let make: MakeEnclosure =
        Arc::new(move |place| Ok(Box::new(TableWriter::begin(place, columns.clone(), types.clone())?)));
    Box::new(PackedRowEncoder::new(own, projection, make))
}

/// Bytes of rows that are sent together, and how many such blocks wait.
const BLOCK: usize = 256 << 10;
const AHEAD: usize = 4;

/// Takes packed rows into a table. A thread of its own sends them, so that the server's work goes on beside the program's.
struct TableWriter {
    name: String,
    columns: Vec<String>,
    types: Vec<ColumnType>,
    block: Vec<u8>,
    rows: u64,
    to: Option<SyncSender<Vec<u8>>>,
    sends: Option<JoinHandle<Result<()>>>,
}

impl TableWriter {
    fn begin(place: &OutputPlace, columns: Vec<String>, types: Vec<ColumnType>) -> Result<Self> {
        let path = place.path.clone().unwrap_or_default();
        let name = path.display().to_string();
        let Some(part) = place.part.clone() else {
            return Err(Error::output(
                format!("{name}: the table to write is not named"),
                format!("name it behind ‘#’, as in {name}#cleaned"),
            ));
        };
        refuse_same_names(&columns, str::to_owned)?;
        let mut client = connect(&path).map_err(as_output)?;
        create(&mut client, &name, &part, (&columns, &types), place.replace)?;
        let copy = format!("COPY {} FROM STDIN", table(&part));
        let (to, from) = sync_channel(AHEAD);
        let sends = Sends { client, path, copy, from };
        let sends = std::thread::spawn(move || sends.run());
        Ok(TableWriter { name, columns, types, block: Vec::new(), rows: 0, to: Some(to), sends: Some(sends) })
    }

    fn send(&mut self) -> Result<()> {
        if self.block.is_empty() {
            return Ok(());
        }
        let block = std::mem::replace(&mut self.block, Vec::with_capacity(BLOCK + BLOCK / 8));
        let to = self.to.as_ref().expect("until the end");
        // Nobody takes it where the thread has failed, which it then tells.
        if to.send(block).is_err() { self.join() } else { Ok(()) }
    }

    fn join(&mut self) -> Result<()> {
        self.to = None;
        match self.sends.take().map(JoinHandle::join) {
            Some(Ok(result)) => result,
            _ => Err(Error::output(format!("{}: writing the table broke off", self.name), "")),
        }
    }
}

/// What the sending thread has.
struct Sends {
    client: Client,
    path: PathBuf,
    copy: String,
    from: Receiver<Vec<u8>>,
}

impl Sends {
    fn run(mut self) -> Result<()> {
        let name = self.path.display().to_string();
        let not_written = |error: postgres::Error| as_output(failed(&name, &error));
        let mut writer = self.client.copy_in(&self.copy).map_err(not_written)?;
        let mut ended = false;
        for block in &self.from {
            // An empty block says that all rows are there; without it the rows are given up.
            if block.is_empty() {
                ended = true;
                break;
            }
            writer.write_all(&block).map_err(|error| broke_off(&name, error))?;
        }
        if !ended {
            return Ok(());
        }
        writer.finish().map_err(not_written)?;
        self.client.batch_execute("COMMIT").map_err(not_written)
    }
}

#[cold]
fn broke_off(name: &str, error: std::io::Error) -> Error {
    let told = error.get_ref().and_then(|inner| inner.downcast_ref::<postgres::Error>());
    match told {
        Some(told) => as_output(failed(name, told)),
        None => Error::output(
            format!("{name}: the connection broke off: {error}"),
            "the table is as it was before; see whether the server runs, and run it again",
        ),
    }
}

fn as_output(error: Error) -> Error {
    let Error { message, hint, .. } = error;
    Error::output(message, hint)
}

fn create(
    client: &mut Client,
    name: &str,
    part: &str,
    (columns, types): (&[String], &[ColumnType]),
    replace: bool,
) -> Result<()> {
    let not_written = |error: postgres::Error| as_output(failed(name, &error));
    let table = table(part);
    client.batch_execute("BEGIN").map_err(not_written)?;
    let there: bool =
        client.query_one("SELECT to_regclass($1) IS NOT NULL", &[&table]).map_err(not_written)?.get(0);
    if there && !replace {
        return Err(Error::output(
            format!("{name}: there is a table ‘{part}’"),
            "choose another name behind ‘#’, or replace it with --force",
        ));
    }
    let drop = if there { format!("DROP TABLE {table}; ") } else { String::new() };
    let of = columns.iter().zip(types).map(|(column, of)| format!("{} {}", quoted(column), declared(*of)));
    let create = format!("{drop}CREATE TABLE {table} ({})", of.collect::<Vec<_>>().join(", "));
    client.batch_execute(&create).map_err(not_written)
}

impl Enclose for TableWriter {
    fn rows(&mut self, rows: &[u8], _: &mut dyn TakeBytes) -> Result<()> {
        let mut packed = PackedRows::of(rows);
        let mut cells: Vec<(Value<'_>, &[u8])> = Vec::new();
        loop {
            cells.clear();
            if !packed.next_cells(&mut |value, text| cells.push((value, text))) {
                return Ok(());
            }
            self.rows += 1;
            if cells.len() > self.columns.len() {
                return Err(Error::output(
                    format!("{}: row {} has more cells than the table has columns", self.name, self.rows),
                    "mend the row, or write CSV, which keeps them",
                ));
            }
            for nth in 0..self.columns.len() {
                if nth > 0 {
                    self.block.push(b'\t');
                }
                let (value, text) = cells.get(nth).copied().unwrap_or((Value::Missing, b""));
                write(value, text, self.types[nth], &mut self.block).map_err(|what| {
                    Error::output(
                        format!("{}: row {}, column {}: {what}", self.name, self.rows, self.columns[nth]),
                        "PostgreSQL cannot hold it; mend the cell, or leave the column out with --columns",
                    )
                })?;
            }
            self.block.push(b'\n');
            if self.block.len() >= BLOCK {
                self.send()?;
            }
        }
    }

    fn end(&mut self, _: &mut dyn TakeBytes) -> Result<()> {
        self.send()?;
        if let Some(to) = &self.to {
            let _ = to.send(Vec::new());
        }
        self.join()
    }
}

/// Appends a cell as COPY reads it. A cell without text is NULL where the column is none of texts.
fn write(
    value: Value<'_>,
    text: &[u8],
    of: ColumnType,
    out: &mut Vec<u8>,
) -> std::result::Result<(), String> {
    match (value, of) {
        (Value::Missing | Value::Null, _) => out.extend_from_slice(b"\\N"),
        (Value::Bytes(bytes), ColumnType::Bytes) => {
            out.extend_from_slice(b"\\\\x");
            out.extend_from_slice(data_encoding::HEXLOWER.encode(bytes).as_bytes());
        }
        (_, ColumnType::TextArray) => escape(array(text)?.as_bytes(), out),
        (_, of) if text.is_empty() && of != ColumnType::Text => out.extend_from_slice(b"\\N"),
        _ if text.contains(&0) => return Err("there is a character U+0000 in it".to_owned()),
        _ => match std::str::from_utf8(text) {
            Ok(_) => escape(text, out),
            Err(_) => escape(String::from_utf8_lossy(text).as_bytes(), out),
        },
    }
    Ok(())
}

/// A JSON array of texts as PostgreSQL writes lists.
fn array(text: &[u8]) -> std::result::Result<String, String> {
    let cells: Vec<Option<String>> =
        serde_json::from_slice(text).map_err(|_| "it is no list of texts".to_owned())?;
    let cell = |cell: &Option<String>| match cell {
        Some(text) => format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\"")),
        None => "NULL".to_owned(),
    };
    Ok(format!("{{{}}}", cells.iter().map(cell).collect::<Vec<_>>().join(",")))
}
