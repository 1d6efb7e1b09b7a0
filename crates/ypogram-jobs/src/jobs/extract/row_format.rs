//! The formats of rows.

use ypogram_io::OutputFormat;

/// How rows are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RowFormat {
    /// As a table.
    Table(OutputFormat),
    /// As JSON objects with all that is known of an address.
    Objects {
        /// All in one array, rather than one a line.
        in_array: bool,
    },
    /// The bare address in standard form.
    Plain,
}
