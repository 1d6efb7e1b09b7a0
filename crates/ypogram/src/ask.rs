//! Questions about records, asked on the terminal: the same question once for all its records. What was answered is kept in the folder,
//! so that it can be left and taken up again.

use std::collections::BTreeMap;
use std::io::{self, BufRead as _};
use std::path::PathBuf;

use ypogram_core::shown;
use ypogram_io::{Error, OutputFile, Result};
use ypogram_jobs::decisions::Decision;
use ypogram_jobs::settle::{Asked, Question, Questions, SettleFolder};

use crate::render;
use crate::render::style;
use crate::render::words::{counted, number};

/// Answers by record, as they were typed.
type Typed = BTreeMap<u64, String>;

/// Records with the same question.
struct Group<'q> {
    records: Vec<(u64, &'q Question)>,
}

/// What came of it.
pub(crate) enum Asking {
    /// These answers are to be taken.
    Take(Vec<Asked>),
    /// Somebody left; so many answers are kept.
    Left(usize),
}

/// As many records of a question are shown.
const SHOWN: usize = 3;

/// Characters of a line about a record.
const WIDTH: usize = 100;

/// What can be answered.
enum Reply {
    Decided(String),
    Later,
    Done,
    Quit,
    Unclear(String),
}

/// Asks about every record for review, and those that are rejected where something is suggested; gives what was answered, once
/// nothing is left to ask or the answers are to be taken.
///
/// # Errors
/// Where the answers cannot be kept.
pub(crate) fn ask(folder: &SettleFolder, questions: &Questions) -> Result<Asking> {
    let mut typed = answered(folder)?;
    let groups = groups(questions, &typed);
    let records: usize = groups.iter().map(|group| group.records.len()).sum();
    render::print_beside(&format!(
        "{} about {}. An empty line leaves one for later; ‘done’ takes the answers so far,\n‘quit’ keeps them for another time.\n",
        style::title(&counted(groups.len() as u64, "question", "questions")),
        counted(records as u64, "record", "records"),
    ));
    let mut lines = io::stdin().lock().lines();
    for (nth, group) in groups.iter().enumerate() {
        render::print_beside(&group.text(nth + 1, groups.len(), questions));
        loop {
            render::print_beside(&group.prompt());
            let line = lines.next().transpose().map_err(|error| Error::reading("standard input", &error))?;
            match reply(line, group) {
                Reply::Decided(answer) => {
                    typed.extend(group.records.iter().map(|(record, _)| (*record, answer.clone())));
                    keep(folder, &typed)?;
                    break;
                }
                Reply::Later => break,
                Reply::Done => return Ok(Asking::Take(asked(&typed))),
                Reply::Quit => return Ok(Asking::Left(typed.len())),
                Reply::Unclear(why) => render::print_beside(&format!("{}\n", style::bad(&why))),
            }
        }
    }
    Ok(Asking::Take(asked(&typed)))
}

/// What was answered before, and was not taken.
///
/// # Errors
/// Where the file of answers is damaged.
pub(crate) fn kept(folder: &SettleFolder) -> Result<Vec<Asked>> {
    Ok(asked(&answered(folder)?))
}

fn asked(typed: &Typed) -> Vec<Asked> {
    let of = |(&record, answer): (&u64, &String)| {
        let decision = Decision::read(answer).ok().flatten()?;
        Some(Asked { record, at: format!("the answer about record {record}"), decision })
    };
    typed.iter().filter_map(of).collect()
}

fn place(folder: &SettleFolder) -> PathBuf {
    folder.copy_of(ypogram_jobs::clean::ANSWERS)
}

fn answered(folder: &SettleFolder) -> Result<Typed> {
    let path = place(folder);
    match std::fs::read(&path) {
        Ok(bytes) => serde_json::from_slice(&bytes).map_err(|error| {
            Error::unusable(
                format!("{}: this file is damaged: {error}", path.display()),
                "remove it, and ask again",
            )
        }),
        Err(_) => Ok(Typed::new()),
    }
}

fn keep(folder: &SettleFolder, typed: &Typed) -> Result<()> {
    let mut file = OutputFile::create_private(&place(folder))?;
    file.write(&serde_json::to_vec_pretty(typed).expect("plain data"))?;
    file.publish()
}

fn reply(line: Option<String>, group: &Group<'_>) -> Reply {
    let Some(line) = line else { return Reply::Quit };
    let word = line.trim();
    match word.to_lowercase().as_str() {
        "" | "later" => return Reply::Later,
        "done" => return Reply::Done,
        "quit" => return Reply::Quit,
        _ => {}
    }
    let lacks = |has: fn(&Question) -> bool| group.records.iter().any(|(_, question)| !has(question));
    match Decision::read(word) {
        Ok(Some(Decision::Take)) if lacks(|question| !question.suggestion.is_empty()) => {
            Reply::Unclear("nothing is suggested there".to_owned())
        }
        Ok(Some(Decision::Keep)) if lacks(|question| !question.is_rejected) => {
            Reply::Unclear("it is rejected, and cannot be kept as it is".to_owned())
        }
        Ok(Some(Decision::Address(_))) if group.records.len() > 1 => {
            Reply::Unclear("these are several records, which would all get that address".to_owned())
        }
        Ok(Some(_)) => Reply::Decided(word.to_owned()),
        Ok(None) => Reply::Later,
        Err(why) => Reply::Unclear(format!("{why}: keep, take, drop or an address")),
    }
}

