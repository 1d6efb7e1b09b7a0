//! Where certain bytes stand, found 64 at a time: records and cells are short, so that a search for each would spend most of
//! its time starting.

use wide::u8x16;

/// The places of bytes of interest in a text, in order.
pub(crate) struct BytePlaces<'b, const N: usize> {
    bytes: &'b [u8],
    wanted: [u8; N],
    /// Where the block in hand starts.
    block: usize,
    /// Those left in the block in hand, one bit each.
    left: u64,
    /// Those in the block in hand and some before and behind it.
    hits: [u64; SOME],
}

const BLOCK: usize = 64;

/// Blocks that are looked at together.
const SOME: usize = 16;

impl<'b, const N: usize> BytePlaces<'b, N> {
    /// Those in `bytes` that are one of `wanted`.
    #[inline]
    pub(crate) fn of(bytes: &'b [u8], wanted: [u8; N]) -> Self {
        let mut places = BytePlaces { bytes, wanted, block: 0, left: 0, hits: [0; SOME] };
        places.look();
        places.left = places.hits[0];
        places
    }

    /// Looks at the block in hand and those behind it.
    #[inline(never)]
    fn look(&mut self) {
        let rest = self.bytes.get(self.block..).unwrap_or_default();
        let (blocks, last) = rest.as_chunks::<BLOCK>();
        let blocks = &blocks[..blocks.len().min(SOME)];
        find(blocks, self.wanted, &mut self.hits);
        if blocks.len() < SOME {
            let mut block = [0; BLOCK];
            block[..last.len()].copy_from_slice(last);
            let hits = &mut self.hits[blocks.len()..];
            find(&[block], self.wanted, hits);
            hits[0] &= (1 << last.len()) - 1;
        }
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
            if self.block.is_multiple_of(SOME * BLOCK) {
                self.look();
            }
            self.left = self.hits[self.block / BLOCK % SOME];
        }
        let place = self.block + self.left.trailing_zeros() as usize;
        self.left &= self.left - 1;
        Some(place)
    }
}

/// Puts into `hits` which octets of each of `blocks` are one of `wanted`, one bit each: 32 at a time where this machine can do that.
#[inline]
fn find<const N: usize>(blocks: &[[u8; BLOCK]], wanted: [u8; N], hits: &mut [u64]) {
    #[cfg(target_arch = "x86_64")]
    if let Some(v3) = pulp::x86::V3::try_new() {
        return v3.vectorize(ByThirtyTwo { v3, blocks, wanted, hits });
    }
    find_by_sixteen(blocks, wanted, hits);
}

#[cfg(target_arch = "x86_64")]
struct ByThirtyTwo<'h, const N: usize> {
    v3: pulp::x86::V3,
    blocks: &'h [[u8; BLOCK]],
    wanted: [u8; N],
    hits: &'h mut [u64],
}

#[cfg(target_arch = "x86_64")]
impl<const N: usize> pulp::NullaryFnOnce for ByThirtyTwo<'_, N> {
    type Output = ();

    // Only what is always inlined is made for these registers: no closures.
    #[inline(always)]
    fn call(self) {
        let v3 = self.v3;
        for (block, hits) in self.blocks.iter().zip(self.hits) {
            let mut halves = [0; 2];
            for (octets, half) in block.as_chunks::<32>().0.iter().zip(&mut halves) {
                let octets = pulp::cast(*octets);
                let mut those = v3.cmp_eq_u8x32(octets, v3.splat_u8x32(self.wanted[0]));
                for &wanted in &self.wanted[1..] {
                    those = v3.or_m8x32(those, v3.cmp_eq_u8x32(octets, v3.splat_u8x32(wanted)));
                }
                *half = v3.avx2._mm256_movemask_epi8(pulp::cast(those)) as u32;
            }
            *hits = u64::from(halves[1]) << 32 | u64::from(halves[0]);
        }
    }
}

fn find_by_sixteen<const N: usize>(blocks: &[[u8; BLOCK]], wanted: [u8; N], hits: &mut [u64]) {
    let wanted = wanted.map(u8x16::splat);
    for (block, hits) in blocks.iter().zip(hits) {
        *hits = 0;
        for (nth, sixteen) in block.as_chunks::<16>().0.iter().enumerate() {
            let octets = u8x16::new(*sixteen);
            let those = wanted.iter().map(|&wanted| octets.simd_eq(wanted));
            let those = those.reduce(|these, those| these | those).unwrap_or_default();
            *hits |= u64::from(those.to_bitmask()) << (16 * nth);
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn finds_what_a_plain_search_finds(text in "([a,\n]{0,300}){0,10}") {
            let is_one = |byte| byte == b',' || byte == b'\n';
            let plain: Vec<usize> = text.bytes().enumerate().filter(|(_, byte)| is_one(*byte)).map(|(place, _)| place).collect();
            prop_assert_eq!(BytePlaces::of(text.as_bytes(), *b",\n").collect::<Vec<_>>(), plain);
            let (blocks, _) = text.as_bytes().as_chunks();
            let mut by_sixteen = vec![0; blocks.len()];
            let mut by_thirty_two = by_sixteen.clone();
            find_by_sixteen(blocks, *b",\n", &mut by_sixteen);
            find(blocks, *b",\n", &mut by_thirty_two);
            prop_assert_eq!(by_sixteen, by_thirty_two);
        }
    }
}
