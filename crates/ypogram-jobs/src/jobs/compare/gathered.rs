//! What is gathered of the records of both sides, where it is asked for.

use ypogram_io::Result;

use crate::jobs::compare::differences::Differences;
use crate::jobs::compare::near::NearPairs;
use crate::jobs::compare::options::CompareOptions;
use crate::plan::fields::FieldPlan;

/// What is gathered of the records of both sides.
#[derive(Default)]
pub(super) struct Gathered {
    pub(super) differences: Option<Differences>,
    pub(super) near: Option<NearPairs>,
}

impl Gathered {
    /// Nothing yet. Lists of hashes have no fields, and nothing is gathered of them.
    ///
    /// # Errors
    /// Where a field was named that is on neither side.
    pub(super) fn of(options: &CompareOptions, new: &FieldPlan, known: Option<&FieldPlan>) -> Result<Self> {
        let Some(known) = known else { return Ok(Gathered::default()) };
        let most = options.memory / 8;
        let near = options.near.as_ref().map(|_| NearPairs::within(most, &options.near_fields, new, known));
        let differences = options.changed.as_ref().map(|_| Differences::within(most, new, known));
        Ok(Gathered { differences, near: near.transpose()? })
    }
}
