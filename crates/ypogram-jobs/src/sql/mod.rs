//! The rules of a job in the words of a database.

pub(crate) mod entry_checks;
pub(crate) mod functions;
pub(crate) mod key;
mod patterns;
mod sqlite_checks;
