//! The records of a table once for each address in them: one row with three addresses becomes three rows.

use std::path::PathBuf;

use hashbrown::HashMap;
use ypogram_core::text::{self, Seen, SkipReason};
use ypogram_core::{Form, Hasher, Judge, Policy, cell};
use ypogram_io::pieces::PieceOptions;
use ypogram_io::{
    Batch, Decode, EncodedRows, OpenOptions, OutRow, Record, Result, RowOutput, RowSpec, RowWriter, Target,
    Values,
};

use crate::engine::faults::caught;
use crate::engine::line_count::LineCount;
use crate::engine::pipeline::{self, Flow, Work};
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::judge::added_cells::{AddedColumns, TemplateKey};
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::date_order;
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::layout::OutputLayout;
use crate::plan::read_columns::ReadColumns;

/// What is asked for.
#[derive(Clone, Debug)]
pub struct ByRecordOptions {
    /// The tables to read one after the other.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub pieces: PieceOptions,
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
    pub rows: RowSpec,
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
    /// Where addresses were looked for.
    pub columns: ReadColumns,
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
    batch: Batch,
    rows: Vec<Row>,
    /// The address of each row.
    values: Values,
    /// What the shared cells of the rows follow from.
    keys: Vec<TemplateKey>,
    encoded: EncodedRows,
    without: u64,
    hidden: u64,
}

/// A record with one of its addresses.
struct Row {
    record: usize,
    /// Its key, by its place in the part.
    template: usize,
}

/// Writes each record once for each address in it.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or the output cannot be written.
pub fn run(options: &ByRecordOptions, progress: &Progress) -> Result<ByRecordReport> {
    let open = OpenOptions {
        first: options.first,
        fingerprint: false,
        // The records are written whole.
        only: vec![],
        ..options.pieces.open.clone()
    };
    let mut reading = Reading::open(&options.sources, &open)?;
    let choice = FieldChoice { text: options.fields.clone(), ..FieldChoice::default() };
    let all = FieldPlan::of_all(&reading);
    let plan = if options.fields.is_empty() { all } else { FieldPlan::named_only(&reading, &choice)? };
    let layout = OutputLayout::of(&reading, &plan, options.rows.format).for_target(&options.target)?;
    let mut added =
        vec![Column::Address, Column::Verdict, Column::Findings, Column::Form, Column::Field, Column::Class];
    if reading.len() > 1 {
        added.push(Column::Source);
    }
    let columns = ColumnSet::new(added, Naming::with(&options.prefix), &plan.fields)?;
    let mut wanted = options.rows.clone();
    let notes = date_order::settle_sorting(&mut wanted, &mut reading, &plan)?;
    let projection = layout.projection(&columns, &wanted)?;
    let added = AddedColumns::new(columns.iter().collect(), &plan.fields, reading.names(), false);
    let worker = |_| Worker {
        judge: Judge::new(&options.policy, Hasher::with_key(options.hash_key)),
        plan: &plan,
        look: options.look,
        decoders: reading.decoders(),
        writer: layout.writer(&projection),
        added: added.clone(),
        templates: HashMap::new(),
    };
    let workers: Vec<_> = (0..options.threads.max(1)).map(worker).collect();
    let opening = layout.writer(&projection).opening();
    let mut output = RowOutput::begin(options.target.open()?, &opening, &projection)?;
    let mut report = ByRecordReport {
        sources: Vec::new(),
        columns: ReadColumns::of(&plan),
        records: 0,
        without: 0,
        hidden: 0,
        rows: 0,
        blank_lines: reading.blank_lines_before(),
        formula_cells: 0,
        notes,
    };
    let mut at = LineCount::new(&reading);
    let settle = |task: &Task, part: &mut Part| {
        at.enter(task)?;
        at.lines += part.batch.lines;
        report.records += part.batch.len() as u64;
        report.without += part.without;
        report.hidden += part.hidden;
        report.rows += part.rows.len() as u64;
        report.blank_lines += part.batch.blank_lines;
        report.formula_cells += part.batch.formulas;
        Ok(Flow::GoOn)
    };
    pipeline::run(&mut reading, workers, progress, settle, |_, part| output.write(&part.encoded))?;
    output.finish()?.finish()?;
    report.sources = reading.reports();
    Ok(report)
}

struct Worker<'p> {
    judge: Judge<'p>,
    plan: &'p FieldPlan,
    look: text::Options,
    decoders: Vec<Box<dyn Decode>>,
    writer: RowWriter,
    added: AddedColumns,
    /// The numbers of templates in the writer.
    templates: HashMap<TemplateKey, usize>,
}

impl Work<Task, Part> for Worker<'_> {
    fn judge(&mut self, task: &mut Task, part: &mut Part) -> Result<()> {
        part.rows.clear();
        part.keys.clear();
        part.values.clear(1);
        part.encoded.clear();
        (part.without, part.hidden) = (0, 0);
        let mut batch = std::mem::take(&mut part.batch);
        batch.clear();
        self.decoders[task.source].decode(&task.chunk, &mut batch)?;
        for record in batch.records(&task.chunk) {
            let (rows, hidden) = (part.rows.len(), part.hidden);
            if caught(|| self.record(record, part)).is_none() {
                part.rows.truncate(rows);
                part.values.truncate(rows);
                part.hidden = hidden;
            }
            part.without += u64::from(part.rows.len() == rows);
        }
        part.batch = batch;
        Ok(())
    }

    fn encode(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        let (added, writer) = (&self.added, &mut self.writer);
        let mut template_of =
            |key| *self.templates.entry(key).or_insert_with(|| writer.add_template(added.template(&key)));
        let templates: Vec<usize> = part.keys.iter().map(|key| template_of(*key)).collect();
        for (nth, row) in part.rows.iter().enumerate() {
            let out = OutRow {
                record: Some(part.batch.record(&task.chunk, row.record)),
                template: templates[row.template],
                values: part.values.of_row(nth),
                values_are_simple: false,
                record_is_simple: false,
                replaced: &[],
            };
            self.writer.row(&out, &mut part.encoded);
        }
        Ok(())
    }
}

impl Worker<'_> {
    fn record(&mut self, record: Record<'_>, part: &mut Part) {
        for &field in &self.plan.text {
            let Some(cell) = self.plan.cell(record, field).filter(|cell| !cell.is_empty()) else {
                continue;
            };
            self.cell(cell, record, field, part);
        }
    }

    fn cell(&mut self, bytes: &[u8], record: Record<'_>, field: usize, part: &mut Part) {
        // A cell that is an address and nothing else tells its form best when read as one.
        let policy = self.judge.policy();
        let mut found = Vec::new();
        cell::read(bytes, policy, &mut found);
        found.retain(|found| {
            found.form != Form::WithinText && ypogram_core::examine(&found.text, policy).has_standard_form()
        });
        if found.is_empty() {
            text::look(bytes, 0..bytes.len(), policy, self.look, |seen| match seen {
                Seen::Match(hit) => found.push(hit.into_found()),
                Seen::Skipped(_, reason) => part.hidden += u64::from(reason == SkipReason::Hidden),
            });
        }
        for found in found {
            let judged = self.judge.judge(&found.text);
            let codes = policy.with_as_found(judged.codes, found.codes);
            let (verdict, place) = (policy.verdict(codes), (field, record.source()));
            let row = part.values.add_row();
            let address = part.values.append(self.judge.address());
            part.values.set(row, 0, address);
            part.rows.push(Row { record: record.index(), template: part.keys.len() });
            part.keys.push(TemplateKey::of_found(codes, verdict, judged.class, found.form, place));
        }
    }
}
