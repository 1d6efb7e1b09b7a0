//! Rows into a table of a server: a thread of its own sends them, so that the server's work goes on beside the program's.

use std::ops::Range;
use std::sync::Arc;
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread::JoinHandle;

use crate::formats::sql::refuse_same_names;
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result};
use crate::records::packed::PackedRows;
use crate::records::value::Value;
use crate::rows::{
    Enclose, EncodeRows, Filled, IfThere, MakeEnclosure, OutputPlace, OwnFields, PackedRowEncoder,
    Projection, TakeBytes,
};

/// Appends a cell of a column of that type; what is wrong with it, where the server cannot hold it.
pub(super) type WriteCell = fn(Value<'_>, &[u8], ColumnType, &mut Vec<u8>) -> std::result::Result<(), String>;

/// A table that is being filled, of one kind of server.
pub(super) trait ServerTable: Sized + Send + 'static {
    /// What people call the server.
    const SERVER: &'static str;

    /// Connects, and makes the table ready for rows with these columns; gives the types by which their cells are written.
    ///
    /// # Errors
    /// Where nobody answers, or the table is there and is to be neither replaced nor added to.
    fn begin(place: &TablePlace, columns: &[String], types: &[ColumnType])
    -> Result<(Self, Vec<ColumnType>)>;

    /// Appends a cell as it stands in a row, which is a line with tabs between the cells.
    const WRITE_CELL: WriteCell;

    /// Sends blocks until they end, and makes the rows count; where they are given up, leaves the table as it was. Tells what filling
    /// columns came to.
    ///
    /// # Errors
    /// Where the connection is cut, or the server refuses a row.
    fn send_all(self, blocks: Blocks) -> Result<Option<Filled>>;
}

/// Writes rows as a table that gets them, or into columns of its rows that are filled; two columns are of one name where they are once
/// `fold` is applied to their names.
pub(super) fn encoder<Rows: ServerTable, Filling: ServerTable>(
    own: Vec<OwnFields>,
    projection: Arc<Projection>,
    fold: fn(&str) -> String,
) -> Box<dyn EncodeRows> {
    let columns: Vec<String> = projection.names().map(str::to_owned).collect();
    let types: Vec<ColumnType> = projection.types().collect();
    let make: MakeEnclosure = Arc::new(move |place| {
        refuse_same_names(&columns, fold)?;
        Ok(match place.if_there {
            IfThere::Fill(_) => Box::new(TableWriter::<Filling>::begin(place, columns.clone(), &types)?),
            _ => Box::new(TableWriter::<Rows>::begin(place, columns.clone(), &types)?),
        })
    });
    Box::new(PackedRowEncoder::new(own, projection, make))
}

/// Where a table is, and what happens to one of its name.
#[derive(Clone)]
pub(super) struct TablePlace {
    /// The address of the database.
    pub(super) path: std::path::PathBuf,
    /// The address as it is shown.
    pub(super) name: String,
    pub(super) table: String,
    pub(super) if_there: IfThere,
}

/// What the columns are of rows that are there, one behind the other: the primary key, what has to be as it was, and what is filled.
pub(super) struct FillColumns {
    pub(super) key: Range<usize>,
    pub(super) same: Range<usize>,
    pub(super) filled: Range<usize>,
}

impl TablePlace {
    /// Of so many columns, the first of them `key`.
    pub(super) fn fill_columns(&self, columns: usize, key: usize) -> FillColumns {
        let filled = if let IfThere::Fill(filled) = self.if_there { columns - filled } else { columns };
        FillColumns { key: 0..key, same: key..filled, filled: filled..columns }
    }
}

/// Bytes of rows that are sent together, and how many such blocks wait.
const BLOCK: usize = 256 << 10;
const AHEAD: usize = 4;

/// Rows on their way to the thread that sends them.
pub(super) struct Blocks(Receiver<Block>);

/// Whole rows.
pub(super) struct Block {
    pub(super) bytes: Vec<u8>,
    /// How many rows there were before, and are in it.
    pub(super) before: u64,
    pub(super) rows: u64,
}

