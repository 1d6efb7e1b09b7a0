//! What stands in for workbooks in a build without them: none is ever made.

use std::path::Path;

use crate::formats::book::{BookSummary, EntryRefusal};
use crate::output::OutputFile;
use crate::records::error::{Error, Result};
use crate::rows::{Projection, TakeBytes};

/// A workbook, of which there is none.
pub enum BookFile {}

/// A sheet of it.
pub enum BookSheet {}

impl BookFile {
    /// Refuses to make one.
    ///
    /// # Errors
    /// Always.
    pub fn create(path: &Path, _: bool) -> Result<Self> {
        let message = format!("{}: this build of the program does not write workbooks", path.display());
        Err(Error::output(message, "build it with --features spreadsheet"))
    }

    /// Adds a sheet.
    ///
    /// # Errors
    /// None: there is no workbook to add it to.
    pub fn add_sheet(&self, _: &str, _: &Projection, _: Option<&EntryRefusal>) -> Result<BookSheet> {
        match *self {}
    }

    /// Gives the file.
    ///
    /// # Errors
    /// None: there is no workbook.
    pub fn finish(self, _: &BookSummary, _: &[&str]) -> Result<OutputFile> {
        match self {}
    }
}

impl TakeBytes for BookSheet {
    fn take(&mut self, _: &[u8]) -> Result<()> {
        match *self {}
    }
}
