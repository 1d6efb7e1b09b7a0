//! Where a dot stands in words, or an @ in brackets: what every address that programs do not see has.

use prefetch_index::prefetch_index;

use crate::find::text::candidates::AHEAD;
use ypogram_bytes::BLOCK;
use ypogram_bytes::{Kernel, SMALL, Simd, simd};

/// Bytes of the shortest of them.
const MARK: usize = 3;

/// Calls `see` with where each of them ends in `text`, from left to right: `dot` as a word of its own, and `at` or `@` in front of a
/// closing bracket, in any letter case.
pub(super) fn each(text: &[u8], mut see: impl FnMut(usize)) {
    let mut marks = Marks { text, next: 0, carried: Carried::default(), ends: 0 };
    while simd::run(Advance(&mut marks)) {
        let block = marks.next - BLOCK;
        let mut left = marks.ends;
        while left != 0 {
            let end = block + left.trailing_zeros() as usize + 1;
            left &= left - 1;
            // An @ in front of a bracket has one byte less.
            if end >= MARK && is_mark(text, end - MARK) {
                see(end);
            }
        }
    }
}

/// Whether one stands at `start`, where its letters do.
fn is_mark(text: &[u8], start: usize) -> bool {
    let Some(mark) = text.get(start..start + MARK) else { return false };
    let is_letter = |b: Option<&u8>| b.is_some_and(u8::is_ascii_alphanumeric);
    match mark[2] {
        b't' | b'T' => {
            mark[..2].eq_ignore_ascii_case(b"do")
                && !is_letter(start.checked_sub(1).map(|before| &text[before]))
                && !is_letter(text.get(start + MARK))
        }
        close => {
            matches!(close, b')' | b']' | b'}' | b'>')
                && (mark[1] == b'@' || mark[..2].eq_ignore_ascii_case(b"at"))
        }
    }
}

struct Marks<'a> {
    text: &'a [u8],
    /// Where the block starts that is looked at next.
    next: usize,
    carried: Carried,
    /// Where marks may end in the block that was looked at last, one bit each.
    ends: u64,
}

/// Whether a mark may start with the last bytes of the block before: one bit each.
#[derive(Clone, Copy, Default)]
struct Carried {
    d: u64,
    at: u64,
}

/// Goes on to the next block in which marks may end; tells whether there is one.
struct Advance<'m, 'a>(&'m mut Marks<'a>);

impl Kernel for Advance<'_, '_> {
    type Output = bool;

    #[inline(always)]
    fn run(self, simd: impl Simd) -> bool {
        let Marks { text, next, carried, ends } = self.0;
        let text = *text;
        while let Some(rest) = text.get(*next..).filter(|rest| !rest.is_empty()) {
            prefetch_index(text, *next + AHEAD);
            *ends = match rest.first_chunk() {
                Some(block) => ends_in(simd, block, carried),
                None => {
                    let mut last = [0; BLOCK];
                    last[..rest.len()].copy_from_slice(rest);
                    ends_in(simd, &last, carried)
                }
            };
            *next += BLOCK;
            if *ends != 0 {
                return true;
            }
        }
        false
    }
}

/// Where marks may end in `block`, one bit each. Their other letters are looked at afterwards: few bytes get so far. A byte that
/// differs in the bit of small letters alone passes for a letter or bracket.
#[inline(always)]
fn ends_in<L: Simd>(simd: L, block: &[u8; BLOCK], carried: &mut Carried) -> u64 {
    let [mut d, mut t, mut sign, mut close] = [0; 4];
    for nth in 0..BLOCK / L::WIDTH {
        let shift = L::WIDTH * nth;
        let bytes = simd.small(simd.load(block, nth));
        d |= simd.bits(simd.is(bytes, b'd')) << shift;
        t |= simd.bits(simd.is(bytes, b't')) << shift;
        sign |= simd.bits(simd.is(bytes, b'@' | SMALL)) << shift;
        // Both `]` and `}` become the latter.
        let brackets = simd.or(simd.or(simd.is(bytes, b')'), simd.is(bytes, b'}')), simd.is(bytes, b'>'));
        close |= simd.bits(brackets) << shift;
    }
    let dot = (d << 2 | carried.d) & t;
    let at = t | sign;
    let closed = (at << 1 | carried.at) & close;
    *carried = Carried { d: d >> (BLOCK - 2), at: at >> (BLOCK - 1) };
    dot | closed
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn each_mark_is_met_once(text in "([ a]{0,60}(dot|DOT|do|ot|at|AT|@|[)\\]}>]|dotted)){0,12}") {
            let lower = text.to_ascii_lowercase();
            let bytes = lower.as_bytes();
            let is_letter = |b: Option<&u8>| b.is_some_and(u8::is_ascii_alphanumeric);
            let ends = |&end: &usize| {
                let before = &bytes[..end];
                let dot = before.ends_with(b"dot")
                    && !is_letter(before.len().checked_sub(4).map(|at| &before[at]))
                    && !is_letter(bytes.get(end));
                let close = matches!(before.last(), Some(b')' | b']' | b'}' | b'>'));
                dot || close && (before[..end - 1].ends_with(b"at") || before[..end - 1].ends_with(b"@"))
            };
            let expected: Vec<usize> = (1..=bytes.len()).filter(ends).collect();
            let mut met = Vec::new();
            each(text.as_bytes(), |end| met.push(end));
            prop_assert_eq!(met, expected);
        }
    }
}
