//! Endings below which whatever is well formed can have mailboxes: where nothing but that is asked, no domain has to be known.

use crate::codes::{Code, CodeSet};
use crate::grammar::Grammar;
use crate::key::SameMailbox;
use crate::local_words;
use crate::masks::{Masks, lowest};
use crate::policy::{LetterCase, Policy};
use crate::severity::Kind;

/// Top-level domains that have no public suffixes below them but those of firms, which can have mailboxes.
const OPEN: [&str; 9] = ["ch", "com", "de", "dk", "eu", "info", "net", "nl", "org"];

/// The label that is reserved below some of them (RFC 2606 §3).
const RESERVED: &[u8; 7] = b"example";

/// Open endings under a policy, by which most plain addresses are found usable without a look at their domains.
#[derive(Clone, Copy, Debug)]
pub(crate) struct OpenEndings {
    /// Each with its dot, the first octet in the lowest bits, in a place that follows from it; 0 where there is none.
    places: [u64; PLACES],
}

/// Octets of the longest ending, with its dot.
const LONGEST: usize = size_of::<u64>();

const PLACES: usize = 64;

fn place_of(ending: u64) -> usize {
    (ending.wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 58) as usize % PLACES
}

impl OpenEndings {
    /// Those under `policy`; none where more than syntax, the name of the domain and stand-ins may reject a plain address, or where its
    /// key is not the address in lower case.
    pub(crate) fn under(policy: &Policy) -> Option<Self> {
        let follows = policy.grammar == Grammar::Smtp
            && policy.letter_case == LetterCase::Lower
            && matches!(policy.same, SameMailbox::Exact | SameMailbox::Case)
            && policy.max_length.is_none()
            && !policy.lists.by_address
            && policy.own_rules.is_empty();
        let others = Code::all().filter(|&code| !is_settled(code)).fold(CodeSet::EMPTY, CodeSet::with);
        if !follows || policy.rejecting().meets(others) {
            return None;
        }
        let mut places = [0; PLACES];
        let trusted = &policy.public_names;
        let top = trusted.iter().map(String::as_str).filter(|name| !name.contains('.'));
        for ending in OPEN.into_iter().chain(top).map(|ending| format!(".{ending}")) {
            // A name that is trusted is a public suffix.
            if ending.len() <= LONGEST && !trusted.iter().any(|name| name.ends_with(&ending)) {
                // Where two want the same place, one goes the long way, as all others do.
                let ending = first_octets(ending.as_bytes());
                places[place_of(ending)] = ending;
            }
        }
        Some(OpenEndings { places })
    }

    /// Whether the plain address that starts at `start` of `letters`, in lower case, with its @ and its end so far behind that, is usable
    /// whatever its domain; `masks` are its own.
    #[inline]
    pub(crate) fn make_usable(&self, letters: &[u8], start: usize, (at, end): (u32, u32), masks: &Masks) -> bool {
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
        let is_open = self.places[place_of(ending)] == ending && in_front != RESERVED;
        is_open && !may_stand_in(&letters[start..][..at as usize], masks.plus & local, hyphens & local)
    }
}

fn first_octets(octets: &[u8]) -> u64 {
    octets.iter().rev().fold(0, |word, &octet| word << 8 | u64::from(octet))
}

/// Whether a local part may be a word that says that there is no address, where it has plus signs and hyphens there: before which of
/// them a tag starts only its domain tells.
#[inline]
fn may_stand_in(local: &[u8], plus: u64, hyphens: u64) -> bool {
    let before = |signs: u64| local.get(..signs.trailing_zeros() as usize).is_some_and(local_words::may_be_known);
    local_words::may_be_known(local) || (plus | hyphens) != 0 && (before(plus) || before(hyphens))
}

/// Whether that is looked at here, or cannot be found with a plain address at an open ending.
fn is_settled(code: Code) -> bool {
    match code.info().kind {
        Kind::Syntax => true,
        Kind::Name => code != Code::PrivateSuffix,
        _ => matches!(code, Code::AddressLiteral | Code::StandIn | Code::TooLongForHouse),
    }
}
