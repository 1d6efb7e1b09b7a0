//! What 64 octets are, one bit each: checks on short texts become a few operations on whole words, whatever their lengths.

use crate::fast::lanes::{self, BLOCK, Lanes, Task};

/// What 64 octets are, the first in the lowest bit.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
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
    /// What the octets of each of `blocks` are, which are brought to lower case; as many are told as there is room for.
    pub(crate) fn lowering(blocks: &mut [[u8; BLOCK]], masks: &mut [Masks]) {
        lanes::run(Lowering { blocks, masks });
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
    /// Whether something stands beside an @ of the first `count` octets that may stand in no part of an address.
    #[inline]
    pub(crate) fn has_others_beside_at(&self, count: u32) -> bool {
        let beside = (self.at << 1 | self.at >> 1) & !self.at;
        self.not_local & self.not_domain & beside & lowest(count) != 0
    }

    /// What remains without the octets from `start` to `end` but for one that moves to `start`, which is an @.
    pub(crate) fn closed_up(&self, start: u32, end: u32) -> Self {
        let closed = |these: u64| these & lowest(start) | these >> end << (start + 1);
        let at = 1 << start;
        Masks {
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
    masks: &'b mut [Masks],
}

impl Task for Lowering<'_> {
    type Output = ();

    #[inline(always)]
    fn run(self, lanes: impl Lanes) {
        for (block, masks) in self.blocks.iter_mut().zip(self.masks) {
            *masks = lowering(lanes, block);
        }
    }
}

#[inline(always)]
fn lowering<L: Lanes>(lanes: L, block: &mut [u8; BLOCK]) -> Masks {
    let mut masks = Masks::default();
    for nth in 0..BLOCK / L::WIDTH {
        let shift = L::WIDTH * nth;
        let written = lanes.load(block, nth);
        let capital = lanes.within(written, b'A', b'Z');
        let lower = lanes.lower(written, capital);
        lanes.store(lower, block, nth);
        let (dot, plus) = (lanes.is(written, b'.'), lanes.is(written, b'+'));
        let hyphen = lanes.is(written, b'-');
        let others = lanes.or(lanes.is(written, b'_'), lanes.is(written, b'\''));
        let letter_or_digit = lanes.or(lanes.within(lower, b'a', b'z'), lanes.within(written, b'0', b'9'));
        let domain = lanes.or(letter_or_digit, lanes.or(hyphen, dot));
        let sign = lanes.or(lanes.or(plus, hyphen), others);
        masks.at |= lanes.bits(lanes.is(written, b'@')) << shift;
        masks.capital |= lanes.bits(capital) << shift;
        masks.dot |= lanes.bits(dot) << shift;
        masks.plus |= lanes.bits(plus) << shift;
        masks.sign |= lanes.bits(sign) << shift;
        // Turned round below.
        masks.not_local |= lanes.bits(lanes.or(domain, sign)) << shift;
        masks.not_domain |= lanes.bits(domain) << shift;
    }
    Masks { not_local: !masks.not_local, not_domain: !masks.not_domain, ..masks }
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
            let (mut lower, mut by_sixteens) = ([written], written);
            let mut masks = [Masks::default()];
            Masks::lowering(&mut lower, &mut masks);
            let [masks] = masks;
            let [lower] = lower;
            prop_assert_eq!(lowering(lanes::Sixteen, &mut by_sixteens), masks);
            prop_assert_eq!(by_sixteens, lower);
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
