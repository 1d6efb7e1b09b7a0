//! A stream of Arrow batches that is answered batch for batch, as engines and data frames hand them over.

use std::collections::VecDeque;
use std::io::{BufReader, BufWriter, Read, Write};
use std::path::Path;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use arrow_array::{ArrayRef, RecordBatch, StringArray};
use arrow_ipc::reader::StreamReader;
use arrow_ipc::writer::StreamWriter;
use arrow_schema::SchemaRef;

use crate::formats::columnar::cells::Cells;
use crate::formats::columnar::columns::Columns;
use crate::formats::columnar::types;
use crate::records::chunk::Chunk;
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result};
use crate::records::fingerprint::Fingerprint;
use crate::records::format::Format;
use crate::records::packed::{PackedDecoder, PackedRow, PackedRows};
use crate::records::source::{Decode, Schema, Source, SourceKind};
use crate::rows::{EncodedRows, Projection};

/// What the stream is called in messages.
const NAME: &str = "standard input";

/// Batches that are read and not answered yet; those without rows have no chunk.
type Waiting = Arc<Mutex<VecDeque<RecordBatch>>>;

/// The batches of a stream as a source, each a chunk of its own.
pub struct ArrowBatches {
    batches: Box<dyn Iterator<Item = std::result::Result<RecordBatch, arrow_schema::ArrowError>> + Send>,
    schema: Schema,
    own: SchemaRef,
    waiting: Waiting,
    /// Batches that were read, and bytes of their rows.
    number: u64,
    offset: u64,
    /// Rows of those that have some.
    chunks: u64,
}

impl ArrowBatches {
    /// Reads the schema from `input`, which is an Arrow IPC stream.
    ///
    /// # Errors
    /// Where it is none.
    pub fn of(input: impl Read + Send + 'static) -> Result<Self> {
        let stream =
            StreamReader::try_new(BufReader::with_capacity(1 << 20, input), None).map_err(|error| {
                Error::unusable(
                    format!("{NAME}: this is no Arrow IPC stream: {error}"),
                    "send batches of one, as pyarrow.ipc.new_stream writes them",
                )
            })?;
        let own = stream.schema();
        let columns = own.fields();
        let schema = Schema {
            fields: columns.iter().map(|field| field.name().clone()).collect(),
            types: columns.iter().map(|field| types::column_type(field.data_type())).collect(),
            described: "an Arrow stream".into(),
            kind: SourceKind::Typed(Format::ArrowStream),
            ..Schema::default()
        };
        let (batches, waiting) = (Box::new(stream), Waiting::default());
        Ok(ArrowBatches { batches, schema, own, waiting, number: 0, offset: 0, chunks: 0 })
    }

    /// What answers them, wherever they are read.
    pub fn answerer(&self) -> ArrowAnswerer {
        ArrowAnswerer { own: Arc::clone(&self.own), waiting: Arc::clone(&self.waiting) }
    }
}

/// What answers the batches of a stream.
pub struct ArrowAnswerer {
    own: SchemaRef,
    waiting: Waiting,
}

impl ArrowAnswerer {
    /// Answers them on `to` with these columns, under these names; the added ones are those of `projection`.
    ///
    /// # Errors
    /// Where nothing can be written.
    ///
    /// # Panics
    /// Where there is no column at one of the places.
    pub fn answers<W: Write>(
        &self,
        to: W,
        columns: Vec<(AnswerColumn, String)>,
        projection: &Projection,
    ) -> Result<ArrowAnswers<W>> {
        let (names, types): (Vec<String>, Vec<ColumnType>) =
            projection.names().map(str::to_owned).zip(projection.types()).unzip();
        self.begin(to, columns, Columns::new(&names, &types))
    }

