//! The start of a source: the first bytes of it, read to see what it is.

use std::io::{self, Write as _};
use std::path::{Path, PathBuf};

use crate::formats::options::OpenOptions;
use crate::formats::recognise::{Content, content, text_format};
use crate::input::file_input::{Compression, Input, can_be_read_but_once};
use crate::input::on_disk::OnDisk;
use crate::output::{private_file, temporary_folder};
use crate::records::error::{Error, ErrorKind, Result};
use crate::records::format::{Format, extension_of};

/// How much is looked at to recognise format, dialect and encoding.
pub(crate) const SAMPLE: usize = 64 << 10;

/// An input of which the start was read.
pub(crate) struct Begun {
    pub(crate) input: Input,
    /// What was read of it, decompressed.
    pub(crate) start: Vec<u8>,
    /// Where it lies, or its copy.
    pub(crate) file: PathBuf,
    /// It can be read again there.
    can_be_reopened: bool,
}

impl Begun {
    /// Opens the source at `path`, or its copy, and reads the start of it.
    ///
    /// # Errors
    /// Where it cannot be read, or is empty.
    pub(crate) fn at(path: &Path, options: &OpenOptions) -> Result<Self> {
        let kept = options.kept_file(path);
        let mut input = match kept {
            Some(kept) => Input::open_kept(path, kept, options.fingerprint, options.salvage)?,
            None => Input::open(path, options.fingerprint, options.salvage)?,
        };
        let mut start = Vec::new();
        input.fill(&mut start, SAMPLE)?;
        if start.is_empty() {
            return Err(Error::empty(&input.name));
        }
        let can_be_reopened = kept.is_some() || !can_be_read_but_once(path);
        let file = kept.unwrap_or(path).to_path_buf();
        Ok(Begun { input, start, file, can_be_reopened })
    }

    /// The format: as asked for, or by its content and the name of `path`.
    ///
    /// # Errors
    /// Where it is something that is not read, or not what was asked for.
    pub(crate) fn format(&mut self, path: &Path, asked: Option<Format>) -> Result<Format> {
        let named = Format::of_path(path);
        let shown = match content(&self.start) {
            Content::Known(Format::Xls) if named == Format::Xlsx => Some(Format::Xlsx),
            Content::Known(format) => Some(format),
            Content::Zip => Some(self.zip_format()?),
            Content::Foreign(foreign) => {
                return Err(Error::not_read(&self.input.name, foreign.called, foreign.hint));
            }
            Content::Binary(_) if asked.is_some_and(|asked| asked.entry().uses.is_text) => None,
            Content::Binary(zero) => {
                let message =
                    format!("{}: this is a binary file (a zero byte at byte {zero})", self.input.name);
                let hint = "give a text file or a table; with --from text it is read as it stands";
                return Err(Error {
                    kind: ErrorKind::NotRead("a binary file"),
                    ..Error::unusable(message, hint)
                });
            }
            Content::Text => None,
        };
        let format = match (shown, asked) {
            (Some(shown), Some(asked)) if shown != asked => {
                return Err(not_as_asked(&self.input.name, asked, shown.entry().called));
            }
            (Some(shown), _) => shown,
            (None, Some(asked)) if !asked.entry().uses.is_text => {
                return Err(not_as_asked(&self.input.name, asked, "text"));
            }
            (None, Some(asked)) => asked,
            (None, None) if named.entry().uses.is_text && named != Format::Text => named,
            // What is called notes.txt is text; a name without a format, or with another one, tells nothing.
            (None, None) if extension_of(path) == "txt" => Format::Text,
            (None, None) => text_format(&self.start).unwrap_or(Format::Text),
        };
        match format.entry().feature {
            Some((feature, false)) => Err(Error::unusable(
                format!(
                    "{}: this is {}, which this build of the program does not read",
                    self.input.name,
                    format.entry().called
                ),
                format!("build it with --features {feature}"),
            )),
            _ => Ok(format),
        }
    }

    /// The format of a packed archive.
    fn zip_format(&mut self) -> Result<Format> {
        let foreign = |called: &'static str, hint: &str| Err(Error::not_read(&self.input.name, called, hint));
        let has = |needle: &str| memchr::memmem::find(&self.start, needle.as_bytes()).is_some();
        let packed_only = "unpack it, and give the files in it";
        if has("application/vnd.oasis.opendocument.spreadsheet") {
            return Ok(Format::Ods);
        }
        if has("xl/workbook.bin") {
            return foreign("a binary workbook (XLSB)", "save it as XLSX and try again");
        }
        for (needle, called) in [
            ("application/vnd.oasis.opendocument", "an OpenDocument file"),
            ("word/", "a text document (DOCX)"),
            ("ppt/", "a presentation (PPTX)"),
            ("META-INF/MANIFEST.MF", "a program (JAR)"),
            ("AndroidManifest.xml", "a program (APK)"),
            ("application/epub+zip", "a book (EPUB)"),
        ] {
            if has(needle) {
                return foreign(called, "copy its text into a file");
            }
        }
        // The names of the parts of a workbook may come late in the archive.
        let is_workbook =
            has("xl/") || has("[Content_Types].xml") || extension_of(&self.file).starts_with("xls");
        if is_workbook { Ok(Format::Xlsx) } else { foreign("a packed archive (zip)", packed_only) }
    }

    /// One that goes on from `start`, and is read but once.
    pub(crate) fn over(input: Input, start: Vec<u8>) -> Self {
        Begun { input, start, file: PathBuf::new(), can_be_reopened: false }
    }

    /// The source as a file that can be read from its start again, compressed as it may be: itself, or a copy.
    ///
    /// # Errors
    /// Where it cannot be read to its end or copied, or has more than `most` bytes.
    pub(crate) fn into_reopenable(self, most: u64) -> Result<OnDisk> {
        match self.can_be_reopened {
            true => Ok(OnDisk { path: self.file, copy: None, fingerprint: None }),
            false => self.on_disk(most),
        }
    }

    /// The whole source as an uncompressed file that can be read at any place: itself, or a copy of at most `most` bytes.
    ///
    /// # Errors
    /// Where it cannot be read to its end or copied, or has more bytes.
    pub(crate) fn on_disk(mut self, most: u64) -> Result<OnDisk> {
        if self.can_be_reopened && self.input.compression == Compression::None {
            return Ok(OnDisk { path: self.file, copy: None, fingerprint: None });
        }
        let folder = temporary_folder()?;
        let path = folder.path().join("source");
        let failed = |error: io::Error| Error::temporary(folder.path(), &error);
        let mut file = private_file(&path).map_err(failed)?;
        let mut copied = 0;
        while !self.start.is_empty() {
            copied += self.start.len() as u64;
            if copied > most {
                return Err(Error::unusable(
                    format!("{}: it unpacks to more than {} MiB", self.input.name, most >> 20),
                    format!(
                        "if that is right, read it with --most-unpacked {}M",
                        (most >> 20).saturating_mul(4)
                    ),
                ));
            }
            file.write_all(&self.start).map_err(failed)?;
            self.start.clear();
            self.input.fill(&mut self.start, SAMPLE)?;
        }
        Ok(OnDisk { path, copy: Some(folder), fingerprint: Some(self.input.fingerprint()) })
    }
}

/// The error of a source that is no such format.
fn not_as_asked(name: &str, asked: Format, called: &str) -> Error {
    Error::unusable(
        format!("{name}: this is {called}, and not {}", asked.entry().called),
        "leave --from out, and the format is recognised",
    )
}
