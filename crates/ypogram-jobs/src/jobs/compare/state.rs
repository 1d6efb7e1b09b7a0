//! What a new record is, held against what is known.

use serde::Serialize;

/// What a new record is: the first of these that applies.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum State {
    /// It has no usable address.
    Unusable,
    /// It asked to be left alone.
    Withdrawn,
    /// Its mailbox is known.
    Known,
    /// An earlier new record has its mailbox.
    Duplicate,
    /// Nothing of it is known.
    New,
}

impl State {
    /// All of them, in the order in which they are told.
    pub const ALL: [State; 5] =
        [State::New, State::Known, State::Withdrawn, State::Duplicate, State::Unusable];

    /// The word in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            State::New => "new",
            State::Known => "known",
            State::Withdrawn => "withdrawn",
            State::Duplicate => "duplicate",
            State::Unusable => "unusable",
        }
    }

    /// The name of its file, without the extension.
    pub const fn file_stem(self) -> &'static str {
        match self {
            State::Duplicate => "duplicates",
            state => state.word(),
        }
    }
}
