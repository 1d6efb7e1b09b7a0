//! Workbooks: XLSX, XLS and ODS are read with `calamine`, a sheet at a time, and XLSX is written with `rust_xlsxwriter`.

mod book;
mod book_file;
mod cell;
mod entry_rule;
mod parts;
mod rows;
mod source;
mod summary;

pub use book_file::{BookFile, BookSheet};
pub(crate) use rows::encoder;
pub(crate) use source::{SheetRequest, filled_sheets, open};
