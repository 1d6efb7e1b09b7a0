//! Rows as a file in columns.

use std::io::{self, Write};
use std::sync::{Arc, Mutex, PoisonError};

use arrow_array::RecordBatch;
use arrow_ipc::writer::{FileWriter, StreamWriter};
use arrow_schema::ArrowError;
use parquet::arrow::ArrowWriter;
use parquet::basic::{Compression, ZstdLevel};
use parquet::file::properties::WriterProperties;

use crate::formats::columnar::columns::Columns;
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result};
use crate::records::format::Format;
use crate::records::packed::PackedRows;
use crate::rows::{Enclose, EncodeRows, MakeEnclosure, OwnFields, PackedRowEncoder, Projection, TakeBytes};

/// Rows that are encoded at once.
const ROWS: usize = 8192;
/// Rows of a group, of which all columns are held until it is whole.
const GROUP: usize = 1 << 17;

/// Writes rows as a file in columns of that format.
pub(crate) fn encoder(
    format: Format,
    own: Vec<OwnFields>,
    projection: Arc<Projection>,
) -> Box<dyn EncodeRows> {
    let names: Vec<String> = projection.names().map(str::to_owned).collect();
    let types: Vec<ColumnType> = projection.types().collect();
    let make: MakeEnclosure = Arc::new(move |_| Ok(Box::new(ColumnFile::new(format, &names, &types)?)));
    Box::new(PackedRowEncoder::new(own, projection, make))
}

/// Takes packed rows, and gives the file as its parts are whole.
struct ColumnFile {
    columns: Columns,
    writer: Option<Writer>,
    written: Written,
}

enum Writer {
    Parquet(Box<ArrowWriter<Written>>),
    File(Box<FileWriter<Written>>),
    Stream(Box<StreamWriter<Written>>),
}

/// What a writer has written, and nobody has taken.
#[derive(Clone, Default)]
struct Written(Arc<Mutex<Vec<u8>>>);

impl Write for Written {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).extend_from_slice(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

impl ColumnFile {
    fn new(format: Format, names: &[String], types: &[ColumnType]) -> Result<Self> {
        let (columns, written) = (Columns::new(names, types), Written::default());
        let schema = Arc::clone(&columns.schema);
        let writer = match format {
            Format::Parquet => {
                let properties = WriterProperties::builder()
                    .set_compression(Compression::ZSTD(ZstdLevel::default()))
                    .set_created_by("ypogram".to_owned())
                    .set_max_row_group_row_count(Some(GROUP))
                    .build();
                let writer = ArrowWriter::try_new(written.clone(), schema, Some(properties));
                Writer::Parquet(Box::new(writer.map_err(|error| failed(&error))?))
            }
            Format::Arrow => {
                let writer = FileWriter::try_new(written.clone(), &schema);
                Writer::File(Box::new(writer.map_err(|error| failed(&error))?))
            }
            _ => {
                let writer = StreamWriter::try_new(written.clone(), &schema);
                Writer::Stream(Box::new(writer.map_err(|error| failed(&error))?))
            }
        };
        Ok(ColumnFile { columns, writer: Some(writer), written })
    }

    fn write(&mut self) -> Result<()> {
        let batch = self.columns.take();
        self.writer.as_mut().expect("it is open").write(&batch)
    }

    fn hand_over(&self, out: &mut dyn TakeBytes) -> Result<()> {
        let written = std::mem::take(&mut *self.written.0.lock().unwrap_or_else(PoisonError::into_inner));
        if written.is_empty() { Ok(()) } else { out.take(&written) }
    }
}

impl Writer {
    fn write(&mut self, batch: &RecordBatch) -> Result<()> {
        let arrow = |result: std::result::Result<(), ArrowError>| result.map_err(|error| failed(&error));
        match self {
            Writer::Parquet(writer) => writer.write(batch).map_err(|error| failed(&error)),
            Writer::File(writer) => arrow(writer.write(batch)),
            Writer::Stream(writer) => arrow(writer.write(batch)),
        }
    }

    fn end(self) -> Result<()> {
        match self {
            Writer::Parquet(writer) => writer.close().map(drop).map_err(|error| failed(&error)),
            Writer::File(mut writer) => writer.finish().map_err(|error| failed(&error)),
            Writer::Stream(mut writer) => writer.finish().map_err(|error| failed(&error)),
        }
    }
}

impl Enclose for ColumnFile {
    fn rows(&mut self, rows: &[u8], out: &mut dyn TakeBytes) -> Result<()> {
        let mut rows = PackedRows::of(rows);
        while self.columns.add(&mut rows, ROWS)? {
            self.write()?;
        }
        self.hand_over(out)
    }

    fn end(&mut self, out: &mut dyn TakeBytes) -> Result<()> {
        if self.columns.rows > 0 {
            self.write()?;
        }
        self.writer.take().expect("it is open").end()?;
        self.hand_over(out)
    }
}

fn failed(error: &dyn std::fmt::Display) -> Error {
    Error::output(format!("the file in columns cannot be written: {error}"), "write CSV or JSON lines")
}
