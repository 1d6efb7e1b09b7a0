//! A file in columns as a source.

use std::fs::File;
use std::io::{BufReader, Seek as _};
use std::path::Path;

use arrow_array::RecordBatch;
use arrow_ipc::reader::{FileReader, StreamReader};
use arrow_schema::{ArrowError, SchemaRef};
use parquet::arrow::ProjectionMask;
use parquet::arrow::arrow_reader::ParquetRecordBatchReaderBuilder;
use parquet::errors::ParquetError;

use crate::formats::columnar::cells::Cells;
use crate::formats::columnar::types;
use crate::input::row_thread::{Ended, RowInput, RowSink, RowThread};
use crate::records::error::{Error, Result};
use crate::records::format::Format;
use crate::records::source::{Schema, SourceKind};

/// Rows that are read at once.
const ROWS: usize = 1024;

type Batches = Box<dyn Iterator<Item = std::result::Result<RecordBatch, ArrowError>>>;

/// Opens the file that `input` names; of its columns nothing but those in `only` is read, all where that is empty.
///
/// # Errors
/// Where it is damaged.
pub(crate) fn open(input: RowInput, format: Format, only: Vec<String>) -> Result<RowThread> {
    let (path, name) = (input.on_disk.path.clone(), input.name.clone());
    RowThread::start(input, move |sink| read(&path, &name, format, &only, sink))
}

fn read(
    path: &Path,
    name: &str,
    format: Format,
    only: &[String],
    sink: &mut RowSink,
) -> std::result::Result<(), Ended> {
    let ColumnReader { schema, places, rows, batches } = ColumnReader::open(path, name, format, only)?;
    let columns = schema.fields();
    sink.begin(Schema {
        fields: columns.iter().map(|field| field.name().clone()).collect(),
        described: match format {
            Format::Parquet => "a Parquet file".into(),
            _ => "an Arrow file".into(),
        },
        kind: SourceKind::Typed(format),
        types: columns.iter().map(|field| types::column_type(field.data_type())).collect(),
        ..Schema::default()
    })?;
    if let Some(rows) = rows {
        sink.expect(rows);
    }
    let mut line = 0;
    for batch in batches {
        let batch = batch.map_err(|error| damaged(name, &error))?;
        let mut cells: Vec<Cells<'_>> = columns.iter().map(|_| Cells::NotRead).collect();
        for (column, &place) in batch.columns().iter().zip(&places) {
            cells[place] = Cells::of(column);
        }
        for row in 0..batch.num_rows() {
            sink.row(line, |out| cells.iter().for_each(|cells| cells.write(row, out)))?;
            line += 1;
        }
    }
    Ok(())
}

/// A file that is open, and what is known of it.
struct ColumnReader {
    schema: SchemaRef,
    /// The columns that are read, in order, by their places.
    places: Vec<usize>,
    /// How many rows there are, where that is known.
    rows: Option<u64>,
    batches: Batches,
}

impl ColumnReader {
    fn open(path: &Path, name: &str, format: Format, only: &[String]) -> Result<Self> {
        let file = File::open(path).map_err(|error| Error::reading(name, &error))?;
        match format {
            Format::Parquet => Self::parquet(file, only).map_err(|error| damaged(name, &error)),
            Format::Arrow => Self::arrow(file, only).map_err(|error| damaged(name, &error)),
            _ => Self::stream(file).map_err(|error| damaged(name, &error)),
        }
    }

    fn parquet(file: File, only: &[String]) -> std::result::Result<Self, ParquetError> {
        let builder = ParquetRecordBatchReaderBuilder::try_new(file)?;
        let rows = u64::try_from(builder.metadata().file_metadata().num_rows()).ok();
        let schema = builder.schema().clone();
        let places = places(&schema, only);
        let mask = ProjectionMask::roots(builder.parquet_schema(), places.iter().copied());
        let batches = Box::new(builder.with_projection(mask).with_batch_size(ROWS).build()?);
        Ok(ColumnReader { schema, places, rows, batches })
    }

    fn arrow(mut file: File, only: &[String]) -> std::result::Result<Self, ArrowError> {
        let schema = FileReader::try_new_buffered(&mut file, None)?.schema();
        file.rewind()?;
        let places = places(&schema, only);
        let batches = Box::new(FileReader::try_new_buffered(file, Some(places.clone()))?);
        Ok(ColumnReader { schema, places, rows: None, batches })
    }

    /// A stream is read whole, since one part of it tells where the next one begins.
    fn stream(file: File) -> std::result::Result<Self, ArrowError> {
        let batches = Box::new(StreamReader::try_new(BufReader::new(file), None)?);
        let schema = batches.schema();
        Ok(ColumnReader { places: places(&schema, &[]), schema, rows: None, batches })
    }
}

/// The places of those columns that are called so; of all where no name is given.
fn places(schema: &SchemaRef, only: &[String]) -> Vec<usize> {
    let is_wanted = |name: &String| only.is_empty() || only.contains(name);
    let columns = schema.fields().iter().enumerate();
    columns.filter(|(_, column)| is_wanted(column.name())).map(|(place, _)| place).collect()
}

fn damaged(name: &str, error: &dyn std::fmt::Display) -> Error {
    Error::unusable(
        format!("{name}: the file is damaged: {error}"),
        "write it again with the program it comes from",
    )
}
