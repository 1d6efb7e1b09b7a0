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
    /// One JSON document; as a table, an array of objects.
    Json,
    /// A workbook of today's spreadsheet programs (Office Open XML).
    Xlsx,
    /// A workbook of spreadsheet programs before 2007.
    Xls,
    /// A workbook of OpenDocument.
    Ods,
    /// A database of SQLite.
    Sqlite,
    /// A database on a PostgreSQL server.
    Postgres,
    /// A database on a MariaDB or MySQL server.
    MariaDb,
    /// An address book of cards.
    Vcard,
    /// Entries of a directory.
    Ldif,
    /// A Parquet file.
    Parquet,
    /// An Arrow IPC file.
    Arrow,
    /// An Arrow IPC stream.
    ArrowStream,
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
    /// What people call a file in it.
    pub called: &'static str,
    /// What the names of such files end with, behind the last dot; the first is that of outputs.
    pub extensions: &'static [&'static str],
    /// What the address of a database on a server begins with.
    pub schemes: &'static [&'static str],
    /// What can be done with it.
    pub uses: Uses,
    /// The cargo feature that it needs, where the program can be built without it, and whether it was.
    pub feature: Option<(&'static str, bool)>,
}

/// What can be done with a format.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Uses {
    /// It is a table: its records can be read one by one.
    pub is_table: bool,
    /// Rows can be written in it.
    pub is_output: bool,
    /// It is text in itself, which goes to a terminal.
    pub is_text: bool,
    /// It is searched cell by cell, rather than as it stands.
    pub by_cells: bool,
}

const TABLE: Uses = Uses { is_table: true, is_output: true, is_text: true, by_cells: false };
const DOCUMENT: Uses = Uses { is_table: false, ..TABLE_IN };
const SPREADSHEET: Option<(&str, bool)> = Some(("spreadsheet", cfg!(feature = "spreadsheet")));
const PARQUET: Option<(&str, bool)> = Some(("parquet", cfg!(feature = "parquet")));
const MYSQL: Option<(&str, bool)> = Some(("mysql", cfg!(feature = "mysql")));
const POSTGRES: Option<(&str, bool)> = Some(("postgres", cfg!(feature = "postgres")));
const SQLITE: Option<(&str, bool)> = Some(("sqlite", cfg!(feature = "sqlite")));

/// Every format.
pub static FORMATS: &[FormatEntry] = &[
    entry(Format::Csv, "csv", "separated values", &["csv"], TABLE),
    entry(Format::Tsv, "tsv", "tab-separated values", &["tsv", "tab"], TABLE),
    entry(Format::JsonLines, "jsonl", "JSON lines", &["jsonl", "ndjson"], TABLE),
    entry(Format::Json, "json", "a JSON document", &["json"], TABLE),
    entry(Format::Text, "text", "text", &["txt"], TABLE_IN),
    entry(Format::Html, "html", "a web page", &["html", "htm", "xhtml"], DOCUMENT),
    entry(Format::Mail, "eml", "a mail message", &["eml"], TABLE_IN),
    entry(Format::Mailbox, "mbox", "a mailbox", &["mbox"], TABLE_IN),
    entry(Format::Vcard, "vcard", "an address book (vCard)", &["vcf", "vcard"], ENTRIES),
    entry(Format::Ldif, "ldif", "a directory (LDIF)", &["ldif"], ENTRIES),
    FormatEntry {
        feature: SPREADSHEET,
        ..entry(Format::Xlsx, "xlsx", "a workbook (XLSX)", &["xlsx", "xlsm"], PACKED)
    },
    FormatEntry {
        feature: SPREADSHEET,
        ..entry(Format::Xls, "xls", "a workbook (XLS)", &["xls"], READ_ONLY)
    },
    FormatEntry {
        feature: SPREADSHEET,
        ..entry(Format::Ods, "ods", "a workbook (ODS)", &["ods"], READ_ONLY)
    },
    FormatEntry {
        feature: SQLITE,
        ..entry(Format::Sqlite, "sqlite", "an SQLite database", &["sqlite", "sqlite3", "db"], PACKED)
    },
    // Its address says it, and no extension.
    FormatEntry {
        feature: POSTGRES,
        schemes: &["postgres://", "postgresql://"],
        ..entry(Format::Postgres, "postgres", "a PostgreSQL database", &[], READ_ONLY)
    },
    FormatEntry {
        feature: MYSQL,
        schemes: &["mysql://", "mariadb://"],
        ..entry(Format::MariaDb, "mysql", "a MariaDB or MySQL database", &[], READ_ONLY)
    },
    FormatEntry {
        feature: PARQUET,
        ..entry(Format::Parquet, "parquet", "a Parquet file", &["parquet", "pq"], PACKED)
    },
    FormatEntry {
        feature: PARQUET,
        ..entry(Format::Arrow, "arrow", "an Arrow file", &["arrow", "ipc", "feather"], PACKED)
    },
    FormatEntry {
        feature: PARQUET,
        ..entry(Format::ArrowStream, "arrows", "an Arrow stream", &["arrows"], PACKED)
    },
];

