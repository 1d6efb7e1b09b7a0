//! A rulebook that is added to; its comments and order stay.

use std::path::Path;

use toml_edit::{DocumentMut, Item, Table};
use ypogram_io::{Error, OutputFile, Result};

use crate::rulebook::{self, Rulebook, VERSION};

/// A rulebook as it is, to be added to.
pub(crate) struct RulebookEdit {
    /// What it says.
    pub(crate) known: Rulebook,
    pub(crate) text: String,
    /// Its name in messages.
    pub(crate) shown: String,
    /// There is no such file yet.
    pub(crate) is_new: bool,
}

impl RulebookEdit {
    /// Reads the rulebook at `path`; a new one where there is none.
    ///
    /// # Errors
    /// Where it cannot be read.
    pub(crate) fn open(path: &Path) -> Result<Self> {
        let shown = path.display().to_string();
        let is_new = !path.exists();
        let text = match is_new {
            true => format!("version = {VERSION}\n"),
            false => std::fs::read_to_string(path).map_err(|error| Error::reading(&shown, &error))?,
        };
        Ok(RulebookEdit { known: rulebook::read(&text, &shown)?, text, shown, is_new })
    }

    /// The rulebook as a document.
    ///
    /// # Errors
    /// Where it is none.
    pub(crate) fn document(&self) -> Result<DocumentMut> {
        self.text.parse().map_err(|error| Error::unusable(format!("{}: {error}", self.shown), ""))
    }

    /// Writes the changed document at `path`.
    ///
    /// # Errors
    /// Where it says what is not understood, or cannot be written.
    pub(crate) fn write(&self, document: &DocumentMut, path: &Path) -> Result<()> {
        // What was written has to be read again.
        let text = document.to_string();
        rulebook::read(&text, &self.shown)?;
        let mut file = OutputFile::create(path)?;
        file.write(text.as_bytes())?;
        file.sync()?;
        file.publish()
    }
}

/// A table that is written only as the head of those in it.
pub(crate) fn implicit() -> Item {
    let mut table = Table::new();
    table.set_implicit(true);
    Item::Table(table)
}
