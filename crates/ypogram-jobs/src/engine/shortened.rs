//! Cells as examples show them.

/// A cell as an example shows it: at most 60 characters.
pub(crate) fn shortened(cell: &[u8]) -> String {
    shortened_to(cell, 60)
}

/// A cell with at most so many characters.
pub(crate) fn shortened_to(cell: &[u8], most: usize) -> String {
    let text = String::from_utf8_lossy(cell);
    let mut chars = text.chars();
    let mut out: String = chars.by_ref().take(most).collect();
    if chars.next().is_some() {
        out.push('…');
    }
    out
}
