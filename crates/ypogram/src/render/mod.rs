//! What people and programs get to read.

pub(crate) mod bounces;
pub(crate) mod check;
pub(crate) mod clean;
pub(crate) mod compare;
pub(crate) mod dedupe;
pub(crate) mod dns;
pub(crate) mod domains;
pub(crate) mod explain;
pub(crate) mod extract;
pub(crate) mod figure_names;
pub(crate) mod figures;
#[cfg(feature = "sqlite")]
pub(crate) mod guard;
pub(crate) mod head;
pub(crate) mod house;
pub(crate) mod json;
pub(crate) mod judged;
pub(crate) mod layout;
pub(crate) mod links;
pub(crate) mod lists;
pub(crate) mod notes;
pub(crate) mod page;
pub(crate) mod places;
mod plain_table;
pub(crate) mod redact;
#[cfg(feature = "sqlite")]
pub(crate) mod register;
pub(crate) mod rules;
pub(crate) mod rules_export;
pub(crate) mod run;
pub(crate) mod split;
pub(crate) mod style;
pub(crate) mod summary;
pub(crate) mod survey;
pub(crate) mod survey_against;
pub(crate) mod trial;
mod width;
pub(crate) mod words;

use std::io::Write as _;

use ypogram_io::{Error, Result};

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

/// Prints `text` to standard error: a summary where standard output carries data.
pub(crate) fn print_beside(text: &str) {
    // Nobody can be told where standard error is closed.
    let _ = anstream::stderr().lock().write_all(text.as_bytes());
}
