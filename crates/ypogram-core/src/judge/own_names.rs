//! Domains of one's own, and names one trusts: what is typed for them is a slip more often than another firm's domain.

use crate::characters::labels::Labels;
use crate::data::edit_distance::one_edit_apart;
use crate::data::known_typos::{self, Meant};
use crate::data::public_suffix;
use crate::data::reserved::is_or_below;
use crate::policy::job_policy::Policy;

/// Shorter names have too many real neighbours.
const SHORTEST_NAME: usize = 5;

/// The domain of one's own that `domain` (in lower case) was probably meant to be; none where it is one, or lies below one.
pub(crate) fn meant(domain: &[u8], policy: &Policy) -> Option<Meant> {
    if !policy.has_own_names() {
        return None;
    }
    let text = std::str::from_utf8(domain).ok()?;
    let is_own = |own: &String| is_or_below(domain, own.as_bytes());
    if policy.house.iter().any(is_own) || known_typos::is_real(domain) {
        return None;
    }
    let of_house = policy.house.iter().find_map(|own| near(text, own).or_else(|| of_other_tld(text, own)));
    if of_house.is_some() || policy.public_names.iter().any(is_own) {
        return of_house;
    }
    policy.public_names.iter().find_map(|own| near(text, own))
}

/// One letter from `own`, with an underscore for a hyphen, or with a hyphen more or less.
fn near(domain: &str, own: &str) -> Option<Meant> {
    let end = end_of_as_many_labels(domain, own);
    let typed = &domain[end..];
    let first = own.split('.').next().unwrap_or_default();
    if first.len() < SHORTEST_NAME {
        return None;
    }
    let same_letters = typed.replace(['-', '_'], "") == own.replace('-', "");
    (same_letters || one_edit_apart(typed.as_bytes(), own.as_bytes())).then(|| Meant {
        domain: format!("{}{own}", &domain[..end]),
        sure: false,
        reason: "one letter from a domain of your own",
    })
}

/// The name of `own` under another TLD.
fn of_other_tld(domain: &str, own: &str) -> Option<Meant> {
    let name = name_of(own);
    let is_same = name.len() >= SHORTEST_NAME && !name.contains('.') && name_of(domain) == name;
    is_same.then(|| Meant {
        domain: own.to_owned(),
        sure: false,
        reason: "a domain of your own with another top-level domain",
    })
}

/// The domain without its public suffix, or without its last label where that is no TLD.
fn name_of(domain: &str) -> &str {
    let last = || memchr::memrchr(b'.', domain.as_bytes()).map_or(domain.len(), |dot| domain.len() - dot - 1);
    let suffix = public_suffix::of(domain.as_bytes()).map_or_else(last, |suffix| suffix.len);
    domain[..domain.len() - suffix].trim_end_matches('.')
}

/// Where the last labels of `domain` start, as many as `own` has.
fn end_of_as_many_labels(domain: &str, own: &str) -> usize {
    let dots = Labels::of(own.as_bytes()).dots().count();
    memchr::memrchr_iter(b'.', domain.as_bytes()).nth(dots).map_or(0, |dot| dot + 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn slips_of_one_s_own_names() {
        let mut policy = Policy::default();
        policy.own_domain("tallow-mere.org").unwrap();
        policy.own_domain("abc.org").unwrap();
        policy.trust_name("fernhollow.internal").unwrap();
        for (typed, expected) in [
            ("talow-mere.org", Some("tallow-mere.org")),
            ("tallow_mere.org", Some("tallow-mere.org")),
            ("tallowmere.org", Some("tallow-mere.org")),
            ("tallow-mere.com", Some("tallow-mere.org")),
            ("tallow-mere.co.uk", Some("tallow-mere.org")),
            ("tallow-mere.ogr", Some("tallow-mere.org")),
            ("mail.talow-mere.org", Some("mail.tallow-mere.org")),
            ("fernholow.internal", Some("fernhollow.internal")),
            ("tallow-mere.org", None),
            ("mail.tallow-mere.org", None),
            ("other-mere.org", None),
            // Short names have real neighbours, and a trusted name under another TLD is another name.
            ("abd.org", None),
            ("fernhollow.com", None),
            // Real domains are never corrected.
            ("gmx.at", None),
        ] {
            let found = meant(typed.as_bytes(), &policy).map(|meant| meant.domain);
            assert_eq!(found.as_deref(), expected, "{typed}");
        }
        assert!(meant(b"talow-mere.org", &Policy::default()).is_none());
    }
}
