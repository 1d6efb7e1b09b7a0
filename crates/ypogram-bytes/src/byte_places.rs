//! Where certain bytes stand, found 64 at a time: records and cells are short, so that a search for each would spend most of
//! its time starting.

use wide::u8x16;

/// The places of bytes of interest in a text, in order.
pub struct BytePlaces<'b, const N: usize> {
    bytes: &'b [u8],
    wanted: [u8; N],
    /// Where the blocks in hand start.
    start: usize,
    /// How many of the places in them were given.
    given: usize,
    found: Found,
}

/// Places in some blocks, counted from the start of the first.
struct Found {
    places: [u16; SOME * BLOCK + CELLS],
    count: usize,
}

const BLOCK: usize = 64;

/// Blocks that are looked at together.
const SOME: usize = 16;

/// Places that are written together, whether there are so many or not, since a processor cannot foresee how many there are: as many as
/// most blocks have of the ends of cells, or of lines.
const CELLS: usize = 8;
const LINES: usize = 4;

impl<'b, const N: usize> BytePlaces<'b, N> {
    /// Those in `bytes` that are one of `wanted`.
    #[inline]
    pub fn of(bytes: &'b [u8], wanted: [u8; N]) -> Self {
        let found = Found { places: [0; SOME * BLOCK + CELLS], count: 0 };
        let mut places = BytePlaces { bytes, wanted, start: 0, given: 0, found };
        places.look();
        places
    }

    /// Those that were found already and not yet given, counted from a place in the text.
    #[inline]
    pub fn in_hand(&self) -> (usize, &[u16]) {
        (self.start, &self.found.places[self.given..self.found.count])
    }

    /// Leaves out the next so many, which are [in hand](Self::in_hand).
    #[inline]
    pub fn leave_out(&mut self, count: usize) {
        self.given += count;
    }

    /// Looks at the blocks in hand.
    #[inline(never)]
    fn look(&mut self) {
        (self.given, self.found.count) = (0, 0);
        let rest = self.bytes.get(self.start..).unwrap_or_default();
        let (blocks, last) = rest.as_chunks::<BLOCK>();
        let blocks = &blocks[..blocks.len().min(SOME)];
        find(blocks, self.wanted, 0, &mut self.found);
        if blocks.len() < SOME {
            // What none of the wanted is stands behind the end.
            let other = (0..).find(|byte| !self.wanted.contains(byte)).unwrap_or_default();
            let mut block = [other; BLOCK];
            block[..last.len()].copy_from_slice(last);
            find(&[block], self.wanted, blocks.len(), &mut self.found);
        }
    }

    /// Looks at the next blocks in which there is one; tells whether there are any.
    #[cold]
    fn go_on(&mut self) -> bool {
        while self.given == self.found.count {
            self.start += SOME * BLOCK;
            if self.start >= self.bytes.len() {
                return false;
            }
            self.look();
        }
        true
    }
}

impl<const N: usize> Iterator for BytePlaces<'_, N> {
    type Item = usize;

    #[inline]
    fn next(&mut self) -> Option<usize> {
        if self.given == self.found.count && !self.go_on() {
            return None;
        }
        let place = self.start + usize::from(self.found.places[self.given]);
        self.given += 1;
        Some(place)
    }
}

impl Found {
    /// Adds those that `hits` has one bit each for, in the `nth` block, which is looked through for so many bytes.
    #[inline(always)]
    fn add<const WANTED: usize>(&mut self, hits: u64, nth: usize) {
        if WANTED == 1 { self.add_by::<LINES>(hits, nth) } else { self.add_by::<CELLS>(hits, nth) }
    }

    #[inline(always)]
    fn add_by<const AT_ONCE: usize>(&mut self, hits: u64, nth: usize) {
        let (mut left, mut at) = (hits, self.count);
        self.count += hits.count_ones() as usize;
        while at < self.count {
            let Some(places) = self.places[at..].first_chunk_mut::<AT_ONCE>() else {
                unreachable!("there is room")
            };
            for place in places {
                *place = (nth * BLOCK) as u16 + left.trailing_zeros() as u16;
                left &= left.wrapping_sub(1);
            }
            at += AT_ONCE;
        }
    }
}

/// Adds to `found` which bytes of `blocks`, the first of which is the `nth` in hand, are one of `wanted`: 32 at a time where this
/// machine can do that.
#[inline]
fn find<const N: usize>(blocks: &[[u8; BLOCK]], wanted: [u8; N], nth: usize, found: &mut Found) {
    #[cfg(target_arch = "x86_64")]
    if let Some(v3) = pulp::x86::V3::try_new() {
        return v3.vectorize(ByThirtyTwo { v3, blocks, wanted, nth, found });
    }
    find_by_sixteen(blocks, wanted, nth, found);
}

#[cfg(target_arch = "x86_64")]
struct ByThirtyTwo<'f, const N: usize> {
    v3: pulp::x86::V3,
    blocks: &'f [[u8; BLOCK]],
    wanted: [u8; N],
    nth: usize,
    found: &'f mut Found,
}

#[cfg(target_arch = "x86_64")]
impl<const N: usize> pulp::NullaryFnOnce for ByThirtyTwo<'_, N> {
    type Output = ();

    // Only what is always inlined is made for these registers: no closures.
    #[inline(always)]
    fn call(self) {
        let v3 = self.v3;
        for (nth, block) in self.blocks.iter().enumerate() {
            let mut halves = [0; 2];
            for (vector, half) in block.as_chunks::<32>().0.iter().zip(&mut halves) {
                let vector = pulp::cast(*vector);
                let mut those = v3.cmp_eq_u8x32(vector, v3.splat_u8x32(self.wanted[0]));
                for &wanted in &self.wanted[1..] {
                    those = v3.or_m8x32(those, v3.cmp_eq_u8x32(vector, v3.splat_u8x32(wanted)));
                }
                *half = v3.avx2._mm256_movemask_epi8(pulp::cast(those)) as u32;
            }
            self.found.add::<N>(u64::from(halves[1]) << 32 | u64::from(halves[0]), self.nth + nth);
        }
    }
}

fn find_by_sixteen<const N: usize>(blocks: &[[u8; BLOCK]], wanted: [u8; N], nth: usize, found: &mut Found) {
    let wanted = wanted.map(u8x16::splat);
    for (block, nth) in blocks.iter().zip(nth..) {
        let mut hits = 0;
        for (part, sixteen) in block.as_chunks::<16>().0.iter().enumerate() {
            let vector = u8x16::new(*sixteen);
            let those = wanted.iter().map(|&wanted| vector.simd_eq(wanted));
            let those = those.reduce(|these, those| these | those).unwrap_or_default();
            hits |= u64::from(those.to_bitmask()) << (16 * part);
        }
        found.add::<N>(hits, nth);
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
            prop_assert_eq!(BytePlaces::of(text.as_bytes(), *b",\n").collect::<Vec<_>>(), &plain[..]);
            let (blocks, _) = text.as_bytes().as_chunks();
            let blocks = &blocks[..blocks.len().min(SOME)];
            let mut by_sixteen = Found { places: [0; SOME * BLOCK + CELLS], count: 0 };
            find_by_sixteen(blocks, *b",\n", 0, &mut by_sixteen);
            let there = plain.iter().filter(|&&place| place < blocks.len() * BLOCK);
            prop_assert_eq!(by_sixteen.places[..by_sixteen.count].iter().map(|&place| usize::from(place)).collect::<Vec<_>>(), there.copied().collect::<Vec<_>>());
        }
    }
}
