//! MariaDB and MySQL, read and written with `mysql`: a table or the rows of one SELECT as a source, a table as an output.

mod connect;
mod describe;
mod fill;
mod load;
mod option_file;
mod rows;
mod snapshot;
mod source;
mod sql;
mod types;

pub(crate) use describe::describe;
pub(crate) use fill::add_columns;
pub(crate) use rows::encoder;
pub(crate) use source::{read, table_names};
