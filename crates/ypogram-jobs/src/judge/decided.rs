//! What somebody decided about a record, as its row carries it.

use crate::decisions::AnswerKind;

/// What was decided about a record whose mailbox an earlier record of another person has.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum SharedAnswer {
    /// Nothing.
    #[default]
    None,
    /// Both stay.
    Keep,
    /// It goes.
    Drop,
}

/// What was decided about a record, with what it takes to count that.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Decided {
    /// What was done, where something was.
    pub(crate) kind: Option<AnswerKind>,
    /// About a mailbox of several persons.
    pub(crate) shared: SharedAnswer,
    /// It is remembered from an earlier run.
    pub(crate) from_memory: bool,
}

/// A record about which somebody decided, as it stood then.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DecidedRecord {
    /// Its number, from 1.
    pub record: u64,
    /// Its address, by which the decision is remembered.
    pub as_found: String,
    /// Whose record it is, where that is told.
    pub person: String,
    /// The findings that were answered, a space between them.
    pub findings: String,
}