impl Blocks {
    /// Hands each block to `send`; says whether all rows were there, else they are given up.
    ///
    /// # Errors
    /// Those of `send`.
    pub(super) fn for_each(&self, mut send: impl FnMut(Block) -> Result<()>) -> Result<bool> {
        for block in &self.0 {
            // A block without rows says that it was the last.
            if block.rows == 0 {
                return Ok(true);
            }
            send(block)?;
        }
        Ok(false)
    }
}

/// Takes packed rows into a table.
struct TableWriter<T> {
    name: String,
    columns: Vec<String>,
    types: Vec<ColumnType>,
    block: Vec<u8>,
    /// Rows that were taken, and of these those that were sent.
    rows: u64,
    sent: u64,
    to: Option<SyncSender<Block>>,
    sends: Option<JoinHandle<Result<Option<Filled>>>>,
    table: std::marker::PhantomData<T>,
}

impl<T: ServerTable> TableWriter<T> {
    /// # Errors
    /// As for [`ServerTable::begin`], and where no table is named.
    fn begin(place: &OutputPlace, columns: Vec<String>, types: &[ColumnType]) -> Result<Self> {
        let path = place.path.clone().unwrap_or_default();
        let name = path.display().to_string();
        let Some(table) = place.part.clone() else {
            return Err(Error::output(
                format!("{name}: the table to write is not named"),
                format!("name it behind ‘#’, as in {name}#cleaned"),
            ));
        };
        let place = TablePlace { path, name: name.clone(), table, if_there: place.if_there };
        let (table, types) = T::begin(&place, &columns, types).map_err(as_output)?;
        let (to, from) = sync_channel(AHEAD);
        let sends = std::thread::spawn(move || table.send_all(Blocks(from)));
        Ok(TableWriter {
            name,
            columns,
            types,
            block: Vec::new(),
            rows: 0,
            sent: 0,
            to: Some(to),
            sends: Some(sends),
            table: std::marker::PhantomData,
        })
    }

    fn send(&mut self) -> Result<()> {
        let bytes = std::mem::replace(&mut self.block, Vec::with_capacity(BLOCK + BLOCK / 8));
        let block = Block { bytes, before: self.sent, rows: self.rows - self.sent };
        self.sent = self.rows;
        let to = self.to.as_ref().expect("until the end");
        // Nobody takes it where the thread has failed, which it then tells.
        if to.send(block).is_err() { self.join().map(drop) } else { Ok(()) }
    }

    fn join(&mut self) -> Result<Option<Filled>> {
        self.to = None;
        match self.sends.take().map(JoinHandle::join) {
            Some(Ok(result)) => result.map_err(as_output),
            _ => Err(Error::output(format!("{}: writing the table broke off", self.name), "")),
        }
    }
}

/// The error where a batch was not filled: those before were.
pub(super) fn fill_again(error: Error) -> Error {
    let hint = match error.hint.contains("run it again") || error.hint.is_empty() {
        true => String::new(),
        false => format!("{}; ", error.hint),
    };
    Error {
        hint: format!("{hint}the batches before are filled; run it again, and it goes on with the others"),
        ..error
    }
}

/// The error as one of an output.
fn as_output(error: Error) -> Error {
    let Error { message, hint, .. } = error;
    Error::output(message, hint)
}

impl<T: ServerTable> Enclose for TableWriter<T> {
    fn rows(&mut self, rows: &[u8], _: &mut dyn TakeBytes) -> Result<()> {
        PackedRows::of(rows).each_row(|cells| {
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
                (T::WRITE_CELL)(value, text, self.types[nth], &mut self.block).map_err(|what| {
                    Error::output(
                        format!("{}: row {}, column {}: {what}", self.name, self.rows, self.columns[nth]),
                        format!(
                            "{} cannot hold it; mend the cell, or leave the column out with --columns",
                            T::SERVER
                        ),
                    )
                })?;
            }
            self.block.push(b'\n');
            if self.block.len() >= BLOCK { self.send() } else { Ok(()) }
        })
    }

    fn end(&mut self, out: &mut dyn TakeBytes) -> Result<()> {
        if self.rows > self.sent {
            self.send()?;
        }
        // Without rows: that was all.
        self.send()?;
        if let Some(filled) = self.join()? {
            out.filled(filled);
        }
        Ok(())
    }
}
