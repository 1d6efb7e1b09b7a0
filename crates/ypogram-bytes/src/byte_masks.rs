//! What 64 bytes are, one bit each: checks on short texts become a few operations on whole words, whatever their lengths.

use crate::simd::{self, BLOCK, Kernel, Simd};

/// What 64 bytes are, the first in the lowest bit.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct ByteMasks {
    /// The @.
    pub at: u64,
    /// ASCII capitals.
    pub capital: u64,
    /// The full stop.
    pub dot: u64,
    /// The plus sign.
    pub plus: u64,
    /// One of `'+-_`.
    pub sign: u64,
    /// Neither letter, digit, dot nor one of `'+-_`, which may stand in a local part and encode or separate nothing.
    pub not_local: u64,
    /// Neither letter, digit, hyphen nor dot.
    pub not_domain: u64,
}

impl ByteMasks {
    /// What the bytes of each of `blocks` are, which are brought to lower case; as many as there is room for.
    pub fn lowering(blocks: &mut [[u8; BLOCK]], masks: &mut [ByteMasks]) {
        simd::run(Lowering { blocks, masks });
    }

    /// What the 64 bytes are that start at the byte `from` of the block of `self`, which `next` follows.
    #[inline]
    pub fn from(&self, from: u32, next: &ByteMasks) -> Self {
        let joined = |these: u64, those: u64| these >> from | those << 1 << (BLOCK as u32 - 1 - from);
        ByteMasks {
            at: joined(self.at, next.at),
            capital: joined(self.capital, next.capital),
            dot: joined(self.dot, next.dot),
            plus: joined(self.plus, next.plus),
            sign: joined(self.sign, next.sign),
            not_local: joined(self.not_local, next.not_local),
            not_domain: joined(self.not_domain, next.not_domain),
        }
    }
    /// Whether something stands beside an @ of the first `count` bytes that may stand in no part of an address.
    #[inline]
    pub fn has_others_beside_at(&self, count: u32) -> bool {
        let beside = (self.at << 1 | self.at >> 1) & !self.at;
        self.not_local & self.not_domain & beside & low_bits(count) != 0
    }

    /// What remains without the bytes from `start` to `end` but for one that moves to `start`, which is an @.
    pub fn closed_up(&self, start: u32, end: u32) -> Self {
        let closed = |these: u64| these & low_bits(start) | these >> end << (start + 1);
        let at = 1 << start;
        ByteMasks {
            at: closed(self.at) | at,
            capital: closed(self.capital),
            dot: closed(self.dot),
            plus: closed(self.plus),
            sign: closed(self.sign),
            not_local: closed(self.not_local) | at,
            not_domain: closed(self.not_domain) | at,
        }
    }
}

struct Lowering<'b> {
    blocks: &'b mut [[u8; BLOCK]],
    masks: &'b mut [ByteMasks],
}

impl Kernel for Lowering<'_> {
    type Output = ();

    #[inline(always)]
    fn run(self, simd: impl Simd) {
        for (block, masks) in self.blocks.iter_mut().zip(self.masks) {
            *masks = lowering(simd, block);
        }
    }
}

#[inline(always)]
fn lowering<L: Simd>(simd: L, block: &mut [u8; BLOCK]) -> ByteMasks {
    let mut masks = ByteMasks::default();
    for nth in 0..BLOCK / L::WIDTH {
        let shift = L::WIDTH * nth;
        let written = simd.load(block, nth);
        let capital = simd.within(written, b'A', b'Z');
        let lower = simd.lower(written, capital);
        simd.store(lower, block, nth);
        let (dot, plus) = (simd.is(written, b'.'), simd.is(written, b'+'));
        let hyphen = simd.is(written, b'-');
        let others = simd.or(simd.is(written, b'_'), simd.is(written, b'\''));
        let letter_or_digit = simd.or(simd.within(lower, b'a', b'z'), simd.within(written, b'0', b'9'));
        let domain = simd.or(letter_or_digit, simd.or(hyphen, dot));
        let sign = simd.or(simd.or(plus, hyphen), others);
        masks.at |= simd.bits(simd.is(written, b'@')) << shift;
        masks.capital |= simd.bits(capital) << shift;
        masks.dot |= simd.bits(dot) << shift;
        masks.plus |= simd.bits(plus) << shift;
        masks.sign |= simd.bits(sign) << shift;
        // Turned round below.
        masks.not_local |= simd.bits(simd.or(domain, sign)) << shift;
        masks.not_domain |= simd.bits(domain) << shift;
    }
    ByteMasks { not_local: !masks.not_local, not_domain: !masks.not_domain, ..masks }
}

/// The lowest `count` bits, of which there are at most 63.
#[inline]
pub fn low_bits(count: u32) -> u64 {
    (1 << count) - 1
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn masks_say_what_each_byte_is(bytes in proptest::array::uniform32(any::<u8>()), from in 0_u32..64) {
            let mut written = [0; BLOCK];
            written[..32].copy_from_slice(&bytes);
            written[32..].copy_from_slice(&bytes.map(|byte| byte & 0x7F));
            let (mut lower, mut by_sixteens) = ([written], written);
            let mut masks = [ByteMasks::default()];
            ByteMasks::lowering(&mut lower, &mut masks);
            let [masks] = masks;
            let [lower] = lower;
            prop_assert_eq!(lowering(simd::Sixteen, &mut by_sixteens), masks);
            prop_assert_eq!(by_sixteens, lower);
            prop_assert_eq!(&lower[..], written.to_ascii_lowercase());
            // Twice the same block, looked at from somewhere within.
            let turned = masks.from(from, &masks);
            for nth in 0..BLOCK {
                let byte = written[(nth + from as usize) % BLOCK];
                let domain = byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'.');
                let bit = |mask: u64| mask >> nth & 1 == 1;
                prop_assert_eq!(bit(turned.at), byte == b'@');
                prop_assert_eq!(bit(turned.capital), byte.is_ascii_uppercase());
                prop_assert_eq!(bit(turned.dot), byte == b'.');
                prop_assert_eq!(bit(turned.plus), byte == b'+');
                prop_assert_eq!(bit(turned.sign), matches!(byte, b'+' | b'-' | b'_' | b'\''));
                prop_assert_eq!(bit(turned.not_domain), !domain);
                prop_assert_eq!(bit(turned.not_local), !domain && !matches!(byte, b'+' | b'_' | b'\''));
            }
        }
    }
}
