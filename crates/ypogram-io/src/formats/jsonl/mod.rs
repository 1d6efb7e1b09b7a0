//! JSON lines: one object a line is a record, and each value in it a field, named by its path (`contact.email`).

mod decode;
mod fields;
mod rows;
mod source;
mod walk;

pub(crate) use fields::gather;
pub(crate) use rows::JsonRows;
pub(crate) use source::open;
