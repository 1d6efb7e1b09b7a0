//! Where certain bytes stand, found 64 at a time: records and cells are short, so that a search for each would spend most of
//! its time starting.

use wide::u8x16;

/// The places of bytes of interest in a text, in order.
pub(crate) struct BytePlaces<'b, const N: usize> {
    bytes: &'b [u8],
    wanted: [u8x16; N],
    /// Where the block in hand starts.
    block: usize,
    /// Those left in the block in hand, one bit each.
    left: u64,
}

const BLOCK: usize = 64;

impl<'b, const N: usize> BytePlaces<'b, N> {
    /// Those in `bytes` that are one of `wanted`.
    #[inline]
    pub(crate) fn of(bytes: &'b [u8], wanted: [u8; N]) -> Self {
        let mut places = BytePlaces { bytes, wanted: wanted.map(u8x16::splat), block: 0, left: 0 };
        places.look();
        places
    }

    #[inline]
    fn look(&mut self) {
        let rest = self.bytes.get(self.block..).unwrap_or_default();
        self.left = match rest.first_chunk::<BLOCK>() {
            Some(block) => self.hits(block),
            None => {
                let mut block = [0; BLOCK];
                block[..rest.len()].copy_from_slice(rest);
                self.hits(&block) & ((1 << rest.len()) - 1)
            }
        };
    }

    #[inline]
    fn hits(&self, block: &[u8; BLOCK]) -> u64 {
        let (sixteens, _) = block.as_chunks::<16>();
        let mut hits = 0;
        for (nth, sixteen) in sixteens.iter().enumerate() {
            let octets = u8x16::new(*sixteen);
            let those = self.wanted.iter().map(|&wanted| octets.simd_eq(wanted));
            let those = those.reduce(|these, those| these | those).unwrap_or_default();
            hits |= u64::from(those.to_bitmask()) << (16 * nth);
        }
        hits
    }
}

impl<const N: usize> Iterator for BytePlaces<'_, N> {
    type Item = usize;

    #[inline]
    fn next(&mut self) -> Option<usize> {
        while self.left == 0 {
            self.block += BLOCK;
            if self.block >= self.bytes.len() {
                return None;
            }
            self.look();
        }
        let place = self.block + self.left.trailing_zeros() as usize;
        self.left &= self.left - 1;
        Some(place)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn finds_what_a_plain_search_finds(text in "[a,\n]{0,300}") {
            let is_one = |byte| byte == b',' || byte == b'\n';
            let plain: Vec<usize> = text.bytes().enumerate().filter(|(_, byte)| is_one(*byte)).map(|(place, _)| place).collect();
            prop_assert_eq!(BytePlaces::of(text.as_bytes(), *b",\n").collect::<Vec<_>>(), plain);
        }
    }
}
