//! The further addresses of a record.

use ypogram_io::Record;

use crate::judge::annotate::{Annotator, Part, Settled};
use crate::judge::decided::Decided;
use crate::judge::select_address::{Candidates, SelectedAddress};
use crate::judge::tally::Tally;
use crate::plan::outcome::Outcome;

impl Annotator<'_> {
    /// Adds a row for each further address of the record whose first is `picked`, which the judge holds.
    pub(super) fn add_further_rows<'c>(
        &mut self,
        record: Record<'c>,
        selected: Option<SelectedAddress>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
        tally: &mut Tally,
    ) {
        let Some(selected) = selected.filter(|_| self.picker.more_count > 0) else { return };
        for candidate in self.picker.further(&selected, candidates) {
            let mut further = self.picker.judged_of_record(candidate, &candidates[candidate], record);
            self.wanted.fields.faults(&self.broken).add_to(&mut further, self.picker.judge.policy());
            self.hold_against_house(&mut further, record, candidates);
            tally.rows_added += 1;
            let settled = match self.wanted.duplicates {
                true => self.settle(Some(further), record, candidates, tally),
                false => {
                    let mut selected = further;
                    self.hold_against_names(record, &mut selected, tally);
                    let outcome = Outcome::of(selected.verdict, false);
                    Settled {
                        selected: Some(selected),
                        pattern: None,
                        set_aside: None,
                        outcome,
                        added: true,
                        decided: Decided::default(),
                    }
                }
            };
            self.add_row(record, Settled { added: true, ..settled }, candidates, part);
        }
    }

    /// Gathers the mailboxes of the further addresses of a record whose first is `picked`, which the judge holds.
    pub(super) fn gather_further<'c>(
        &mut self,
        record: Record<'c>,
        selected: Option<SelectedAddress>,
        candidates: &Candidates<'c>,
        part: &mut Part,
    ) {
        let asked = self.wanted.duplicates && self.picker.more_count > 0;
        let Some(selected) = selected.filter(|_| asked) else { return };
        for candidate in self.picker.further(&selected, candidates) {
            let further = self.picker.judged_of_record(candidate, &candidates[candidate], record);
            if further.has_mailbox() {
                let judge = &self.picker.judge;
                let key = judge.key_in(judge.policy().same, &mut self.key).to_vec();
                let hash = self.wanted.hash(&key, record, self.picker.plan(), self.hasher);
                part.further.push((record.index(), hash));
            }
        }
    }
}
