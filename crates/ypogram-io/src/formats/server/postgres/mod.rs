//! PostgreSQL, read and written with `postgres` by COPY: a table or the rows of one SELECT as a source, a new table as an output.

mod connect;
mod copy_text;
mod password;
mod rows;
mod source;
mod sql;
mod types;

pub(crate) use rows::encoder;
pub(crate) use source::{open, table_names};
