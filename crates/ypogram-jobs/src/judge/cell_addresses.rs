//! The addresses in one cell, judged.

use ypogram_core::{Found, Judge, Span, cell, text};

/// The addresses in one cell.
#[derive(Debug, Default)]
pub(crate) struct CellAddresses {
    /// Where the well-formed ones stand, in order.
    pub(crate) spans: Vec<Span>,
    /// One of them is accepted or for review.
    pub(crate) usable: bool,
}

impl CellAddresses {
    /// Looks for addresses in `cell`; as in one that should hold nothing else where `of_address_field`.
    pub(crate) fn look(&mut self, cell: &[u8], of_address_field: bool, judge: &mut Judge<'_>) {
        self.clear();
        if memchr::memchr3(b'@', b'%', b'&', cell).is_none() && cell.is_ascii() {
            return;
        }
        let policy = judge.policy();
        if of_address_field {
            let mut found = Vec::new();
            cell::read(cell, policy, &mut found);
            found.iter().for_each(|found| self.add(found, judge));
        } else {
            text::find(cell, policy, |hit| self.add(&hit.into_found(), judge));
        }
    }

    pub(crate) fn clear(&mut self) {
        self.spans.clear();
        self.usable = false;
    }

    /// Adds an address that was found already.
    pub(crate) fn add(&mut self, found: &Found<'_>, judge: &mut Judge<'_>) {
        let judged = judge.judge(&found.text);
        let codes = judged.codes.union(judge.policy().in_force(found.codes));
        self.usable |= judge.policy().verdict(codes).is_usable();
        let span = found.locate(Span::new(0, found.text.len()));
        let is_behind = self.spans.last().is_none_or(|last| last.end <= span.start);
        if judged.has_standard_form && is_behind {
            self.spans.push(span);
        }
    }
}
