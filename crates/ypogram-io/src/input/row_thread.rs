//! Sources whose rows a library gives one by one: a thread of their own reads them and packs them into chunks.

use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread;

use tempfile::TempDir;

use crate::input::borders::size;
use crate::input::on_disk::OnDisk;
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};
use crate::records::fingerprint::Fingerprint;
use crate::records::packed::{PackedDecoder, PackedRow};
use crate::records::source::{Decode, Schema, Source};

/// The name of the threads that read rows; a library that panics there gave up over a damaged file.
pub const ROW_THREAD: &str = "rows";

/// As many chunks wait to be taken.
const AHEAD: usize = 4;

/// What the thread sends.
enum Message {
    /// What is known before the first row.
    Schema(Schema),
    /// Packed rows, the lines that they cover, and about how many bytes of the source they are.
    Rows(Vec<u8>, u64, u64),
    /// What there is to say once all are read.
    Remark(String),
    Failed(Error),
    /// All rows were sent.
    End,
}

/// Takes the rows of a source on the thread that reads them.
pub(crate) struct RowSink {
    to: SyncSender<Message>,
    name: String,
    rows: Vec<u8>,
    /// Bytes that a chunk should have, and that a record may have.
    sizes: (usize, usize),
    /// The line that the chunk begins with, and the one behind its last row, from 0.
    first_line: u64,
    next_line: u64,
    /// Bytes of the source, and about how many lines it has.
    source_bytes: u64,
    expected_lines: u64,
}

/// Whoever took the rows wants no more of them.
#[derive(Debug)]
pub(crate) struct NoMoreWanted;

/// Why reading ended early.
#[derive(Debug)]
pub(crate) enum Ended {
    NoMoreWanted,
    Failed(Error),
}

impl From<NoMoreWanted> for Ended {
    fn from(_: NoMoreWanted) -> Self {
        Ended::NoMoreWanted
    }
}

impl From<Error> for Ended {
    fn from(error: Error) -> Self {
        Ended::Failed(error)
    }
}

impl RowSink {
    /// Tells the fields, before the first row; that stands behind so many lines.
    pub(crate) fn begin(&mut self, schema: Schema) -> std::result::Result<(), NoMoreWanted> {
        (self.first_line, self.next_line) = (schema.lines_before, schema.lines_before);
        self.to.send(Message::Schema(schema)).map_err(|_| NoMoreWanted)
    }

    /// Tells about how many lines the source has, for whoever shows how far it was read.
    pub(crate) fn expect(&mut self, lines: u64) {
        self.expected_lines = lines;
    }

    /// Adds the row in that line, counted from 0, with the cells that `write` appends.
    pub(crate) fn row(
        &mut self,
        line: u64,
        write: impl FnOnce(&mut Vec<u8>),
    ) -> std::result::Result<(), Ended> {
        let start = self.rows.len();
        let row = PackedRow::start(&mut self.rows, (line - self.first_line) as u32);
        write(&mut self.rows);
        row.end(&mut self.rows);
        self.next_line = line + 1;
        let (chunk, longest) = self.sizes;
        if self.rows.len() - start > longest {
            return Err(Ended::Failed(Error::unusable(
                format!("{}: the record in row {} is longer than {}", self.name, line + 1, size(longest)),
                format!(
                    "--longest-record {}M reads longer ones",
                    longest.saturating_mul(16).div_ceil(1 << 20)
                ),
            )));
        }
        if self.rows.len() >= chunk {
            self.send()?;
        }
        Ok(())
    }

    /// Says something about the source, for its summary.
    pub(crate) fn remark(&mut self, remark: String) -> std::result::Result<(), NoMoreWanted> {
        self.to.send(Message::Remark(remark)).map_err(|_| NoMoreWanted)
    }

    fn send(&mut self) -> std::result::Result<(), NoMoreWanted> {
        if self.rows.is_empty() {
            return Ok(());
        }
        // The next chunk will be about as long.
        let next = Vec::with_capacity(self.rows.len() + self.rows.len() / 8);
        let rows = std::mem::replace(&mut self.rows, next);
        let lines = self.next_line - self.first_line;
        self.first_line = self.next_line;
        let bytes = self.source_bytes as f64 * lines as f64 / self.expected_lines.max(1) as f64;
        self.to.send(Message::Rows(rows, lines, bytes as u64)).map_err(|_| NoMoreWanted)
    }
}

