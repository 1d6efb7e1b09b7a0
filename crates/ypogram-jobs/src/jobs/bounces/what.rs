//! What came of a mail to a recipient, by what came back.

use serde::Serialize;

/// What came of a mail to a recipient.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum What {
    /// There is no such mailbox, or none any more.
    Gone,
    /// The mailbox is full.
    Full,
    /// It was not delivered, or not yet, for a reason that says nothing of the mailbox.
    Deferred,
    /// The mailbox is another now.
    Moved,
    /// Its owner is away.
    Away,
    /// Its owner wants to be left alone.
    Withdrawn,
}

impl What {
    /// All of them, in the order in which they are told.
    pub const ALL: [What; 6] =
        [What::Gone, What::Withdrawn, What::Moved, What::Full, What::Deferred, What::Away];

    /// The word in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            What::Gone => "gone",
            What::Full => "full",
            What::Deferred => "deferred",
            What::Moved => "moved",
            What::Away => "away",
            What::Withdrawn => "withdrawn",
        }
    }

    /// The greater, the more it counts where several came back for one recipient: a wish above all, a new mailbox above the end of the
    /// old one, and what lasts above what passes.
    pub(super) const fn weight(self) -> u8 {
        match self {
            What::Withdrawn => 5,
            What::Moved => 4,
            What::Gone => 3,
            What::Full => 2,
            What::Deferred => 1,
            What::Away => 0,
        }
    }
}
