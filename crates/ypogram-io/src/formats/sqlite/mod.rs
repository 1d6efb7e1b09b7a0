//! Databases of SQLite, read and written with `rusqlite`: a table or the rows of one SELECT as a source, a new table as an output.

mod rows;
mod source;
mod sql;
mod update;

pub(crate) use rows::encoder;
pub(crate) use source::{open, table_names};
pub use update::{DatabaseUpdate, has_table};
