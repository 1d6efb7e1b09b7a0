//! The formats, one row each.

use std::path::Path;

/// A format that records or text are read from, or rows written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    /// Delimiter-separated values, whatever the delimiter.
    Csv,
    /// Tab-separated values.
    Tsv,
    /// One JSON object a line.
    JsonLines,
    /// Plain text, Markdown, logs, anything else: one record a line.
    Text,
    /// A web page.
    Html,
    /// One JSON document.
    Json,
    /// One mail message.
    Mail,
    /// Mail messages one after the other.
    Mailbox,
}

/// What there is to know of a format.
#[derive(Clone, Copy, Debug)]
pub struct FormatEntry {
    /// The format.
    pub format: Format,
    /// The word on the command line.
    pub name: &'static str,
    /// What the names of such files end with, behind the last dot; the first is that of outputs.
    pub extensions: &'static [&'static str],
    /// It is a table: its records can be read one by one.
    pub is_table: bool,
    /// Rows can be written in it.
    pub is_output: bool,
}

/// Every format.
pub static FORMATS: &[FormatEntry] = &[
    entry(Format::Csv, "csv", &["csv"], true, true),
    entry(Format::Tsv, "tsv", &["tsv", "tab"], true, true),
    entry(Format::JsonLines, "jsonl", &["jsonl", "ndjson"], true, true),
    entry(Format::Text, "text", &["txt"], true, false),
    entry(Format::Html, "html", &["html", "htm", "xhtml"], false, false),
    entry(Format::Json, "json", &["json"], false, false),
    entry(Format::Mail, "eml", &["eml"], false, false),
    entry(Format::Mailbox, "mbox", &["mbox"], false, false),
];

const fn entry(
    format: Format,
    name: &'static str,
    extensions: &'static [&'static str],
    is_table: bool,
    is_output: bool,
) -> FormatEntry {
    FormatEntry { format, name, extensions, is_table, is_output }
}

impl Format {
    /// What there is to know of it.
    pub fn entry(self) -> &'static FormatEntry {
        FORMATS.iter().find(|entry| entry.format == self).expect("each has a row")
    }

    /// The format that the extension of `path` tells, that of its compression left out; anything unknown is text.
    ///
    /// ```
    /// use ypogram_io::Format;
    /// assert_eq!(Format::of_path("members.csv.gz".as_ref()), Format::Csv);
    /// assert_eq!(Format::of_path("members.ndjson".as_ref()), Format::JsonLines);
    /// assert_eq!(Format::of_path("README".as_ref()), Format::Text);
    /// ```
    pub fn of_path(path: &Path) -> Self {
        let extension = extension_of(path);
        let entry = FORMATS.iter().find(|entry| entry.extensions.contains(&&*extension));
        entry.map_or(Format::Text, |entry| entry.format)
    }

    /// What the name of an output in this format ends with; outputs of text are CSV.
    pub fn output_extension(self) -> &'static str {
        let entry = self.entry();
        if entry.is_output { entry.extensions[0] } else { "csv" }
    }
}

/// The extension of a file's name in lower case, that of its compression left out.
pub(crate) fn extension_of(path: &Path) -> String {
    let name = path.file_name().map(|name| name.to_string_lossy().to_ascii_lowercase()).unwrap_or_default();
    let name =
        [".gz", ".zst", ".zstd"].iter().find_map(|extension| name.strip_suffix(extension)).unwrap_or(&name);
    name.rsplit_once('.').map_or_else(String::new, |(_, extension)| extension.to_owned())
}
