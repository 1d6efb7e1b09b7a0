//! Counts of records and of what was found in them.

use ypogram_io::Record;

use crate::engine::shortened::shortened;
use crate::judge::annotate::Annotator;
use crate::judge::elsewhere;
use crate::judge::select_address::SelectedAddress;
use crate::judge::tally::{Example, Tally};
use crate::plan::outcome::Outcome;

impl Annotator<'_> {
    pub(super) fn count(
        &mut self,
        selected: &SelectedAddress,
        outcome: Outcome,
        record: Record<'_>,
        tally: &mut Tally,
    ) {
        self.note_examples(selected, record, tally);
        tally.count(selected, outcome, self.picker.judge.policy(), 1);
        if outcome != Outcome::Rejected && !self.wanted.row_per_address {
            tally.more += self.picker.more_count;
            tally.with_more += u64::from(self.picker.more_count > 0);
        }
    }

    /// Keeps the record as an example of findings that were not seen before it: chunks come in the order of the records, and of one
    /// chunk the earliest counts.
    pub(super) fn note_examples(
        &mut self,
        selected: &SelectedAddress,
        record: Record<'_>,
        tally: &mut Tally,
    ) {
        for code in selected.codes.iter() {
            let example = &mut tally.examples[code.index()];
            let is_earliest = match example {
                Some(example) => record.line_in_chunk() < example.line,
                None => !self.shown.contains(code),
            };
            if is_earliest {
                let cell = self.picker.plan().cell(record, selected.field).unwrap_or_default();
                *example = Some(self.example(cell, record));
            }
        }
        self.shown = self.shown.union(selected.codes);
    }

    /// Counts a record without a usable address that still holds an @, and the fields that would give one. Afterwards the judge may
    /// hold another address.
    pub(super) fn count_what_is_left(&mut self, record: Record<'_>, tally: &mut Tally) {
        let plan = self.picker.plan();
        let left = elsewhere::count(record, plan, &mut self.picker.judge, &mut tally.reachable);
        tally.at_sign_left += u64::from(left);
    }

    /// Counts the record for each list that adds columns to it.
    pub(super) fn count_lookups(
        &self,
        record: Record<'_>,
        selected: Option<&SelectedAddress>,
        tally: &mut Tally,
    ) {
        let (plan, judge) = (self.picker.plan(), &self.picker.judge);
        for (lookup, (list, _)) in tally.lookups.iter_mut().zip(&self.wanted.lookups) {
            if let Some(matched) = plan.looks_up(*list, record, selected.map(|_| judge), judge.policy()) {
                lookup.looked_up += 1;
                lookup.matched += u64::from(matched);
            }
        }
    }

    pub(super) fn count_cuts(
        &self,
        record: Record<'_>,
        selected: Option<&SelectedAddress>,
        tally: &mut Tally,
    ) {
        let value = |source| self.split_value(source, record, selected);
        self.wanted.split.misses(&value, |cut, cell| {
            tally.cut_misses[cut] += 1;
            tally.cut_examples[cut].get_or_insert_with(|| self.example(cell, record));
        });
    }

    pub(super) fn example(&self, cell: &[u8], record: Record<'_>) -> Example {
        let id = self.picker.plan().id(record);
        Example { source: record.source(), line: record.line_in_chunk(), id, text: shortened(cell) }
    }
}
