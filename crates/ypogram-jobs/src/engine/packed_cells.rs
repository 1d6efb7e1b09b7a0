//! Cells in one row of bytes, each with its length in front, for what waits in memory or in a temporary file.

/// Appends a cell.
pub(crate) fn pack(cell: &[u8], out: &mut Vec<u8>) {
    out.extend_from_slice(&(cell.len() as u32).to_le_bytes());
    out.extend_from_slice(cell);
}

/// The cells that were packed, in order.
pub(crate) fn unpack(mut packed: &[u8]) -> impl Iterator<Item = &[u8]> {
    std::iter::from_fn(move || {
        let (length, rest) = packed.split_first_chunk::<4>()?;
        let (cell, rest) = rest.split_at(u32::from_le_bytes(*length) as usize);
        packed = rest;
        Some(cell)
    })
}
