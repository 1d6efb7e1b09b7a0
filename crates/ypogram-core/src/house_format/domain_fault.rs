//! What is wrong with the domain of an address of the house.

use crate::data::public_suffix;
use crate::house_format::part::HousePart;

/// What is wrong with a domain, what it costs, and the sentence.
pub(super) struct DomainFault {
    pub(super) part: HousePart,
    pub(super) cost: u32,
    pub(super) message: String,
}

/// The cost of a domain that is another's altogether.
pub(super) const OTHER: u32 = 60;

/// What is wrong with `domain`, where `wanted` is asked for, both in lower-case A-labels; none where they are one.
pub(super) fn faults(domain: &str, wanted: &str) -> Vec<DomainFault> {
    if domain == wanted {
        return Vec::new();
    }
    let sub_domain = |message: String| DomainFault { part: HousePart::SubDomain, cost: 6, message };
    if let Some(missing) = wanted.strip_suffix(domain).and_then(|rest| rest.strip_suffix('.')) {
        return vec![sub_domain(format!("The sub-domain ‘{missing}’ is missing."))];
    }
    if let Some(surplus) = domain.strip_suffix(wanted).and_then(|rest| rest.strip_suffix('.')) {
        return vec![sub_domain(format!("The sub-domain ‘{surplus}’ is too much."))];
    }
    let ([sub, own], [wanted_sub, wanted_own]) = (cut(domain), cut(wanted));
    let of_own = match strsim::osa_distance(own, wanted_own) {
        0 => None,
        _ if strsim::osa_distance(domain, wanted) < 3 => {
            let message =
                format!("The domain ‘{wanted}’ is asked for, and ‘{domain}’ looks like a slip of it.");
            return vec![DomainFault { part: HousePart::Domain, cost: 8, message }];
        }
        apart @ (1 | 2) => Some(DomainFault {
            part: HousePart::Domain,
            cost: 6 + 2 * apart as u32,
            message: format!("The domain ‘{wanted_own}’ is asked for, and ‘{own}’ looks like a slip of it."),
        }),
        _ => {
            let message = format!("The domain ‘{wanted}’ is asked for, and ‘{domain}’ is another.");
            return vec![DomainFault { part: HousePart::Domain, cost: OTHER, message }];
        }
    };
    let of_sub = match (sub, wanted_sub) {
        (sub, wanted) if sub == wanted => None,
        ("", missing) => Some(format!("The sub-domain ‘{missing}’ is missing.")),
        (surplus, "") => Some(format!("The sub-domain ‘{surplus}’ is too much.")),
        (sub, wanted) => Some(format!("The sub-domain ‘{wanted}’ is asked for where ‘{sub}’ stands.")),
    };
    of_sub.map(sub_domain).into_iter().chain(of_own).collect()
}

/// The labels before the name that was registered, and that name.
fn cut(domain: &str) -> [&str; 2] {
    let start = public_suffix::registrable(domain).map_or(0, |own| domain.len() - own.len());
    match start.checked_sub(1) {
        None => ["", domain],
        Some(dot) => [&domain[..dot], &domain[start..]],
    }
}
