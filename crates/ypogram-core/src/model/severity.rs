//! How much a finding weighs, what it is about, and what follows for the address.

use serde::{Deserialize, Serialize};

/// How much a finding weighs, from least to most.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Severity {
    /// Not looked at.
    Off,
    /// Told, without consequence.
    Note,
    /// Somebody has to decide.
    Review,
    /// The address is not usable.
    Reject,
}

impl Severity {
    /// The word in the rulebook and in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            Severity::Off => "off",
            Severity::Note => "note",
            Severity::Review => "review",
            Severity::Reject => "reject",
        }
    }
}

/// What is to be done with an address: the worst severity among its findings.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Verdict {
    /// Usable as it is.
    #[default]
    Accept,
    /// Usable perhaps: somebody has to decide.
    Review,
    /// Not usable.
    Reject,
}

impl Verdict {
    /// The word in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            Verdict::Accept => "accept",
            Verdict::Review => "review",
            Verdict::Reject => "reject",
        }
    }

    /// Accepted or for review.
    pub fn is_usable(self) -> bool {
        self != Verdict::Reject
    }
}

/// What a finding is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// The standard's grammar.
    Syntax,
    /// The domain's name.
    Name,
    /// Well formed, yet perhaps not a contact.
    Meaning,
    /// An entry of a reference list.
    List,
    /// What the domain name system says.
    Network,
    /// The firm's own rules.
    House,
    /// The same mailbox stands elsewhere.
    Duplicate,
}

impl Kind {
    /// All of them.
    pub const ALL: [Kind; 7] =
        [Kind::Syntax, Kind::Name, Kind::Meaning, Kind::List, Kind::Network, Kind::House, Kind::Duplicate];

    /// The word in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            Kind::Syntax => "syntax",
            Kind::Name => "name",
            Kind::Meaning => "meaning",
            Kind::List => "list",
            Kind::Network => "network",
            Kind::House => "house",
            Kind::Duplicate => "duplicate",
        }
    }
}
