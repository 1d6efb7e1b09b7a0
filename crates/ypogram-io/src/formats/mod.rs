//! The formats, a folder or file each: how records and text are read from them and written in them.

pub(crate) mod begin;
pub(crate) mod book;
#[cfg(feature = "parquet")]
pub(crate) mod columnar;
pub(crate) mod contacts;
pub mod csv;
pub(crate) mod every_table;
pub(crate) mod graph;
pub(crate) mod json;
pub(crate) mod keep_rows;
mod kept_table;
pub(crate) mod mail;
#[cfg(not(feature = "spreadsheet"))]
pub(crate) mod no_book;
#[cfg(not(feature = "sqlite"))]
pub(crate) mod no_database;
pub(crate) mod open;
pub(crate) mod options;
pub(crate) mod output_format;
pub(crate) mod parts;
pub mod pieces;
pub(crate) mod recognise;
pub(crate) mod server;
#[cfg(feature = "spreadsheet")]
pub(crate) mod spreadsheet;
mod sql;
pub(crate) mod sql_dialect;
#[cfg(feature = "sqlite")]
pub(crate) mod sqlite;
pub(crate) mod text;
pub(crate) mod text_lines;
