//! PostgreSQL, read and written with `postgres` by COPY: a table or the rows of one SELECT as a source, a new table as an output.

mod connect;
mod describe;
mod fill;
mod password;
mod rows;
mod source;
mod sql;
mod types;
mod write_cell;

pub(crate) use describe::describe;
pub(crate) use fill::add_columns;
pub(crate) use rows::encoder;
pub(crate) use source::{read, table_names};
