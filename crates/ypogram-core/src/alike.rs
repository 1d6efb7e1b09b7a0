//! What plain addresses have in common that are judged alike: everything but their letters.

use crate::codes::{Code, CodeSet};
use crate::dress::Dress;
use crate::facts::DomainFacts;
use crate::found::Form;
use crate::judge::Judged;
use crate::policy::{LetterCase, Policy};
use crate::repair::{Repair, Repairs};

/// The facts of an address's domain, what its local part says and what stood around it, in eight bytes. Addresses of which it is the same have the
/// same findings, class and repairs, so that these need to be worked out but once. [`Judge::plain`](crate::Judge::plain)
/// gives it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Alike(u64);

/// What a local part, or the way an address is written, can say beyond the facts of its domain.
#[derive(Clone, Copy, Debug)]
#[repr(u64)]
pub(crate) enum Says {
    LocalCapitals = 1 << 48,
    DomainCapitals = 1 << 49,
    Tagged = 1 << 50,
    LikeWeb = 1 << 51,
    NotIssued = 1 << 52,
    TooLongForHouse = 1 << 53,
}

/// Where the bits start that tell what stands around the address.
const DRESS: u32 = DomainFacts::BITS;

const _: () = assert!(1 << (DRESS + Dress::BITS) <= Says::LocalCapitals as u64);

/// Where the code starts that follows from the local part as a word; one more than its index, 0 for none.
const WORD: u32 = 56;

const _: () = assert!(Code::COUNT < 0xFF);

impl Alike {
    /// For a domain of these facts.
    #[inline]
    pub(crate) fn at(facts: DomainFacts) -> Self {
        Alike(facts.bits())
    }

    /// The same, and what stands around the address.
    #[inline]
    pub(crate) fn within(self, dress: Dress) -> Self {
        Alike(self.0 | u64::from(dress.bits()) << DRESS)
    }

    fn dress(self) -> Dress {
        Dress::of_bits((self.0 >> DRESS) as u8)
    }

    /// How the addresses stand in their cells.
    pub fn form(self) -> Form {
        self.dress().form()
    }

    /// What was done to unwrap them.
    pub fn unwrapping(self) -> Repairs {
        self.dress().repairs()
    }

    /// The same, and `says` where `holds`.
    #[inline]
    pub(crate) fn with(self, says: Says, holds: bool) -> Self {
        Alike(self.0 | if holds { says as u64 } else { 0 })
    }

    /// The same, and what follows from the local part as a word.
    #[inline]
    pub(crate) fn with_word(self, code: Option<Code>) -> Self {
        Alike(self.0 | code.map_or(0, |code| (code.index() as u64 + 1) << WORD))
    }

    #[inline]
    pub(crate) fn facts(self) -> DomainFacts {
        DomainFacts::of_bits(self.0)
    }

    fn says(self, says: Says) -> bool {
        self.0 & says as u64 != 0
    }

    /// One number for all of it.
    #[inline]
    pub fn bits(self) -> u64 {
        self.0
    }

    /// What follows for all plain addresses that are alike, under the policy by which they were found to be. Lists of
    /// addresses apart.
    pub fn judged(self, policy: &Policy) -> Judged {
        let codes = policy.in_force(self.codes());
        let facts = self.facts();
        Judged {
            codes,
            verdict: policy.verdict(codes),
            class: facts.class(),
            operator: facts.operator,
            repairs: self.repairs(policy.letter_case == LetterCase::Keep),
            well_formed: true,
        }
    }

    /// The findings, whether they are switched off or not.
    pub(crate) fn codes(self) -> CodeSet {
        let said = [
            (Says::Tagged, Code::Tagged),
            (Says::LikeWeb, Code::TypingSlip),
            (Says::NotIssued, Code::NotIssued),
            (Says::TooLongForHouse, Code::TooLongForHouse),
        ];
        let of_local = said.into_iter().filter(|(says, _)| self.says(*says)).map(|(_, code)| code);
        let word = (self.0 >> WORD).checked_sub(1).and_then(|index| Code::at(index as usize));
        of_local.chain(word).fold(self.facts().codes(), CodeSet::with)
    }

    /// What the standard form changes, where the local part's letter case is kept or not.
    fn repairs(self, keep: bool) -> Repairs {
        let mut repairs = Repairs::NONE;
        if self.says(Says::LocalCapitals) && !keep {
            repairs.insert(Repair::LocalCase);
        }
        if self.says(Says::DomainCapitals) {
            repairs.insert(Repair::DomainCase);
        }
        repairs
    }
}
