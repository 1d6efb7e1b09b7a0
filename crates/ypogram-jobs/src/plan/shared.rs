//! What becomes of a record whose mailbox an earlier record of another person has.

use serde::{Deserialize, Serialize};

/// What becomes of a record whose mailbox another person's record has: couples and families share mailboxes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Shared {
    /// Somebody looks at it.
    #[default]
    Review,
    /// It stays as well, one record for each person.
    Keep,
    /// It is a duplicate like any other.
    Drop,
}

impl Shared {
    /// Every choice.
    pub const ALL: [Shared; 3] = [Shared::Review, Shared::Keep, Shared::Drop];

    /// The word on the command line and in rulebooks.
    pub const fn word(self) -> &'static str {
        match self {
            Shared::Review => "review",
            Shared::Keep => "keep",
            Shared::Drop => "drop",
        }
    }
}

/// Whether two records name different persons: 0 names none.
pub(crate) fn are_different(one: u64, other: u64) -> bool {
    one != 0 && other != 0 && one != other
}

/// What records of one mailbox and one person have in common, where each person of a mailbox counts.
pub(crate) fn hash_with_person(mailbox: u128, person: u64) -> u128 {
    const ODD: u128 = 0x9E37_79B9_7F4A_7C15_F39C_C060_5CED_C835;
    mailbox ^ u128::from(person).wrapping_mul(ODD)
}
