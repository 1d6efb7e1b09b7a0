//! The formats of rows.

/// How rows are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RowFormat {
    /// Separated values with this delimiter.
    Separated(u8),
    /// One JSON object a line.
    JsonLines,
    /// The bare address in standard form.
    Plain,
}
