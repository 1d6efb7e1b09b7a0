//! Cells and rows as separated values.

use memchr::{memchr, memchr3};

/// Appends a row with a line feed.
///
/// ```
/// let mut out = Vec::new();
/// ypogram_io::csv::write_row(["name", "Lovelace, Ada"], b',', &mut out);
/// assert_eq!(out, b"name,\"Lovelace, Ada\"\n");
/// ```
pub fn write_row<C: AsRef<[u8]>>(cells: impl IntoIterator<Item = C>, delimiter: u8, out: &mut Vec<u8>) {
    for (place, cell) in cells.into_iter().enumerate() {
        if place > 0 {
            out.push(delimiter);
        }
        write_cell(cell.as_ref(), delimiter, out);
    }
    out.push(b'\n');
}

/// Appends one cell, in quotes where it needs them.
pub fn write_cell(cell: &[u8], delimiter: u8, out: &mut Vec<u8>) {
    let plain = match cell.len() {
        0..16 => !cell.iter().any(|&b| b == delimiter || matches!(b, b'"' | b'\n' | b'\r')),
        _ => memchr3(delimiter, b'"', b'\n', cell).is_none() && memchr(b'\r', cell).is_none(),
    };
    if plain {
        out.extend_from_slice(cell);
        return;
    }
    out.push(b'"');
    for &b in cell {
        if b == b'"' {
            out.push(b'"');
        }
        out.push(b);
    }
    out.push(b'"');
}
