//! Addresses in fields that were not looked at, of records without a usable one.

use ypogram_core::Judge;
use ypogram_core::text::{self, ScanEvent, Seen};
use ypogram_io::Record;

use crate::plan::fields::FieldPlan;

/// Counts for each field whether it would give `record` a usable address; tells whether there is an @ in one of them. Afterwards the
/// judge may hold another address.
pub(crate) fn count(
    record: Record<'_>,
    plan: &FieldPlan,
    judge: &mut Judge<'_>,
    reachable: &mut [u64],
) -> bool {
    let places = &plan.places[record.source()];
    if !record.may_hold_outside(b'@', plan.address.iter().filter_map(|&field| places[field])) {
        return false;
    }
    let mut left = false;
    for (field, place) in places.iter().enumerate() {
        let looked_at = plan.address.contains(&field) || plan.text.contains(&field);
        let Some(cell) = place.filter(|_| !looked_at).and_then(|place| record.cell(place)) else {
            continue;
        };
        if memchr::memchr(b'@', cell).is_none() {
            continue;
        }
        left = true;
        let mut usable = false;
        let body = 0..cell.len();
        text::look_with(cell, body, judge, text::Options::default(), |judge, met| match met {
            ScanEvent::Judged(within) => {
                usable |= within.summary_key.summary(judge.policy()).verdict.is_usable()
            }
            ScanEvent::Seen(Seen::Match(hit), _) => usable |= judge.judge_hit(&hit).verdict.is_usable(),
            ScanEvent::Seen(Seen::Skipped(..), _) => {}
        });
        reachable[field] += u64::from(usable);
    }
    left
}
