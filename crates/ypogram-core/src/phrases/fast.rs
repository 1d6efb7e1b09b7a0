//! Where a warning may start in a text (fast path).
//!
//! # Contract
//!
//! Every place where [`contact_remark`](super::contact_remark) finds a phrase is among those that are given; most of the others
//! are not. Giving too many costs time; giving too few is a bug. Without it, a `clean` with a text field takes a sixth more
//! instructions (measured on the demo's list).

use crate::names::word_bits;
use crate::phrases::cell_words::{may_warn, may_warn_together};
use ypogram_bytes::BLOCK;

/// Bytes of a text that are looked at together.
const WINDOW: usize = BLOCK - size_of::<u64>();

/// Places in the first `len` bytes of `from` where a phrase may start, one bit each; what stands behind them lets them be read
/// without a copy. None where that needs a closer look.
#[inline]
pub(crate) fn starts_in(from: &[u8], len: usize) -> Option<u64> {
    let block = from.first_chunk::<BLOCK>().filter(|_| len <= WINDOW)?;
    let [in_words, outside_ascii] = word_bits(block, len);
    (outside_ascii == 0).then(|| may_start(block, in_words, in_words & !(in_words << 1), true))
}

/// The first place from `from` on where a phrase of those may start in `text`, which has no accents.
pub(crate) fn next_start(text: &[u8], mut from: usize) -> Option<usize> {
    while from < text.len() {
        let window = &text[from..text.len().min(from + BLOCK)];
        let mut block = [0; BLOCK];
        block[..window.len()].copy_from_slice(window);
        let [in_words, outside_ascii] = word_bits(&block, window.len());
        let words = in_words | outside_ascii;
        let goes_on = from > 0 && is_of_word(text[from - 1]);
        let starts = words & !(words << 1 | u64::from(goes_on)) & ((1 << WINDOW) - 1);
        let may = may_start(&block, words, starts, false);
        if may != 0 {
            return Some(from + may.trailing_zeros() as usize);
        }
        from += WINDOW;
    }
    None
}

/// Those of `starts`, places where one of the `words` starts, where a phrase may start; `complete` tells whether no word follows them.
#[inline]
fn may_start(block: &[u8; BLOCK], words: u64, mut starts: u64, complete: bool) -> u64 {
    let eight_at = |at: usize| {
        let eight = block[at..].first_chunk().map_or(0, |eight| u64::from_le_bytes(*eight));
        let count = (words >> at).trailing_ones().min(8);
        (eight | 0x2020_2020_2020_2020) & (u64::MAX >> (64 - 8 * count))
    };
    let mut may = 0;
    while starts != 0 {
        let at = starts.trailing_zeros() as usize;
        starts &= starts - 1;
        let word = eight_at(at);
        let (alone, first) = may_warn(word);
        let together = || match starts {
            0 => !complete,
            next => may_warn_together(word, eight_at(next.trailing_zeros() as usize)),
        };
        may |= u64::from(alone || first && together()) << at;
    }
    may
}

/// Whether a byte is of a word: a letter or digit, or not in ASCII.
pub(crate) fn is_of_word(b: u8) -> bool {
    b.is_ascii_alphanumeric() || b >= 0x80
}
