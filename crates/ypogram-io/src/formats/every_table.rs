//! Every table of a file: one, or each sheet of a workbook.

use std::path::Path;

use crate::formats::begin::Begun;
use crate::formats::open::{open_begun, open_on_server};
use crate::formats::options::OpenOptions;
use crate::formats::parts::Parts;
use crate::records::error::Result;
use crate::records::format::on_server;
use crate::records::place::SourcePlace;
use crate::records::source::Source;

/// The tables of a file that were not opened so far.
pub struct EveryTable {
    parts: Option<Parts>,
    single: Option<Box<dyn Source>>,
    options: OpenOptions,
}

impl EveryTable {
    /// Those of the file at `path`: behind a `#` may stand the sheet or table that alone is meant.
    ///
    /// # Errors
    /// As of [`open`](crate::open).
    pub fn of(path: &Path, options: &OpenOptions) -> Result<Self> {
        let place = SourcePlace::of(path);
        if let Some(server) = on_server(&place.file) {
            let (parts, single) = match Parts::are_all_meant(server, &place, options) {
                true => (Some(Parts::on_server(&place.file, server, options)?), None),
                false => (None, Some(open_on_server(&place, server, options)?)),
            };
            return Ok(EveryTable { parts, single, options: options.clone() });
        }
        let mut begun = Begun::at(&place.file, options)?;
        let format = begun.format(&place.file, options.format)?;
        let (parts, single) = match Parts::are_all_meant(format, &place, options) {
            true => (Some(Parts::of(begun, format, options)?), None),
            false => (None, Some(open_begun(begun, &place, format, options)?)),
        };
        Ok(EveryTable { parts, single, options: options.clone() })
    }

    /// Opens the next one; none where all were opened.
    ///
    /// # Errors
    /// Where it is damaged.
    pub fn next_table(&mut self) -> Result<Option<Box<dyn Source>>> {
        match &mut self.parts {
            Some(parts) => parts.open_next(&self.options),
            None => Ok(self.single.take()),
        }
    }
}
