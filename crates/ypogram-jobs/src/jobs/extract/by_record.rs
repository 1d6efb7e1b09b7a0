//! The records of a table once for each address in them: one row with three addresses becomes three rows.

use std::path::PathBuf;

use ypogram_core::text::{self, Passed, Seen};
use ypogram_core::{Code, Form, Hasher, Judge, Policy, cell};
use ypogram_tables::csv::{Arrangement, CsvEncoder};
use ypogram_tables::pieces::PieceOptions;
use ypogram_tables::{Batch, Encode as _, Record, Result, Target};

use crate::engine::faults::caught;
use crate::engine::line_count::LineCount;
use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::jobs::extract::open_options;
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::date_order;
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::layout::OutputLayout;

/// What is asked for.
#[derive(Clone, Debug)]
pub struct ByRecordOptions {
    /// The tables to read one after the other.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub pieces: PieceOptions,
    /// Their format, where the ending does not tell.
    pub format: Option<ypogram_tables::Format>,
    /// Only these fields; all where none is named.
    pub fields: Vec<String>,
    /// How to judge.
    pub policy: Policy,
    /// What to look for beyond plain addresses.
    pub look: text::Options,
    /// Where the records go.
    pub target: Target,
    /// What the names of added columns start with.
    pub prefix: String,
    /// As many records are read in all, where there is a limit.
    pub first: Option<u64>,
    /// How the rows are arranged.
    pub arrangement: Arrangement,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}

/// What there is to tell.
#[derive(Clone, Debug)]
pub struct ByRecordReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// Records read.
    pub records: u64,
    /// Records in which there was no address; they are not written.
    pub without: u64,
    /// What looks like an address that was written so that programs do not see it, and was not taken.
    pub hidden: u64,
    /// Rows written, one for each address.
    pub rows: u64,
    /// Lines without anything in them.
    pub blank_lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub formula_cells: u64,
    /// What else is to be known.
    pub notes: Vec<String>,
}

#[derive(Default)]
struct Part {
    bytes: Vec<u8>,
    records: u64,
    without: u64,
    hidden: u64,
    rows: u64,
    lines: u64,
    blank_lines: u64,
    formulas: u64,
}

/// Writes each record once for each address in it.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or the output cannot be written.
pub fn run(options: &ByRecordOptions, progress: &Progress) -> Result<ByRecordReport> {
    let open = ypogram_tables::OpenOptions {
        format: options.format,
        first: options.first,
        ..open_options(&options.pieces)
    };
    let mut reading = Reading::open(&options.sources, &open)?;
    let choice = FieldChoice { text: options.fields.clone(), ..FieldChoice::default() };
    let all = FieldPlan::of_all(&reading);
    let plan = if options.fields.is_empty() { all } else { FieldPlan::named_only(&reading, &choice)? };
    let layout = OutputLayout::of(&reading, &plan);
    let mut added =
        vec![Column::Address, Column::Verdict, Column::Findings, Column::Form, Column::Field, Column::Class];
    if reading.len() > 1 {
        added.push(Column::Source);
    }
    let columns = ColumnSet::new(added, Naming::with(&options.prefix), &plan.fields)?;
    let source_names: Vec<String> = reading.names();
    let workers: Vec<_> = (0..options.threads.max(1))
        .map(|_| {
            let mut decoders = reading.decoders();
            let mut batch = Batch::default();
            let mut worker = Worker {
                judge: Judge::new(&options.policy, Hasher::with_key(options.hash_key)),
                plan: &plan,
                look: options.look,
                encoders: layout.encoders.clone(),
                with_source: reading.len() > 1,
                source_names: &source_names,
            };
            move |task: &mut Task, part: &mut Part| {
                part.bytes.clear();
                (part.records, part.without, part.hidden, part.rows) = (0, 0, 0, 0);
                batch.clear();
                decoders[task.source].decode(&task.chunk, &mut batch)?;
                for record in batch.records(&task.chunk) {
                    let before = (part.bytes.len(), part.rows, part.hidden);
                    if caught(|| worker.record(record, task.source, part)).is_none() {
                        part.bytes.truncate(before.0);
                        (part.rows, part.hidden) = (before.1, before.2);
                        part.without += 1;
                    }
                }
                (part.lines, part.blank_lines, part.formulas) =
                    (batch.lines, batch.blank_lines, batch.formulas);
                Ok(())
            }
        })
        .collect();
    let mut output = options.target.open()?;
    let mut arrangement = options.arrangement.clone();
    let notes = date_order::settle_sorting(&mut arrangement, &mut reading, &plan)?;
    let arranged = layout.arranged(&columns, &arrangement)?;
    output.write(&layout.header(&columns, arranged.as_ref()))?;
    output.arrange(arranged);
    let mut report = ByRecordReport {
        sources: Vec::new(),
        records: 0,
        without: 0,
        hidden: 0,
        rows: 0,
        blank_lines: reading.blank_lines_before(),
        formula_cells: 0,
        notes,
    };
    let mut at = LineCount::new(&reading);
    pipeline::run(&mut reading, workers, progress, |task, part: &mut Part| {
        at.enter(task)?;
        at.lines += part.lines;
        report.records += part.records;
        report.without += part.without;
        report.hidden += part.hidden;
        report.rows += part.rows;
        report.blank_lines += part.blank_lines;
        report.formula_cells += part.formulas;
        output.write(&part.bytes)
    })?;
    output.finish()?;
    report.sources = reading.reports();
    Ok(report)
}

