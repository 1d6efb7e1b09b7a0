//! The rules of a job in the words of a database.

pub(crate) mod key;
pub(crate) mod text;
