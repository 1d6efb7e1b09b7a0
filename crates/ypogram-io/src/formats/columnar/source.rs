//! A file in columns as a source.

use std::fs::File;
use std::io::BufReader;
use std::path::Path;

use arrow_array::RecordBatch;
use arrow_ipc::reader::{FileReader, StreamReader};
use arrow_schema::{ArrowError, SchemaRef};
use parquet::arrow::arrow_reader::ParquetRecordBatchReaderBuilder;

use crate::formats::columnar::{cells, types};
use crate::input::row_thread::{Ended, RowInput, RowSink, RowThread};
use crate::records::error::{Error, Result};
use crate::records::format::Format;
use crate::records::source::{Schema, SourceKind};

/// Rows that are read at once.
const ROWS: usize = 1024;

type Batches = Box<dyn Iterator<Item = std::result::Result<RecordBatch, ArrowError>>>;

/// Opens the file that `input` names.
///
/// # Errors
/// Where it is damaged.
pub(crate) fn open(input: RowInput, format: Format) -> Result<RowThread> {
    let (path, name) = (input.on_disk.path.clone(), input.name.clone());
    RowThread::start(input, move |sink| read(&path, &name, format, sink))
}

fn read(path: &Path, name: &str, format: Format, sink: &mut RowSink) -> std::result::Result<(), Ended> {
    let (columns, rows, batches) = begin(path, name, format)?;
    sink.begin(Schema {
        fields: columns.fields().iter().map(|field| field.name().clone()).collect(),
        described: match format {
            Format::Parquet => "a Parquet file".into(),
            _ => "an Arrow file".into(),
        },
        kind: SourceKind::Typed(format),
        types: columns.fields().iter().map(|field| types::column_type(field.data_type())).collect(),
        ..Schema::default()
    })?;
    if let Some(rows) = rows {
        sink.expect(rows);
    }
    let mut line = 0;
    for batch in batches {
        let batch = batch.map_err(|error| damaged(name, &error))?;
        for row in 0..batch.num_rows() {
            sink.row(line, |out| {
                batch.columns().iter().for_each(|column| cells::write(column, row, out));
            })?;
            line += 1;
        }
    }
    Ok(())
}

/// The columns, how many rows there are where that is known, and these.
fn begin(path: &Path, name: &str, format: Format) -> Result<(SchemaRef, Option<u64>, Batches)> {
    let file = File::open(path).map_err(|error| Error::reading(name, &error))?;
    match format {
        Format::Parquet => {
            let builder =
                ParquetRecordBatchReaderBuilder::try_new(file).map_err(|error| damaged(name, &error))?;
            let rows = u64::try_from(builder.metadata().file_metadata().num_rows()).ok();
            let columns = builder.schema().clone();
            let reader = builder.with_batch_size(ROWS).build().map_err(|error| damaged(name, &error))?;
            Ok((columns, rows, Box::new(reader)))
        }
        Format::Arrow => {
            let reader = FileReader::try_new_buffered(file, None).map_err(|error| damaged(name, &error))?;
            Ok((reader.schema(), None, Box::new(reader)))
        }
        _ => {
            let reader = StreamReader::try_new(BufReader::new(file), None);
            let reader = reader.map_err(|error| damaged(name, &error))?;
            Ok((reader.schema(), None, Box::new(reader)))
        }
    }
}

fn damaged(name: &str, error: &dyn std::fmt::Display) -> Error {
    Error::unusable(
        format!("{name}: the file is damaged: {error}"),
        "write it again with the program it comes from",
    )
}
