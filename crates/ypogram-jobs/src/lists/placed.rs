//! A list that is held against a field of the records.

use ypogram_core::lists::Lists;

use crate::lists::spec::By;

/// A list of values and the field that is held against it.
#[derive(Clone, Debug)]
pub(crate) struct PlacedList {
    /// The list, by place.
    pub(crate) list: usize,
    /// The field, as a place in the plan.
    pub(crate) field: usize,
    pub(crate) by: By,
}

impl PlacedList {
    /// The entry that the record's cell in the field meets.
    pub(crate) fn entry(&self, lists: &Lists, cell: &[u8]) -> Option<usize> {
        let list = lists.get(self.list);
        match &self.by {
            By::Exact => list.find_value(cell, false),
            By::Prefix => list.find_value(cell, true),
            By::Pattern(pattern) => list.find_value(pattern.taken(cell)?, false),
        }
    }
}
