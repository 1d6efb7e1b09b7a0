//! Delimiter-separated values: RFC 4180, read as leniently as `csv-core` does. A quote opens only at the start of a cell.

mod border;
mod decode;
mod encode;
mod header;
mod rows;
mod sniff;
mod source;

pub use crate::records::dialect::{Dialect, TextLayout};
pub use crate::records::formula::is_formula_like;
pub use encode::{write_cell, write_row};
pub use header::{CellSort, Header, NUMBER, SortOf};

pub(crate) use border::{end_of_cell, last_border};
pub(crate) use decode::decode;
pub(crate) use header::{
    TableStart, field_names, named_separator, numbered_field, place_of_header, reaches_behind,
};
pub(crate) use rows::CsvRows;
pub(crate) use source::open;
