//! A column of a table of a database, as in `app.sqlite#members.mail`.

use std::path::{Path, PathBuf};

use ypogram_io::{SourcePlace, has_table};

/// The table that `given` means, and the column, where it names both. A table of the whole name counts before that.
pub(crate) fn table_and_column(given: &Path) -> Option<(PathBuf, String)> {
    let place = SourcePlace::of(given);
    let part = place.part.filter(|_| place.file.is_file())?;
    let (table, column) = part.rsplit_once('.')?;
    let is_there = |table: &str| has_table(&place.file, table).unwrap_or(false);
    let is_column = !column.is_empty() && !is_there(&part) && is_there(table);
    is_column.then(|| (format!("{}#{table}", place.file.display()).into(), column.to_owned()))
}
