//! Decisions held against what they are about.

use std::collections::BTreeMap;

use ypogram_core::{Confidence, Policy, Severity, Verdict, examine};
use ypogram_io::{Error, Result};

use crate::decisions::{Answer, AnswerKind, Decision};
use crate::jobs::settle::{Question, Questions};

/// A decision about a record.
#[derive(Clone, Debug)]
pub struct Asked {
    /// The record's number.
    pub record: u64,
    /// Where the decision stands, for messages.
    pub at: String,
    /// What was decided.
    pub decision: Decision,
}

/// As many faults are reported.
const TOLD: usize = 5;

/// What follows from `decisions`, by record.
///
/// # Errors
/// Where one cannot be, with what was wrong before; all are named, the first with their places.
pub fn answers_to(
    questions: &Questions,
    decisions: &[Asked],
    policy: &Policy,
    mut faults: Vec<String>,
) -> Result<BTreeMap<u64, Answer>> {
    let mut answers = BTreeMap::new();
    for Asked { record, at, decision } in decisions {
        let answer = match questions.by_record.get(record) {
            None => Err(format!("record {record} is none of those to decide about")),
            Some(question) => answer_to(question, decision, policy),
        };
        match answer {
            Ok(_) if answers.contains_key(record) => {
                faults.push(format!("{at}: there is a decision about record {record} already"));
            }
            Ok(answer) => {
                answers.insert(*record, answer);
            }
            Err(why) => faults.push(format!("{at}: {why}")),
        }
    }
    if faults.is_empty() {
        return Ok(answers);
    }
    let more = match faults.len().saturating_sub(TOLD) {
        0 => String::new(),
        more => format!("; and {more} more"),
    };
    faults.truncate(TOLD);
    Err(Error::unusable(
        format!("{}{more}", faults.join("; ")),
        "nothing was written; a decision is keep, take, drop or an address, once for each record",
    ))
}

fn answer_to(
    question: &Question,
    decision: &Decision,
    policy: &Policy,
) -> std::result::Result<Answer, String> {
    let (kind, address) = match decision {
        Decision::Keep if question.is_rejected => {
            return Err(format!("‘keep’: the record is rejected ({})", question.findings.join(" ")));
        }
        Decision::Keep => (AnswerKind::Kept, None),
        Decision::Drop => (AnswerKind::Dropped, None),
        Decision::Take if question.suggestion.is_empty() => {
            return Err("‘take’: nothing is suggested for this record".to_owned());
        }
        Decision::Take => (AnswerKind::Taken, Some(question.suggestion.clone())),
        Decision::Address(typed) => (AnswerKind::Typed, Some(typed.clone())),
    };
    if let Some(address) = &address {
        refuse_rejected(address, policy)?;
    }
    Ok(Answer { kind, address, findings: question.findings.clone() })
}

/// Refuses an address that would be rejected, with the reason.
pub(super) fn refuse_rejected(address: &str, policy: &Policy) -> std::result::Result<(), String> {
    let examined = examine(address.as_bytes(), policy);
    if examined.verdict != Verdict::Reject && examined.standard.is_some() {
        return Ok(());
    }
    let is_grave = |code: &ypogram_core::Code| policy.severity(*code) == Severity::Reject;
    let why = examined.codes.iter().find(is_grave).map_or("", |code| policy.words.sentence(code));
    Err(format!("‘{address}’ is rejected: {why}"))
}

/// The decision to take what is suggested, for every record for which something at least so sure is.
pub fn suggestions_as_sure(questions: &Questions, least: Confidence) -> Vec<Asked> {
    let is_as_sure = |question: &Question| {
        question.confidence == Confidence::Sure.word()
            || least == Confidence::Likely && question.confidence == Confidence::Likely.word()
    };
    let asked = questions.by_record.iter().filter(|(_, question)| is_as_sure(question));
    asked
        .map(|(&record, _)| Asked { record, at: format!("record {record}"), decision: Decision::Take })
        .collect()
}
