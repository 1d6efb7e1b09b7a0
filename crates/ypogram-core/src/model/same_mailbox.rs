//! When two addresses are one mailbox.

use serde::{Deserialize, Serialize};

/// When two addresses are one mailbox. The rules are not a ladder: `Provider` joins domains that `Everywhere` does not.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum SameMailbox {
    /// The local part as written.
    Exact,
    /// Letter case ignored.
    Case,
    /// Letter case ignored, and what the domain's own provider documents.
    #[default]
    Provider,
    /// Letter case ignored, and in the local part all dots and everything from the first `+`, at every domain.
    Everywhere,
}

impl SameMailbox {
    /// Every rule, in the order in which they are shown.
    pub const ALL: [SameMailbox; 4] =
        [SameMailbox::Exact, SameMailbox::Case, SameMailbox::Provider, SameMailbox::Everywhere];

    /// The word in outputs and in the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            SameMailbox::Exact => "exact",
            SameMailbox::Case => "case",
            SameMailbox::Provider => "provider",
            SameMailbox::Everywhere => "everywhere",
        }
    }
}
