//! One value at a time over a pipe: a line in, a JSON line out, for as long as there are any.

use std::io::{BufRead, Read as _, Write};
use std::path::Path;
use std::sync::Arc;

use serde::Serialize;
use serde::ser::{SerializeMap as _, Serializer};
use serde_json::value::RawValue;
use ypogram_core::{Code, CodeSet, Hasher, Judge, Policy, Verdict};
use ypogram_io::{Error, Result};

use crate::decisions::{AnswerKind, Memory, never_from_memory};
use crate::engine::faults::caught;
use crate::engine::json_line::{JsonLine, Member, Unusable};
use crate::engine::progress::Progress;
use crate::judge::judged_address::JudgedAddress;
use crate::lists::AppendedColumn;
use crate::plan::house::{BesideAddress, HouseFormats};
use crate::plan::house_pattern::HousePattern;

/// What a line holds.
#[derive(Clone, Debug)]
pub enum Line {
    /// A value.
    Value,
    /// A JSON object with the value in this field.
    Json(String),
}

/// How the lines are answered.
#[derive(Debug)]
pub struct EachOptions<'p> {
    /// What a line holds.
    pub line: Line,
    /// How values are judged.
    pub policy: &'p Policy,
    /// Patterns of which one should fit.
    pub patterns: Vec<HousePattern>,
    /// The house's own address formats.
    pub house: HouseFormats,
    /// The columns that lists append.
    pub from_lists: Vec<AppendedColumn>,
    /// Decisions of earlier runs, which are applied.
    pub remembered: Option<Arc<Memory>>,
}

/// What came of the lines.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct EachReport {
    /// Lines that were answered with a judgement.
    pub answered: u64,
    /// Lines that could not be used, and were answered with an error.
    pub unusable: u64,
}

/// A line longer than this, in bytes, is not used, so that memory stays flat.
const LONGEST: u64 = 1 << 20;

/// The keys of an answer: those of a JSON line that have one of these names go into `input`.
const OUR_KEYS: [&str; 26] = [
    "address",
    "addresses",
    "as_found",
    "as_found_hex",
    "class",
    "columns",
    "decided",
    "domain",
    "error",
    "findings",
    "form",
    "house",
    "house_proposal",
    "input",
    "keys",
    "lists",
    "local_part",
    "operator",
    "outcome",
    "pattern",
    "remark",
    "repairs",
    "suggestion",
    "verdict",
    "well_formed",
    "line",
];

/// Answers every line of `input` with a JSON line to `output`, flushed at once. A line that cannot be used is answered with an
/// error, and the next one is read.
///
/// # Errors
/// Where the input cannot be read or the output not written.
pub fn run(
    mut input: impl BufRead,
    mut output: impl Write,
    options: &EachOptions<'_>,
    progress: &Progress,
) -> Result<EachReport> {
    let mut report = EachReport::default();
    let mut answerer = Answerer {
        options,
        judge: Judge::new(options.policy, Hasher::with_key(0)),
        never_from_memory: never_from_memory(options.policy),
    };
    let mut buffer = Vec::new();
    for number in 1_u64.. {
        progress.check()?;
        let Some(whole) = read_line(&mut input, &mut buffer)? else { break };
        let answer = match whole {
            true => caught(|| answerer.answer(&buffer))
                .unwrap_or_else(|| Err(Unusable("Ypogram has a fault of its own with this line".into()))),
            false => Err(Unusable(format!("the line is longer than {} MiB", LONGEST >> 20))),
        };
        let answer = match answer {
            Ok(answer) => {
                report.answered += 1;
                answer
            }
            Err(Unusable(message)) => {
                report.unusable += 1;
                serde_json::json!({ "error": { "message": message, "line": number } }).to_string()
            }
        };
        let written = writeln!(output, "{answer}").and_then(|()| output.flush());
        written.map_err(|error| Error::writing(Path::new("standard output"), &error))?;
    }
    Ok(report)
}

