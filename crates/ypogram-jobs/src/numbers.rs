//! Numbers into rows, without asking for memory.

use ypogram_tables::append_few;

/// Appends `number` in decimal.
pub(crate) fn write_number(number: u64, out: &mut Vec<u8>) {
    append_few(Decimal::new().of(number), out);
}

/// A number in decimal that is worked out a while before it is appended: what was just written octet by octet cannot be read in
/// larger steps before the processor has put it into its cache.
pub(crate) struct Decimal(itoa::Buffer);

impl Decimal {
    pub(crate) fn new() -> Self {
        Decimal(itoa::Buffer::new())
    }

    /// The digits of `number`.
    #[inline]
    pub(crate) fn of(&mut self, number: u64) -> &[u8] {
        self.0.format(number).as_bytes()
    }
}
