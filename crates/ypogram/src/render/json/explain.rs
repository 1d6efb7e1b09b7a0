//! Judged addresses, as `explain --json` prints them.

use std::collections::BTreeMap;

use serde::Serialize;
use ypogram_core::{Examination, Part, Policy};
use ypogram_jobs::JudgedAddress;
use ypogram_jobs::split::NameOrders;

use crate::render::explain::Held;
use crate::render::json::summary::lines;

/// What `explain` says: an array, one entry an address.
pub(crate) fn explained(
    judged: &[(JudgedAddress, Examination, Held)],
    policy: &Policy,
    orders: &NameOrders,
) -> String {
    #[derive(Serialize)]
    struct Explained<'a> {
        #[serde(flatten)]
        judged: &'a JudgedAddress,
        #[serde(skip_serializing_if = "Option::is_none")]
        pattern: Option<&'a Option<String>>,
        #[serde(skip_serializing_if = "Option::is_none")]
        house: Option<String>,
        #[serde(skip_serializing_if = "Option::is_none")]
        house_proposal: Option<&'a String>,
        parts: Option<BTreeMap<String, String>>,
    }
    let parts = |examined: &Examination| {
        let parts = examined.parts(policy)?;
        let order = orders.at(parts.domain());
        let text = |part: &Part| (part.name().replace('-', "_"), parts.text(*part, order));
        Some(Part::ALL.iter().map(text).collect())
    };
    let all = judged.iter().map(|(judged, examined, held)| Explained {
        judged,
        pattern: held.pattern.as_ref(),
        house: held.house.as_ref().map(|house| house.words()),
        house_proposal: held.house.as_ref().and_then(|house| house.proposal.as_ref()),
        parts: parts(examined),
    });
    lines(&all.collect::<Vec<_>>())
}
