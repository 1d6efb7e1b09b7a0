//! What of an address follows from its letters, without a look at its domain, where nothing but the keys of usable ones is asked for.

use crate::alike::Alike;
use crate::codes::{Code, CodeSet};
use crate::dress::Dress;
use crate::key::SameMailbox;
use crate::local_words;
use crate::masks::{Masks, lowest};
use crate::policy::{LetterCase, Policy};
use crate::severity::Kind;

/// Top-level domains that have no public suffixes below them but those of firms, which can have mailboxes: whatever is well formed
/// below them is usable.
const OPEN: [&str; 9] = ["ch", "com", "de", "dk", "eu", "info", "net", "nl", "org"];

/// The label that is reserved below some of them (RFC 2606 §3).
const RESERVED: &[u8; 7] = b"example";

/// What follows from letters under a policy.
#[derive(Clone, Copy, Debug)]
pub(crate) struct ByLetters {
    /// Whatever is wrong with the syntax or with the name of a domain rejects.
    faults_reject: bool,
    /// Open endings with their dots, the first octet in the lowest bits, each in a place that follows from it; 0 where there is none.
    endings: [u64; PLACES],
}

/// Octets of the longest ending, with its dot.
const LONGEST: usize = size_of::<u64>();

const PLACES: usize = 64;

fn place_of(ending: u64) -> usize {
    (ending.wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 58) as usize % PLACES
}

const fn first_octets(octets: &[u8]) -> u64 {
    let (mut word, mut nth) = (0, octets.len());
    while nth > 0 {
        nth -= 1;
        word = word << 8 | octets[nth] as u64;
    }
    word
}

impl ByLetters {
    /// What follows under `policy`.
    pub(crate) fn under(policy: &Policy) -> Self {
        let mut endings = [0; PLACES];
        let follows = Alike::is_all_under(policy);
        let faults = Code::all().filter(|&code| is_fault(code)).fold(CodeSet::EMPTY, CodeSet::with);
        if follows && has_open_endings(policy) {
            let trusted = &policy.public_names;
            let top = trusted.iter().map(String::as_str).filter(|name| !name.contains('.'));
            for ending in OPEN.into_iter().chain(top).map(|ending| format!(".{ending}")) {
                // A name that is trusted is a public suffix.
                if ending.len() <= LONGEST && !trusted.iter().any(|name| name.ends_with(&ending)) {
                    // Where two want the same place, one goes the long way, as all others do.
                    let ending = first_octets(ending.as_bytes());
                    endings[place_of(ending)] = ending;
                }
            }
        }
        ByLetters { faults_reject: follows && faults.without(policy.rejecting()).is_empty(), endings }
    }

    /// What is known of the address that starts at `start` of `letters`, in lower case, and has so many octets, of which `masks` tell;
    /// `at` is where its @ stands if it is a dot-string, an @ and what may be a domain, else 0.
    #[inline(always)]
    pub(crate) fn alike(
        &self,
        letters: &[u8],
        start: usize,
        (at, octets): (u32, u32),
        masks: &Masks,
        dress: Dress,
    ) -> Option<Alike> {
        if at > 0 && self.is_usable(letters, start, (at, octets), masks) {
            return Some(Alike::usable().within(dress));
        }
        let rejected =
            self.faults_reject && dress.is_none() && letters[start] != b'\'' && is_faulty(masks, octets);
        rejected.then(Alike::rejected)
    }

    /// Whether a plain address is usable whatever its domain.
    #[inline(always)]
    fn is_usable(&self, letters: &[u8], start: usize, (at, end): (u32, u32), masks: &Masks) -> bool {
        let local = lowest(at);
        let domain = lowest(end) & !local & !(1 << at);
        let (dots, hyphens) = (masks.dot & domain, masks.sign & !masks.not_domain);
        let edges = 1 << (at + 1) | 1 << (end - 1) | dots << 1;
        let misplaced = dots & edges | hyphens & domain & (edges | dots >> 1 | hyphens << 1);
        if misplaced != 0 || dots == 0 {
            return false;
        }
        let octets = end - dots.ilog2();
        let dot = start + dots.ilog2() as usize;
        let behind = letters.get(dot..).and_then(<[u8]>::first_chunk);
        let in_front = letters.get(..dot).and_then(<[u8]>::last_chunk);
        let (Some(behind), Some(in_front), true) = (behind, in_front, octets as usize <= LONGEST) else {
            return false;
        };
        let ending = u64::from_le_bytes(*behind) & u64::MAX >> (u64::BITS - 8 * octets);
        let is_reserved = u64::from_le_bytes(*in_front) >> 8 == first_octets(RESERVED);
        let is_open = self.endings[place_of(ending)] == ending && !is_reserved;
        is_open && !may_stand_in(&letters[start..][..at as usize], masks.plus & local, hyphens & local)
    }
}

