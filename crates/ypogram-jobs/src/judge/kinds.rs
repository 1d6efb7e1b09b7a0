//! Records whose addresses are alike: what becomes of them is worked out once, and they are counted once for a whole chunk.

use ypogram_core::{Alike, Policy};
use ypogram_tables::csv::CsvEncoder;

use crate::judge::by_alike::ByAlike;
use crate::judge::picking::Picked;
use crate::judge::plain_row::{OwnCells, PlainRows, Words};
use crate::judge::selection::Selection;
use crate::judge::tally::{Tally, reason_for_review};
use crate::plan::outcome::Outcome;

/// What becomes of records whose addresses are alike.
#[derive(Debug)]
pub(crate) struct Kind {
    pub(crate) outcome: Outcome,
    /// The finding that asks for a review, by place among all.
    pub(crate) reason: u8,
    /// What their rows are made of; none where each has to be looked at by itself.
    pub(crate) words: Option<Words>,
    /// Which cells of their own the rows have in that.
    pub(crate) own: OwnCells,
    /// Apart, as it is not looked at for each record.
    pub(crate) picked: Box<Picked>,
    /// Records of the chunk in hand.
    records: u64,
}

/// The kinds met so far.
#[derive(Debug)]
pub(crate) struct Kinds {
    by_source: Vec<ByAlike<Kind>>,
    /// Those of the chunk in hand.
    met: Vec<(usize, usize)>,
}

impl Kinds {
    /// For records of that many sources.
    pub(crate) fn new(sources: usize) -> Self {
        Kinds { by_source: (0..sources).map(|_| ByAlike::default()).collect(), met: Vec::new() }
    }

    /// Counts a record where its row is made of words; gives its kind, these, and whether it is the first of it in the chunk. None
    /// where each has to be looked at by itself, and where there are too many kinds.
    #[inline]
    pub(crate) fn count(
        &mut self,
        alike: Alike,
        source: usize,
        make: impl FnOnce() -> Kind,
    ) -> Option<(&Kind, &Words, bool)> {
        let kinds = &mut self.by_source[source];
        let place = kinds.place(alike, make)?;
        let kind = kinds.at(place);
        kind.words.as_ref()?;
        kind.records += 1;
        let is_first = kind.records == 1;
        if is_first {
            self.met.push((source, place));
        }
        Some((kind, kind.words.as_ref()?, is_first))
    }

    /// Adds the records of the chunk in hand to `tally`.
    pub(crate) fn settle(&mut self, policy: &Policy, tally: &mut Tally) {
        for (source, place) in self.met.drain(..) {
            let kind = self.by_source[source].at(place);
            tally.count(&kind.picked, kind.outcome, policy, std::mem::take(&mut kind.records));
        }
    }
}

impl Kind {
    /// What becomes of records with such an address in the field at `field`, whose own fields `encoder` writes.
    pub(crate) fn of(
        alike: Alike,
        field: usize,
        source: usize,
        policy: &Policy,
        selection: &Selection,
        rows: &mut PlainRows,
        encoder: &CsvEncoder,
    ) -> Self {
        let picked = Picked::alike(alike, policy, field);
        let set_aside = picked.verdict.is_usable() && selection.sets_aside(&picked).is_some();
        let at_once = !set_aside && !rows.suggests(&picked);
        // An address and nothing else needs no quotes.
        let line = encoder.writes_one_cell() && alike.unwrapping().is_empty();
        let whole = line || encoder.own_fields() == 0;
        let own = OwnCells { letters: true, line, whole, ..OwnCells::default() };
        let words = at_once.then(|| rows.words(&picked, source, own).clone());
        Kind {
            outcome: Outcome::of(picked.verdict, set_aside),
            reason: reason_for_review(&picked, policy),
            words,
            own,
            picked: Box::new(picked),
            records: 0,
        }
    }
}
