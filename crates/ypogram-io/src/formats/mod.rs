//! The formats, a folder or file each: how records and text are read from them and written in them.

pub mod csv;
pub(crate) mod jsonl;
pub(crate) mod open;
pub(crate) mod output_format;
pub mod pieces;
pub(crate) mod text_lines;
