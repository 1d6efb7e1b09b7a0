//! The first records behind each of several figures, in a pass of its own.

use std::sync::atomic::{AtomicBool, Ordering};

use ypogram_core::{Hasher, Judge};
use ypogram_io::{Batch, Decode, Result};

use crate::engine::line_count::LineCount;
use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::jobs::survey::fields_checked::Opened;
use crate::jobs::survey::options::SurveyOptions;
use crate::judge::checked_fields::CheckedFields;
use crate::judge::conditions::{Candidate, Conditions, Sieve};
use crate::judge::select_address::AddressSelector;
use crate::plan::fields::FieldPlan;
use crate::plan::shown_record::ShownRecord;

/// Of each of `wanted` the first `most` records that meet it, among those that are surveyed; gives the names of the fields as well.
///
/// # Errors
/// Where a source is unusable or breaks off, or a field does not exist.
pub fn records_behind(
    options: &SurveyOptions,
    wanted: &[Conditions],
    most: usize,
    progress: &Progress,
) -> Result<(Vec<String>, Vec<Vec<ShownRecord>>)> {
    let Opened { mut reading, plan, fields, temporary: _kept } = Opened::open(options, progress)?;
    let full: Vec<AtomicBool> = wanted.iter().map(|_| AtomicBool::new(most == 0)).collect();
    let mut behind: Vec<Vec<ShownRecord>> = vec![Vec::new(); wanted.len()];
    let workers = (0..options.threads.max(1)).map(|_| {
        let mut worker = Worker::new(&reading, (&plan, &fields), options, wanted)?;
        let full = &full;
        Ok(move |task: &mut Task, part: &mut Part| worker.look(task, part, full))
    });
    let workers = workers.collect::<Result<Vec<_>>>()?;
    let mut at = LineCount::new(&reading);
    pipeline::run_in_order(&mut reading, workers, progress, |task, part: &mut Part| {
        at.enter(task)?;
        for (nth, mut record) in part.found.drain(..).filter(|_| most > 0) {
            if behind[nth].len() < most {
                record.line += at.lines + 1;
                behind[nth].push(record);
                full[nth].store(behind[nth].len() == most, Ordering::Relaxed);
            }
        }
        at.lines += part.lines;
        Ok(())
    })?;
    Ok((plan.fields, behind))
}

/// What came of a chunk: records by the place of what they meet, with their lines in the chunk.
#[derive(Default)]
struct Part {
    found: Vec<(usize, ShownRecord)>,
    lines: u64,
}

struct Worker<'p> {
    picker: AddressSelector<'p>,
    plan: &'p FieldPlan,
    fields: &'p CheckedFields,
    broken: Vec<usize>,
    only: Option<Sieve<'p>>,
    wanted: Vec<Sieve<'p>>,
    decoders: Vec<Box<dyn Decode>>,
    batch: Batch,
}

impl<'p> Worker<'p> {
    fn new(
        reading: &Reading,
        (plan, fields): (&'p FieldPlan, &'p CheckedFields),
        options: &'p SurveyOptions,
        wanted: &'p [Conditions],
    ) -> Result<Self> {
        let hasher = Hasher::with_key(0);
        let sieve = |conditions: &'p Conditions| conditions.sieve(plan, Judge::new(&options.policy, hasher));
        Ok(Worker {
            picker: AddressSelector::new(plan, &options.policy, hasher),
            plan,
            fields,
            broken: Vec::new(),
            only: options.only.as_ref().map(sieve).transpose()?,
            wanted: wanted.iter().map(sieve).collect::<Result<_>>()?,
            decoders: reading.decoders(),
            batch: Batch::default(),
        })
    }

    fn look(&mut self, task: &Task, part: &mut Part, full: &[AtomicBool]) -> Result<()> {
        part.found.clear();
        self.batch.clear();
        self.decoders[task.source].decode(&task.chunk, &mut self.batch)?;
        part.lines = self.batch.lines;
        if full.iter().all(|full| full.load(Ordering::Relaxed)) {
            return Ok(());
        }
        let (mut cells, mut candidates) = (Vec::new(), Vec::new());
        let before = self.fields.records_before(task);
        for record in self.batch.records(&task.chunk) {
            let mut selected = self.picker.pick_caught(record, &mut cells, &mut candidates);
            self.fields.look(record, before, self.plan, &self.picker.judge, &mut self.broken);
            let faults = self.fields.faults(&self.broken);
            if let Some(selected) = &mut selected {
                faults.add_to(selected, self.picker.judge.policy());
            }
            let (selected, judge) = (selected.as_ref(), &self.picker.judge);
            let candidate = Candidate { record, selected, judge, faults };
            if self.only.as_mut().is_some_and(|only| !only.lets_through(candidate)) {
                continue;
            }
            for (nth, sieve) in self.wanted.iter_mut().enumerate() {
                if !full[nth].load(Ordering::Relaxed) && sieve.lets_through(candidate) {
                    let shown = ShownRecord::new(task.source, record.line_in_chunk(), record, self.plan);
                    part.found.push((nth, shown));
                }
            }
        }
        Ok(())
    }
}
