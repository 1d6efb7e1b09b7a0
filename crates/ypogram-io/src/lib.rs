//! Sources and sinks of records: dialects, borders, decoding, encoding, outputs that appear whole or not at all.
//! It does not know what an address is.
//!
//! A source cuts its input into [`Chunk`]s of whole records, serially and cheaply; a decoder, one for each worker thread,
//! turns a chunk into a [`Batch`] of cells; an encoder writes records with added cells.
#![forbid(unsafe_code)]
// What only some formats need is not used in builds without them.
#![cfg_attr(
    not(all(feature = "spreadsheet", feature = "sqlite", feature = "parquet")),
    allow(dead_code, unused_imports)
)]

mod formats;
mod input;
mod output;
mod records;
mod rows;

pub use encoding_rs::Encoding;
pub use formats::book::{BookSummary, EntryRefusal, entry_formula};
#[cfg(feature = "parquet")]
pub use formats::columnar::pipe::{AnswerColumn, ArrowAnswerer, ArrowAnswers, ArrowBatches, arrow_type};
pub use formats::csv;
pub use formats::every_table::EveryTable;
pub use formats::graph::{GraphAttribute, GraphFile, GraphFormat};
pub use formats::json::json_array;
pub use formats::keep_rows::keep_rows;
pub use formats::mail::{MailMessage, MailPart, UnreadMessage, each_message};
#[cfg(not(feature = "spreadsheet"))]
pub use formats::no_book::{BookFile, BookSheet};
#[cfg(not(feature = "sqlite"))]
pub use formats::no_database::{DatabaseUpdate, has_table};
pub use formats::open::open;
pub use formats::options::OpenOptions;
pub use formats::output_format::OutputFormat;
pub use formats::pieces;
pub use formats::server::describe::{TableDescription, describe_table};
pub use formats::server::fill::TableToFill;
#[cfg(feature = "spreadsheet")]
pub use formats::spreadsheet::{BookFile, BookSheet};
pub use formats::sql_dialect::SqlDialect;
#[cfg(feature = "sqlite")]
pub use formats::sqlite::{DatabaseUpdate, has_table};
pub use formats::text_lines::LineRows;
pub use input::encoding::{bytes_in, encoding_named};
pub use input::file_input::{Compression, Input, can_be_read_but_once, keep_source};
pub use input::row_thread::ROW_THREAD;
pub use output::row_output::RowOutput;
pub use output::sorted_rows::{SortedRows, TakeRow};
pub use output::{
    EarlierOutputs, Output, OutputFile, OutputFolder, Place, Target, clear_temporary_leftovers, copy_private,
    lock_current, private_file, remove_unfinished, temporary_folder, write_private,
};
pub use records::batch::{Batch, NotUtf8, Record};
pub use records::chunk::{Chunk, Unclosed};
pub use records::column_type::ColumnType;
pub use records::error::{Error, ErrorKind, Result, cause, some_of};
pub use records::fingerprint::Fingerprint;
pub use records::format::{FORMATS, Format, FormatEntry};
pub use records::nearest::nearest;
pub use records::place::SourcePlace;
pub use records::source::{Decode, Schema, Source, SourceKind};
pub use records::stopping::stop_waiting;
pub use records::value::Value;
pub use rows::{
    Change, ColumnSource, Enclose, EncodeRows, EncodedRows, Filled, IfThere, KeyOf, MakeEnclosure, Opening,
    OutRow, OutputPlace, OwnFields, Projection, RowSpec, RowValues, RowWriter, SortBy, TakeBytes, Template,
    TemplateCell, TextEncoding, Values,
};
