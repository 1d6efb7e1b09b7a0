//! What came of the rules that a run was given: patterns, lists, rules for fields, the house's format.

use std::collections::BTreeMap;

use serde::Serialize;

use crate::judge::house_clashes::HouseClash;
use crate::judge::tally::{Lookup, Tally};

/// Records by what the rules say of them; nothing is written of rules that there are none of.
#[derive(Clone, Debug, Serialize)]
pub(crate) struct RuleCounts {
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    patterns: BTreeMap<String, u64>,
    /// Records by the lists that add columns to them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    lookups: Vec<Lookup>,
    /// By field and what is asked of it.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    field_faults: BTreeMap<String, u64>,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    house: BTreeMap<&'static str, u64>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    house_clashes: Vec<HouseClash>,
}

impl RuleCounts {
    pub(crate) fn of(tally: &Tally) -> Self {
        let patterns = tally.patterns_by_name().into_iter();
        RuleCounts {
            patterns: patterns.map(|(name, count)| (name.to_owned(), count)).collect(),
            lookups: tally.lookups.clone(),
            field_faults: tally.field_faults.iter().cloned().collect(),
            house: tally.house_by_word(),
            house_clashes: tally.clashes.clone(),
        }
    }
}
