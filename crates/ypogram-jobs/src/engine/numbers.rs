//! Numbers into rows, without asking for memory.

use ypogram_tables::append_few;

/// Appends `number` in decimal.
pub(crate) fn write_number(number: u64, out: &mut Vec<u8>) {
    append_few(Decimal::new().of(number), out);
}

/// A number in decimal that counts up from 1. Its digits are changed a while before they are copied: see [`Decimal`].
pub(crate) struct Counter {
    digits: [u8; Counter::DIGITS],
    len: usize,
}

impl Counter {
    /// The most digits that it can have, those of any `u64`.
    pub(crate) const DIGITS: usize = 20;

    pub(crate) fn from_one() -> Self {
        let mut digits = [b'0'; Counter::DIGITS];
        digits[0] = b'1';
        Counter { digits, len: 1 }
    }

    /// Its digits, others behind them, and how many it has.
    #[inline]
    pub(crate) fn digits(&self) -> (&[u8; Counter::DIGITS], usize) {
        (&self.digits, self.len)
    }

    /// Goes on to the next number.
    #[inline]
    pub(crate) fn advance(&mut self) {
        for digit in self.digits[..self.len].iter_mut().rev() {
            if *digit < b'9' {
                *digit += 1;
                return;
            }
            *digit = b'0';
        }
        // All were nines; what stands behind them is zero.
        self.digits[0] = b'1';
        self.len += 1;
    }
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn counts_as_numbers_are_written() {
        let mut counter = Counter::from_one();
        for number in 1..=100_001_u64 {
            let (digits, len) = counter.digits();
            assert_eq!(digits[..len], *number.to_string().as_bytes());
            counter.advance();
        }
    }
}
