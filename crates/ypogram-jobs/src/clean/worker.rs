//! What the threads of `clean` do with a chunk: judge its records and encode them, all but what depends on their order.

use ypogram_core::{Class, Code, CodeSet, Found, Hasher, Policy, Verdict, text};
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Batch, Decode, Encode, Record, Result};

use crate::columns::{Column, ColumnSet};
use crate::fields::FieldPlan;
use crate::layout::OutputLayout;
use crate::outcome::Outcome;
use crate::picking::{Candidates, Picked, Picker};
use crate::reading::{Reading, Task};
use crate::tally::{Example, Tally};

/// What came of one chunk.
#[derive(Default)]
pub(crate) struct Part {
    /// The records, encoded one behind the other.
    pub(crate) bytes: Vec<u8>,
    pub(crate) rows: Vec<Row>,
    pub(crate) tally: Option<Tally>,
    /// Line breaks in the chunk.
    pub(crate) lines: u64,
    pub(crate) blank_lines: u64,
    /// The first records whose number of cells is not that of the fields: line in the chunk, cells.
    pub(crate) ragged: Vec<(u64, usize)>,
    /// Where in the chunk the first byte stands that is not UTF-8.
    pub(crate) not_utf8_at: Option<usize>,
}

/// One record, encoded.
#[derive(Clone, Copy)]
pub(crate) struct Row {
    /// Where the cells that the committer fills in belong.
    pub(crate) split: u32,
    /// Where the record ends.
    pub(crate) end: u32,
    pub(crate) outcome: Outcome,
    pub(crate) class: Option<Class>,
    /// Hash of the key; only for records to be kept or reviewed.
    pub(crate) key: u128,
}

pub(crate) struct Worker<'p> {
    picker: Picker<'p>,
    hasher: Hasher,
    decoders: Vec<Box<dyn Decode>>,
    encoders: Vec<CsvEncoder>,
    source_names: Vec<String>,
    columns: Vec<Column>,
    batch: Batch,
    key: Vec<u8>,
    cell: Vec<u8>,
}

/// As many ragged records as are told by line.
const RAGGED_TOLD: usize = 5;

impl<'p> Worker<'p> {
    pub(crate) fn new(
        reading: &Reading,
        plan: &'p FieldPlan,
        policy: &'p Policy,
        hasher: Hasher,
        layout: &OutputLayout,
        columns: &ColumnSet,
    ) -> Self {
        Worker {
            picker: Picker::new(plan, policy, hasher),
            hasher,
            decoders: reading.decoders(),
            encoders: layout.encoders.clone(),
            source_names: (0..reading.len()).map(|source| reading.name(source).to_owned()).collect(),
            columns: columns
                .iter()
                .filter(|column| !matches!(column, Column::Record | Column::SameAs))
                .collect(),
            batch: Batch::default(),
            key: Vec::new(),
            cell: Vec::new(),
        }
    }

    pub(crate) fn work(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        part.bytes.clear();
        part.rows.clear();
        part.ragged.clear();
        let mut tally = Tally::new(self.picker.plan().fields.len());
        let mut batch = std::mem::take(&mut self.batch);
        batch.clear();
        self.decoders[task.source].decode(&task.chunk, &mut batch)?;
        part.not_utf8_at = std::str::from_utf8(&task.chunk.bytes).err().map(|error| error.valid_up_to());
        let (mut cells, mut candidates) = (Vec::new(), Vec::new());
        for record in batch.records(&task.chunk) {
            self.note_shape(record, task.source, part, &mut tally);
            self.one(record, task.source, &mut cells, &mut candidates, part, &mut tally);
        }
        (part.lines, part.blank_lines) = (batch.lines, batch.blank_lines);
        part.tally = Some(tally);
        self.batch = batch;
        Ok(())
    }

    fn note_shape(&self, record: Record<'_>, source: usize, part: &mut Part, tally: &mut Tally) {
        let expected = self.picker.plan().places[source].iter().flatten().count();
        match record.len().cmp(&expected) {
            std::cmp::Ordering::Equal => {}
            std::cmp::Ordering::Less => tally.short += 1,
            std::cmp::Ordering::Greater => tally.long += 1,
        }
        if record.len() != expected && part.ragged.len() < RAGGED_TOLD {
            part.ragged.push((record.line_in_chunk(), record.len()));
        }
        if part.not_utf8_at.is_some() && std::str::from_utf8(record.raw()).is_err() {
            tally.not_utf8 += 1;
        }
    }

