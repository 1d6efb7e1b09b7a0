//! Fields that have to be equal as well, where records of one mailbox are looked for.

use ypogram_io::{Record, Result};

use crate::engine::reading::Reading;
use crate::plan::fields::FieldPlan;

/// Fields that records of one mailbox must have in common to be duplicates, as places in the plan.
#[derive(Clone, Debug, Default)]
pub(crate) struct SameFields {
    /// Letter case and white space aside.
    by: Vec<usize>,
    /// As they stand: duplicates are looked for within records of one value.
    within: Vec<usize>,
}

impl SameFields {
    /// # Errors
    /// Where a field does not exist.
    pub(crate) fn settle(
        by: &[String],
        within: &[String],
        plan: &FieldPlan,
        reading: &Reading,
    ) -> Result<Self> {
        let places = |names: &[String], option: &str| {
            names.iter().map(|name| plan.place_of(name, reading, option)).collect::<Result<Vec<_>>>()
        };
        Ok(SameFields { by: places(by, "--by")?, within: places(within, "--within")? })
    }

    /// Whether nothing but the mailbox counts.
    #[inline]
    pub(crate) fn is_none(&self) -> bool {
        self.by.is_empty() && self.within.is_empty()
    }

    /// Appends to `key` what these fields of `record` say.
    pub(crate) fn append(&self, record: Record<'_>, plan: &FieldPlan, key: &mut Vec<u8>) {
        for &field in &self.by {
            key.push(0);
            key.extend_from_slice(folded(plan.cell(record, field).unwrap_or_default()).as_bytes());
        }
        for &field in &self.within {
            key.push(1);
            key.extend_from_slice(plan.cell(record, field).unwrap_or_default().trim_ascii());
        }
    }
}

/// A value with letter case and white space folded.
pub(crate) fn folded(cell: &[u8]) -> String {
    String::from_utf8_lossy(cell).split_whitespace().collect::<Vec<_>>().join(" ").to_lowercase()
}
