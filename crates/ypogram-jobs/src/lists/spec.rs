//! What a job is given about a list of its own.

use std::path::PathBuf;

use ypogram_core::lists::{BesideBuiltIn, Of, Several};
use ypogram_core::{Class, Code, Pattern};

/// A list of one's own: where its entries come from, and what they do.
#[derive(Clone, Debug, Default)]
pub struct ListSpec {
    /// Its name.
    pub name: String,
    /// The file that holds the entries; none where they are given here.
    pub file: Option<PathBuf>,
    /// The file as it was written, for people.
    pub from: String,
    /// Entries given here.
    pub entries: Vec<String>,
    /// What the entries are.
    pub of: Of,
    /// The column of the file that holds the entries; found by looking where none is named.
    pub entry_column: Option<String>,
    /// The field that is held against the list; the record's address where none is named.
    pub matching: Option<Matching>,
    /// The class that an entry gives.
    pub class: Option<Class>,
    /// The finding that an entry raises.
    pub finding: Option<Code>,
    /// What the list does beside the built-in one.
    pub built_in: BesideBuiltIn,
    /// Columns of the file that are appended to a matching record, with the name of the output's column.
    pub columns: Vec<ListColumn>,
    /// Which cells count where several entries are one.
    pub several: Several,
    /// Where the list was named, to stand in front of messages.
    pub place: String,
}

/// A column of a list's file that is appended to matching records.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ListColumn {
    /// Its name in the list's file.
    pub column: String,
    /// The name of the output's column.
    pub name: String,
    /// Whether the prefix of added columns stands before it.
    pub prefixed: bool,
}

/// Which field is held against a list of values, and how.
#[derive(Clone, Debug)]
pub struct Matching {
    /// The field's name.
    pub field: String,
    /// How its cells are held against the entries.
    pub by: By,
}

/// How a cell is held against the entries of a list.
#[derive(Clone, Debug, Default)]
pub enum By {
    /// It is the entry, letter case aside.
    #[default]
    Exact,
    /// It starts with the entry; the longest that fits counts.
    Prefix,
    /// What this pattern takes from it is the entry.
    Pattern(Box<Pattern>),
}
