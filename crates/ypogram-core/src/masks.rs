//! What 64 octets are, one bit each: checks on short texts become a few operations on whole words, whatever their lengths.

use wide::u8x16;

/// Octets that are looked at together.
pub(crate) const BLOCK: usize = 64;

/// What 64 octets are, the first in the lowest bit.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Masks {
    /// The @.
    pub(crate) at: u64,
    /// ASCII capitals.
    pub(crate) capital: u64,
    /// The full stop.
    pub(crate) dot: u64,
    /// The plus sign.
    pub(crate) plus: u64,
    /// One of `'+-_`.
    pub(crate) sign: u64,
    /// Neither letter, digit, dot nor one of `'+-_`, which may stand in a local part and encode or separate nothing.
    pub(crate) not_local: u64,
    /// Neither letter, digit, hyphen nor dot.
    pub(crate) not_domain: u64,
}

impl Masks {
    /// What the octets of `block` are, which are brought to lower case.
    #[inline(always)]
    pub(crate) fn lowering(block: &mut [u8; BLOCK]) -> Self {
        let mut masks = Masks::default();
        let (sixteens, _) = block.as_chunks_mut::<16>();
        for (nth, sixteen) in sixteens.iter_mut().enumerate() {
            let written = u8x16::new(*sixteen);
            let is = |octet: u8| written.simd_eq(u8x16::splat(octet));
            let within = |from: u8, to: u8, of: u8x16| {
                let above = of - u8x16::splat(from);
                above.min(u8x16::splat(to - from)).simd_eq(above)
            };
            let capital = within(b'A', b'Z', written);
            let lower = written | (capital & u8x16::splat(0x20));
            *sixteen = lower.to_array();
            let (dot, plus, hyphen) = (is(b'.'), is(b'+'), is(b'-'));
            let sign = plus | hyphen | is(b'_') | is(b'\'');
            let domain = within(b'a', b'z', lower) | within(b'0', b'9', written) | hyphen | dot;
            let local = domain | sign;
            let bits = |those: u8x16| u64::from(those.to_bitmask()) << (16 * nth);
            masks.at |= bits(is(b'@'));
            masks.capital |= bits(capital);
            masks.dot |= bits(dot);
            masks.plus |= bits(plus);
            masks.sign |= bits(sign);
            masks.not_local |= bits(!local);
            masks.not_domain |= bits(!domain);
        }
        masks
    }

    /// What the 64 octets are that start at the octet `from` of the block of `self`, which `next` follows.
    #[inline]
    pub(crate) fn from(&self, from: u32, next: &Masks) -> Self {
        let joined = |these: u64, those: u64| these >> from | those << 1 << (BLOCK as u32 - 1 - from);
        Masks {
            at: joined(self.at, next.at),
            capital: joined(self.capital, next.capital),
            dot: joined(self.dot, next.dot),
            plus: joined(self.plus, next.plus),
            sign: joined(self.sign, next.sign),
            not_local: joined(self.not_local, next.not_local),
            not_domain: joined(self.not_domain, next.not_domain),
        }
    }
}

/// The lowest `count` bits, of which there are at most 63.
#[inline]
pub(crate) fn lowest(count: u32) -> u64 {
    (1 << count) - 1
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn masks_say_what_each_octet_is(octets in proptest::array::uniform32(any::<u8>()), from in 0_u32..64) {
            let mut written = [0; BLOCK];
            written[..32].copy_from_slice(&octets);
            written[32..].copy_from_slice(&octets.map(|octet| octet & 0x7F));
            let mut lower = written;
            let masks = Masks::lowering(&mut lower);
            prop_assert_eq!(&lower[..], written.to_ascii_lowercase());
            // Twice the same block, looked at from somewhere within.
            let turned = masks.from(from, &masks);
            for nth in 0..BLOCK {
                let octet = written[(nth + from as usize) % BLOCK];
                let domain = octet.is_ascii_alphanumeric() || matches!(octet, b'-' | b'.');
                let bit = |mask: u64| mask >> nth & 1 == 1;
                prop_assert_eq!(bit(turned.at), octet == b'@');
                prop_assert_eq!(bit(turned.capital), octet.is_ascii_uppercase());
                prop_assert_eq!(bit(turned.dot), octet == b'.');
                prop_assert_eq!(bit(turned.plus), octet == b'+');
                prop_assert_eq!(bit(turned.sign), matches!(octet, b'+' | b'-' | b'_' | b'\''));
                prop_assert_eq!(bit(turned.not_domain), !domain);
                prop_assert_eq!(bit(turned.not_local), !domain && !matches!(octet, b'+' | b'_' | b'\''));
            }
        }
    }
}
