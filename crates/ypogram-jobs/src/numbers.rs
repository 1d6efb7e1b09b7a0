//! Numbers into rows, without asking for memory.

/// Appends `number` in decimal.
pub(crate) fn write_number(number: u64, out: &mut Vec<u8>) {
    out.extend_from_slice(itoa::Buffer::new().format(number).as_bytes());
}
