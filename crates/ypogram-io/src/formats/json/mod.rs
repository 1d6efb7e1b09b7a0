//! JSON: one object a line, or one array of objects. Each object is a record, and each value in it a field, named by its path
//! (`contact.email`).

mod array;
mod decode;
mod enclose;
mod fields;
mod rows;
mod source;
mod walk;

pub(crate) use array::{ArrayLines, begins_array};
pub use enclose::json_array;
pub(crate) use fields::gather;
pub(crate) use rows::JsonRows;
pub(crate) use source::open;
