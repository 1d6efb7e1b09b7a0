//! What is wanted beyond the verdict.

use std::sync::Arc;

use ypogram_core::Hasher;
use ypogram_io::Record;

use crate::decisions::{Memory, PlacedAnswers};
use crate::duplicates::survivor::Scoring;
use crate::judge::checked_fields::CheckedFields;
use crate::judge::compared::Comparing;
use crate::judge::conditions::Conditions;
use crate::judge::selection::Selection;
use crate::judge::tally::{Lookup, Tally};
use crate::lists::AppendedColumn;
use crate::plan::fields::FieldPlan;
use crate::plan::house::HousePlan;
use crate::plan::house_pattern::HousePattern;
use crate::plan::person::PersonFields;
use crate::plan::same_fields::SameFields;
use crate::plan::split::SplitPlan;

/// What is wanted beyond the verdict.
#[derive(Debug, Default)]
pub(crate) struct Wanted {
    /// Patterns of which one should fit.
    pub(crate) patterns: Vec<HousePattern>,
    /// What is asked of other fields.
    pub(crate) fields: CheckedFields,
    /// The house's own address formats.
    pub(crate) house: Option<HousePlan>,
    /// Only records that meet these are encoded.
    pub(crate) show: Option<Conditions>,
    /// The field whose cells are reported by kind.
    pub(crate) label: Option<usize>,
    /// Which usable records are wanted.
    pub(crate) selection: Selection,
    /// The columns that lists append.
    pub(crate) from_lists: Vec<AppendedColumn>,
    /// The lists that append them, by place, with their names.
    pub(crate) lookups: Vec<(usize, String)>,
    /// What addresses and other values are split into.
    pub(crate) split: SplitPlan,
    /// Each usable address of a record gets a row of its own.
    pub(crate) row_per_address: bool,
    /// Records are held against each other by mailbox.
    pub(crate) duplicates: bool,
    /// How records of one mailbox are preferred to one another, where that is asked for.
    pub(crate) scoring: Option<Scoring>,
    /// How records compare with others.
    pub(crate) comparing: Option<Comparing>,
    /// What tells records apart is gathered, where they have it.
    pub(crate) gathers_ids: bool,
    /// Fields that duplicates must have in common beside the mailbox.
    pub(crate) same: SameFields,
    /// The fields that name a person, where persons are distinguished.
    pub(crate) persons: Option<PersonFields>,
    /// The field that gets the address of accepted records, by its place.
    pub(crate) into: Option<usize>,
    /// What was decided about single records.
    pub(crate) answers: Option<PlacedAnswers>,
    /// Decisions of earlier runs.
    pub(crate) memory: Option<Arc<Memory>>,
}

impl Wanted {
    /// What records of one mailbox have in common, where duplicates are looked for.
    #[inline]
    pub(super) fn hash(&self, key: &[u8], record: Record<'_>, plan: &FieldPlan, hasher: Hasher) -> u128 {
        match self.duplicates && !key.is_empty() {
            true if self.same.is_none() => hasher.hash(key),
            true => self.hash_with_fields(key.to_vec(), record, plan, hasher),
            false => 0,
        }
    }

    #[cold]
    fn hash_with_fields(
        &self,
        mut key: Vec<u8>,
        record: Record<'_>,
        plan: &FieldPlan,
        hasher: Hasher,
    ) -> u128 {
        self.same.append(record, plan, &mut key);
        hasher.hash(&key)
    }

    /// The person that a record names, where persons are distinguished; else 0.
    #[inline]
    pub(super) fn person(&self, record: Record<'_>, plan: &FieldPlan, hasher: Hasher) -> u32 {
        let persons = self.persons.as_ref();
        persons.map_or(0, |persons| persons.hash(record, plan, hasher) as u32)
    }

    /// Counts of nothing yet.
    pub(crate) fn tally(&self, plan: &FieldPlan) -> Tally {
        let patterns = self.patterns.iter().map(|pattern| pattern.pattern.name.clone());
        let checks = self.fields.checks.checks.iter().map(|check| check.name.clone());
        let tally = Tally::new(plan.fields.len(), &self.selection, self.split.cuts(), patterns);
        let lookup = |(_, list): &(usize, String)| Lookup { list: list.clone(), ..Lookup::default() };
        let lookups = self.lookups.iter().map(lookup).collect();
        Tally { lookups, ..tally.with_field_checks(checks.collect()) }
    }
}
