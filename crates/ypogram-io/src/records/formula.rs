//! Cells that a spreadsheet would take for formulas, and the apostrophe that keeps it from that.

/// Whether a spreadsheet takes the cell for a formula when it opens the table: it begins with `=`, `@`, a tab or a carriage return, or
/// with `+` or `-` and is no number or telephone number.
///
/// ```
/// use ypogram_io::csv::is_formula_like;
/// assert!(is_formula_like(b"=HYPERLINK(\"http://fernhollow.example\")"));
/// assert!(is_formula_like(b"+cmd|' /C calc'!A0"));
/// assert!(!is_formula_like(b"+44 (0)1632 960413"));
/// assert!(!is_formula_like(b"'=1+1"));
/// ```
pub fn is_formula_like(cell: &[u8]) -> bool {
    match cell {
        [b'=' | b'@' | b'\t' | b'\r', ..] => true,
        [b'+' | b'-', rest @ ..] => !rest.iter().all(|b| b.is_ascii_digit() || b" .,()/-".contains(b)),
        _ => false,
    }
}

/// Whether it is such a cell with an apostrophe in front, which is no part of it.
pub(crate) fn is_guarded(cell: &[u8]) -> bool {
    cell.strip_prefix(b"'").is_some_and(is_formula_like)
}

/// The bytes that such cells and guarded ones begin with.
#[inline]
pub(crate) fn may_begin_one(byte: u8) -> bool {
    matches!(byte, b'=' | b'@' | b'\t' | b'\r' | b'+' | b'-' | b'\'')
}
