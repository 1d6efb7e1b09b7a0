//! Records held against what is asked of fields other than the address.

use ypogram_core::{Code, CodeSet, Judge, Policy};
use ypogram_io::Record;

use crate::engine::reading::{SourceReport, Task};
use crate::judge::repeated_values::RepeatedValues;
use crate::judge::select_address::SelectedAddress;
use crate::plan::field_rules::{Check, FieldChecks};
use crate::plan::fields::FieldPlan;

/// What is asked of the fields, and what has to be known of all records before the first is judged.
#[derive(Clone, Debug, Default)]
pub(crate) struct CheckedFields {
    pub(crate) checks: FieldChecks,
    repeated: RepeatedValues,
    /// The sources, where they were read for that.
    pub(crate) read: Option<Vec<SourceReport>>,
}

impl CheckedFields {
    /// What is asked, with the records that repeat values where that is asked for, and the sources as they were read for it.
    pub(crate) fn new(
        checks: FieldChecks,
        repeated: RepeatedValues,
        read: Option<Vec<SourceReport>>,
    ) -> Self {
        CheckedFields { checks, repeated, read }
    }

    /// How many records stand before a chunk; 0 where nothing depends on that.
    pub(crate) fn records_before(&self, task: &Task) -> u64 {
        match self.checks.unique.is_empty() {
            true => 0,
            false => self.repeated.records_before(task.source, task.chunk.number),
        }
    }

    /// Fills `broken` with the places of the checks that a record does not pass which stands in a chunk behind `before` records.
    #[inline]
    pub(crate) fn look(
        &self,
        record: Record<'_>,
        before: u64,
        plan: &FieldPlan,
        judge: &Judge<'_>,
        broken: &mut Vec<usize>,
    ) {
        if !self.checks.is_empty() {
            let repeats = |field| self.repeated.repeats(field, before + record.index() as u64);
            self.checks.broken(record, plan, judge, repeats, broken);
        }
    }

    pub(crate) fn faults<'r>(&'r self, broken: &'r [usize]) -> FieldFaults<'r> {
        FieldFaults { checks: &self.checks.checks, broken }
    }
}

/// What fields of a record break.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct FieldFaults<'r> {
    checks: &'r [Check],
    /// By place.
    broken: &'r [usize],
}

impl<'r> FieldFaults<'r> {
    fn checks(self) -> impl Iterator<Item = &'r Check> {
        self.broken.iter().map(|&place| &self.checks[place])
    }

    /// The findings.
    pub(crate) fn codes(self) -> CodeSet {
        self.checks().fold(CodeSet::EMPTY, |codes, check| codes.with(check.code))
    }

    /// Whether there is that finding, about that field where one is named.
    pub(crate) fn has(self, code: Code, field: Option<usize>) -> bool {
        self.checks().any(|check| check.code == code && field.is_none_or(|field| field == check.field))
    }

    /// `lent on: filled; joined: earliest`
    pub(crate) fn write(self, out: &mut Vec<u8>) {
        for (nth, check) in self.checks().enumerate() {
            out.extend_from_slice(if nth > 0 { b"; " } else { b"" });
            out.extend_from_slice(check.name.as_bytes());
        }
    }

    /// Adds the findings to those of the record's address.
    pub(crate) fn add_to(self, selected: &mut SelectedAddress, policy: &Policy) {
        if !self.broken.is_empty() {
            selected.codes = policy.in_force(selected.codes.union(self.codes()));
            selected.verdict = policy.verdict(selected.codes);
        }
    }
}
