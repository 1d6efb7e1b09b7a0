//! Records whose addresses are alike: what becomes of them is worked out once, and they are counted once for a whole chunk.

use ypogram_core::{Class, CodeSet, Policy, SummaryKey, Verdict};

use crate::judge::by_summary_key::BySummaryKey;
use crate::judge::select_address::SelectedAddress;
use crate::judge::selection::Selection;
use crate::judge::tally::{Tally, reason_for_review};
use crate::plan::outcome::Outcome;

/// What becomes of records whose addresses are alike.
#[derive(Debug)]
pub(crate) struct Kind {
    pub(crate) outcome: Outcome,
    pub(crate) class: Option<Class>,
    /// The finding that asks for a review, by place among all.
    pub(crate) reason: u8,
    /// The address is the whole of its cell.
    pub(crate) is_bare: bool,
    /// Rows follow from the kind and the letters of the address; else each record has to be looked at by itself.
    follows_from_address: bool,
    /// What the shared cells of its rows follow from, by its place in the part in hand.
    pub(crate) template: u32,
    /// Records of the chunk in hand.
    records: u64,
    /// Apart, as it is not looked at for each record.
    pub(crate) selected: Box<SelectedAddress>,
}

/// The kinds seen so far.
#[derive(Debug)]
pub(crate) struct Kinds {
    by_source: Vec<BySummaryKey<Kind>>,
    /// Those of the chunk in hand.
    met: Vec<(usize, usize)>,
}

impl Kinds {
    /// For records of that many sources.
    pub(crate) fn new(sources: usize) -> Self {
        Kinds { by_source: (0..sources).map(|_| BySummaryKey::default()).collect(), met: Vec::new() }
    }

    /// Counts a record where its row follows from the kind; gives that, and whether it is the first of it in the chunk. None where
    /// each has to be looked at by itself, and where there are too many kinds.
    #[inline]
    pub(crate) fn count(
        &mut self,
        summary_key: SummaryKey,
        source: usize,
        make: impl FnOnce() -> Kind,
    ) -> Option<(&mut Kind, bool)> {
        let kinds = &mut self.by_source[source];
        let place = kinds.place(summary_key, make)?;
        let kind = kinds.at(place);
        if !kind.follows_from_address {
            return None;
        }
        kind.records += 1;
        let is_first = kind.records == 1;
        if is_first {
            self.met.push((source, place));
        }
        Some((kind, is_first))
    }

    /// Adds the records of the chunk in hand to `tally`.
    pub(crate) fn settle(&mut self, policy: &Policy, tally: &mut Tally) {
        for (source, place) in self.met.drain(..) {
            let kind = self.by_source[source].at(place);
            tally.count(&kind.selected, kind.outcome, policy, std::mem::take(&mut kind.records));
        }
    }
}

impl Kind {
    /// What becomes of records with such an address in the field at `field`, where something may be suggested instead of one with
    /// findings of `mendable`.
    pub(crate) fn of(
        summary_key: SummaryKey,
        field: usize,
        policy: &Policy,
        selection: &Selection,
        mendable: CodeSet,
    ) -> Self {
        let selected = SelectedAddress::summary_key(summary_key, policy, field);
        let set_aside = selected.verdict.is_usable() && selection.sets_aside(&selected).is_some();
        let may_be_mended = selected.verdict != Verdict::Accept && selected.codes.meets(mendable);
        Kind {
            outcome: Outcome::of(selected.verdict, set_aside),
            class: selected.judged.class,
            reason: reason_for_review(&selected, policy),
            is_bare: summary_key.unwrapping().is_empty(),
            follows_from_address: !set_aside && !may_be_mended,
            template: 0,
            records: 0,
            selected: Box::new(selected),
        }
    }
}
