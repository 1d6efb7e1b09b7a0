//! A text with other texts in the place of what is hidden, and where these stand in it.

use crate::jobs::redact::personal::Personal;

/// Places in order, from and to.
#[derive(Debug, Default)]
pub(super) struct Covered(Vec<(u64, u64)>);

impl Covered {
    /// Where what stands in the place of `found` has come to stand. These are in order.
    pub(super) fn of(found: &[Personal]) -> Self {
        let (mut covered, mut added, mut taken) = (Covered::default(), 0, 0);
        for personal in found {
            let (start, length) = (personal.start + added - taken, personal.instead.len() as u64);
            covered.push(start, start + length);
            added += length;
            taken += personal.end - personal.start;
        }
        covered
    }

    /// Adds a place behind the others; to the last one where they touch, since together they can look like one address.
    pub(super) fn push(&mut self, start: u64, end: u64) {
        match self.0.last_mut() {
            Some(last) if last.1 == start => last.1 = end,
            _ => self.0.push((start, end)),
        }
    }

    /// Whether what stands from `start` to `end` is all in the place of something.
    pub(super) fn covers(&self, start: u64, end: u64) -> bool {
        let at = self.0.partition_point(|(from, _)| *from <= start);
        at.checked_sub(1).is_some_and(|at| end <= self.0[at].1)
    }
}

/// The text with other texts in the place of `found`, which is in order.
pub(super) fn replaced_in(text: &[u8], found: &[Personal]) -> Vec<u8> {
    let (mut copy, mut at) = (Vec::with_capacity(text.len()), 0);
    for personal in found {
        copy.extend_from_slice(&text[at..personal.start as usize]);
        copy.extend_from_slice(personal.instead.as_bytes());
        at = personal.end as usize;
    }
    copy.extend_from_slice(&text[at..]);
    copy
}
