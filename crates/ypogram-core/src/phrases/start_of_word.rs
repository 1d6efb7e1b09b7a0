/// A number of sixteen bits for the first eight bytes of a word, each with the bit of small letters set, the first in the lowest
/// bits and noughts for those that it has not; the build makes tables of those that matter.
#[inline]
pub(crate) fn start_of_word(first_eight: u64) -> usize {
    (first_eight.wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 48) as usize
}

/// The same for two words that follow one another.
#[inline]
pub(crate) fn start_of_pair(first_eight: u64, of_next: u64) -> usize {
    start_of_word(first_eight.rotate_left(23) ^ of_next.wrapping_mul(31))
}
