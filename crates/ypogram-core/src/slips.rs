//! Likely typing slips in domains: known ones, and one edit from a domain that very many people use.

use crate::mark::mark_of;
use crate::policy::Policy;
use crate::{ending_slips, own_names};

include!(concat!(env!("OUT_DIR"), "/slips.rs"));

pub(crate) struct Slip {
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

/// Every known slip, of domains and of endings, with what was meant.
pub(crate) fn all() -> impl Iterator<Item = (&'static str, &'static str)> {
    let typed = |typed: &'static [u8]| std::str::from_utf8(typed).expect("UTF-8");
    let slips = DOMAIN_SLIPS.entries().chain(ENDING_SLIPS.entries());
    slips.map(move |(slip, says)| (typed(slip), says.meant))
}

/// Whether the domain is known to be real although it looks mistyped.
pub(crate) fn is_real(domain: &[u8]) -> bool {
    NOT_SLIPS.contains(domain)
}

/// What `domain` (lower-case A-labels, on no list of providers) was probably meant to be.
///
/// `has_known_ending` tells whether its ending is in the root zone or trusted: only endings that are not are held against those that
/// people mistype, but for a few.
pub(crate) fn of(domain: &[u8], has_known_ending: impl FnOnce() -> bool, policy: &Policy) -> Option<Meant> {
    if let Some(meant) = own_names::meant(domain, policy) {
        return Some(meant);
    }
    if let Some(meant) = policy.learnt.meant(domain) {
        return Some(Meant {
            domain: meant.to_owned(),
            sure: false,
            reason: "one letter from a domain that this list has often",
        });
    }
    let of_known = known(domain).map(|slip| Meant {
        domain: slip.meant.to_owned(),
        sure: slip.sure,
        reason: "a known slip",
    });
    let of_popular = || {
        of_popular(domain).map(|popular| Meant {
            domain: popular.to_owned(),
            sure: false,
            reason: "one letter from a domain that very many use",
        })
    };
    let of_ending = || match has_known_ending() {
        true => ending_slips::of_second_level(domain),
        false => ending_slips::of_unknown(domain),
    };
    let meant = of_known.or_else(of_popular).or_else(of_ending)?;
    (!is_real(domain)).then_some(meant)
}

/// Whether a domain with an unknown ending in running text is likely mistyped: only what is known to be typed for another, and what
/// is one letter from a domain that very many use or from one's own. Words of a text have endings of many kinds.
pub(crate) fn is_slip_in_text(domain: &[u8], policy: &Policy) -> bool {
    let is_one = own_names::meant(domain, policy).is_some()
        || known(domain).is_some()
        || of_popular(domain).is_some()
        || ending_slips::is_known(domain);
    is_one && !is_real(domain)
}

/// Whether [`of`] has an answer for a domain with a known ending that is no own name and was not learnt.
pub(crate) fn is_slip(domain: &[u8]) -> bool {
    let is_one = known(domain).is_some()
        || of_popular(domain).is_some()
        || ending_slips::of_second_level(domain).is_some();
    is_one && !is_real(domain)
}

/// What is known of an ending, with the dot or comma in front, that is often typed for another.
pub(crate) fn known_ending(ending: &[u8]) -> Option<&'static Slip> {
    ENDING_SLIPS.get(ending)
}

/// What is known of a domain that is often typed for another.
fn known(domain: &[u8]) -> Option<&'static Slip> {
    let mark = mark_of(domain);
    if SLIP_ENDS[mark / 64] >> (mark % 64) & 1 == 1 { DOMAIN_SLIPS.get(domain) } else { None }
}

/// The popular domain that is one edit away.
fn of_popular(domain: &[u8]) -> Option<&'static str> {
    let from = FROM_LENGTH[domain.len().saturating_sub(1).min(LENGTHS - 1)];
    let near = from..FROM_LENGTH[(domain.len() + 2).min(LENGTHS - 1)];
    if near.is_empty() {
        return None;
    }
    let met = octets_met(domain);
    // Nearly always this is all, and without a branch for each.
    if !OCTETS_OF_POPULAR[near.clone()].iter().fold(false, |may, &of| may | may_be_one_edit(met ^ of)) {
        return None;
    }
    POPULAR[near].iter().copied().find(|popular| one_edit_apart(domain, popular.as_bytes()))
}