/// The questions that were not answered, in the order of their first records.
fn groups<'q>(questions: &'q Questions, typed: &Typed) -> Vec<Group<'q>> {
    let mut groups: Vec<Group<'q>> = Vec::new();
    let mut places: BTreeMap<String, usize> = BTreeMap::new();
    let is_open = |record: &u64, question: &Question| {
        !typed.contains_key(record) && (!question.is_rejected || !question.suggestion.is_empty())
    };
    for (&record, question) in
        questions.by_record.iter().filter(|(record, question)| is_open(record, question))
    {
        let place = *places.entry(key(record, question)).or_insert_with(|| {
            groups.push(Group { records: Vec::new() });
            groups.len() - 1
        });
        groups[place].records.push((record, question));
    }
    groups
}

/// What records with the same question have in common: a slip is the same where the domains are, and what is known of a domain where
/// that is; anything else is a question of one address or record.
fn key(record: u64, question: &Question) -> String {
    let domain =
        |address: &str| address.rsplit_once('@').map_or(String::new(), |(_, domain)| domain.to_owned());
    let local = |address: &str| address.rsplit_once('@').map_or(String::new(), |(local, _)| local.to_owned());
    let findings = question.findings.join(" ");
    let (from, to) = (domain(&question.address), domain(&question.suggestion));
    let same_local = local(&question.address) == local(&question.suggestion);
    match () {
        () if !question.same_as.is_empty() || from.is_empty() => format!("record {record}"),
        () if !to.is_empty() && same_local => format!("{findings} {from} {to}"),
        () if to.is_empty() && findings.contains("disposable") => format!("{findings} {from}"),
        () => format!("{findings} {} {}", question.address, question.suggestion),
    }
}

impl Group<'_> {
    /// What can be decided about it.
    fn prompt(&self) -> String {
        let all = |has: fn(&Question) -> bool| self.records.iter().all(|(_, question)| has(question));
        let keep = all(|question| !question.is_rejected).then_some("keep");
        let take = all(|question| !question.suggestion.is_empty()).then_some("take");
        let address = (self.records.len() == 1).then_some("an address");
        let words: Vec<&str> = keep.into_iter().chain(take).chain(["drop"]).chain(address).collect();
        style::dim(&format!("{}? ", words.join(", ")))
    }

    fn text(&self, nth: usize, of: usize, questions: &Questions) -> String {
        let (_, first) = &self.records[0];
        let records = match self.records.len() {
            1 => String::new(),
            several => format!(" · {}", counted(several as u64, "record", "records")),
        };
        let mut text = format!("\n{}{records} · {}\n", style::title(&format!("{nth} of {of}")), first.why,);
        for (record, question) in self.records.iter().take(SHOWN) {
            let cells = cells(question, questions);
            text.push_str(&line(format!("  record {}: {cells}", number(*record))));
            if !question.same_as.is_empty() {
                let other = questions.against.get(&question.same_as).map(|cells| joined(cells));
                let other = other.map_or_else(String::new, |other| format!(": {other}"));
                let number = shown(question.same_as.as_bytes());
                text.push_str(&line(format!("    stands against {number}{other}")));
            }
            if !question.suggestion.is_empty() {
                let (suggestion, reason) = (shown(question.suggestion.as_bytes()), &question.reason);
                let why = style::dim(&format!("({}: {reason})", question.confidence));
                text.push_str(&format!("    suggested: {} {why}\n", style::good(&suggestion)));
            }
        }
        if self.records.len() > SHOWN {
            let more = (self.records.len() - SHOWN) as u64;
            text.push_str(&format!("  and {} more\n", number(more)));
        }
        text
    }
}

/// The record's own cells that hold something.
fn cells(question: &Question, questions: &Questions) -> String {
    joined(&question.cells[..questions.own.min(question.cells.len())])
}

fn joined(own: &[String]) -> String {
    let own = own.iter().filter(|cell| !cell.is_empty());
    own.map(|cell| shown(cell.as_bytes())).collect::<Vec<_>>().join(" · ")
}

/// The text as a line, shortened to the width.
fn line(mut text: String) -> String {
    if text.chars().nth(WIDTH).is_some() {
        let end = text.char_indices().nth(WIDTH - 1).map_or(text.len(), |(end, _)| end);
        text.replace_range(end.., "…");
    }
    text + "\n"
}
