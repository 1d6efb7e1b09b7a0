//! Where a record ends: exactly one of six places.

use serde::Serialize;
use ypogram_core::Verdict;

/// Where a record ends. The six add up to the records read.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
#[repr(u8)]
pub enum Outcome {
    /// Usable, and the first of its mailbox.
    Kept,
    /// Usable perhaps: somebody has to decide.
    Review,
    /// Its address is not usable.
    Rejected,
    /// An earlier record has the same mailbox.
    Duplicate,
    /// Usable, yet not of a kind that was asked for.
    SetAside,
    /// There is no address in it.
    #[default]
    NoAddress,
}

impl Outcome {
    /// All six, in the order in which they are reported.
    pub const ALL: [Outcome; 6] = [
        Outcome::Kept,
        Outcome::Review,
        Outcome::Rejected,
        Outcome::Duplicate,
        Outcome::SetAside,
        Outcome::NoAddress,
    ];

    /// Where a record with an address of that verdict ends, duplicates apart.
    pub(crate) fn of(verdict: Verdict, set_aside: bool) -> Self {
        match verdict {
            Verdict::Reject => Outcome::Rejected,
            _ if set_aside => Outcome::SetAside,
            Verdict::Review => Outcome::Review,
            Verdict::Accept => Outcome::Kept,
        }
    }

    /// Whether somebody may decide about such records in their output.
    pub const fn is_decided_about(self) -> bool {
        matches!(self, Outcome::Review | Outcome::Rejected)
    }

    /// The word in summaries and receipts.
    pub const fn word(self) -> &'static str {
        match self {
            Outcome::Kept => "kept",
            Outcome::Review => "review",
            Outcome::Rejected => "rejected",
            Outcome::Duplicate => "duplicate",
            Outcome::SetAside => "set-aside",
            Outcome::NoAddress => "no-address",
        }
    }

    /// The stem of the file that such records are written to.
    pub const fn file_stem(self) -> &'static str {
        match self {
            Outcome::Duplicate => "duplicates",
            other => other.word(),
        }
    }
}
