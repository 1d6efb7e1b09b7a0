//! How sources are to be opened.

use std::path::{Path, PathBuf};

use encoding_rs::Encoding;

use crate::formats::csv::{Header, SortOf};
use crate::input::borders::LONGEST_RECORD;
use crate::records::format::Format;

/// How to open a source.
#[derive(Clone, Debug)]
pub struct OpenOptions {
    /// The format; by the extension where none is given.
    pub format: Option<Format>,
    /// The separator of cells; recognised where none is given.
    pub delimiter: Option<u8>,
    /// Where the names of a table's fields stand.
    pub header: Header,
    /// Tells the cells of a header from those of records; without it, the first row is the header where none is named, and
    /// text is not looked at whether it is a table.
    pub sort_of: Option<SortOf>,
    /// The encoding of text; recognised where none is given.
    pub encoding: Option<&'static Encoding>,
    /// The encodings of single sources, before that one.
    pub encodings: Vec<(PathBuf, &'static Encoding)>,
    /// How many bytes a chunk should have.
    pub chunk_bytes: usize,
    /// How many bytes a record may have.
    pub longest_record: usize,
    /// As many records are read in all, where there is a limit.
    pub first: Option<u64>,
    /// Take the BLAKE3 of what is read, which not every job tells.
    pub fingerprint: bool,
    /// Publish what could be read of an input that breaks off.
    pub salvage: bool,
    /// The sheet of a workbook, by its name or its number from 1; the first that holds something where none is given.
    pub sheet: Option<String>,
    /// How many bytes a packed file may unpack to, where it has to be unpacked whole.
    pub most_unpacked: u64,
    /// Nothing but these fields is looked at, so that others need not be read where each lies by itself; all where it is empty.
    pub only: Vec<String>,
    /// Columns of tables on servers that are not read: those that are about to be filled there.
    pub not_read: Vec<String>,
    /// Sources that are not where their names say, as what can be read but once, and the files in which they are.
    pub kept: Vec<(PathBuf, PathBuf)>,
}

impl OpenOptions {
    /// The file in which the source that is called `path` is: another where it was kept, as what can be read but once is.
    pub fn kept_file<'p>(&'p self, path: &Path) -> Option<&'p Path> {
        self.kept.iter().find(|(source, _)| source == path).map(|(_, kept)| &**kept)
    }

    /// The encoding that was given for the source at `path`.
    pub(crate) fn encoding_of(&self, path: &Path) -> Option<&'static Encoding> {
        let single = self.encodings.iter().find(|(source, _)| source == path);
        single.map(|(_, encoding)| *encoding).or(self.encoding)
    }
}

impl Default for OpenOptions {
    fn default() -> Self {
        OpenOptions {
            format: None,
            delimiter: None,
            header: Header::Recognised,
            sort_of: None,
            encoding: None,
            encodings: Vec::new(),
            chunk_bytes: 128 << 10,
            longest_record: LONGEST_RECORD,
            first: None,
            fingerprint: true,
            salvage: false,
            sheet: None,
            most_unpacked: MOST_UNPACKED,
            only: Vec::new(),
            not_read: Vec::new(),
            kept: Vec::new(),
        }
    }
}

/// How many bytes a packed file may unpack to, unless told otherwise.
const MOST_UNPACKED: u64 = 2 << 30;
