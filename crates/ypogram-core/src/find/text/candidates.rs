//! Where something stands in a text that may be an @, or stand for one, and on which line.

use prefetch_index::prefetch_index;

use crate::model::span::Span;
use ypogram_bytes::BLOCK;
use ypogram_bytes::{Kernel, Simd, simd};

/// Finds each `@`, each `%` and `&` that may start an encoded one, and each full-width one, from left to right. They are rare, so
/// that most of the text is only asked 64 bytes at a time whether there is any, and how many lines end there.
pub(super) struct CandidateScanner<'a> {
    text: &'a [u8],
    /// Where the bytes start that are looked at next.
    next: usize,
    end: usize,
    /// Where the bytes start that were looked at last, and which of them are signs still to be given, the first in the lowest
    /// bit.
    block: usize,
    left: u64,
    /// Which of them are line breaks, and how many there are up to their end.
    breaks: u64,
    line_breaks: usize,
}

/// A sign in a body.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Candidate {
    /// Where it stands in the text.
    pub(super) at: usize,
    /// Line breaks of the body in front of it.
    pub(super) line_breaks: usize,
}

/// How many bytes ahead the text is fetched: what was just read from a file may not be in the L1 or L2 cache.
pub(super) const AHEAD: usize = 1024;

/// The first byte of a full-width @.
const FULL_WIDTH: u8 = "＠".as_bytes()[0];

/// The signs in ASCII, each at the place that its lower four bits tell.
const ASCII: [u8; 16] = *b"@@@@@%&@@@@@@@@@";

impl<'a> CandidateScanner<'a> {
    /// Those of `body` in `text`.
    pub(super) fn new(text: &'a [u8], body: Span) -> Self {
        CandidateScanner {
            text,
            next: body.start,
            end: body.end,
            block: 0,
            left: 0,
            breaks: 0,
            line_breaks: 0,
        }
    }

    /// Puts the next ones into `met`; tells how many there are. Fewer than there is room for are the last.
    pub(super) fn fill(&mut self, met: &mut [Candidate]) -> usize {
        simd::run(Fill { signs: self, met })
    }

    /// Line breaks of the body up to where it was looked at.
    pub(super) fn line_breaks(&self) -> usize {
        self.line_breaks
    }

    /// Goes on to the next bytes with signs; tells whether there are any.
    #[inline(always)]
    fn advance(&mut self, simd: impl Simd) -> bool {
        let (blocks, rest) = self.text[self.next..self.end].as_chunks();
        self.block = self.next;
        for block in blocks {
            prefetch_index(self.text, self.block + AHEAD);
            self.look(simd, block);
            if self.left != 0 {
                self.next = self.block + BLOCK;
                return true;
            }
            self.block += BLOCK;
        }
        let mut last = [0; BLOCK];
        last[..rest.len()].copy_from_slice(rest);
        self.look(simd, &last);
        self.next = self.end;
        self.left != 0
    }

    #[inline(always)]
    fn look<L: Simd>(&mut self, simd: L, block: &[u8; BLOCK]) {
        self.left = bits(simd, block, signs_in);
        self.breaks = bits(simd, block, breaks_in);
        self.line_breaks += self.breaks.count_ones() as usize;
    }
}

struct Fill<'f, 'a> {
    signs: &'f mut CandidateScanner<'a>,
    met: &'f mut [Candidate],
}

impl Kernel for Fill<'_, '_> {
    type Output = usize;

    #[inline(always)]
    fn run(self, simd: impl Simd) -> usize {
        let mut count = 0;
        while count < self.met.len() {
            if self.signs.left == 0 && !self.signs.advance(simd) {
                break;
            }
            let CandidateScanner { text, block, left, breaks, line_breaks, .. } = self.signs;
            let nth = left.trailing_zeros();
            let at = *block + nth as usize;
            *left &= *left - 1;
            if text[at] != FULL_WIDTH || text[at..].starts_with("＠".as_bytes()) {
                let behind = (*breaks >> nth).count_ones() as usize;
                self.met[count] = Candidate { at, line_breaks: *line_breaks - behind };
                count += 1;
            }
        }
        count
    }
}

/// Which bytes of `block` are what `which` tells of some, the first in the lowest bit.
#[inline(always)]
fn bits<L: Simd>(simd: L, block: &[u8; BLOCK], which: impl Fn(L, L::Vector) -> L::Mask) -> u64 {
    (0..BLOCK / L::WIDTH)
        .fold(0, |bits, nth| bits | simd.bits(which(simd, simd.load(block, nth))) << (L::WIDTH * nth))
}

#[inline(always)]
fn signs_in<L: Simd>(simd: L, bytes: L::Vector) -> L::Mask {
    simd.or(simd.is_one_of(bytes, &ASCII), simd.is(bytes, FULL_WIDTH))
}

#[inline(always)]
fn breaks_in<L: Simd>(simd: L, bytes: L::Vector) -> L::Mask {
    simd.is(bytes, b'\n')
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn every_sign_of_the_body_is_met_once(text in "[a-d@%&＠ï０\n]{0,300}", from in 0_usize..80, less in 0_usize..80) {
            let text = text.as_bytes();
            let from = from.min(text.len());
            let body = Span::new(from, text.len().saturating_sub(less).max(from));
            let sign = |&at: &usize| {
                matches!(text[at], b'@' | b'%' | b'&') || text[at..].starts_with("＠".as_bytes())
            };
            let breaks = |end: usize| text[body.start..end].iter().filter(|&&b| b == b'\n').count();
            let naive = (body.start..body.end).filter(sign).map(|at| Candidate { at, line_breaks: breaks(at) });
            let (mut signs, mut some, mut met) = (CandidateScanner::new(text, body), [Candidate::default(); 5], Vec::new());
            loop {
                let count = signs.fill(&mut some);
                met.extend_from_slice(&some[..count]);
                if count < some.len() {
                    break;
                }
            }
            prop_assert_eq!(&met, &naive.collect::<Vec<_>>());
            let mut by_sixteens = [Candidate::default(); 300];
            let count = Fill { signs: &mut CandidateScanner::new(text, body), met: &mut by_sixteens }.run(simd::Sixteen);
            prop_assert_eq!(&by_sixteens[..count], met);
            prop_assert_eq!(signs.line_breaks(), breaks(body.end));
        }
    }
}
