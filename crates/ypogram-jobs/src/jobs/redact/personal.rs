//! What is to be hidden.

use std::cmp::Reverse;

use crate::jobs::redact::wide::Wide;

/// Something to be hidden: where it stands in its source, and what it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Personal {
    /// Its bytes in the decompressed source.
    pub(super) start: u64,
    pub(super) end: u64,
    /// Its text, decoded.
    pub(super) text: Vec<u8>,
    /// What stands in its place.
    pub(super) instead: String,
    pub(super) what: What,
    /// Of an encoded part what is to be hidden in its text, with the places there; empty otherwise.
    pub(super) within: Vec<Personal>,
}

/// What is to be hidden.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum What {
    Address,
    /// A word that was meant as one, such as `ada@@fernhollow.org`.
    Broken,
    /// The value of a field that is hidden.
    Field,
}

/// What came of a piece.
#[derive(Default)]
pub(super) struct Part {
    pub(super) found: Vec<Personal>,
    /// What cannot be replaced: it stands nowhere as bytes, or in a part that cannot be encoded anew.
    pub(super) fixed: u64,
    /// Lines in which the program has a fault.
    pub(super) faults: u64,
    pub(super) records: u64,
    /// Places with an @ that are no addresses.
    pub(super) passed: u64,
    /// The bytes of the piece are UTF-16.
    pub(super) wide: Option<Wide>,
}

impl Part {
    /// Puts what was found in order; of two that stand in one another the outer one counts.
    pub(super) fn in_order(&mut self) {
        self.found.sort_by_key(|personal| (personal.start, Reverse(personal.end)));
        let mut end = 0;
        self.found.retain(|personal| {
            let is_behind = personal.start >= end;
            end = if is_behind { personal.end } else { end };
            is_behind
        });
    }
}
