//! Files in columns: Parquet and Arrow IPC (file and stream), read and written with the crates of Apache Arrow.

mod cells;
mod columns;
pub(crate) mod pipe;
mod rows;
mod source;
mod types;

pub(crate) use rows::encoder;
pub(crate) use source::open;