    /// Answers them on `to` with added [texts](ArrowAnswers::answer_with) alone, in columns of these names.
    ///
    /// # Errors
    /// Where nothing can be written.
    pub fn texts<W: Write>(&self, to: W, names: &[String]) -> Result<ArrowAnswers<W>> {
        let columns = names.iter().enumerate().map(|(nth, name)| (AnswerColumn::Added(nth), name.clone()));
        self.begin(to, columns.collect(), Columns::new(names, &[]))
    }

    fn begin<W: Write>(
        &self,
        to: W,
        columns: Vec<(AnswerColumn, String)>,
        added: Columns,
    ) -> Result<ArrowAnswers<W>> {
        let field = |(column, name): &(AnswerColumn, String)| match column {
            AnswerColumn::Own(place) => self.own.field(*place).clone().with_name(name),
            AnswerColumn::Added(place) => added.schema.field(*place).clone().with_name(name),
        };
        let schema = Arc::new(arrow_schema::Schema::new(columns.iter().map(field).collect::<Vec<_>>()));
        let writer = StreamWriter::try_new(BufWriter::with_capacity(1 << 20, to), &schema);
        let writer = writer.map_err(|error| not_written(&error))?;
        let columns = columns.into_iter().map(|(column, _)| column).collect();
        Ok(ArrowAnswers { writer, schema, columns, added, waiting: Arc::clone(&self.waiting) })
    }
}

fn locked(waiting: &Waiting) -> MutexGuard<'_, VecDeque<RecordBatch>> {
    waiting.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Source for ArrowBatches {
    fn schema(&self) -> &Schema {
        &self.schema
    }

    fn name(&self) -> &str {
        NAME
    }

    fn next_chunk(&mut self, into: &mut Chunk) -> Result<bool> {
        loop {
            let Some(batch) = self.batches.next() else { return Ok(false) };
            self.number += 1;
            let batch = batch.map_err(|error| {
                Error::unusable(
                    format!("{NAME}: batch {}: {error}", self.number),
                    "the stream broke off or is damaged; send it again",
                )
            })?;
            locked(&self.waiting).push_back(batch.clone());
            if batch.num_rows() == 0 {
                continue;
            }
            into.bytes.clear();
            let cells: Vec<Cells<'_>> = batch.columns().iter().map(|column| Cells::of(column)).collect();
            for row in 0..batch.num_rows() {
                let packed = PackedRow::start(&mut into.bytes, row as u32);
                cells.iter().for_each(|cells| cells.write(row, &mut into.bytes));
                packed.end(&mut into.bytes);
            }
            if u32::try_from(into.bytes.len()).is_err() {
                return Err(Error::unusable(
                    format!("{NAME}: batch {} has more than 4 GiB", self.number),
                    "send smaller batches",
                ));
            }
            (into.number, into.offset) = (self.chunks, self.offset);
            (into.lines, into.source_bytes) = (Some(batch.num_rows() as u64), Some(into.bytes.len() as u64));
            into.unclosed = None;
            self.chunks += 1;
            self.offset += into.bytes.len() as u64;
            return Ok(true);
        }
    }

    fn decoder(&self) -> Box<dyn Decode> {
        Box::new(PackedDecoder)
    }

    fn broken_off(&self) -> Option<String> {
        None
    }

    fn fingerprint(&self) -> Fingerprint {
        Fingerprint::default()
    }
}

/// A column of an answer, by its place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum AnswerColumn {
    /// One of the stream's own, which is handed over as it is.
    Own(usize),
    /// One of those that are added.
    Added(usize),
}

/// The answers to the batches of a stream.
pub struct ArrowAnswers<W: Write> {
    writer: StreamWriter<BufWriter<W>>,
    schema: SchemaRef,
    columns: Vec<AnswerColumn>,
    added: Columns,
    waiting: Waiting,
}

impl<W: Write> ArrowAnswers<W> {
    /// Answers the next batch that has rows with the added columns of these, and those without rows before it.
    ///
    /// # Errors
    /// Where it cannot be written, or there are not as many rows.
    pub fn answer(&mut self, rows: &EncodedRows) -> Result<()> {
        let mut rows = PackedRows::of(&rows.bytes);
        self.added.add(&mut rows, usize::MAX)?;
        let added = self.added.take();
        self.write(added.columns())
    }

