//! The parts of a source, one after the other: the sheets of a workbook, the tables of a database.

use std::collections::VecDeque;
use std::path::Path;

use crate::formats::begin::Begun;
use crate::formats::open::open_part;
use crate::formats::options::OpenOptions;
use crate::input::on_disk::OnDisk;
use crate::input::row_thread::RowInput;
use crate::records::error::{Error, Result};
use crate::records::format::Format;
use crate::records::place::SourcePlace;
use crate::records::source::Source;

/// The parts of a source that were not opened so far.
pub(crate) struct Parts {
    /// The name of the source.
    name: String,
    format: Format,
    on_disk: OnDisk,
    left: VecDeque<String>,
    /// There are several, so that each is called by its own name too.
    is_one_of_several: bool,
}

impl Parts {
    /// Whether all parts of a source of that format are meant, not one that is named.
    pub(crate) fn are_all_meant(format: Format, place: &SourcePlace, options: &OpenOptions) -> bool {
        format.has_parts() && place.part.is_none() && options.sheet.is_none()
    }

    /// All that hold something.
    ///
    /// # Errors
    /// Where the source is damaged, or holds nothing.
    pub(crate) fn of(begun: Begun, format: Format, options: &OpenOptions) -> Result<Self> {
        let name = begun.input.name.clone();
        let on_disk = begun.on_disk(options.most_unpacked)?;
        let left = names(&on_disk, &name, format, options)?;
        if left.is_empty() {
            return Err(Error::empty(&name));
        }
        Ok(Parts { name, format, on_disk, is_one_of_several: left.len() > 1, left: left.into() })
    }

    /// All tables of a database on a server.
    ///
    /// # Errors
    /// Where nobody answers there, or there are none.
    pub(crate) fn on_server(file: &Path, format: Format, options: &OpenOptions) -> Result<Self> {
        let name = file.display().to_string();
        let on_disk = OnDisk { path: file.to_path_buf(), copy: None, fingerprint: None };
        let left = names(&on_disk, &name, format, options)?;
        if left.is_empty() {
            return Err(Error::empty(&name));
        }
        Ok(Parts { name, format, on_disk, is_one_of_several: left.len() > 1, left: left.into() })
    }

    /// Opens the next one; none where all were opened.
    ///
    /// # Errors
    /// Where it is damaged.
    pub(crate) fn open_next(&mut self, options: &OpenOptions) -> Result<Option<Box<dyn Source>>> {
        let Some(part) = self.left.pop_front() else { return Ok(None) };
        let input = RowInput {
            name: if self.is_one_of_several { format!("{}#{part}", self.name) } else { self.name.clone() },
            sizes: (options.chunk_bytes, options.longest_record),
            fingerprint: false,
            // The copy, where there is one, is needed for the next one.
            on_disk: OnDisk { path: self.on_disk.path.clone(), copy: None, fingerprint: None },
        };
        open_part(input, self.format, Some(part), options).map(Some)
    }

    /// The name of the source that they are parts of.
    pub(crate) fn of_source(&self) -> &str {
        &self.name
    }

    /// Whether each is one of several.
    pub(crate) fn is_one_of_several(&self) -> bool {
        self.is_one_of_several
    }
}

#[cfg_attr(
    not(all(feature = "spreadsheet", feature = "sqlite")),
    allow(unused_variables, reason = "a build may read none of these formats")
)]
fn names(on_disk: &OnDisk, name: &str, format: Format, options: &OpenOptions) -> Result<Vec<String>> {
    match format {
        #[cfg(feature = "spreadsheet")]
        Format::Xlsx | Format::Xls | Format::Ods => {
            crate::formats::spreadsheet::filled_sheets(&on_disk.path, name, format, options.most_unpacked)
        }
        #[cfg(feature = "sqlite")]
        Format::Sqlite => crate::formats::sqlite::table_names(&on_disk.path, name),
        #[cfg(feature = "mysql")]
        Format::MariaDb => crate::formats::server::mariadb::table_names(&on_disk.path, name),
        #[cfg(feature = "postgres")]
        Format::Postgres => crate::formats::server::postgres::table_names(&on_disk.path, name),
        _ => unreachable!("{name}: {} has no parts", format.entry().called),
    }
}
