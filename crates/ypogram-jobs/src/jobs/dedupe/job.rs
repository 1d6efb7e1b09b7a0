//! The passes of `dedupe` over its sources: one where that is enough, else one that finds the groups and others that deal with the records.

use std::sync::Arc;

use prefetch_index::prefetch_index;
use tempfile::TempDir;
use ypogram_core::Hasher;
use ypogram_tables::{Error, Output, Result, Target};

use crate::engine::id_store::IdStore;
use crate::engine::line_count::LineCount;
use crate::engine::mailboxes::{Holder, Mailboxes, share_of};
use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::jobs::dedupe::differences::Differences;
use crate::jobs::dedupe::fates::{End, Fate};
use crate::jobs::dedupe::fates::{Fates, part_of};
use crate::jobs::dedupe::merge::Merge;
use crate::jobs::dedupe::merged_rows::MergedRows;
use crate::jobs::dedupe::near::Near;
use crate::jobs::dedupe::options::DedupeOptions;
use crate::jobs::dedupe::outputs::Outputs;
use crate::jobs::dedupe::partitions::{Entry, Partitions};
use crate::jobs::dedupe::report::DedupeReport;
use crate::jobs::dedupe::same_as_before::same_as_before;
use crate::jobs::dedupe::survivor::Survivor;
use crate::jobs::dedupe::view::View;
use crate::jobs::dedupe::worker::{Asked, Part, Row, Weight, Worker, Written};
use crate::judge::picking::LOOKED_AHEAD;
use crate::plan::fields::FieldPlan;
use crate::plan::layout::OutputLayout;
use crate::plan::person::PersonFields;
use crate::plan::shared::{Shared, are_different, hash_with_person};

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
        let layout = OutputLayout::of(&reading, &plan);
        Ok((reading, plan, layout))
    }

    /// Where a field tells records apart, they are named by it.
    fn id_store(&self, plan: &FieldPlan) -> Result<Option<IdStore>> {
        plan.id.map(|_| IdStore::within(self.options.memory / 8, &self.folder)).transpose()
    }

    fn asked<'p>(&'p self, plan: &'p FieldPlan, reading: &mut Reading) -> Result<Asked<'p>> {
        let scoring = self.options.survivor.settle(plan, reading)?;
        let places = |names: &[String], option: &str| {
            names.iter().map(|name| plan.place_of(name, reading, option)).collect::<Result<Vec<_>>>()
        };
        Ok(Asked {
            plan,
            policy: &self.options.policy,
            hasher: Hasher::with_key(self.options.hash_key),
            by: places(&self.options.by, "--by")?,
            within: places(&self.options.within, "--within")?,
            scoring,
            persons: PersonFields::settle(&self.options.persons, plan, reading)?,
            texts_by_person: self.options.shared != Shared::Drop,
            near: self.options.near.is_some(),
            compare_rules: self.options.shows_groups() || self.options.rule_differences.is_some(),
        })
    }

    /// Runs every chunk of the sources through workers that write `written`, and gives the parts to `commit`.
    fn pass(
        &self,
        reading: &mut Reading,
        asked: &Asked<'_>,
        layout: &OutputLayout,
        written: Written,
        progress: &Progress,
        mut commit: impl FnMut(&Task, &mut Part, u64) -> Result<()> + Send,
    ) -> Result<()> {
        let lines = self.writes_lines(reading);
        let workers = (0..self.options.threads.max(1)).map(|_| {
            let mut worker = Worker::new(reading, asked, layout, lines, written);
            move |task: &mut Task, part: &mut Part| worker.work(task, part)
        });
        let workers: Vec<_> = workers.collect();
        let mut at = LineCount::new(reading);
        pipeline::run(reading, workers, progress, |task, part| {
            at.enter(task)?;
            commit(task, part, at.lines)?;
            at.lines += part.lines;
            Ok(())
        })
    }

    /// Text stays text, where no columns are added and the name of the output does not say otherwise.
    fn writes_lines(&self, reading: &Reading) -> bool {
        let is_table = |target: &Target| match target {
            Target::File { path, .. } => {
                path.extension().is_some_and(|ending| ending == "csv" || ending == "tsv")
            }
            Target::Standard | Target::Nowhere => false,
        };
        let options = self.options;
        let plain = !options.mark
            && options.merge.is_none()
            && options.dropped.is_none()
            && options.arrangement.names_none();
        reading.schemas().all(|schema| schema.is_text)
            && plain
            && !options.output.as_ref().is_some_and(is_table)
    }

    /// Keeps the first record of each mailbox; none where the mailboxes do not fit into memory.
    pub(super) fn in_one_pass(&self, progress: &Progress) -> Result<Option<DedupeReport>> {
        let (mut reading, plan, layout) = self.open(false)?;
        let asked = self.asked(&plan, &mut reading)?;
        let mut report = DedupeReport::new(self.options, &plan, &reading, &asked);
        let mut outputs = Outputs::open(self.options, &reading, &layout, &plan, self.writes_lines(&reading))?;
        outputs.name_by_id(self.id_store(&plan)?);
        let mut mailboxes = Mailboxes::new(self.options.threads);
        // The person of each record, where persons are known.
        let mut persons: Vec<u32> = Vec::new();
        let with_persons = !asked.persons.is_empty();
        let mut full = false;
        self.pass(&mut reading, &asked, &layout, Written::Record, progress, |task, part, _| {
            report.count(part);
            outputs.add_ids(part.ids())?;
            // Records that stay one behind the other are written at once: these octets of what was written of all.
            let (mut staying, bytes) = (0..0, part.bytes_of(task));
            for (index, row) in part.rows.iter().enumerate() {
                // Another thread may have written them.
                prefetch_index(&part.rows[..], index + 2 * LOOKED_AHEAD);
                mailboxes.fetch(index, |nth| part.rows.get(nth).map(|row| row.hash));
                if index % LOOKED_AHEAD == 0 {
                    full = mailboxes.octets() > share_of(self.options.memory);
                    if full {
                        return Err(Error::interrupted());
                    }
                }
                report.records += 1;
                let record = report.records;
                let own_person = part.weight(index).person as u32;
                if with_persons {
                    persons.push(own_person);
                }
                let from = staying.end;
                staying.end = row.end as usize;
                let goes = if row.hash == 0 {
                    report.no_address += 1;
                    outputs.sets_apart().then_some(None)
                } else {
                    let holder = mailboxes.meet(row.hash, Holder { record, kept: true })?;
                    report.rejected_texts += u64::from(holder.is_none() && !row.is_usable());
                    let end = match holder {
                        None => End::Stays,
                        Some(holder) => {
                            let held_by =
                                persons.get(holder.record as usize - 1).copied().unwrap_or_default();
                            let is_other = are_different(own_person.into(), held_by.into());
                            report.shared += u64::from(is_other && row.is_usable());
                            match self.options.shared {
                                Shared::Review if is_other => End::Review(holder.record),
                                Shared::Keep if is_other => {
                                    let hash = hash_with_person(row.hash, own_person.into());
                                    match mailboxes.meet(hash, Holder { record, kept: true })? {
                                        None => {
                                            report.shared_kept += 1;
                                            End::Stays
                                        }
                                        Some(own) => End::Dropped(own.record),
                                    }
                                }
                                _ => End::Dropped(holder.record),
                            }
                        }
                    };
                    report.count_end(end);
                    (end != End::Stays).then_some(Some(end))
                };
                let Some(end) = goes else { continue };
                outputs.keep(&bytes[staying.start..from])?;
                let (written, split) = (&bytes[from..staying.end], row.split as usize - from);
                staying.start = staying.end;
                match end {
                    Some(end) => outputs.put_aside(written, split, record, end)?,
                    None => outputs.without_address(written, split, record)?,
                }
            }
            outputs.keep(&bytes[staying])?;
            Ok(())
        })
        .or_else(|error| if full { Ok(()) } else { Err(error) })?;
        if full {
            return Ok(None);
        }
        report.mailboxes = mailboxes.len() - report.rejected_texts - report.shared_kept;
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
        let mut outputs = options
            .output
            .as_ref()
            .map(|_| Outputs::open(options, &reading, &layout, &plan, self.writes_lines(&reading)))
            .transpose()?;
        if let Some(outputs) = &mut outputs {
            outputs.name_by_id(self.id_store(&plan)?);
        }
        let mut view =
            if options.shows_groups() { Some(View::open(options, &reading.names())?) } else { None };
        let mut differences = Differences::open(options)?;

        let mut near = Near::open(options)?;
        let spelled = differences.is_some() || near.is_some();
        let written = if spelled { Written::Spelling } else { Written::Nothing };
        let mut entries = Partitions::new("keys", options.memory / 4, Arc::clone(&self.folder));
        self.pass(&mut reading, &asked, &layout, written, progress, |task, part, lines| {
            report.count(part);
            outputs.iter_mut().try_for_each(|outputs| outputs.add_ids(part.ids()))?;
            let (mut rules, mut traits) = (part.rules.iter(), part.traits.iter());
            for (index, (row, written, _)) in part.written(task).enumerate() {
                report.records += 1;
                if row.hash == 0 {
                    report.no_address += 1;
                    continue;
                }
                let (Row { hash, .. }, Weight { score, person }) = (*row, part.weight(index));
                let entry = Entry { hash, record: report.records, score, person };
                entries.add(part_of(hash), &entry.to_bytes())?;
                if !row.is_usable() {
                    continue;
                }
                let line = lines + u64::from(row.line) + 1;
                if let (Some(traits), Some(near)) = (traits.next(), &mut near) {
                    near.add(report.records, line, written, traits);
                }
                if let Some(hashes) = rules.next() {
                    if let Some(view) = &mut view {
                        view.rules.add(hashes);
                    }
                    if let Some(differences) = &mut differences {
                        differences.add(report.records, line, written, hashes)?;
                    }
                }
            }
            Ok(())
        })?;
        // Nothing is published before the last pass has come to its end.
        let mut finished = Vec::new();
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
        let (mut fates, groups) = Fates::settle(
            entries,
            last_wins,
            options.shared,
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
            finished.extend(self.show(view, &mut fates, &asked, &mut report, progress)?);
        }
        if let Some(outputs) = outputs {
            finished.extend(self.write(outputs, &mut fates, &asked, &mut report, progress)?);
        }
        Output::finish_all(finished)?;
        Ok(report)
    }

    /// Gathers the groups to be shown.
    fn show(
        &self,
        mut view: View,
        fates: &mut Fates,
        asked: &Asked<'_>,
        report: &mut DedupeReport,
        progress: &Progress,
    ) -> Result<Vec<Output>> {
        let (mut reading, _, layout) = self.open(true)?;
        fates.rewind();
        let mut record = 0;
        self.pass(&mut reading, asked, &layout, Written::Spelling, progress, |task, part, lines| {
            for (row, written, _) in part.written(task) {
                record += 1;
                let (fate, line) = (fates.of(record)?, lines + u64::from(row.line) + 1);
                if row.is_usable() {
                    view.add_mailbox(record, fate, task.source, line, written)?;
                }
                if let Some(fate) = fate {
                    view.add(fate, task.source, line, written)?;
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
        mut outputs: Outputs,
        fates: &mut Fates,
        asked: &Asked<'_>,
        report: &mut DedupeReport,
        progress: &Progress,
    ) -> Result<Vec<Output>> {
        let options = self.options;
        let (mut merged, changes) = match &options.merge {
            Some(collect) => {
                let (merged, changes) = self.merge(collect, fates, asked, report, progress)?;
                (Some(merged), changes)
            }
            None => (None, None),
        };
        let (mut reading, _, layout) = self.open(true)?;
        fates.rewind();
        let written = if options.mark { Written::RecordAndKey } else { Written::Record };
        let mut record = 0;
        self.pass(&mut reading, asked, &layout, written, progress, |task, part, _| {
            for (row, written, split) in part.written(task) {
                record += 1;
                if options.mark {
                    let fate = if row.hash == 0 { None } else { Some(fates.of(record)?) };
                    outputs.mark(written, split, fate.map(|fate| marks(record, fate)))?;
                    continue;
                }
                if row.hash == 0 {
                    outputs.without_address(written, split, record)?;
                    continue;
                }
                let end = fates.of(record)?.map_or(End::Stays, |fate| fate.end(options.shared));
                let merged = merged.as_mut().map(|merged| merged.of(record)).transpose()?;
                match (end, merged.flatten()) {
                    (End::Stays, Some(merged)) => outputs.keep_merged(&merged, task.source)?,
                    (End::Stays, None) => outputs.keep(written)?,
                    (end, _) => outputs.put_aside(written, split, record, end)?,
                }
            }
            Ok(())
        })?;
        same_as_before(&report.sources, &reading.reports())?;
        Ok(changes.into_iter().chain(outputs.finish()?).collect())
    }

    fn merge(
        &self,
        collect: &[String],
        fates: &mut Fates,
        asked: &Asked<'_>,
        report: &mut DedupeReport,
        progress: &Progress,
    ) -> Result<(MergedRows, Option<Output>)> {
        let (mut reading, plan, layout) = self.open(true)?;
        fates.rewind();
        let mut merge = Merge::open(self.options, collect, &plan, &reading)?;
        let mut record = 0;
        self.pass(&mut reading, asked, &layout, Written::Cells, progress, |task, part, _| {
            for (_, written, _) in part.written(task) {
                record += 1;
                let Some(fate) = fates.of(record)? else { continue };
                match fate.end(self.options.shared) {
                    End::Stays => merge.add(fate, record, written)?,
                    End::Dropped(survivor) => merge.add(fate, survivor, written)?,
                    End::Review(_) => {}
                }
            }
            Ok(())
        })?;
        same_as_before(&report.sources, &reading.reports())?;
        let (merged, filled, changes) = merge.finish(&self.folder)?;
        report.filled = filled;
        Ok((merged, changes))
    }
}

/// The record that it is the same mailbox as, and how many have it.
fn marks(record: u64, fate: Option<Fate>) -> (Option<u64>, u64) {
    match fate {
        None => (None, 1),
        Some(fate) => (Some(fate.survivor).filter(|survivor| *survivor != record), fate.count),
    }
}