    /// The same with texts for the added columns, in order.
    ///
    /// # Errors
    /// As above.
    pub fn answer_with(&mut self, columns: Vec<Vec<Option<String>>>) -> Result<()> {
        let arrays: Vec<ArrayRef> =
            columns.into_iter().map(|column| Arc::new(StringArray::from(column)) as ArrayRef).collect();
        self.write(&arrays)
    }

    fn write(&mut self, added: &[ArrayRef]) -> Result<()> {
        self.answer_empty_ones()?;
        let batch = locked(&self.waiting).pop_front().expect("a chunk is a batch that waits");
        let column = |column: &AnswerColumn| match column {
            AnswerColumn::Own(place) => Arc::clone(batch.column(*place)),
            AnswerColumn::Added(place) => Arc::clone(&added[*place]),
        };
        let columns = self.columns.iter().map(column).collect();
        let answer = RecordBatch::try_new(Arc::clone(&self.schema), columns);
        self.send(&answer.map_err(|error| not_written(&error))?)
    }

    /// Batches without rows have answers without rows.
    fn answer_empty_ones(&mut self) -> Result<()> {
        let is_empty = |batch: &mut RecordBatch| batch.num_rows() == 0;
        while locked(&self.waiting).front_mut().is_some_and(is_empty) {
            locked(&self.waiting).pop_front();
            self.send(&RecordBatch::new_empty(Arc::clone(&self.schema)))?;
        }
        Ok(())
    }

    fn send(&mut self, answer: &RecordBatch) -> Result<()> {
        // Whoever waits for it may send no further one before.
        self.writer.write(answer).and_then(|()| self.writer.flush()).map_err(|error| not_written(&error))
    }

    /// Ends the stream.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub fn finish(mut self) -> Result<()> {
        self.answer_empty_ones()?;
        self.writer.finish().and_then(|()| self.writer.flush()).map_err(|error| not_written(&error))
    }
}

/// What the type of an added column is called: `Utf8` or `Boolean`.
pub fn arrow_type(of: ColumnType) -> String {
    types::data_type(of).to_string()
}

fn not_written(error: &arrow_schema::ArrowError) -> Error {
    let error = match error {
        arrow_schema::ArrowError::IoError(_, error) => std::io::Error::from(error.kind()),
        other => std::io::Error::other(other.to_string()),
    };
    Error::writing(Path::new("standard output"), &error)
}

#[cfg(test)]
mod tests {
    use arrow_array::{Int64Array, LargeStringArray, StringViewArray};
    use arrow_schema::{DataType, Field};
    use proptest::prelude::*;

    use super::*;
    use crate::records::batch::Batch;

    /// A stream of batches of a number and a text, which is of one of the kinds that there are.
    fn stream(batches: &[Vec<Option<String>>], kind: &DataType) -> Vec<u8> {
        let fields = vec![Field::new("no", DataType::Int64, false), Field::new("mail", kind.clone(), true)];
        let schema = Arc::new(arrow_schema::Schema::new(fields));
        let mut bytes = Vec::new();
        let mut writer = StreamWriter::try_new(&mut bytes, &schema).unwrap();
        let mut next = 0_i64;
        for texts in batches {
            let texts_of = texts.iter().map(Option::as_deref);
            let column: ArrayRef = match kind {
                DataType::LargeUtf8 => Arc::new(LargeStringArray::from_iter(texts_of)),
                DataType::Utf8View => Arc::new(StringViewArray::from_iter(texts_of)),
                _ => Arc::new(StringArray::from_iter(texts_of)),
            };
            let numbers = Int64Array::from_iter_values(next..next + texts.len() as i64);
            next += texts.len() as i64;
            writer
                .write(&RecordBatch::try_new(Arc::clone(&schema), vec![Arc::new(numbers), column]).unwrap())
                .unwrap();
        }
        writer.finish().unwrap();
        bytes
    }

