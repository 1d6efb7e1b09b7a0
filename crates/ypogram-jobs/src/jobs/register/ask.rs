//! One address at a time over a pipe: judged, looked up and admitted in one transaction.

use std::io::{BufRead, Write};
use std::path::Path;

use serde::Serialize;
use ypogram_core::{Policy, SameMailbox, Verdict};
use ypogram_io::{Error, Result};

use crate::engine::progress::Progress;
use crate::jobs::each::read_line;
use crate::jobs::register::store::{Admission, Answer, Store};
use crate::judge::judged_address::JudgedAddress;

/// How lines are answered.
#[derive(Debug)]
pub struct AskOptions<'p> {
    /// How values are judged; as they were typed.
    pub policy: &'p Policy,
    /// Addresses that are for review are admitted as well.
    pub admits_review: bool,
    /// What is told of where they come from.
    pub source: &'p str,
}

/// An answer, with the judgement behind its words.
#[derive(Debug, Serialize)]
struct Line {
    answer: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    since: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    source: Option<String>,
    #[serde(flatten)]
    judged: JudgedAddress,
}

/// Answers every line of `input` with a line of JSON; `now` tells the time. What is answered as admitted is in the register, whatever
/// happens then.
///
/// # Errors
/// Where the input cannot be read, or the output or the register not be written.
pub fn ask(
    store: &Store,
    (mut input, mut output): (impl BufRead, impl Write),
    options: &AskOptions<'_>,
    now: impl Fn() -> String,
    progress: &Progress,
) -> Result<[u64; 4]> {
    let (mut answers, mut buffer) = ([0; 4], Vec::new());
    loop {
        progress.check()?;
        let Some(is_whole) = read_line(&mut input, &mut buffer)? else { return Ok(answers) };
        if !is_whole {
            buffer.clear();
        }
        let line = answer(store, &buffer, options, &now)?;
        let place = Answer::ALL.iter().position(|known| known.word() == line.answer).unwrap_or_default();
        answers[place] += 1;
        let text = serde_json::to_string(&line).expect("plain data");
        let written = writeln!(output, "{text}").and_then(|()| output.flush());
        written.map_err(|error| Error::writing(Path::new("standard output"), &error))?;
    }
}

fn answer(store: &Store, value: &[u8], options: &AskOptions<'_>, now: &impl Fn() -> String) -> Result<Line> {
    let mut judged: Vec<JudgedAddress> =
        JudgedAddress::all_in(value, options.policy).into_iter().map(|(judged, _)| judged).collect();
    let first = (0..judged.len()).min_by_key(|&nth| judged[nth].verdict).unwrap_or_default();
    let judged = judged.swap_remove(first);
    let is_taken = match judged.verdict {
        Some(Verdict::Accept) => true,
        Some(Verdict::Review) => options.admits_review,
        _ => false,
    };
    let key = judged.keys.as_ref().filter(|_| is_taken).map(|keys| match store.rule() {
        SameMailbox::Exact => keys.exact.clone(),
        SameMailbox::Case => keys.case.clone(),
        SameMailbox::Provider => keys.provider.clone(),
        SameMailbox::Everywhere => keys.everywhere.clone(),
    });
    let (Some(key), Some(address)) = (key, &judged.address) else {
        return Ok(Line { answer: Answer::Refused.word(), since: None, source: None, judged });
    };
    store.begin()?;
    let admission = Admission { key: &key, address, since: &now(), source: options.source };
    let (answer, entry) = match store.admit(admission) {
        Ok(told) => {
            store.commit()?;
            told
        }
        Err(error) => {
            let _ = store.roll_back();
            return Err(error);
        }
    };
    let (since, source) = entry.map(|entry| (entry.since, entry.source)).unzip();
    Ok(Line { answer: answer.word(), since, source, judged })
}
