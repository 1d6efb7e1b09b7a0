//! Admits, withdraws or removes the records of sources, all in one transaction.

use std::path::PathBuf;
use std::sync::Arc;

use ypogram_core::{Hasher, Policy};
use ypogram_io::{OpenOptions, Result, RowOutput, RowSpec, Target};

use crate::engine::line_count::LineCount;
use crate::engine::pipeline::{self, Flow};
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::jobs::register::store::{Admission, Answer, Store};
use crate::judge::annotate::{Annotator, Judging, Part, RowPlan, Wanted};
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;

/// What is to be done with records.
#[derive(Clone, Debug)]
pub struct RegisterOptions {
    /// The files to read one after the other; `-` is standard input.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge.
    pub policy: Policy,
    /// What is done.
    pub act: Act,
    /// Addresses that are for review are taken as well.
    pub admits_review: bool,
    /// Records that are refused stop nothing.
    pub admissible_only: bool,
    /// Where each record goes with its answer.
    pub target: Target,
    /// How the rows are arranged.
    pub rows: RowSpec,
    /// What the names of added columns start with.
    pub prefix: String,
    /// Now, in UTC (RFC 3339).
    pub now: String,
    /// Worker threads.
    pub threads: usize,
}

/// What is done with records.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Act {
    /// They are admitted.
    Admit,
    /// They asked to be left alone, and are forgotten where that is said.
    Withdraw {
        /// Only hashes are kept.
        forget: bool,
    },
    /// They are removed.
    Remove,
}

/// What came of it.
#[derive(Clone, Debug)]
pub struct RegisterReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// Records read.
    pub records: u64,
    /// Records that are admissible where refused ones stopped all.
    pub admissible: Option<u64>,
    /// Records by answer: admitted, known (or removed), withdrawn, refused.
    pub answers: [u64; 4],
    /// Refused records stopped all: nothing of it counts.
    pub stopped: bool,
    /// The first that was refused: its source, line and findings.
    pub first_refused: Option<(String, u64, String)>,
    /// The fields that were looked at.
    pub plan: FieldPlan,
}

/// The values of a row, which are the first columns of its own.
const ADDRESS: usize = 0;
const KEY: usize = 1;

/// Does with every record what is asked for.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or the register or the output cannot be written. Nothing of it then
/// counts.
pub fn add(store: &mut Store, options: &RegisterOptions, progress: &Progress) -> Result<RegisterReport> {
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
    let layout = OutputLayout::of(&reading, &plan, options.rows.format).for_target(&options.target)?;
    let source = if reading.len() > 1 { vec![Column::Source] } else { Vec::new() };
    let columns = [
        vec![Column::Address, Column::Key, Column::Answer, Column::KnownSince, Column::KnownSource],
        vec![Column::Verdict, Column::Findings],
        source,
        vec![Column::Record],
    ];
    let columns = ColumnSet::new(columns.concat(), Naming::with(&options.prefix), &plan.fields)?;
    let projection = layout.projection(&columns, &options.rows)?;
    let rows = RowPlan {
        layout: &layout,
        columns: &columns,
        projection: &projection,
        review: None,
        by_outcome: false,
    };
    let wanted = Wanted::default();
    let judging = Judging { plan: &plan, policy: &options.policy, hasher: Hasher::with_key(0) };
    let workers = Annotator::for_threads(options.threads, &reading, judging, &rows, &wanted)?;
    let mut output =
        RowOutput::begin(options.target.open()?, &layout.writer(&projection).opening(), &projection)?;
    let names: Arc<[String]> = reading.names().into();
    let at = LineCount::new(&reading);
    store.begin()?;
    let mut asking = Asking { store, options, names, records: 0, answers: [0; 4], first_refused: None, at };
    let settle = |task: &Task, part: &mut Part| asking.settle(task, part).map(|()| Flow::GoOn);
    let done =
        pipeline::run(&mut reading, workers, progress, settle, |_, part| output.write(&part.encoded[0]));
    let Asking { records, mut answers, first_refused, .. } = asking;
    let stopped = answers[Answer::Refused as usize] > 0 && !options.admissible_only;
    let admissible = stopped.then(|| std::mem::take(&mut answers[Answer::Admitted as usize]));
    let report = RegisterReport {
        sources: reading.reports(),
        records,
        admissible,
        answers,
        stopped,
        first_refused,
        plan,
    };
    if let Err(error) = done {
        store.roll_back()?;
        return Err(error);
    }
    if stopped {
        store.roll_back()?;
        return Ok(report);
    }
    let output = output.finish();
    match output {
        Ok(output) => {
            store.commit()?;
            if options.act != Act::Admit {
                store.wipe()?;
            }
            output.finish()?;
            Ok(report)
        }
        Err(error) => {
            store.roll_back()?;
            Err(error)
        }
    }
}

/// Asks the register about each record, in order.
struct Asking<'s> {
    store: &'s mut Store,
    options: &'s RegisterOptions,
    names: Arc<[String]>,
    records: u64,
    answers: [u64; 4],
    first_refused: Option<(String, u64, String)>,
    at: LineCount,
}

impl Asking<'_> {
    fn settle(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        self.at.enter(task)?;
        part.comes_behind(self.at.lines, self.records);
        let source = self.names[task.source].clone();
        for nth in 0..part.rows.len() {
            self.records += 1;
            let is_taken = match part.rows[nth].outcome {
                Outcome::Kept => true,
                Outcome::Review => self.options.admits_review || self.options.act != Act::Admit,
                _ => false,
            };
            let answer = match is_taken {
                true => self.ask(nth, part, &source)?,
                false => Answer::Refused,
            };
            if answer == Answer::Refused && self.first_refused.is_none() {
                let line = self.at.lines + part.record(nth, &task.chunk).line_in_chunk() + 1;
                let codes = part.made_of(nth).codes;
                let findings: Vec<&str> = codes.iter().map(ypogram_core::Code::name).collect();
                self.first_refused = Some((source.clone(), line, findings.join(" ")));
            }
            part.set_text(nth, Column::Answer, answer.word());
            self.answers[answer as usize] += 1;
        }
        self.at.lines += part.lines;
        Ok(())
    }

    fn ask(&mut self, nth: usize, part: &mut Part, source: &str) -> Result<Answer> {
        let text = |value| String::from_utf8_lossy(part.value(nth, value)).into_owned();
        let (address, key) = (text(ADDRESS), text(KEY));
        let admission = Admission { key: &key, address: &address, since: &self.options.now, source };
        match self.options.act {
            Act::Admit => {
                let (answer, entry) = self.store.admit(admission)?;
                if let Some(entry) = entry {
                    part.set_text(nth, Column::KnownSince, &entry.since);
                    part.set_text(nth, Column::KnownSource, &entry.source);
                }
                Ok(answer)
            }
            Act::Withdraw { forget } => {
                self.store.withdraw(admission, forget)?;
                Ok(Answer::Withdrawn)
            }
            Act::Remove => Ok(if self.store.remove(&key)? { Answer::Known } else { Answer::Refused }),
        }
    }
}
