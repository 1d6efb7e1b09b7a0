//! A table of a server, or the rows of one SELECT, as a source.

use std::path::PathBuf;

use crate::input::row_thread::{Ended, RowInput, RowSink, RowThread};
use crate::records::error::Result;

/// What is to be read.
pub(crate) struct Wanted {
    /// The address of the database, and as it is shown.
    pub(super) path: PathBuf,
    pub(super) name: String,
    /// The table or the query; the only table where nothing is named.
    pub(super) part: Option<String>,
    /// Columns of a table that are left out.
    pub(super) not_read: Vec<String>,
}

/// Opens it; `read` is that of the kind of server.
///
/// # Errors
/// Where nobody answers, there is no such table, or the query is more than one SELECT.
pub(crate) fn open(
    input: RowInput,
    part: Option<String>,
    not_read: Vec<String>,
    read: fn(&Wanted, &mut RowSink) -> std::result::Result<(), Ended>,
) -> Result<RowThread> {
    let (path, name) = (input.on_disk.path.clone(), input.name.clone());
    let wanted = Wanted { path, name, part, not_read };
    RowThread::start(input, move |sink| read(&wanted, sink))
}
