//! What stands in for databases in a build without them: none is ever opened.

use std::path::Path;

use crate::records::error::{Error, Result};

/// Refuses to look.
///
/// # Errors
/// Always.
pub fn has_table(path: &Path, _: &str) -> Result<bool> {
    Err(not_built_in(path))
}

/// A database into which tables are put, of which there is none.
pub enum DatabaseUpdate {}

impl DatabaseUpdate {
    /// Refuses to begin.
    ///
    /// # Errors
    /// Always.
    pub fn begin(path: &Path) -> Result<Self> {
        Err(not_built_in(path))
    }

    /// Takes tables.
    ///
    /// # Errors
    /// None: there is no database to put them into.
    pub fn take_tables(&mut self, _: &Path) -> Result<()> {
        match *self {}
    }

    /// Makes it count.
    ///
    /// # Errors
    /// None: there is no database.
    pub fn commit(self) -> Result<()> {
        match self {}
    }
}

fn not_built_in(path: &Path) -> Error {
    let message = format!("{}: this build of the program does not write databases", path.display());
    Error::output(message, "build it with --features sqlite")
}