/// Which octets a domain has, one bit for several of them.
const fn octets_met(domain: &[u8]) -> u64 {
    let (mut met, mut at) = (0, 0);
    while at < domain.len() {
        met |= 1 << (domain[at] % 64);
        at += 1;
    }
    met
}

/// Whether one edit can make one domain of another, which differ in these octets: it takes at most one and adds at most one.
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

static OCTETS_OF_POPULAR: [u64; POPULAR.len()] = {
    let (mut octets, mut place) = ([0; POPULAR.len()], 0);
    while place < POPULAR.len() {
        octets[place] = octets_met(POPULAR[place].as_bytes());
        place += 1;
    }
    octets
};

/// Whether one insertion, deletion, replacement or swap of neighbours (Damerau–Levenshtein) leads from one to the other.
pub(crate) fn one_edit_apart(a: &[u8], b: &[u8]) -> bool {
    let (long, short) = if a.len() >= b.len() { (a, b) } else { (b, a) };
    let (Some(first), Some(last)) = (short.first(), short.last()) else { return long.len() == 1 };
    // One edit leaves at least one end as it is, but for a swap of the last or first two.
    let ends_differ = *first != long[0] && *last != long[long.len() - 1];
    if long.len() - short.len() > 1 || ends_differ && long.len() > 2 {
        return false;
    }
    let prefix = long.iter().zip(short).take_while(|(x, y)| x == y).count();
    let rest = short.len() - prefix;
    let suffix = long.iter().rev().zip(short.iter().rev()).take(rest).take_while(|(x, y)| x == y).count();
    match rest - suffix {
        0 => long.len() != short.len(),
        1 => long.len() == short.len(),
        2 => {
            long.len() == short.len()
                && long[prefix] == short[prefix + 1]
                && long[prefix + 1] == short[prefix]
        }
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_edit_is_what_the_textbook_says() {
        let words = [
            "gmail.com",
            "gmial.com",
            "gmal.com",
            "ggmail.com",
            "gmail.co",
            "hmail.com",
            "gamil.com",
            "gmaill.con",
            "live.com",
            "",
        ];
        for a in words {
            for b in words {
                let expected = strsim::damerau_levenshtein(a, b) == 1;
                assert_eq!(one_edit_apart(a.as_bytes(), b.as_bytes()), expected, "{a} {b}");
            }
        }
    }

    /// Neither lengths nor octets leave one out that is one edit away, wherever that is.
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

    #[test]
    fn slips_and_what_only_looks_like_one() {
        for (typed, meant) in [
            ("gmial.com", Some("gmail.com")),
            ("gmail.con", Some("gmail.com")),
            ("fernhollow.con", Some("fernhollow.com")),
            ("fernhollow.infp", Some("fernhollow.info")),
            ("fernhollow.bizz", Some("fernhollow.biz")),
            ("fernhollow.org1", Some("fernhollow.org")),
            ("fernhollow.c.uk", Some("fernhollow.co.uk")),
            ("fernhollow.co.u", Some("fernhollow.co.uk")),
            ("fernhollow.dee", Some("fernhollow.de")),
            ("fernhollow.zzzz", None),
            ("c.uk", None),
            ("hotmaill.com", Some("hotmail.com")),
            ("gmx.at", None),
            ("mail.com", None),
            ("email.com", None),
            ("fernhollow.com", None),
        ] {
            let has_known_ending = || psl::suffix(typed.as_bytes()).is_some_and(|s| s.is_known());
            assert_eq!(
                of(typed.as_bytes(), has_known_ending, &Policy::default()).map(|m| m.domain).as_deref(),
                meant,
                "{typed}"
            );
        }
    }
}
