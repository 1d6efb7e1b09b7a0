//! What all databases have in common: names in SQL, and which of their tables is meant.

use std::collections::HashSet;

use crate::records::error::{Error, Result, some_of};

/// A name as SQL has it.
pub(super) fn quoted(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

/// Refuses two columns of a new table whose names are one once `fold` is applied to them.
///
/// # Errors
/// Where there are such.
pub(super) fn refuse_same_names(columns: &[String], fold: impl Fn(&str) -> String) -> Result<()> {
    let mut seen = HashSet::new();
    match columns.iter().find(|column| !seen.insert(fold(column))) {
        Some(twin) => Err(Error::output(
            format!("two columns of the table would be called ‘{twin}’"),
            "give one of them another name, as in --columns name=Name",
        )),
        None => Ok(()),
    }
}

/// The table of a database called `name` that is meant: the one that is named, in whatever letter case, else the only one.
///
/// # Errors
/// Where there is no such table, or none is named and there are several or none.
pub(super) fn meant<'t>(name: &str, part: Option<&str>, tables: &'t [String]) -> Result<&'t String> {
    match (part, tables) {
        (Some(part), _) => {
            let exactly = tables.iter().find(|table| *table == part);
            let found = exactly.or_else(|| tables.iter().find(|table| table.eq_ignore_ascii_case(part)));
            found.ok_or_else(|| {
                Error::unusable(
                    format!("{name}: there is no table ‘{part}’"),
                    format!("its tables are: {}", some_of(tables)),
                )
            })
        }
        (None, [table]) => Ok(table),
        (None, []) => Err(Error::unusable(format!("{name}: the database has no tables"), "")),
        (None, tables) => Err(Error::unusable(
            format!("{name}: the database has {} tables: {}", tables.len(), some_of(tables)),
            format!("name one of them, as in {name}#{}", tables[0]),
        )),
    }
}

/// The error where what stands behind `#` is more or less than one SELECT.
pub(super) fn not_one_select(name: &str) -> Error {
    Error::unusable(
        format!("{name}: what stands behind ‘#’ is not one SELECT"),
        "give one SELECT, which only reads; anything else is not run",
    )
}
