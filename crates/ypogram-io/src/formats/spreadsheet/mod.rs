//! Workbooks: XLSX, XLS and ODS are read with `calamine`, a sheet at a time, and XLSX is written with `rust_xlsxwriter`.

mod book;
mod cell;
mod parts;
mod rows;
mod source;

pub(crate) use rows::encoder;
pub(crate) use source::{SheetRequest, open};
