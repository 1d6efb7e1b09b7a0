//! Records held against what is asked of fields other than the address.

use ypogram_core::CodeSet;
use ypogram_io::Record;

use crate::judge::annotate::Annotator;
use crate::judge::tally::Tally;

impl Annotator<'_> {
    /// Whether the fields of the record break nothing that is asked of them.
    #[inline]
    pub(super) fn has_right_fields(&mut self, record: Record<'_>) -> bool {
        self.look_at_fields(record);
        self.broken.is_empty()
    }

    /// Finds out what the fields of the record break, and counts it.
    pub(super) fn check_fields(&mut self, record: Record<'_>, tally: &mut Tally) {
        self.look_at_fields(record);
        for &place in &self.broken {
            tally.field_faults[place].1 += 1;
            tally.field_examples[place].get_or_insert_with(|| {
                let field = self.wanted.fields.checks.checks[place].field;
                self.example(self.picker.plan().cell(record, field).unwrap_or_default(), record)
            });
        }
    }

    #[inline]
    fn look_at_fields(&mut self, record: Record<'_>) {
        let (plan, judge) = (self.picker.plan(), &self.picker.judge);
        self.wanted.fields.look(record, self.chunk_begins_at, plan, judge, &mut self.broken);
    }

    /// The findings of the fields of the record in hand.
    pub(super) fn field_codes(&self) -> CodeSet {
        self.picker.judge.policy().in_force(self.wanted.fields.faults(&self.broken).codes())
    }
}