/// Whether `policy` has open endings: where nothing but syntax, the name of the domain and what stands in for an address rejects one
/// that is plain, and its key is the address in lower case.
fn has_open_endings(policy: &Policy) -> bool {
    let may_reject = |code: &Code| is_fault(*code) || matches!(*code, Code::AddressLiteral | Code::StandIn);
    let others = Code::all().filter(|code| !may_reject(code) && *code != Code::TooLongForHouse);
    policy.letter_case == LetterCase::Lower
        && policy.same == SameMailbox::Case
        && policy.max_length.is_none()
        && policy.own_rules.is_empty()
        && !policy.rejecting().meets(others.fold(CodeSet::EMPTY, CodeSet::with))
}

/// Whether that is a fault of syntax or of the name of a domain.
fn is_fault(code: Code) -> bool {
    match code.info().kind {
        Kind::Syntax => true,
        Kind::Name => code != Code::PrivateSuffix,
        _ => false,
    }
}

/// Whether so many octets, of which `masks` tell, are one word of letters, digits, dots, the usual signs and any number of @, and no
/// address: two of these or none, or one at an edge; a dot at an edge or behind another; a domain of one label, or with a sign.
#[inline(always)]
fn is_faulty(masks: &Masks, octets: u32) -> bool {
    let whole = lowest(octets);
    let (at, dots) = (masks.at & whole, masks.dot & whole);
    let domain = whole & !(at | at.wrapping_sub(1));
    let edges = 1 | 1 << (octets.max(1) - 1);
    let is_word = octets > 0 && masks.not_local & whole & !at == 0;
    let of_dots = dots & (edges | dots << 1 | at << 1 | at >> 1) | masks.not_domain & domain;
    is_word && (at & at.wrapping_sub(1) != 0 || at & !edges == 0 || of_dots != 0 || dots & domain == 0)
}

/// Whether a local part may be a word that says that there is no address, where it has plus signs and hyphens there: before which of
/// them a tag starts only its domain tells.
#[inline(always)]
fn may_stand_in(local: &[u8], plus: u64, hyphens: u64) -> bool {
    let before =
        |signs: u64| local.get(..signs.trailing_zeros() as usize).is_some_and(local_words::may_be_known);
    local_words::may_be_known(local) || (plus | hyphens) != 0 && (before(plus) || before(hyphens))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::reserved;

    /// Tried with all labels of up to three letters, of which nearly all suffixes are, and those of others by name.
    #[test]
    fn nobody_but_firms_registers_below_open_endings() {
        let letters = || (b'a'..=b'z').map(|letter| String::from(char::from(letter)));
        let of_two = || letters().flat_map(move |one| letters().map(move |two| one.clone() + &two));
        let of_three = of_two().flat_map(|two| letters().map(move |one| two.clone() + &one));
        let by_name = ["asso", "coop", "info", "name", "school", "store"].map(str::to_owned);
        let labels: Vec<String> = letters().chain(of_two()).chain(of_three).chain(by_name).collect();
        for ending in OPEN {
            for label in &labels {
                let domain = format!("{label}.{ending}");
                let suffix = psl::suffix(domain.as_bytes())
                    .filter(psl::Suffix::is_known)
                    .expect("the ending is known");
                let is_private = suffix.typ() == Some(psl::Type::Private);
                assert!(suffix.as_bytes() == ending.as_bytes() || is_private, "{domain}");
            }
            let below = reserved::all().filter(|(name, _)| name.ends_with(&format!(".{ending}")));
            assert!(below.map(|(name, _)| name.as_bytes()).all(|name| name.starts_with(RESERVED)));
            assert!(reserved::find(ending.as_bytes()).is_none());
        }
    }

    /// Each that is lost to another goes the long way, which is right and takes longer.
    #[test]
    fn open_endings_find_their_places() {
        let mut policy = Policy::default();
        policy.same = SameMailbox::Case;
        policy.trust_name("example").unwrap();
        policy.trust_name("fernhollow.org").unwrap();
        let taken = ByLetters::under(&policy).endings.iter().filter(|&&ending| ending != 0).count();
        assert_eq!(taken, OPEN.len(), "one more, and one less");
        assert!(ByLetters::under(&policy).faults_reject);
        policy.set_severity(Code::RoleDesk, crate::Severity::Reject).unwrap();
        assert_eq!(ByLetters::under(&policy).endings, [0; PLACES]);
    }
}