const ENTRIES: Uses = Uses { by_cells: true, ..TABLE };
const PACKED: Uses = Uses { is_text: false, by_cells: true, ..TABLE };
const READ_ONLY: Uses = Uses { is_output: false, ..PACKED };
const TABLE_IN: Uses = Uses { is_output: false, ..TABLE };

const fn entry(
    format: Format,
    name: &'static str,
    called: &'static str,
    extensions: &'static [&'static str],
    uses: Uses,
) -> FormatEntry {
    FormatEntry { format, name, called, extensions, schemes: &[], uses, feature: None }
}

impl Format {
    /// What there is to know of it.
    pub fn entry(self) -> &'static FormatEntry {
        FORMATS.iter().find(|entry| entry.format == self).expect("each has a row")
    }

    /// The format that the extension of `path` says, that of its compression left out; anything unknown is text.
    ///
    /// ```
    /// use ypogram_io::Format;
    /// assert_eq!(Format::of_path("members.csv.gz".as_ref()), Format::Csv);
    /// assert_eq!(Format::of_path("members.ndjson".as_ref()), Format::JsonLines);
    /// assert_eq!(Format::of_path("README".as_ref()), Format::Text);
    /// ```
    pub fn of_path(path: &Path) -> Self {
        Format::named_by(path).unwrap_or(Format::Text)
    }

    /// The format that the extension of `path` says, that of its compression left out.
    pub fn named_by(path: &Path) -> Option<Self> {
        if let Some(server) = on_server(path) {
            return Some(server);
        }
        let extension = extension_of(path);
        FORMATS.iter().find(|entry| entry.extensions.contains(&&*extension)).map(|entry| entry.format)
    }

    /// Whether a file in it holds several tables: sheets, or tables of a database.
    pub(crate) fn has_parts(self) -> bool {
        self.is_on_server() || matches!(self, Format::Xlsx | Format::Xls | Format::Ods | Format::Sqlite)
    }

    /// Whether it is that of a database on a server rather than of a file.
    pub fn is_on_server(self) -> bool {
        matches!(self, Format::Postgres | Format::MariaDb)
    }

    /// Whether rows can be written in it, by this build of the program.
    pub fn can_be_written(self) -> bool {
        let entry = self.entry();
        entry.uses.is_output && entry.feature.is_none_or(|(_, is_built)| is_built)
    }

    /// What the name of an output in this format ends with; outputs of text are CSV.
    pub fn output_extension(self) -> &'static str {
        let entry = self.entry();
        if entry.uses.is_output { entry.extensions[0] } else { "csv" }
    }
}

/// The kind of server that a source or an output is a database of; none where it is a file.
pub(crate) fn on_server(path: &Path) -> Option<Format> {
    let text = path.to_str()?;
    let begins =
        |scheme: &&str| text.get(..scheme.len()).is_some_and(|start| start.eq_ignore_ascii_case(scheme));
    FORMATS.iter().find(|entry| entry.schemes.iter().any(&begins)).map(|entry| entry.format)
}

/// The extension of a file's name in lower case, that of its compression left out.
pub(crate) fn extension_of(path: &Path) -> String {
    let name = path.file_name().map(|name| name.to_string_lossy().to_ascii_lowercase()).unwrap_or_default();
    let name =
        [".gz", ".zst", ".zstd"].iter().find_map(|extension| name.strip_suffix(extension)).unwrap_or(&name);
    name.rsplit_once('.').map_or_else(String::new, |(_, extension)| extension.to_owned())
}
