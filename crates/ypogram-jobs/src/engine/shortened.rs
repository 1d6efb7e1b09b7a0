//! Cells as examples show them.

/// A cell as an example shows it: at most 60 characters.
pub(crate) fn shortened(cell: &[u8]) -> String {
    let text = String::from_utf8_lossy(cell);
    let mut chars = text.chars();
    let mut out: String = chars.by_ref().take(60).collect();
    if chars.next().is_some() {
        out.push('…');
    }
    out
}
