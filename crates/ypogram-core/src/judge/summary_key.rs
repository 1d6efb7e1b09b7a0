//! What plain addresses have in common that are judged alike: everything but their letters.

use std::num::NonZeroU64;

use crate::judge::facts::{DomainFacts, Fact};
use crate::judge::local_traits::{Folded, local_traits};
use crate::judge::simple_wrapping::SimpleWrapping;
use crate::judge::summary::Summary;
use crate::model::codes::{Code, CodeSet};
use crate::model::found::Form;
use crate::model::grammar_choice::Grammar;
use crate::model::repair::{Repair, Repairs};
use crate::policy::job_policy::{LetterCase, Policy};

/// The facts of an address's domain, what its local part says and what stood around it, in eight bytes. Addresses of which it is the same have the
/// same findings, class and repairs, so that these need to be worked out but once. [`Judge::plain`](crate::Judge::plain)
/// gives it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct SummaryKey(NonZeroU64);

/// What a local part, or the way an address is written, can say beyond the facts of its domain.
#[derive(Clone, Copy, Debug)]
#[repr(u64)]
pub(crate) enum SummaryFlag {
    LocalCapitals = 1 << 50,
    DomainCapitals = 1 << 51,
    Tagged = 1 << 52,
    LikeWeb = 1 << 53,
    NotIssued = 1 << 54,
    TooLongForHouse = 1 << 55,
}

/// Where the bits start that tell what stands around the address.
const WRAPPING: u32 = DomainFacts::BITS;

const _: () = assert!(1 << (WRAPPING + SimpleWrapping::BITS) <= SummaryFlag::LocalCapitals as u64);

/// Where the code starts that follows from the local part as a word; one more than its index, 0 for none.
const WORD: u32 = 56;

const _: () = assert!(Code::COUNT < 0xFF);

impl SummaryKey {
    /// Whether under `policy` all findings of plain addresses follow from what they have in common, as long as
    /// [their domain](Self::is_sufficient_at) does not ask for more.
    pub(crate) fn is_sufficient_under(policy: &Policy) -> bool {
        policy.grammar == Grammar::Smtp && !policy.lists.by_address
    }

    /// Whether it does at domains of these facts.
    #[inline]
    pub(crate) fn is_sufficient_at(facts: DomainFacts) -> bool {
        !facts.needs_a_closer_look() && !facts.is(Fact::Listed)
    }

    /// For the local part `local` at `domain`, which has these facts; letter case and wrapping apart. It must not have [rare traits](crate::judge::local_traits::rare_traits).
    #[inline(always)]
    pub(crate) fn of(local: Folded<'_>, domain: &[u8], facts: DomainFacts, policy: &Policy) -> Self {
        let traits = local_traits(local, domain, facts, policy);
        let most = policy.max_length.unwrap_or(usize::MAX);
        // A domain that has facts has some that are reported.
        SummaryKey(NonZeroU64::new(facts.bits()).expect("every domain has a class or a fault"))
            .with(SummaryFlag::Tagged, traits.tag.is_some())
            .with_word(traits.word)
            .with(SummaryFlag::LikeWeb, traits.like_web)
            .with(SummaryFlag::NotIssued, traits.not_issued)
            .with(SummaryFlag::TooLongForHouse, local.text.len() + 1 + domain.len() > most)
    }

    /// The same, and what stands around the address.
    #[inline]
    pub(crate) fn within(self, wrapping: SimpleWrapping) -> Self {
        SummaryKey(self.0 | u64::from(wrapping.bits()) << WRAPPING)
    }

    fn wrapping(self) -> SimpleWrapping {
        SimpleWrapping::of_bits((self.0.get() >> WRAPPING) as u8)
    }

    /// How the addresses stand in their cells.
    pub fn form(self) -> Form {
        self.wrapping().form()
    }

    /// What was done to unwrap them.
    pub fn unwrapping(self) -> Repairs {
        self.wrapping().repairs()
    }

    /// Whether they are written with capitals, so that they do not stand in their standard form.
    #[inline]
    pub fn has_capitals(self) -> bool {
        self.says(SummaryFlag::LocalCapitals) || self.says(SummaryFlag::DomainCapitals)
    }

    /// The same, and `says` where `holds`.
    #[inline]
    pub(crate) fn with(self, says: SummaryFlag, holds: bool) -> Self {
        SummaryKey(self.0 | if holds { says as u64 } else { 0 })
    }

    /// The same, and what follows from the local part as a word.
    #[inline]
    pub(crate) fn with_word(self, code: Option<Code>) -> Self {
        SummaryKey(self.0 | code.map_or(0, |code| (code.index() as u64 + 1) << WORD))
    }

    #[inline]
    pub(crate) fn facts(self) -> DomainFacts {
        DomainFacts::of_bits(self.0.get())
    }

    fn says(self, says: SummaryFlag) -> bool {
        self.0.get() & says as u64 != 0
    }

    /// One number for all of it.
    #[inline]
    pub fn bits(self) -> u64 {
        self.0.get()
    }

    /// What follows for all plain addresses that are alike, under the policy by which they were found to be. Lists of
    /// addresses apart.
    pub fn summary(self, policy: &Policy) -> Summary {
        let codes = policy.in_force(self.codes());
        let facts = self.facts();
        Summary {
            codes,
            verdict: policy.verdict(codes),
            class: facts.class(),
            certainty: facts.certainty(),
            operator: facts.operator,
            repairs: self.repairs(policy.letter_case == LetterCase::Keep),
            has_standard_form: true,
        }
    }

    /// The findings, whether they are switched off or not.
    pub(crate) fn codes(self) -> CodeSet {
        let said = [
            (SummaryFlag::Tagged, Code::Tagged),
            (SummaryFlag::LikeWeb, Code::TypingSlip),
            (SummaryFlag::NotIssued, Code::NotIssued),
            (SummaryFlag::TooLongForHouse, Code::TooLongForHouse),
        ];
        let of_local = said.into_iter().filter(|(says, _)| self.says(*says)).map(|(_, code)| code);
        let word = (self.0.get() >> WORD).checked_sub(1).and_then(|index| Code::at(index as usize));
        of_local.chain(word).fold(self.facts().codes(), CodeSet::with)
    }

    /// What the standard form changes, where the local part's letter case is kept or not.
    fn repairs(self, keep: bool) -> Repairs {
        let mut repairs = Repairs::NONE;
        if self.says(SummaryFlag::LocalCapitals) && !keep {
            repairs.insert(Repair::LocalCase);
        }
        if self.says(SummaryFlag::DomainCapitals) {
            repairs.insert(Repair::DomainCase);
        }
        repairs
    }
}
