//! Where the conditions do other than the program.

use crate::entry_rule::condition::Condition;
use crate::model::codes::Code;
use crate::model::grammar_choice::Grammar;
use crate::model::severity::{Kind, Severity};
use crate::policy::job_policy::Policy;
use crate::policy::lists::{EntryKind, Of};

/// A finding that rejects in the program, and that the conditions do not see, or not always.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LetsPass {
    /// The finding.
    pub code: Code,
    /// Where it is not seen; everywhere where nothing is said.
    pub only: &'static str,
}

/// Entries that the program takes and a place refuses.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RefusesToo {
    /// The domain is an IP address in square brackets.
    AddressLiteral,
    /// Names, comments and white space, which the grammar of message headers takes.
    HeaderForm,
    /// The local part stands in quotation marks.
    Quotes,
    /// The local part has letters outside ASCII.
    NonAsciiLocal,
    /// The domain is one label with two hyphens in its third and fourth place.
    BrokenLabel,
}

impl RefusesToo {
    /// What is refused, in plain words.
    pub fn words(self) -> &'static str {
        match self {
            RefusesToo::AddressLiteral => "domains that are an IP address in square brackets",
            RefusesToo::HeaderForm => "names, comments and white space, which message headers may have",
            RefusesToo::Quotes => "local parts in quotation marks",
            RefusesToo::NonAsciiLocal => "local parts with letters outside ASCII",
            RefusesToo::BrokenLabel => "domains of one label with two hyphens in its third and fourth place",
        }
    }

    /// Whether `value` may be one of these.
    pub fn may_be(self, value: &str) -> bool {
        match self {
            RefusesToo::AddressLiteral => value.contains("@["),
            RefusesToo::HeaderForm => value.bytes().any(|b| b" \t\r\n()<>,:;\"".contains(&b)),
            RefusesToo::Quotes => value.contains('"'),
            RefusesToo::NonAsciiLocal => !value.rsplit_once('@').map_or(value, |(local, _)| local).is_ascii(),
            RefusesToo::BrokenLabel => value.contains("--"),
        }
    }

    pub(super) fn of(policy: &Policy) -> Vec<Self> {
        let rejects = |code: Code| policy.severity(code) == Severity::Reject;
        let all = [
            (!rejects(Code::AddressLiteral), RefusesToo::AddressLiteral),
            (policy.grammar == Grammar::Header, RefusesToo::HeaderForm),
            (rejects(Code::QuotedLocalPart), RefusesToo::Quotes),
            (policy.grammar == Grammar::Html, RefusesToo::BrokenLabel),
        ];
        all.into_iter().filter(|(holds, _)| *holds).map(|(_, refuses)| refuses).collect()
    }
}

/// What no condition sees, or not always.
const UNSEEN: [LetsPass; 19] = [
    LetsPass { code: Code::PublicSuffix, only: "" },
    LetsPass { code: Code::BadALabel, only: "" },
    LetsPass { code: Code::IdnaNotAllowed, only: "" },
    LetsPass { code: Code::AsTypedUnicodeForm, only: "" },
    LetsPass { code: Code::AddressTooLong, only: OUTSIDE },
    LetsPass { code: Code::TooLongForHouse, only: OUTSIDE },
    LetsPass { code: Code::LocalPartTooLong, only: OUTSIDE },
    LetsPass { code: Code::LabelTooLong, only: OUTSIDE },
    LetsPass { code: Code::DomainTooLong, only: OUTSIDE },
    LetsPass { code: Code::UnknownTld, only: OUTSIDE },
    LetsPass { code: Code::OneLabelDomain, only: OUTSIDE },
    LetsPass { code: Code::ReservedName, only: OUTSIDE },
    LetsPass { code: Code::DomainCharacter, only: OUTSIDE },
    LetsPass { code: Code::CharacterNotAllowed, only: "with rare characters outside ASCII" },
    LetsPass { code: Code::AsTypedSign, only: "with signs that an address may have" },
    LetsPass { code: Code::AsTypedPercent, only: "with characters that an address may have" },
    LetsPass { code: Code::Placeholder, only: OF_WORDS },
    LetsPass { code: Code::RoleAccount, only: OF_WORDS },
    LetsPass { code: Code::NoReply, only: OF_WORDS },
];

/// Only a plus sign is taken for what separates a tag.
const OF_WORDS: &str = "in quotation marks, or before a tag of its provider's own";

const OUTSIDE: &str = "with characters outside ASCII";

const OF_HOUSE: &str = "with letters outside ASCII, and at domains that look like slips of the house's";

const OF_PATTERNS: &str =
    "with characters outside ASCII, or with capitals where it is about the standard form";

/// They are personal data.
const OF_LISTS: &str = "for addresses, mailboxes and local parts of your own lists, which stay with you";

/// What rejects and is not seen.
pub(super) fn unseen(conditions: &[Condition], policy: &Policy) -> Vec<LetsPass> {
    let rejecting = policy.rejecting();
    let is_seen = |code: Code| conditions.iter().any(|condition| condition.code == code);
    let is_asked = |code: Code| {
        // An address literal has characters that no domain has.
        rejecting.contains(code)
            && !matches!(code, Code::ProgramFault | Code::AddressLiteral)
            && (code != Code::TooLongForHouse || policy.max_length.is_some())
    };
    let mut all: Vec<LetsPass> = UNSEEN.into_iter().filter(|passes| is_asked(passes.code)).collect();
    // An entry of right grammar can have any of these.
    for code in Code::ALL.iter().copied().filter(|code| is_asked(*code) && !is_seen(*code)) {
        let is_of_address = matches!(code.info().kind, Kind::Name | Kind::Meaning);
        if is_of_address && !all.iter().any(|passes| passes.code == code) {
            all.push(LetsPass { code, only: "" });
        }
    }
    if is_seen(Code::HouseFormat) {
        all.push(LetsPass { code: Code::HouseFormat, only: OF_HOUSE });
    }
    if is_seen(Code::Pattern) {
        all.push(LetsPass { code: Code::Pattern, only: OF_PATTERNS });
    }
    for list in policy.lists.iter() {
        let is_other = |entry: usize| !matches!(list.kind(entry), EntryKind::Domain { .. });
        let has_others = list.purpose.of != Of::Values && (0..list.len()).any(is_other);
        if let Some(code) = list.purpose.finding.filter(|code| has_others && rejecting.contains(*code)) {
            all.push(LetsPass { code, only: OF_LISTS });
        }
    }
    all
}