    /// Each row's number and its text once more.
    type Echo = Vec<(i64, Option<String>)>;

    /// How many rows each batch of the answer has, and all rows.
    fn echoed(bytes: Vec<u8>) -> Result<(Vec<usize>, Echo)> {
        let mut batches = ArrowBatches::of(std::io::Cursor::new(bytes))?;
        let answerer = batches.answerer();
        let columns =
            vec![(AnswerColumn::Added(0), "again".to_owned()), (AnswerColumn::Own(0), "nr".to_owned())];
        let mut written = Vec::new();
        let mut answers = answerer.begin(&mut written, columns, Columns::new(&["again".to_owned()], &[]))?;
        let (mut chunk, mut batch, mut decoder) = (Chunk::default(), Batch::default(), batches.decoder());
        let mut last = 0;
        while batches.next_chunk(&mut chunk)? {
            assert!(chunk.number == 0 || chunk.number == last + 1);
            last = chunk.number;
            batch.clear();
            decoder.decode(&chunk, &mut batch)?;
            let text = |cell: &[u8]| String::from_utf8_lossy(cell).into_owned();
            let texts = batch.records(&chunk).map(|record| match record.value(1) {
                crate::records::value::Value::Null => None,
                _ => record.cell(1).map(text),
            });
            answers.answer_with(vec![texts.collect()])?;
        }
        answers.finish()?;
        let reader = StreamReader::try_new(&written[..], None).unwrap();
        let (mut sizes, mut rows) = (Vec::new(), Vec::new());
        for answer in reader {
            let answer = answer.unwrap();
            assert_eq!(answer.schema().field(1).name(), "nr");
            let texts = answer.column(0).as_any().downcast_ref::<StringArray>().unwrap();
            let numbers = answer.column(1).as_any().downcast_ref::<Int64Array>().unwrap();
            sizes.push(answer.num_rows());
            rows.extend(
                numbers.values().iter().copied().zip(texts.iter().map(|text| text.map(str::to_owned))),
            );
        }
        Ok((sizes, rows))
    }

    fn batches() -> impl Strategy<Value = Vec<Vec<Option<String>>>> {
        prop::collection::vec(prop::collection::vec(prop::option::of("[a-zé@. \n]{0,20}"), 0..7), 0..6)
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        /// Each batch has its answer, those without rows too, with as many rows in their order.
        #[test]
        fn every_batch_is_answered(
            batches in batches(),
            kind in prop::sample::select(vec![DataType::Utf8, DataType::LargeUtf8, DataType::Utf8View]),
        ) {
            let (sizes, rows) = echoed(stream(&batches, &kind)).unwrap();
            prop_assert_eq!(sizes, batches.iter().map(Vec::len).collect::<Vec<_>>());
            let expected: Vec<(i64, Option<String>)> =
                batches.into_iter().flatten().enumerate().map(|(nth, text)| (nth as i64, text)).collect();
            prop_assert_eq!(rows, expected);
        }

        /// Wherever a stream breaks off, what came whole is answered or there is an error, and nothing else happens.
        #[test]
        fn a_stream_that_breaks_off(batches in batches(), at in 0.0..1.0_f64) {
            let mut bytes = stream(&batches, &DataType::Utf8);
            bytes.truncate((bytes.len() as f64 * at) as usize);
            match echoed(bytes) {
                Ok((_, rows)) => {
                    let whole: Vec<Option<String>> = batches.into_iter().flatten().collect();
                    prop_assert!(rows.iter().zip(&whole).all(|((_, row), text)| row == text));
                }
                Err(error) => prop_assert!(
                    error.message.contains("no Arrow IPC stream") || error.message.contains("batch "),
                    "{}", error.message
                ),
            }
        }
    }
}
