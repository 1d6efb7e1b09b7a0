//! Sources and sinks of records: dialects, borders, decoding, encoding, outputs that appear whole or not at all.
//! It does not know what an address is.
//!
//! A source cuts its input into [`Chunk`]s of whole records, serially and cheaply; a decoder, one for each worker thread,
//! turns a chunk into a [`Batch`] of cells; an encoder writes records with added cells.
#![forbid(unsafe_code)]

mod batch;
mod borders;
mod byte_places;
mod chunk;
mod chunked;
pub mod csv;
mod error;
mod file_writer;
mod format;
mod input;
mod jsonl;
mod open;
mod output;
mod output_format;
pub mod pieces;
mod rows;
mod short_copy;
mod sorted_rows;
mod source;
mod text_lines;
mod waiting;

pub use batch::{Batch, Record};
pub use chunk::{Chunk, Unclosed};
pub use error::{Error, ErrorKind, Result, cause, some_of};
pub use format::{FORMATS, Format, FormatEntry};
pub use input::{Compression, Fingerprint, Input, can_be_read_but_once, keep_source};
pub use open::{OpenOptions, open};
pub use output::{
    EarlierOutputs, Output, OutputFile, OutputFolder, Place, Target, lock_current, private_file,
    remove_unfinished, temporary_folder,
};
pub use output_format::OutputFormat;
pub use rows::{
    Change, ColumnSource, EncodeRows, EncodedRows, KeyOf, OutRow, OwnFields, Projection, RowOutput, RowSpec,
    RowValues, RowWriter, SortBy, TakeBytes, Template, TemplateCell, Values,
};
pub use short_copy::{append_few, append_short};
pub use sorted_rows::{SortedRows, TakeRow};
pub use source::{Decode, Schema, Source, SourceKind};
pub use text_lines::LineRows;
pub use waiting::stop_waiting;
