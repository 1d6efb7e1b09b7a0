//! What people and programs get to read.

pub(crate) mod clean;
pub(crate) mod figures;
pub(crate) mod json;
pub(crate) mod style;
pub(crate) mod words;

use std::io::Write as _;

use ypogram_tables::{Error, Result};

/// Prints `text` to standard output, in colour where that is a terminal.
///
/// # Errors
/// Where standard output is closed; the program then ends quietly.
pub(crate) fn print(text: &str) -> Result<()> {
    let mut out = anstream::stdout().lock();
    out.write_all(text.as_bytes())
        .and_then(|()| out.flush())
        .map_err(|error| Error::writing(std::path::Path::new("standard output"), &error))
}
