//! Where something stands in a text that may be an @, or stand for one.

use crate::lanes::{self, Lanes, Task};
use crate::masks::BLOCK;
use crate::span::Span;

/// Finds each `@`, each `%` and `&` that may start an encoded one, and each full-width one, from left to right. They are rare, so
/// that most of the text is only asked 64 octets at a time whether there is any.
pub(super) struct Signs<'a> {
    text: &'a [u8],
    /// Where the octets start that are looked at next.
    next: usize,
    end: usize,
    /// Where the octets start that were looked at last, and which of them are signs still to be told, the first in the lowest
    /// bit.
    block: usize,
    left: u64,
}

/// The first octet of a full-width @.
const FULL_WIDTH: u8 = "＠".as_bytes()[0];

impl<'a> Signs<'a> {
    /// Those of `body` in `text`.
    pub(super) fn new(text: &'a [u8], body: Span) -> Self {
        Signs { text, next: body.start, end: body.end, block: 0, left: 0 }
    }

    /// Puts the places of the next ones into `places`; tells how many there are. Fewer than there is room for are the last.
    pub(super) fn fill(&mut self, places: &mut [usize]) -> usize {
        lanes::run(Fill { signs: self, places })
    }

    /// Goes on to the next octets with signs; tells whether there are any.
    #[inline(always)]
    fn advance(&mut self, lanes: impl Lanes) -> bool {
        let (blocks, rest) = self.text[self.next..self.end].as_chunks();
        self.block = self.next;
        for block in blocks {
            self.left = signs(lanes, block);
            if self.left != 0 {
                self.next = self.block + BLOCK;
                return true;
            }
            self.block += BLOCK;
        }
        let mut last = [0; BLOCK];
        last[..rest.len()].copy_from_slice(rest);
        self.left = signs(lanes, &last);
        self.next = self.end;
        self.left != 0
    }
}

struct Fill<'f, 'a> {
    signs: &'f mut Signs<'a>,
    places: &'f mut [usize],
}

impl Task for Fill<'_, '_> {
    type Output = usize;

    #[inline(always)]
    fn run(self, lanes: impl Lanes) -> usize {
        let mut count = 0;
        while count < self.places.len() {
            if self.signs.left == 0 && !self.signs.advance(lanes) {
                break;
            }
            let Signs { text, block, left, .. } = self.signs;
            let at = *block + left.trailing_zeros() as usize;
            *left &= *left - 1;
            if text[at] != FULL_WIDTH || text[at..].starts_with("＠".as_bytes()) {
                self.places[count] = at;
                count += 1;
            }
        }
        count
    }
}

/// Which octets of `block` are signs, the first in the lowest bit.
#[inline(always)]
fn signs<L: Lanes>(lanes: L, block: &[u8; BLOCK]) -> u64 {
    let mut any = signs_in(lanes, block, 0);
    for nth in 1..BLOCK / L::WIDTH {
        any = lanes.or(any, signs_in(lanes, block, nth));
    }
    if lanes.bits(any) == 0 {
        return 0;
    }
    let mut signs = 0;
    for nth in 0..BLOCK / L::WIDTH {
        signs |= lanes.bits(signs_in(lanes, block, nth)) << (L::WIDTH * nth);
    }
    signs
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
            let (mut signs, mut places, mut met) = (Signs::new(text, body), [0; 5], Vec::new());
            loop {
                let count = signs.fill(&mut places);
                met.extend_from_slice(&places[..count]);
                if count < places.len() {
                    break;
                }
            }
            prop_assert_eq!(met, naive);
        }
    }
}