/// Reads a line into `buffer`, without its line end; whether it was short enough to be kept whole, none at the end of the input.
pub(crate) fn read_line(input: &mut impl BufRead, buffer: &mut Vec<u8>) -> Result<Option<bool>> {
    let mut whole = true;
    loop {
        buffer.clear();
        let read = input
            .by_ref()
            .take(LONGEST + 1)
            .read_until(b'\n', buffer)
            .map_err(|error| Error::reading("standard input", &error))?;
        if read == 0 {
            return Ok((!whole).then_some(false));
        }
        if read as u64 <= LONGEST || buffer.ends_with(b"\n") {
            break;
        }
        whole = false;
    }
    for end in [b'\n', b'\r'] {
        if buffer.last() == Some(&end) {
            buffer.pop();
        }
    }
    Ok(Some(whole))
}

struct Answerer<'p> {
    options: &'p EachOptions<'p>,
    judge: Judge<'p>,
    /// The findings that no decision of an earlier run answers.
    never_from_memory: CodeSet,
}

impl Answerer<'_> {
    fn answer(&mut self, line: &[u8]) -> std::result::Result<String, Unusable> {
        let (value, others) = match &self.options.line {
            Line::Value => (line.to_vec(), Vec::new()),
            Line::Json(field) => JsonLine::read(line)?.split(field)?,
        };
        let beside = match self.options.house.is_empty() {
            true => BesideAddress::default(),
            false => self.options.house.beside(texts(&others)),
        };
        let mut answers: Vec<Judged> = JudgedAddress::all_in(&value, self.options.policy)
            .into_iter()
            .map(|(address, _)| self.with_patterns_and_lists(&value, &beside, address))
            .collect();
        // As for a record: the first that is accepted, else the first for review, else the first.
        let first = (0..answers.len()).min_by_key(|&nth| answers[nth].address.verdict).unwrap_or_default();
        let (ours, others): (Vec<_>, Vec<_>) =
            others.into_iter().partition(|(key, _)| OUR_KEYS.contains(&key.as_str()));
        let addresses = if answers.len() > 1 { answers.clone() } else { Vec::new() };
        let judged = answers.swap_remove(first);
        let answer = Answer { others, input: ours, judged, addresses };
        Ok(serde_json::to_string(&answer).expect("plain data"))
    }

    fn with_patterns_and_lists(
        &mut self,
        value: &[u8],
        beside: &BesideAddress,
        mut address: JudgedAddress,
    ) -> Judged {
        let policy = self.options.policy;
        let patterns = &self.options.patterns;
        let fitting = address.hold_against_patterns(value, patterns, policy);
        let pattern = (!patterns.is_empty()).then_some(fitting);
        let house = address.hold_against_house(&self.options.house, beside, policy);
        let (house_proposal, house) = match house {
            Some(verdict) => (verdict.proposal.clone(), Some(verdict.words())),
            None => (None, None),
        };
        let decided = self.remembered(&address);
        let decided = decided.map(|(kind, decided)| {
            address = decided;
            kind.word()
        });
        let (lists, columns) = (None, None);
        let mut judged = Judged { address, pattern, house, house_proposal, lists, columns, decided };
        if !policy.lists.is_empty() {
            self.judge.judge(judged.address.address.as_deref().unwrap_or_default().as_bytes());
            let speaks = |list: &usize| self.judge.entry_in(*list).is_some();
            let names = (0..policy.lists.iter().count()).filter(speaks);
            judged.lists = Some(names.map(|list| policy.lists.get(list).purpose.name.to_string()).collect());
            judged.columns = Some(self.options.from_lists.iter().map(|column| self.column(column)).collect());
        }
        judged
    }

    /// What is remembered about an address that is for review: what was done, and how it is judged then.
    fn remembered(&self, address: &JudgedAddress) -> Option<(AnswerKind, JudgedAddress)> {
        let (memory, policy) = (self.options.remembered.as_ref()?, self.options.policy);
        if address.verdict != Some(Verdict::Review) {
            return None;
        }
        let as_found = address.address.as_deref().unwrap_or(&address.as_found);
        let never = self.never_from_memory;
        let (entry, answers) = memory.answer(as_found.as_bytes(), address.codes(), policy, never)?;
        let decided = match entry.kind {
            AnswerKind::Kept => address.clone().answered(answers, policy),
            AnswerKind::Dropped => {
                let mut dropped = address.clone();
                dropped.add(Code::Dropped, None, policy);
                dropped
            }
            AnswerKind::Taken | AnswerKind::Typed | AnswerKind::Moved => {
                let (other, _) =
                    JudgedAddress::all_in(entry.address.as_bytes(), policy).into_iter().next()?;
                JudgedAddress { as_found: address.as_found.clone(), ..other.answered(answers, policy) }
            }
        };
        Some((entry.kind, decided))
    }

    /// What a list says in one of its columns of the address that the judge holds.
    fn column(&self, column: &AppendedColumn) -> (String, Option<String>) {
        let list = self.options.policy.lists.get(column.list);
        let entry = self.judge.entry_in(column.list);
        let cell = entry.map(|entry| String::from_utf8_lossy(list.cell(entry, column.column)).into_owned());
        (column.name.clone(), cell)
    }
}

