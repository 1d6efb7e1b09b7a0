//! The typing slips that are known, and the domains that very many people use.

use crate::data::edit_distance::one_edit_apart;
use crate::data::mark::mark_of;

include!(concat!(env!("OUT_DIR"), "/slips.rs"));

pub(crate) struct Typo {
    pub(crate) meant: &'static str,
    pub(crate) sure: bool,
}

/// What was probably meant, and how sure that is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Meant {
    pub(crate) domain: String,
    pub(crate) sure: bool,
    pub(crate) reason: &'static str,
}

/// Every known slip, of domains and of TLDs, with what was meant.
pub(crate) fn all() -> impl Iterator<Item = (&'static str, &'static str)> {
    let typed = |typed: &'static [u8]| std::str::from_utf8(typed).expect("UTF-8");
    let slips = DOMAIN_SLIPS.entries().chain(TLD_TYPOS.entries());
    slips.map(move |(slip, says)| (typed(slip), says.meant))
}

/// Whether the domain is known to be real although it looks mistyped.
pub(crate) fn is_real(domain: &[u8]) -> bool {
    NOT_SLIPS.contains(domain)
}

/// What is known of a TLD, with the dot or comma in front, that is often typed for another.
pub(crate) fn known_tld(tld: &[u8]) -> Option<&'static Typo> {
    TLD_TYPOS.get(tld)
}

/// What is known of a domain that is often typed for another.
pub(crate) fn known(domain: &[u8]) -> Option<&'static Typo> {
    let mark = mark_of(domain);
    if SLIP_ENDS[mark / 64] >> (mark % 64) & 1 == 1 { DOMAIN_SLIPS.get(domain) } else { None }
}

/// The popular domain that is one edit away.
pub(crate) fn of_popular(domain: &[u8]) -> Option<&'static str> {
    let from = FROM_LENGTH[domain.len().saturating_sub(1).min(LENGTHS - 1)];
    let near = from..FROM_LENGTH[(domain.len() + 2).min(LENGTHS - 1)];
    if near.is_empty() {
        return None;
    }
    let met = bytes_met(domain);
    // Nearly always this is all, and without a branch for each.
    if !BYTES_OF_POPULAR[near.clone()].iter().fold(false, |may, &of| may | may_be_one_edit(met ^ of)) {
        return None;
    }
    POPULAR[near].iter().copied().find(|popular| one_edit_apart(domain, popular.as_bytes()))
}

/// Which bytes a domain has, one bit for several of them.
const fn bytes_met(domain: &[u8]) -> u64 {
    let (mut met, mut at) = (0, 0);
    while at < domain.len() {
        met |= 1 << (domain[at] % 64);
        at += 1;
    }
    met
}

/// Whether one edit can make one domain of another, which differ in these bytes: it takes at most one and adds at most one.
fn may_be_one_edit(differ: u64) -> bool {
    let but_one = differ & differ.wrapping_sub(1);
    but_one & but_one.wrapping_sub(1) == 0
}

/// Longer domains are not popular.
const LENGTHS: usize = 64;

/// For each length the place of the first popular domain that is not shorter: they are sorted by length.
static FROM_LENGTH: [usize; LENGTHS] = {
    let mut from = [0; LENGTHS];
    let (mut length, mut place) = (0, 0);
    while length < LENGTHS {
        while place < POPULAR.len() && POPULAR[place].len() < length {
            place += 1;
        }
        from[length] = place;
        length += 1;
    }
    from
};

static BYTES_OF_POPULAR: [u64; POPULAR.len()] = {
    let (mut bytes, mut place) = ([0; POPULAR.len()], 0);
    while place < POPULAR.len() {
        bytes[place] = bytes_met(POPULAR[place].as_bytes());
        place += 1;
    }
    bytes
};

#[cfg(test)]
mod tests {
    use super::*;

    /// Neither lengths nor bytes leave one out that is one edit away, wherever that is.
    #[test]
    fn every_popular_domain_is_near_its_slips() {
        for popular in POPULAR.iter().map(|popular| popular.as_bytes()) {
            for at in 0..popular.len() {
                let (before, behind) = popular.split_at(at);
                let swapped = behind.get(1).map(|&next| [before, &[next, behind[0]], &behind[2..]].concat());
                let others = [b'q', b'.', b'm'].map(|other| [before, &[other], &behind[1..]].concat());
                let more = [b'q', b'm'].map(|other| [before, &[other], behind].concat());
                let less = [before, &behind[1..]].concat();
                for slip in others.into_iter().chain(more).chain([less]).chain(swapped) {
                    let all = POPULAR.iter().find(|other| one_edit_apart(&slip, other.as_bytes()));
                    assert_eq!(of_popular(&slip), all.copied(), "{}", slip.escape_ascii());
                }
            }
        }
        assert_eq!(of_popular("a".repeat(300).as_bytes()), None);
    }
}
