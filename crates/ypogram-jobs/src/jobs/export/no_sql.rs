//! What stands in for SQL in a build without databases.

use ypogram_core::Policy;
use ypogram_core::entry_rule::EntryRule;
use ypogram_io::{Error, Result};

use crate::jobs::export::place::ColumnOfEntries;

/// Refuses.
///
/// # Errors
/// Always.
pub(super) fn write(_: &EntryRule, _: &ColumnOfEntries, _: &Policy) -> Result<(String, Vec<String>)> {
    Err(Error::unusable("this build of the program knows no databases", "build it with --features sqlite"))
}