/// A judged address, and what patterns and lists say of it.
#[derive(Clone, Debug, Serialize)]
struct Judged {
    #[serde(flatten)]
    address: JudgedAddress,
    /// The first pattern that fits.
    #[serde(skip_serializing_if = "Option::is_none")]
    pattern: Option<Option<String>>,
    /// `fits`, or the parts at fault by the house's format for the domain, where there is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    house: Option<String>,
    /// The address by that format, where the names beside it allow one.
    #[serde(skip_serializing_if = "Option::is_none")]
    house_proposal: Option<String>,
    /// The lists that speak of it.
    #[serde(skip_serializing_if = "Option::is_none")]
    lists: Option<Vec<String>>,
    /// What was done about it in an earlier run.
    #[serde(skip_serializing_if = "Option::is_none")]
    decided: Option<&'static str>,
    /// What they say in the columns that they append.
    #[serde(skip_serializing_if = "Option::is_none", serialize_with = "as_object")]
    columns: Option<Vec<(String, Option<String>)>>,
}

/// The keys of the line that are not ours, those that have a name of ours in `input`, the address that counts, and all of them
/// where there are several.
#[derive(Serialize)]
struct Answer {
    #[serde(flatten, serialize_with = "as_keys")]
    others: Vec<(String, Box<RawValue>)>,
    #[serde(skip_serializing_if = "Vec::is_empty", serialize_with = "as_keys")]
    input: Vec<(String, Box<RawValue>)>,
    #[serde(flatten)]
    judged: Judged,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    addresses: Vec<Judged>,
}

/// The texts and numbers among the keys of a line.
fn texts(members: &[Member]) -> Vec<(String, String)> {
    let text = |value: &RawValue| match serde_json::from_str(value.get()) {
        Ok(serde_json::Value::String(text)) => Some(text),
        Ok(serde_json::Value::Number(number)) => Some(number.to_string()),
        _ => None,
    };
    members.iter().filter_map(|(key, value)| Some((key.clone(), text(value)?))).collect()
}

fn as_keys<S: Serializer>(
    keys: &[(String, Box<RawValue>)],
    serializer: S,
) -> std::result::Result<S::Ok, S::Error> {
    serializer.collect_map(keys.iter().map(|(key, value)| (key, value)))
}

fn as_object<S: Serializer>(
    columns: &Option<Vec<(String, Option<String>)>>,
    serializer: S,
) -> std::result::Result<S::Ok, S::Error> {
    let columns = columns.as_deref().unwrap_or_default();
    let mut map = serializer.serialize_map(Some(columns.len()))?;
    for (name, cell) in columns {
        map.serialize_entry(name, cell)?;
    }
    map.end()
}
