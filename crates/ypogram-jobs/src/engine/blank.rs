//! When a cell holds nothing.

/// Whether a cell holds nothing but white space.
pub(crate) fn is_blank(cell: &[u8]) -> bool {
    cell.trim_ascii().is_empty()
}
