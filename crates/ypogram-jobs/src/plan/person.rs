//! Whose record it is: a person's name as it stands in name fields, compared regardless of its order, letter case or accents.

use ypogram_core::{Hasher, names};
use ypogram_io::{Record, Result};

use crate::engine::reading::Reading;
use crate::plan::fields::FieldPlan;

/// The fields that name a person, as places in the plan.
#[derive(Clone, Debug, Default)]
pub(crate) struct PersonFields {
    fields: Vec<usize>,
}

impl PersonFields {
    /// Those that are named, else those whose names say so.
    ///
    /// # Errors
    /// Where one that is named does not exist.
    pub(crate) fn settle(names: &[String], plan: &FieldPlan, reading: &Reading) -> Result<Self> {
        Ok(PersonFields { fields: plan.fields_of_persons(names, reading)? })
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.fields.is_empty()
    }

    /// The fields' names.
    pub(crate) fn names(&self, plan: &FieldPlan) -> Vec<String> {
        self.fields.iter().map(|&field| plan.fields[field].clone()).collect()
    }

    /// What `record` says in these fields.
    pub(crate) fn cells<'c>(&self, record: Record<'c>, plan: &FieldPlan) -> Vec<&'c [u8]> {
        self.fields.iter().filter_map(|&field| plan.cell(record, field)).collect()
    }

    /// The same as one text, a space between the cells.
    pub(crate) fn text(&self, record: Record<'_>, plan: &FieldPlan) -> String {
        let cells = self.cells(record, plan);
        let cells = cells.iter().map(|cell| String::from_utf8_lossy(cell.trim_ascii()).into_owned());
        cells.filter(|cell| !cell.is_empty()).collect::<Vec<_>>().join(" ")
    }

    /// Whether `record` names the person whose name is `text`, in whatever order its words stand.
    pub(crate) fn is(&self, text: &str, record: Record<'_>, plan: &FieldPlan, hasher: Hasher) -> bool {
        let named = names::hash_of_words(text.as_bytes(), text.len(), hasher);
        self.hash(record, plan, hasher) == named
    }

    /// A hash of the person that `record` names; 0 where it names none. Words count in whatever order they stand.
    pub(crate) fn hash(&self, record: Record<'_>, plan: &FieldPlan, hasher: Hasher) -> u64 {
        let cells = self.fields.iter().filter_map(|&field| plan.cell_and_behind(record, field));
        cells.fold(0, |sum, (from, bytes)| sum.wrapping_add(names::hash_of_words(from, bytes, hasher)))
    }
}