struct Worker<'p> {
    judge: Judge<'p>,
    plan: &'p FieldPlan,
    look: text::Options,
    encoders: Vec<CsvEncoder>,
    with_source: bool,
    source_names: &'p [String],
}

impl Worker<'_> {
    fn record(&mut self, record: Record<'_>, source: usize, part: &mut Part) {
        part.records += 1;
        let before = part.rows;
        for &field in &self.plan.text {
            let Some(cell) = self.plan.cell(record, source, field).filter(|cell| !cell.is_empty()) else {
                continue;
            };
            self.cell(cell, record, source, field, part);
        }
        part.without += u64::from(part.rows == before);
    }

    fn cell(&mut self, bytes: &[u8], record: Record<'_>, source: usize, field: usize, part: &mut Part) {
        // A cell that is an address and nothing else tells its form best when read as one.
        let policy = self.judge.policy();
        let mut found = Vec::new();
        cell::read(bytes, policy, &mut found);
        found.retain(|found| {
            found.form != Form::WithinText && ypogram_core::examine(&found.text, policy).has_standard_form()
        });
        if found.is_empty() {
            text::look(bytes, 0..bytes.len(), policy, self.look, |seen| match seen {
                Seen::Taken(hit) => found.push(hit.into_found()),
                Seen::Passed(_, reason) => part.hidden += u64::from(reason == Passed::Hidden),
            });
        }
        for found in found {
            let judged = self.judge.judge(&found.text);
            let codes = policy.with_as_found(judged.codes, found.codes);
            let findings: Vec<&str> = codes.iter().map(Code::name).collect();
            let encoder = &mut self.encoders[source];
            encoder.own(record, &mut part.bytes);
            for cell in [
                self.judge.address(),
                policy.verdict(codes).word().as_bytes(),
                findings.join(" ").as_bytes(),
                found.form.word().as_bytes(),
                self.plan.fields[field].as_bytes(),
                judged.class.map_or("", |class| class.word()).as_bytes(),
            ] {
                encoder.cell(cell, &mut part.bytes);
            }
            if self.with_source {
                encoder.cell(self.source_names[source].as_bytes(), &mut part.bytes);
            }
            encoder.end(record, &mut part.bytes);
            part.rows += 1;
        }
    }
}