/// Rows that come from a thread.
pub(crate) struct RowThread {
    name: String,
    schema: Schema,
    from: Receiver<Message>,
    number: u64,
    offset: u64,
    fingerprint: Fingerprint,
    remarks: Vec<String>,
    is_at_end: bool,
    /// Where a copy lies that is read in place of the source; removed with it.
    _kept: Option<TempDir>,
}

/// What is known of a source before it is read.
pub(crate) struct RowInput {
    /// The name to call it by.
    pub(crate) name: String,
    /// Bytes that a chunk should have, and that a record may have.
    pub(crate) sizes: (usize, usize),
    /// Take its size and hash.
    pub(crate) fingerprint: bool,
    pub(crate) on_disk: OnDisk,
}

impl RowThread {
    /// Reads a source with `read`, which tells its fields first.
    ///
    /// # Errors
    /// What `read` gives before it told them.
    pub(crate) fn start(
        input: RowInput,
        read: impl FnOnce(&mut RowSink) -> std::result::Result<(), Ended> + Send + 'static,
    ) -> Result<Self> {
        let OnDisk { path, copy, fingerprint } = input.on_disk;
        let fingerprint = match fingerprint {
            Some(fingerprint) => fingerprint,
            None if input.fingerprint => {
                Fingerprint::of_file(&path).map_err(|error| Error::reading(&input.name, &error))?
            }
            None => Fingerprint::default(),
        };
        let source_bytes = path.metadata().map_or(0, |metadata| metadata.len());
        let (to, from) = sync_channel(AHEAD);
        let (name, sizes) = (input.name.clone(), input.sizes);
        let reading = move || {
            let mut sink = RowSink {
                to,
                name: input.name,
                rows: Vec::new(),
                sizes,
                first_line: 0,
                next_line: 0,
                source_bytes,
                expected_lines: u64::MAX,
            };
            let result = read(&mut sink).and_then(|()| Ok(sink.send()?));
            // Nobody hears it where no more is wanted.
            let _ = match result {
                Ok(()) => sink.to.send(Message::End),
                Err(Ended::Failed(error)) => sink.to.send(Message::Failed(error)),
                Err(Ended::NoMoreWanted) => Ok(()),
            };
        };
        let spawned = thread::Builder::new().name(ROW_THREAD.into()).spawn(reading);
        spawned.map_err(|error| Error::reading(&name, &error))?;
        let schema = match from.recv() {
            Ok(Message::Schema(schema)) => schema,
            Ok(Message::Failed(error)) => return Err(error),
            _ => return Err(broken(&name)),
        };
        Ok(RowThread {
            name,
            schema,
            from,
            number: 0,
            offset: 0,
            fingerprint,
            remarks: Vec::new(),
            is_at_end: false,
            _kept: copy,
        })
    }
}

/// The error where a library panicked over a file.
fn broken(name: &str) -> Error {
    Error::unusable(
        format!("{name}: the file is damaged, and its reader gave up"),
        "open it in the program it comes from, and save it again",
    )
}

impl Source for RowThread {
    fn schema(&self) -> &Schema {
        &self.schema
    }

    fn name(&self) -> &str {
        &self.name
    }

    fn next_chunk(&mut self, into: &mut Chunk) -> Result<bool> {
        loop {
            match self.from.recv() {
                Ok(Message::Rows(rows, lines, bytes)) => {
                    into.bytes = rows;
                    (into.lines, into.source_bytes) = (Some(lines), Some(bytes));
                    into.unclosed = None;
                    (into.number, into.offset) = (self.number, self.offset);
                    self.number += 1;
                    self.offset += into.bytes.len() as u64;
                    return Ok(true);
                }
                Ok(Message::Remark(remark)) => self.remarks.push(remark),
                Ok(Message::Failed(error)) => return Err(error),
                Ok(Message::End) => {
                    self.is_at_end = true;
                    return Ok(false);
                }
                Err(_) if self.is_at_end => return Ok(false),
                Ok(Message::Schema(_)) | Err(_) => return Err(broken(&self.name)),
            }
        }
    }

    fn decoder(&self) -> Box<dyn Decode> {
        Box::new(PackedDecoder)
    }

    fn broken_off(&self) -> Option<String> {
        None
    }

    fn fingerprint(&self) -> Fingerprint {
        self.fingerprint.clone()
    }

    fn remarks(&self) -> Vec<String> {
        self.remarks.clone()
    }
}
