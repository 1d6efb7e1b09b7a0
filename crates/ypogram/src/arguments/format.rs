//! The formats that options name, from the list of all formats.

use clap::builder::{PossibleValue, PossibleValuesParser, TypedValueParser};
use ypogram_io::{FORMATS, Format, FormatEntry};

/// The format of rows.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum RowFormatArgument {
    /// A format of tables.
    Table(Format),
    /// `check`: just the input and whether it is well formed; `extract`: the bare addresses, one a line.
    Plain,
}

impl RowFormatArgument {
    /// The format of a table; none where no table is asked for.
    pub(crate) fn table(self) -> Option<Format> {
        match self {
            RowFormatArgument::Table(format) => Some(format),
            RowFormatArgument::Plain => None,
        }
    }
}

/// Formats that are read as records.
pub(crate) fn of_tables() -> impl TypedValueParser<Value = Format> {
    PossibleValuesParser::new(values(|entry| entry.uses.is_table)).map(|name| named(&name))
}

/// Formats that are read at all.
pub(crate) fn of_sources() -> impl TypedValueParser<Value = Format> {
    PossibleValuesParser::new(values(|_| true)).map(|name| named(&name))
}

/// Formats that rows are written in.
pub(crate) fn of_outputs() -> impl TypedValueParser<Value = Format> {
    PossibleValuesParser::new(values(|entry| entry.format.can_be_written())).map(|name| named(&name))
}

/// Formats that rows are written in, and bare values.
pub(crate) fn of_rows() -> impl TypedValueParser<Value = RowFormatArgument> {
    let plain = PossibleValue::new(PLAIN).help(
        "`check`: just the input and whether it is well formed; `extract`: the bare addresses, one a line",
    );
    let all = values(|entry| entry.format.can_be_written()).chain([plain]);
    PossibleValuesParser::new(all).map(|name| match name.as_str() {
        PLAIN => RowFormatArgument::Plain,
        name => RowFormatArgument::Table(named(name)),
    })
}

const PLAIN: &str = "plain";

fn values(is_wanted: impl Fn(&FormatEntry) -> bool) -> impl Iterator<Item = PossibleValue> {
    // What an address says is not named besides.
    let named = FORMATS.iter().filter(|entry| entry.schemes.is_empty());
    let wanted: Vec<&FormatEntry> = named.filter(|entry| is_wanted(entry)).collect();
    wanted.into_iter().map(|entry| PossibleValue::new(entry.name).help(entry.called))
}

fn named(name: &str) -> Format {
    let entry = FORMATS.iter().find(|entry| entry.name == name);
    entry.expect("only names of the list are taken").format
}
