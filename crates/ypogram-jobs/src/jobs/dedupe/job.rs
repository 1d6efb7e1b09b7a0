//! The passes of `dedupe` over its sources: one where that is enough, else one that finds the groups and others that deal with the records.

use std::sync::Arc;

use prefetch_index::prefetch_index;
use tempfile::TempDir;
use ypogram_core::Hasher;
use ypogram_io::{Format, Output, Result, Schema, Target};

use crate::duplicates::decisions::{Decision, End};
use crate::duplicates::decisions::{Decisions, part_of};
use crate::duplicates::filled_cells::FilledCells;
use crate::duplicates::first_records::{FirstRecords, Newcomer};
use crate::duplicates::merge::Merge;
use crate::duplicates::merged_rows::{MergedRow, MergedRows};
use crate::duplicates::partitions::{Entry, Partitions};
use crate::duplicates::survivor::Survivor;
use crate::engine::id_store::IdStore;
use crate::engine::line_count::LineCount;
use crate::engine::mailboxes::share_of;
use crate::engine::pipeline::{self, Flow};
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::engine::same_as_before::same_as_before;
use crate::jobs::dedupe::differences::Differences;
use crate::jobs::dedupe::near::Near;
use crate::jobs::dedupe::options::DedupeOptions;
use crate::jobs::dedupe::outputs::{OutputPlan, Outputs};
use crate::jobs::dedupe::part::{Part, Weight};
use crate::jobs::dedupe::report::DedupeReport;
use crate::jobs::dedupe::settle_rows::SettleRows;
use crate::jobs::dedupe::view::View;
use crate::jobs::dedupe::worker::{Asked, Noted, Worker};
use crate::judge::select_address::LOOKED_AHEAD;
use crate::plan::fields::FieldPlan;
use crate::plan::layout::OutputLayout;
use crate::plan::person::PersonFields;
use crate::plan::same_fields::SameFields;
use crate::plan::shared::Shared;

/// One pass over the sources.
struct Pass<'p, 'q> {
    asked: &'p Asked<'q>,
    noted: Noted,
    outputs: Option<(&'p OutputPlan<'q>, &'p mut Outputs)>,
    progress: &'p Progress,
}

/// What the last pass needs, which writes the records by their fates.
struct Writing<'w, 'p> {
    plan: &'w OutputPlan<'p>,
    outputs: Outputs,
    rows: SettleRows,
    decisions: &'w mut Decisions,
}

/// What the first of several passes gathers.
struct FirstPass {
    entries: Partitions,
    rows: SettleRows,
    view: Option<View>,
    differences: Option<Differences>,
    near: Option<Near>,
}

impl FirstPass {
    /// Takes the records of a part, before which there are so many lines.
    fn take(&mut self, part: &mut Part, lines: u64, report: &mut DedupeReport) -> Result<()> {
        report.count(part);
        self.rows.add_ids(part)?;
        let (mut rules, mut traits) = (part.rules.iter(), part.traits.iter());
        let mut notes = part.notes.iter();
        for (index, row) in part.rows.iter().enumerate() {
            let spelling = notes.next().unwrap_or_default();
            report.records += 1;
            if row.hash == 0 {
                report.no_address += 1;
                continue;
            }
            let (record, Weight { score, person }) = (report.records, part.weight(index));
            let entry = Entry { hash: row.hash, record, score, person };
            self.entries.add(part_of(row.hash), &entry.to_bytes())?;
            if !row.is_usable() {
                continue;
            }
            let line = lines + u64::from(row.line) + 1;
            if let (Some(traits), Some(near)) = (traits.next(), &mut self.near) {
                near.add(record, line, spelling, traits);
            }
            if let Some(hashes) = rules.next() {
                if let Some(view) = &mut self.view {
                    view.rules.add(hashes);
                }
                if let Some(differences) = &mut self.differences {
                    differences.add(record, line, spelling, hashes)?;
                }
            }
        }
        Ok(())
    }
}

/// The passes of a job over its sources.
pub(super) struct Job<'o> {
    pub(super) options: &'o DedupeOptions,
    pub(super) folder: Arc<TempDir>,
}