    fn one<'c>(
        &mut self,
        record: Record<'c>,
        source: usize,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
        tally: &mut Tally,
    ) {
        let picked = self.picker.pick(record, source, cells, candidates);
        let outcome = match picked.map(|picked| picked.verdict) {
            None => Outcome::NoAddress,
            Some(Verdict::Reject) => Outcome::Rejected,
            Some(Verdict::Review) => Outcome::Review,
            Some(Verdict::Accept) => Outcome::Kept,
        };
        self.count(picked.as_ref(), outcome, record, source, tally);
        self.key.clear();
        let mut key = 0;
        if matches!(outcome, Outcome::Kept | Outcome::Review) {
            self.picker.judge.key(self.picker.judge.policy().same, &mut self.key);
            key = self.hasher.hash(&self.key);
        }
        let out = &mut part.bytes;
        self.encoders[source].own(record, out);
        for index in 0..self.columns.len() {
            self.cell.clear();
            if let Some(picked) = &picked {
                self.fill(self.columns[index], picked);
            }
            if self.columns[index] == Column::Source {
                self.cell.extend_from_slice(self.source_names[source].as_bytes());
            }
            self.encoders[source].cell(&self.cell, out);
        }
        let split = out.len() as u32;
        self.encoders[source].end(record, out);
        let class = picked.and_then(|picked| picked.judged.class);
        part.rows.push(Row { split, end: out.len() as u32, outcome, class, key });
    }

    /// Puts what `column` says of the address picked last into the cell.
    #[inline]
    fn fill(&mut self, column: Column, picked: &Picked) {
        let cell = &mut self.cell;
        match column {
            Column::Address => cell.extend_from_slice(self.picker.judge.address()),
            Column::Verdict => cell.extend_from_slice(picked.verdict.word().as_bytes()),
            Column::Findings => words(picked.codes.iter().map(Code::name), cell),
            Column::Repairs => words(picked.repairs.iter().map(|repair| repair.name()), cell),
            Column::Form => cell.extend_from_slice(picked.form.word().as_bytes()),
            Column::Field => cell.extend_from_slice(self.picker.plan().fields[picked.field].as_bytes()),
            Column::Class => cell.extend_from_slice(picked.judged.class.map_or("", Class::word).as_bytes()),
            Column::Key => cell.extend_from_slice(&self.key),
            Column::More => cell.extend_from_slice(&self.picker.more),
            _ => {}
        }
    }

    fn count(
        &self,
        picked: Option<&Picked>,
        outcome: Outcome,
        record: Record<'_>,
        source: usize,
        tally: &mut Tally,
    ) {
        let Some(picked) = picked else { return self.count_what_is_left(record, source, tally) };
        for code in picked.codes.iter() {
            tally.findings[code as usize] += 1;
        }
        let policy = self.picker.judge.policy();
        let reason = |mask: CodeSet| picked.codes.intersection(mask).first();
        match outcome {
            Outcome::Rejected => {
                note_reason(
                    reason(policy.rejecting()),
                    picked,
                    record,
                    source,
                    self.picker.plan(),
                    &mut tally.rejected,
                    &mut tally.examples,
                );
                return self.count_what_is_left(record, source, tally);
            }
            Outcome::Review => {
                note_reason(
                    reason(policy.reviewing()),
                    picked,
                    record,
                    source,
                    self.picker.plan(),
                    &mut tally.review,
                    &mut tally.examples,
                );
            }
            _ => {}
        }
        match (picked.from_text, picked.repairs.is_empty()) {
            (true, _) => tally.from_text += 1,
            (false, true) => tally.as_it_stood += 1,
            (false, false) => tally.after_repair += 1,
        }
        for repair in picked.repairs.iter() {
            tally.repairs[repair as usize] += 1;
        }
        tally.forms[picked.form as usize] += 1;
        if let Some(class) = picked.judged.class {
            tally.classes[class as usize] += 1;
        }
        tally.more += self.picker.more_count;
        tally.with_more += u64::from(self.picker.more_count > 0);
    }

    /// Counts a record without a usable address that still holds an @, and the fields that would give one.
    fn count_what_is_left(&self, record: Record<'_>, source: usize, tally: &mut Tally) {
        let plan = self.picker.plan();
        let mut left = false;
        for (field, place) in plan.places[source].iter().enumerate() {
            let looked_at = plan.address.contains(&field) || plan.text.contains(&field);
            let Some(cell) = place.filter(|_| !looked_at).and_then(|place| record.cell(place)) else {
                continue;
            };
            if !cell.contains(&b'@') {
                continue;
            }
            left = true;
            let mut usable = false;
            text::find(cell, self.picker.judge.policy(), |hit| {
                let examined = ypogram_core::examine(hit.text.of(cell), self.picker.judge.policy());
                usable |= examined.verdict.is_usable();
            });
            tally.reachable[field] += u64::from(usable);
        }
        tally.at_sign_left += u64::from(left);
    }
}

fn note_reason(
    reason: Option<Code>,
    picked: &Picked,
    record: Record<'_>,
    source: usize,
    plan: &FieldPlan,
    counts: &mut [u64],
    examples: &mut [Option<Example>],
) {
    let Some(code) = reason else { return };
    counts[code as usize] += 1;
    examples[code as usize].get_or_insert_with(|| {
        let cell = plan.places[source][picked.field].and_then(|place| record.cell(place)).unwrap_or_default();
        Example { source, line: record.line_in_chunk(), text: shortened(cell) }
    });
}

/// A cell as an example shows it: at most 60 characters.
fn shortened(cell: &[u8]) -> String {
    let text = String::from_utf8_lossy(cell);
    let mut chars = text.chars();
    let mut out: String = chars.by_ref().take(60).collect();
    if chars.next().is_some() {
        out.push('…');
    }
    out
}

fn words(words: impl Iterator<Item = &'static str>, out: &mut Vec<u8>) {
    for word in words {
        if !out.is_empty() {
            out.push(b' ');
        }
        out.extend_from_slice(word.as_bytes());
    }
}
