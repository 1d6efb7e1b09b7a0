//! Where else addresses are: the other fields in the order that adds most, with the running total.

use serde::{Deserialize, Serialize};

use crate::jobs::survey::gathered::Gathered;
use crate::plan::fields::FieldPlan;

/// Where records that lack a usable address would find one.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Ladder {
    /// Records without a usable address in the chosen fields.
    pub lacking: u64,
    /// The fields that would give some of them one, in the order that adds most.
    pub steps: Vec<Step>,
    /// Records that still lack one and hold an @ somewhere.
    pub at_sign_left: u64,
}

/// One field of a ladder.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Step {
    /// The field.
    pub field: String,
    /// Records that it adds to the fields before it.
    pub adds: u64,
    /// Records for which it has an address, whatever the others have.
    pub alone: u64,
    /// Usable records in all once it is looked at.
    pub total: u64,
    /// Whether most of its addresses are all that is in the cell, as in an address field.
    pub as_address_field: bool,
}

pub(super) fn of(gathered: &Gathered, plan: &FieldPlan) -> Ladder {
    let lacking: u64 = gathered.elsewhere.values().sum();
    let mut left: Vec<(u128, u64)> = gathered.elsewhere.iter().map(|(set, count)| (*set, *count)).collect();
    let alone =
        |field: usize| left.iter().filter(|(set, _)| set >> field & 1 == 1).map(|(_, count)| count).sum();
    let alone: Vec<u64> = (0..plan.fields.len().min(128)).map(alone).collect();
    let mut total = gathered.as_it_stood + gathered.after_repair + gathered.from_text;
    let mut steps = Vec::new();
    loop {
        let mut adds = vec![0; alone.len()];
        for (set, count) in &left {
            (0..alone.len()).filter(|field| set >> field & 1 == 1).for_each(|field| adds[field] += count);
        }
        // The leftmost of equals.
        let best = (0..adds.len()).rev().max_by_key(|&field| adds[field]).filter(|&field| adds[field] > 0);
        let Some(field) = best else { break };
        left.retain(|(set, _)| set >> field & 1 == 0);
        total += adds[field];
        steps.push(Step {
            field: plan.fields[field].clone(),
            adds: adds[field],
            alone: alone[field],
            total,
            as_address_field: gathered.fields[field].is_mostly_addresses(),
        });
    }
    Ladder { lacking, steps, at_sign_left: gathered.at_sign_left }
}
