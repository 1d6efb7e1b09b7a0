//! The places that a rule can be written for.

use serde::Serialize;
use ypogram_core::entry_rule::{Flavour, RefusesToo};
use ypogram_io::SqlDialect;

/// A place where entries are made.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum EntryPlace {
    /// An input of a web page, and a script that shows what is wrong.
    Html,
    /// A column of a database.
    Sql(ColumnOfEntries),
    /// A value of an API, by JSON Schema 2020-12.
    JsonSchema,
    /// A column of a workbook.
    Xlsx,
    /// One regular expression.
    Regex(Flavour),
}

/// A column of a database that takes addresses.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct ColumnOfEntries {
    /// Whose SQL is written.
    #[serde(skip)]
    pub sql: SqlDialect,
    /// The table, where it is there already.
    pub table: Option<String>,
    /// The column.
    pub column: String,
    /// The column with the key of the mailbox.
    pub key_column: String,
}

impl EntryPlace {
    /// The words of `--for`.
    pub const WORDS: [&str; 5] = ["html", "sql", "json-schema", "xlsx", "regex"];

    /// The word of `--for`.
    pub fn word(&self) -> &'static str {
        let place = match self {
            EntryPlace::Html => 0,
            EntryPlace::Sql(_) => 1,
            EntryPlace::JsonSchema => 2,
            EntryPlace::Xlsx => 3,
            EntryPlace::Regex(_) => 4,
        };
        Self::WORDS[place]
    }

    /// What it refuses whatever the rule says.
    pub fn refuses_too(&self) -> &'static [RefusesToo] {
        match self {
            // The HTML standard's e-mail input takes neither.
            EntryPlace::Html => &[RefusesToo::Quotes, RefusesToo::NonAsciiLocal],
            EntryPlace::Sql(_) => &[RefusesToo::Quotes],
            EntryPlace::Xlsx => &[RefusesToo::Quotes],
            EntryPlace::JsonSchema | EntryPlace::Regex(_) => &[],
        }
    }
}
