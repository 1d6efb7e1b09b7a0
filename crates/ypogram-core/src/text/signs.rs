//! Where something stands in a text that may be an @, or stand for one.

use crate::lanes::{self, Lanes, Task};
use crate::masks::BLOCK;
use crate::span::Span;

/// The places of each `@`, of each `%` and `&` that may start an encoded one, and of each full-width one, from left to right.
/// They are rare, so that most of the text is only asked 64 octets at a time whether there is any.
pub(super) struct Signs<'a> {
    text: &'a [u8],
    /// Where the octets start that are looked at next.
    next: usize,
    end: usize,
    /// Where the octets start that were looked at last, and which of them are signs, the first in the lowest bit.
    block: usize,
    signs: u64,
}

/// The first octet of a full-width @.
const FULL_WIDTH: u8 = "＠".as_bytes()[0];

impl<'a> Signs<'a> {
    /// Those of `body` in `text`.
    pub(super) fn new(text: &'a [u8], body: Span) -> Self {
        Signs { text, next: body.start, end: body.end, block: 0, signs: 0 }
    }

    /// Goes on to the next octets with a sign; none where there are no more.
    #[inline]
    fn advance(&mut self) -> Option<()> {
        let (blocks, rest) = self.text[self.next..self.end].as_chunks::<BLOCK>();
        let (nth, signs) = match lanes::run(FirstWithSigns { blocks }) {
            Some(found) => found,
            None => {
                let mut block = [0; BLOCK];
                block[..rest.len()].copy_from_slice(rest);
                (blocks.len(), signs(lanes::Sixteen, &block).unwrap_or(0))
            }
        };
        (self.block, self.signs) = (self.next + nth * BLOCK, signs);
        self.next = (self.block + BLOCK).min(self.end);
        (signs != 0).then_some(())
    }
}

impl Iterator for Signs<'_> {
    type Item = usize;

    #[inline]
    fn next(&mut self) -> Option<usize> {
        loop {
            if self.signs == 0 {
                self.advance()?;
            }
            let at = self.block + self.signs.trailing_zeros() as usize;
            self.signs &= self.signs - 1;
            if self.text[at] != FULL_WIDTH || self.text[at..].starts_with("＠".as_bytes()) {
                return Some(at);
            }
        }
    }
}

/// Looks for the first block with a sign: its place, and which of its octets are signs.
struct FirstWithSigns<'b> {
    blocks: &'b [[u8; BLOCK]],
}

impl Task for FirstWithSigns<'_> {
    type Output = Option<(usize, u64)>;

    #[inline(always)]
    fn run(self, lanes: impl Lanes) -> Self::Output {
        for (nth, block) in self.blocks.iter().enumerate() {
            if let Some(signs) = signs(lanes, block) {
                return Some((nth, signs));
            }
        }
        None
    }
}

/// Which octets of `block` are signs, the first in the lowest bit; none where none is.
#[inline(always)]
fn signs<L: Lanes>(lanes: L, block: &[u8; BLOCK]) -> Option<u64> {
    let mut any = signs_in(lanes, block, 0);
    for nth in 1..BLOCK / L::WIDTH {
        any = lanes.or(any, signs_in(lanes, block, nth));
    }
    if lanes.bits(any) == 0 {
        return None;
    }
    let mut signs = 0;
    for nth in 0..BLOCK / L::WIDTH {
        signs |= lanes.bits(signs_in(lanes, block, nth)) << (L::WIDTH * nth);
    }
    Some(signs)
}

#[inline(always)]
fn signs_in<L: Lanes>(lanes: L, block: &[u8; BLOCK], nth: usize) -> L::Marks {
    let octets = lanes.load(block, nth);
    let encoded = lanes.or(lanes.is(octets, b'%'), lanes.is(octets, b'&'));
    lanes.or(lanes.or(lanes.is(octets, b'@'), lanes.is(octets, FULL_WIDTH)), encoded)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn every_sign_of_the_body_is_met_once(text in "[a-d@%&＠ï０]{0,300}", from in 0_usize..80, less in 0_usize..80) {
            let text = text.as_bytes();
            let from = from.min(text.len());
            let body = Span::new(from, text.len().saturating_sub(less).max(from));
            let sign = |&at: &usize| {
                matches!(text[at], b'@' | b'%' | b'&') || text[at..].starts_with("＠".as_bytes())
            };
            let naive: Vec<usize> = (body.start..body.end).filter(sign).collect();
            prop_assert_eq!(Signs::new(text, body).collect::<Vec<_>>(), naive);
        }
    }
}
