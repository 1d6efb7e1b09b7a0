//! Where certain bytes stand, found 64 at a time: records and cells are short, so that a search for each would spend most of
//! its time starting.

/// The places of bytes of interest in a text, in order.
pub(crate) struct BytePlaces<'b, F> {
    bytes: &'b [u8],
    is_one: F,
    /// Where the block in hand starts.
    block: usize,
    /// Those left in the block in hand, one bit each.
    left: u64,
}

const BLOCK: usize = 64;

impl<'b, F: Fn(u8) -> bool> BytePlaces<'b, F> {
    /// Those in `bytes` for which `is_one` holds. It should compare with a few bytes, which the compiler then does with many
    /// at once.
    #[inline]
    pub(crate) fn of(bytes: &'b [u8], is_one: F) -> Self {
        let mut places = BytePlaces { bytes, is_one, block: 0, left: 0 };
        places.look();
        places
    }

    #[inline]
    fn look(&mut self) {
        let rest = self.bytes.get(self.block..).unwrap_or_default();
        let mut hits = [0_u8; BLOCK];
        match rest.first_chunk::<BLOCK>() {
            Some(block) => {
                for (hit, &byte) in hits.iter_mut().zip(block) {
                    *hit = u8::from((self.is_one)(byte));
                }
            }
            None => {
                for (hit, &byte) in hits.iter_mut().zip(rest) {
                    *hit = u8::from((self.is_one)(byte));
                }
            }
        }
        self.left = 0;
        let (eights, _) = hits.as_chunks::<8>();
        for (place, eight) in eights.iter().enumerate() {
            // Gathers the lowest bit of each of eight bytes in the highest byte.
            let bits = u64::from_le_bytes(*eight).wrapping_mul(0x0102_0408_1020_4080) >> 56;
            self.left |= bits << (8 * place);
        }
    }
}

impl<F: Fn(u8) -> bool> Iterator for BytePlaces<'_, F> {
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
            prop_assert_eq!(BytePlaces::of(text.as_bytes(), is_one).collect::<Vec<_>>(), plain);
        }
    }
}
