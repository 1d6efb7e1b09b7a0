//! What was decided about single records of a run.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use ypogram_core::{Code, CodeSet};

/// What was done with a record.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum AnswerKind {
    /// It stays as it is.
    Kept,
    /// What was suggested took the place of its address.
    Taken,
    /// It is dropped.
    Dropped,
    /// Another address took the place of its own.
    Typed,
    /// Its mailbox has moved, and the new address took the place of its own.
    Moved,
}

impl AnswerKind {
    /// All of them.
    pub const ALL: [AnswerKind; 5] =
        [AnswerKind::Kept, AnswerKind::Taken, AnswerKind::Dropped, AnswerKind::Typed, AnswerKind::Moved];

    /// The word in receipts.
    pub const fn word(self) -> &'static str {
        match self {
            AnswerKind::Kept => "kept",
            AnswerKind::Taken => "taken",
            AnswerKind::Dropped => "dropped",
            AnswerKind::Typed => "typed",
            AnswerKind::Moved => "moved",
        }
    }
}

/// What was decided about a record.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Answer {
    /// What was done.
    pub kind: AnswerKind,
    /// The address that takes the place of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub address: Option<String>,
    /// The findings that it answers, by name.
    pub findings: Vec<String>,
}

impl Answer {
    /// The findings that it answers.
    pub(crate) fn codes(&self) -> CodeSet {
        codes_of(self.findings.iter().map(String::as_str))
    }
}

/// The findings of those names; names that are none count for nothing.
pub(super) fn codes_of<'n>(names: impl Iterator<Item = &'n str>) -> CodeSet {
    names.filter_map(Code::from_name).fold(CodeSet::EMPTY, CodeSet::with)
}

/// What was decided about records, by their numbers from 1.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Answers {
    /// By record.
    pub by_record: BTreeMap<u64, Answer>,
}

/// The same, with what it takes to find the answers of a chunk.
#[derive(Clone, Debug)]
pub(crate) struct PlacedAnswers {
    answers: Answers,
    /// How many records stand before each chunk, by source and the chunk's number.
    before: Vec<Vec<u64>>,
}

impl PlacedAnswers {
    pub(crate) fn new(answers: Answers, before: Vec<Vec<u64>>) -> Self {
        PlacedAnswers { answers, before }
    }

    /// How many records stand before a chunk.
    pub(crate) fn records_before(&self, source: usize, chunk: u64) -> u64 {
        self.before[source][chunk as usize]
    }

    /// What was decided about the record of that number.
    pub(crate) fn of(&self, record: u64) -> Option<&Answer> {
        self.answers.by_record.get(&record)
    }
}
