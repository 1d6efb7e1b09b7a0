//! Whether days or months come first in the dates of a field, recognised from its first values.

use ypogram_core::value::{self, DateOrder, Value};
use ypogram_io::Result;
use ypogram_io::RowSpec;

use crate::engine::reading::Reading;
use crate::plan::fields::FieldPlan;

/// So many records of each source are looked at.
const LOOKED_AT: usize = 10_000;

/// What the values of a field say about the order of its dates.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct DateEvidence {
    /// Dates that are none with the month first, and with the day first.
    day_first: u64,
    month_first: u64,
    /// Dates that are one either way.
    either_way: u64,
}

impl DateEvidence {
    fn see(&mut self, cell: &[u8]) {
        match value::needed_order(cell) {
            Some(DateOrder::DayFirst) => self.day_first += 1,
            Some(DateOrder::MonthFirst) => self.month_first += 1,
            None => {
                let either_way =
                    matches!(value::read(cell), Some(Value::Moment(moment)) if moment.either_way);
                self.either_way += u64::from(either_way);
            }
        }
    }

    /// The order to read dates in: that of those which allow one alone, else the day first.
    pub(crate) fn order(self) -> DateOrder {
        match self.month_first > 0 && self.day_first == 0 {
            true => DateOrder::MonthFirst,
            false => DateOrder::DayFirst,
        }
    }

    /// Whether some dates could be read either way and none tells which is right.
    pub(crate) fn is_undecided(self) -> bool {
        self.day_first == 0 && self.month_first == 0 && self.either_way > 0
    }

    /// What to report about the dates of `field`; nothing where they leave no doubt and the day comes first.
    pub(crate) fn note(self, field: &str) -> Option<String> {
        let DateEvidence { day_first, month_first, either_way } = self;
        match (day_first > 0, month_first > 0, either_way > 0) {
            (false, true, _) => {
                Some(format!("dates in {field} have the month first: some of them allow nothing else"))
            }
            (true, true, _) => Some(format!(
                "dates in {field} come in both orders: where both are possible, the day was taken to come first"
            )),
            (false, false, true) => Some(format!(
                "dates in {field} could have the day or the month first, and none of them tells: the day was taken to come first"
            )),
            _ => None,
        }
    }
}

/// What the first records of each source say about the dates in the field at place `field`.
///
/// # Errors
/// Where a source cannot be read.
pub(crate) fn evidence(reading: &mut Reading, plan: &FieldPlan, field: usize) -> Result<Vec<DateEvidence>> {
    let mut all = Vec::new();
    for source in 0..reading.len() {
        let mut evidence = DateEvidence::default();
        reading.look_ahead(source, LOOKED_AT, |batch, chunk| {
            for record in batch.records(chunk) {
                evidence.see(plan.cell(record, field).unwrap_or_default());
            }
        })?;
        all.push(evidence);
    }
    Ok(all)
}

/// What several sources say together.
pub(crate) fn together(evidence: &[DateEvidence]) -> DateEvidence {
    evidence.iter().fold(DateEvidence::default(), |sum, one| DateEvidence {
        day_first: sum.day_first + one.day_first,
        month_first: sum.month_first + one.month_first,
        either_way: sum.either_way + one.either_way,
    })
}

/// How two cells are put in order whose dates have the day first.
pub fn day_first_key(cell: &[u8], key: &mut Vec<u8>) {
    value::write_sort_key(cell, DateOrder::DayFirst, key);
}

fn month_first_key(cell: &[u8], key: &mut Vec<u8>) {
    value::write_sort_key(cell, DateOrder::MonthFirst, key);
}

/// Sorts by dates as they are meant, where rows are sorted by a field that has some; gives what to report about them.
///
/// # Errors
/// Where a source cannot be read.
pub(crate) fn settle_sorting(
    projection: &mut RowSpec,
    reading: &mut Reading,
    plan: &FieldPlan,
) -> Result<Vec<String>> {
    let mut notes = Vec::new();
    for by in &mut projection.sort_by {
        let renamed = projection.columns.iter().find(|(_, shown)| *shown == by.column).map(|(own, _)| own);
        let name = renamed.unwrap_or(&by.column);
        let Some(field) = plan.fields.iter().position(|field| field == name) else { continue };
        let evidence = together(&evidence(reading, plan, field)?);
        if evidence.order() == DateOrder::MonthFirst {
            by.key = month_first_key;
        }
        notes.extend(evidence.note(name));
    }
    Ok(notes)
}
