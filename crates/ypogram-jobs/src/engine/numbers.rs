//! Numbers in decimal.

use ypogram_tables::append_few;

/// Appends `number` in decimal.
#[inline]
pub(crate) fn write_number(number: u64, out: &mut Vec<u8>) {
    append_few(itoa::Buffer::new().format(number).as_bytes(), out);
}
