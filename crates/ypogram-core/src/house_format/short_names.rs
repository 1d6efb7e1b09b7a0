//! Short forms of given names, from `data/short-names.tsv`.

include!(concat!(env!("OUT_DIR"), "/short_names.rs"));

/// Whether `short` is a known short form of `given`, both as they stand in local parts.
///
/// ```text
/// bill  william
/// ```
pub(super) fn is_short_for(short: &str, given: &str) -> bool {
    // Of ‘anna-maria’ the first counts.
    let first = given.split('-').next().unwrap_or(given);
    let names = SHORT_NAMES.get(short.as_bytes());
    names.is_some_and(|names| names.iter().any(|name| *name == given || *name == first))
}