impl Job<'_> {
    /// `again` tells that the sources are read several times, and held against what they were before.
    fn open(&self, again: bool) -> Result<(Reading, FieldPlan, OutputLayout)> {
        let mut open = self.options.open.clone();
        open.fingerprint |= again;
        let mut reading = Reading::open(&self.options.sources, &open)?;
        let plan = FieldPlan::settle(&mut reading, &self.options.fields, &self.options.policy)?;
        let layout = OutputLayout::of(&reading, &plan, self.options.rows.format);
        Ok((reading, plan, layout))
    }

    /// Where a field distinguishes records, they are named by it.
    fn id_store(&self, plan: &FieldPlan) -> Result<Option<IdStore>> {
        plan.has_id().then(|| IdStore::within(self.options.memory / 8, &self.folder)).transpose()
    }

    fn asked<'p>(&'p self, plan: &'p FieldPlan, reading: &mut Reading) -> Result<Asked<'p>> {
        let scoring = self.options.survivor.settle(plan, reading)?;
        Ok(Asked {
            plan,
            policy: &self.options.policy,
            hasher: Hasher::with_key(self.options.hash_key),
            same: SameFields::settle(&self.options.by, &self.options.within, plan, reading)?,
            scoring,
            persons: PersonFields::settle(&self.options.persons, plan, reading)?,
            texts_by_person: self.options.shared != Shared::Drop,
            near: self.options.near.is_some(),
            lines: self.writes_lines(reading),
            compare_rules: self.options.shows_groups() || self.options.rule_differences.is_some(),
        })
    }

    /// Runs every chunk of the sources through workers that note `noted`, and gives the parts to `settle`.
    fn pass(
        &self,
        reading: &mut Reading,
        asked: &Asked<'_>,
        noted: Noted,
        progress: &Progress,
        mut settle: impl FnMut(&Task, &mut Part, u64) -> Result<()> + Send,
    ) -> Result<()> {
        let settle = |task: &Task, part: &mut Part, lines| settle(task, part, lines).map(|()| Flow::GoOn);
        self.pass_with(reading, Pass { asked, noted, outputs: None, progress }, settle).map(drop)
    }

    /// The same, where the rows are then written to `outputs`, or not even settled further.
    fn pass_with(
        &self,
        reading: &mut Reading,
        pass: Pass<'_, '_>,
        mut settle: impl FnMut(&Task, &mut Part, u64) -> Result<Flow> + Send,
    ) -> Result<Flow> {
        let Pass { asked, noted, outputs, progress } = pass;
        let (plan, mut outputs) = outputs.unzip();
        let worker = |_| Worker::new(reading, asked, noted, plan.map(OutputPlan::writers));
        let workers: Vec<_> = (0..self.options.threads.max(1)).map(worker).collect();
        let mut at = LineCount::new(reading);
        let settle = |task: &Task, part: &mut Part| {
            at.enter(task)?;
            let flow = settle(task, part, at.lines)?;
            at.lines += part.lines;
            Ok(flow)
        };
        let write = |_: &Task, part: &mut Part| match &mut outputs {
            Some(outputs) => outputs.write(part),
            None => Ok(()),
        };
        pipeline::run(reading, workers, progress, settle, write)
    }

    /// Text stays text, where no columns are added and the name of the output does not say otherwise.
    fn writes_lines(&self, reading: &Reading) -> bool {
        let is_table = |target: &Target| match target {
            Target::File { path, .. } => Format::of_path(path).entry().uses.is_output,
            Target::Standard | Target::Nowhere => false,
        };
        let options = self.options;
        let plain = !options.mark
            && options.merge.is_none()
            && options.dropped.is_none()
            && options.rows.names_none()
            && options.rows.format.is_none();
        reading.schemas().all(Schema::is_text) && plain && !options.output.as_ref().is_some_and(is_table)
    }

    /// Keeps the first record of each mailbox; none where the mailboxes do not fit into memory.
    pub(super) fn in_one_pass(&self, progress: &Progress) -> Result<Option<DedupeReport>> {
        let (mut reading, plan, layout) = self.open(false)?;
        let asked = self.asked(&plan, &mut reading)?;
        let mut report = DedupeReport::new(self.options, &plan, &reading, &asked);
        let output_plan = OutputPlan::settle(self.options, &reading, &layout, &asked)?;
        let mut outputs = output_plan.open()?;
        let mut rows = SettleRows::new(self.id_store(&plan)?, output_plan.sets_apart());
        let mut first = FirstRecords::within(
            share_of(self.options.memory),
            !asked.persons.is_empty(),
            self.options.shared,
            self.options.threads,
        );
        let settle = |_: &Task, part: &mut Part, _| {
            report.count(part);
            rows.add_ids(part)?;
            if first.is_full() {
                return Ok(Flow::Stop);
            }
            for nth in 0..part.rows.len() {
                // Another thread may have written them.
                prefetch_index(&part.rows[..], nth + 2 * LOOKED_AHEAD);
                first.fetch(nth, |nth| part.rows.get(nth).map(|row| row.hash));
                report.records += 1;
                let (row, person) = (part.rows[nth], part.weight(nth).person as u32);
                let newcomer = Newcomer { hash: row.hash, person, record: report.records, kept: true };
                let holder = first.find(&newcomer)?;
                if row.hash == 0 {
                    report.no_address += 1;
                    rows.has_no_address(part, report.records);
                    continue;
                }
                report.rejected_texts += u64::from(holder.is_none() && !row.is_usable());
                let end = match holder {
                    None => End::Stays,
                    Some(holder) => {
                        let earlier = first.compare(&newcomer, holder)?;
                        report.shared += u64::from(earlier.holder_is_other && row.is_usable());
                        End::of(earlier, self.options.shared)
                    }
                };
                report.shared_kept += u64::from(end == End::Stays && holder.is_some());
                report.count_end(end);
                rows.ends(part, report.records, end)?;
            }
            Ok(Flow::GoOn)
        };
        let outputs_of_pass = Some((&output_plan, &mut outputs));
        let pass = Pass { asked: &asked, noted: Noted::Nothing, outputs: outputs_of_pass, progress };
        if self.pass_with(&mut reading, pass, settle)? == Flow::Stop {
            return Ok(None);
        }
        report.mailboxes = first.len() - report.rejected_texts;
        Output::finish_all(outputs.finish()?)?;
        report.sources = reading.reports();
        Ok(Some(report))
    }

    /// Finds the groups in a first pass, and deals with the records in a second.
    pub(super) fn in_two_passes(&self, progress: &Progress) -> Result<DedupeReport> {
        let options = self.options;
        let (mut reading, plan, layout) = self.open(true)?;
        let asked = self.asked(&plan, &mut reading)?;
        let mut report = DedupeReport::new(options, &plan, &reading, &asked);
        let output_plan = match &options.output {
            Some(_) => Some(OutputPlan::settle(options, &reading, &layout, &asked)?),
            None => None,
        };
        let outputs = output_plan.as_ref().map(OutputPlan::open).transpose()?;
        let sets_apart = output_plan.as_ref().is_some_and(OutputPlan::sets_apart);
        let mut first = FirstPass {
            entries: Partitions::new("keys", options.memory / 4, Arc::clone(&self.folder)),
            rows: SettleRows::new(self.id_store(&plan)?, sets_apart),
            view: if options.shows_groups() {
                Some(View::open(options, &reading.names(), plan.has_id())?)
            } else {
                None
            },
            differences: Differences::open(options, plan.has_id())?,
            near: Near::open(options, plan.has_id())?,
        };
        let spelled = first.differences.is_some() || first.near.is_some();
        let noted = if spelled { Noted::Spelling } else { Noted::Nothing };
        self.pass(&mut reading, &asked, noted, progress, |_, part, lines| {
            first.take(part, lines, &mut report)
        })?;
        // Nothing is published before the last pass has come to its end.
        let mut finished = Vec::new();
        let FirstPass { entries, rows, mut view, differences, near } = first;
        if let Some(differences) = differences {
            finished.push(differences.finish()?);
        }
        if let Some(near) = near {
            let (twins, output) = near.finish()?;
            report.twins = twins;
            finished.push(output);
        }
        report.sources = reading.reports();

        let last_wins = options.survivor == Survivor::Last;
        let folder = Arc::clone(&self.folder);
        let (mut decisions, groups) = Decisions::settle(
            entries,
            (last_wins, options.shared),
            options.memory / 8,
            folder,
            |survivor, count| {
                if let Some(view) = &mut view {
                    view.see_group(survivor, count);
                }
            },
        )?;
        report.take_groups(&groups, options.shared);

        if let Some(view) = view {
            finished.extend(self.show(view, &mut decisions, &asked, &mut report, progress)?);
        }
        if let (Some(plan), Some(outputs)) = (&output_plan, outputs) {
            let writing = Writing { plan, outputs, rows, decisions: &mut decisions };
            finished.extend(self.write(writing, &asked, &mut report, progress)?);
        }
        Output::finish_all(finished)?;
        Ok(report)
    }

    /// Gathers the groups to be shown.
    fn show(
        &self,
        mut view: View,
        decisions: &mut Decisions,
        asked: &Asked<'_>,
        report: &mut DedupeReport,
        progress: &Progress,
    ) -> Result<Vec<Output>> {
        let (mut reading, ..) = self.open(true)?;
        decisions.rewind();
        let mut record = 0;
        self.pass(&mut reading, asked, Noted::Spelling, progress, |task, part, lines| {
            for (row, spelling) in part.rows.iter().zip(part.notes.iter()) {
                record += 1;
                let (decision, line) = (decisions.of(record)?, lines + u64::from(row.line) + 1);
                if row.is_usable() {
                    view.add_mailbox(record, decision, task.source, line, spelling)?;
                }
                if let Some(decision) = decision {
                    view.add(decision, task.source, line, spelling)?;
                }
            }
            Ok(())
        })?;
        same_as_before(&report.sources, &reading.reports())?;
        view.finish(report)
    }

    /// Writes the records by their fates.
    fn write(
        &self,
        writing: Writing<'_, '_>,
        asked: &Asked<'_>,
        report: &mut DedupeReport,
        progress: &Progress,
    ) -> Result<Vec<Output>> {
        let Writing { plan, mut outputs, mut rows, decisions } = writing;
        let options = self.options;
        let mut merged = match &options.merge {
            Some(collect) => Some(self.merge(collect, decisions, asked, report, progress)?),
            None => None,
        };
        let open = |target| FilledCells::open(target, &asked.plan.fields, &options.rows);
        let mut changes = options.changes.as_ref().map(open).transpose()?;
        let (mut reading, ..) = self.open(true)?;
        decisions.rewind();
        let noted = if options.mark { Noted::Key } else { Noted::Nothing };
        let mut record = 0;
        let settle = |_: &Task, part: &mut Part, _| {
            for nth in 0..part.rows.len() {
                record += 1;
                let has_address = part.rows[nth].hash != 0;
                if options.mark {
                    let decision = if has_address { Some(decisions.of(record)?) } else { None };
                    rows.is_marked(part, decision.map(|decision| marks(record, decision)))?;
                    continue;
                }
                if !has_address {
                    rows.has_no_address(part, record);
                    continue;
                }
                let end = decisions.of(record)?.map_or(End::Stays, |decision| decision.end(options.shared));
                if let Some(merged) = &mut merged
                    && let Some(MergedRow { cells, filled }) = merged.of(record)?
                {
                    changes.as_mut().map_or(Ok(()), |changes| changes.add(record, &filled))?;
                    part.merged.push((nth, cells));
                }
                rows.ends(part, record, end)?;
            }
            Ok(Flow::GoOn)
        };
        let pass = Pass { asked, noted, outputs: Some((plan, &mut outputs)), progress };
        self.pass_with(&mut reading, pass, settle)?;
        same_as_before(&report.sources, &reading.reports())?;
        let changes = changes.map(FilledCells::finish).transpose()?;
        Ok(changes.into_iter().chain(outputs.finish()?).collect())
    }

    fn merge(
        &self,
        collect: &[String],
        decisions: &mut Decisions,
        asked: &Asked<'_>,
        report: &mut DedupeReport,
        progress: &Progress,
    ) -> Result<MergedRows> {
        let (mut reading, plan, _) = self.open(true)?;
        decisions.rewind();
        let collect = collect.iter().map(|field| plan.place_of(field, &reading, "--collect"));
        let mut merge = Merge::within(self.options.memory / 8, collect.collect::<Result<_>>()?);
        let mut record = 0;
        self.pass(&mut reading, asked, Noted::Cells, progress, |_, part, _| {
            for written in part.notes.iter() {
                record += 1;
                let Some(decision) = decisions.of(record)? else { continue };
                match decision.end(self.options.shared) {
                    End::Stays => merge.add((record, 0), record, written)?,
                    End::Dropped(survivor) => merge.add((survivor, decision.rank), record, written)?,
                    End::Review(_) => {}
                }
            }
            Ok(())
        })?;
        same_as_before(&report.sources, &reading.reports())?;
        let (merged, filled) = merge.finish(&self.folder)?;
        report.filled = filled.cells;
        Ok(merged)
    }
}

/// The record that it is the same mailbox as, and how many have it.
fn marks(record: u64, decision: Option<Decision>) -> (Option<u64>, u64) {
    match decision {
        None => (None, 1),
        Some(decision) => (Some(decision.survivor).filter(|survivor| *survivor != record), decision.count),
    }
}
