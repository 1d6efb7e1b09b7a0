//! The formats that text is taken from.

use crate::formats::csv::Dialect;
use crate::records::format::Format;

/// The formats that text is taken from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Kind {
    /// Plain text, Markdown, logs, anything else.
    Text,
    /// Text in UTF-16; the flag is for the most significant byte first.
    Utf16(bool),
    /// A table.
    Table {
        /// How its cells are separated.
        dialect: Dialect,
        /// Its fields.
        fields: Vec<String>,
    },
    /// Cells with types: a sheet, a table of a database.
    Typed {
        /// Its fields.
        fields: Vec<String>,
    },
    /// A web page.
    Html,
    /// One JSON document.
    Json,
    /// JSON, one value a line.
    JsonLines,
    /// One mail message.
    Mail,
    /// Mail messages one after the other.
    Mailbox,
}

impl Kind {
    /// That of a format.
    pub(super) fn of(format: Format) -> Self {
        match format {
            Format::Csv => Kind::Table { dialect: Dialect { delimiter: 0 }, fields: vec![] },
            Format::Tsv => Kind::Table { dialect: Dialect { delimiter: b'\t' }, fields: vec![] },
            Format::Html => Kind::Html,
            Format::Json => Kind::Json,
            Format::JsonLines => Kind::JsonLines,
            Format::Mail => Kind::Mail,
            Format::Mailbox => Kind::Mailbox,
            Format::Text => Kind::Text,
            _ => Kind::Typed { fields: vec![] },
        }
    }

    /// Its fields, where it is a table.
    pub fn fields(&self) -> Option<&[String]> {
        match self {
            Kind::Table { fields, .. } | Kind::Typed { fields } => Some(fields),
            _ => None,
        }
    }
}
