//! New records held against what is known: which are new, which are known, and which must not be used.

mod differences;
mod gathered;
mod joined;
mod known;
mod near;
mod options;
mod outputs;
mod report;
mod settling;
mod state;

use std::path::Path;
use std::sync::Arc;

use hashbrown::HashSet;
use tempfile::TempDir;
use ypogram_core::Hasher;
use ypogram_io::{
    OpenOptions, Output, OutputFile, OutputFolder, Result, RowOutput, Target, temporary_folder,
};

use crate::engine::digests::Digests;
use crate::engine::pipeline::{self, Flow};
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::engine::same_as_before::same_as_before;
use crate::engine::spool::keep_what_is_read_once;
use crate::jobs::receipt;
use crate::judge::annotate::{Annotator, Judging, Part, RowPlan, Wanted};
use crate::judge::compared::Comparing;
use crate::judge::judge_all::judge_all;
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::layout::OutputLayout;
use crate::plan::read_columns::ReadColumns;
use gathered::Gathered;
use joined::{Joined, Joining};
use known::{Known, KnownSource};
pub use near::{NearPair, NearReport};
pub use options::{CompareOptions, CompareTo};
use outputs::{Rows, StateOutputs};
pub use report::{CompareCounts, CompareReport};
use settling::Settling;
pub use state::State;

/// Compares the new records with what is known.
///
/// # Errors
/// Where a source is unusable, breaks off or changes between the passes, a field does not exist, or an output or the temporary folder
/// cannot be written. Nothing is then published.
pub fn run(options: &CompareOptions, progress: &Progress) -> Result<CompareReport> {
    let folder = Arc::new(temporary_folder()?);
    let all: Vec<_> = options.sources.iter().chain(&options.known).cloned().collect();
    let open = OpenOptions { fingerprint: true, ..keep_what_is_read_once(&all, &options.open, &folder)? };
    let options = &CompareOptions { open, ..options.clone() };
    let job = Job { options, folder, progress };
    let destination = job.destination()?;
    let mut known = job.known()?;
    let comparing = job.comparing(&known)?;
    let mut counts = CompareCounts::default();

    let mut joining = Joining::new(options.memory, Arc::clone(&job.folder));
    let (known_sources, known_plan) = job.gather_known(&mut known, &comparing, &mut joining, &mut counts)?;
    let of_known = joining.records;
    let (mut reading, plan) = job.open(&options.sources, &options.fields)?;
    job.keys(&mut reading, &plan, &comparing, |_, part| joining.take(part))?;
    let sources = reading.reports();
    let mut joined = joining.settle(of_known, options.policy.same)?;

    for record in 1..=of_known {
        counts.known_in_both += u64::from(joined.of_known(record)?.is_some());
    }
    joined.rewind();
    let mut gathered = Gathered::of(options, &plan, known_plan.as_ref())?;
    let written = job.write(destination, &known, &comparing, (&mut joined, &mut gathered), &mut counts)?;
    same_as_before(&sources, &written.sources)?;
    let hashed_met = written.hashed_met;
    counts.known_in_both += hashed_met;
    counts.known_missing = counts.known_records - counts.known_unusable - counts.known_in_both;
    joined.rewind();
    let mut finished = job.look_at_known(&known, &comparing, (&mut joined, &mut gathered), &known_sources)?;
    if let Some(differences) = gathered.differences {
        let (changed, output) = differences.finish(options.changed.as_ref(), &options.rows)?;
        counts.changed = changed.into_iter().collect();
        finished.extend(output);
    }
    if let (Some(near), Some(target)) = (gathered.near, &options.near) {
        let (near, output) = near.finish(target, &options.rows, &known)?;
        counts.near = Some(near);
        finished.push(output);
    }
    let hashed =
        known.sources.iter().filter_map(|source| Some((source.name.clone(), source.hashed.as_ref()?.len())));
    let mut report = CompareReport {
        sources: written.sources,
        known_sources,
        plan,
        known_plan,
        counts,
        outputs: Vec::new(),
        hashed: hashed.collect(),
    };
    match written.rows {
        Written::Nowhere => {}
        Written::Marked(output) => finished.push(output),
        Written::Folder(folder, mut files, outputs) => {
            report.outputs = outputs;
            files.push(receipt_file(options, &report, &folder)?);
            Output::finish_all(finished)?;
            folder.publish(files, receipt::earlier_outputs)?;
            return Ok(report);
        }
    }
    Output::finish_all(finished)?;
    Ok(report)
}

/// What was written of the new records, not published yet.
enum Written {
    Nowhere,
    Marked(Output),
    Folder(OutputFolder, Vec<OutputFile>, Vec<receipt::OutputReport>),
}

/// What came of the pass over the new records.
struct WrittenRows {
    rows: Written,
    sources: Vec<SourceReport>,
    /// Records of lists of hashes that a new record has.
    hashed_met: u64,
}

struct Job<'o> {
    options: &'o CompareOptions,
    folder: Arc<TempDir>,
    progress: &'o Progress,
}

impl Job<'_> {
    fn open(&self, paths: &[std::path::PathBuf], fields: &FieldChoice) -> Result<(Reading, FieldPlan)> {
        let mut reading = Reading::open(paths, &self.options.open)?;
        let plan = FieldPlan::settle(&mut reading, fields, &self.options.policy)?;
        Ok((reading, plan))
    }

    /// The folder for the outputs, where one is asked for: what cannot be written is told before everything is read.
    fn destination(&self) -> Result<Option<OutputFolder>> {
        let CompareTo::Folder(folder) = &self.options.to else { return Ok(None) };
        let (reading, plan) = self.open(&self.options.sources, &self.options.fields)?;
        let layout = OutputLayout::of(&reading, &plan, self.options.rows.format);
        let names = State::ALL.map(|state| layout.file_name(state.file_stem()));
        let names: Vec<String> = names.into_iter().chain([receipt::FILE_NAME.into()]).collect();
        OutputFolder::prepare(folder, self.options.force, receipt::earlier_outputs, &names).map(Some)
    }

    /// What is known, as far as it can be told without reading it whole: which sources hold hashes.
    fn known(&self) -> Result<Known> {
        let mut known = Known { sources: Vec::new(), paths: Vec::new() };
        for path in &self.options.known {
            let hashed = Digests::read(path, &self.options.open)?.map(Arc::new);
            let name = path.display().to_string();
            if hashed.is_none() {
                known.paths.push(path.clone());
            }
            let records = hashed.as_ref().map_or(0, |hashed| hashed.len());
            known.sources.push(KnownSource { name, records, hashed });
        }
        Ok(known)
    }

    fn comparing(&self, known: &Known) -> Result<Comparing> {
        let withdrawn_hashed = self.options.withdrawn_hashed.iter().filter_map(|path| {
            Digests::read(path, &self.options.open).map(|read| read.map(Arc::new)).transpose()
        });
        Ok(Comparing {
            withdrawn: self.options.withdrawn.clone(),
            withdrawn_hashed: withdrawn_hashed.collect::<Result<_>>()?,
            known_hashed: known.sources.iter().filter_map(|source| source.hashed.clone()).collect(),
        })
    }

    /// Gathers the keys of the known records; gives what was read, and the fields that were looked at.
    fn gather_known(
        &self,
        known: &mut Known,
        comparing: &Comparing,
        joining: &mut Joining,
        counts: &mut CompareCounts,
    ) -> Result<(Vec<SourceReport>, Option<FieldPlan>)> {
        counts.known_records = known.sources.iter().map(|source| source.records).sum();
        if known.paths.is_empty() {
            return Ok((Vec::new(), None));
        }
        let (mut reading, plan) = self.open(&known.paths, &self.options.known_fields)?;
        let mut records = vec![0; known.paths.len()];
        self.keys(&mut reading, &plan, comparing, |task, part| {
            records[task.source] += part.rows.len() as u64;
            counts.known_records += part.rows.len() as u64;
            counts.known_unusable += part.rows.iter().filter(|row| row.key == 0).count() as u64;
            joining.take(part)
        })?;
        let readable = known.sources.iter_mut().filter(|source| source.hashed.is_none());
        for ((source, records), name) in readable.zip(records).zip(reading.names()) {
            (source.records, source.name) = (records, name);
        }
        Ok((reading.reports(), Some(plan)))
    }

    /// Judges every record of `reading` for its keys.
    fn keys(
        &self,
        reading: &mut Reading,
        plan: &FieldPlan,
        comparing: &Comparing,
        take: impl FnMut(&Task, &mut Part) -> Result<()> + Send,
    ) -> Result<()> {
        let wanted = Wanted { duplicates: true, comparing: Some(comparing.clone()), ..Wanted::default() };
        let machine = (self.options.threads, self.progress);
        judge_all(reading, self.judging(plan), (&wanted, true), machine, take)
    }

    fn judging<'p>(&'p self, plan: &'p FieldPlan) -> Judging<'p> {
        Judging { plan, policy: &self.options.policy, hasher: Hasher::with_key(self.options.hash_key) }
    }

    /// Writes every new record by its state.
    fn write(
        &self,
        destination: Option<OutputFolder>,
        known: &Known,
        comparing: &Comparing,
        (joined, gathered): (&mut Joined, &mut Gathered),
        counts: &mut CompareCounts,
    ) -> Result<WrittenRows> {
        let options = self.options;
        let (mut reading, plan) = self.open(&options.sources, &options.fields)?;
        let is_marked = matches!(options.to, CompareTo::Marked(_));
        let layout = OutputLayout::of(&reading, &plan, options.rows.format);
        let layout = match &options.to {
            CompareTo::Marked(target) => layout.for_target(target)?,
            _ => layout,
        };
        let columns =
            ColumnSet::new(added_columns(reading.len()), Naming::with(&options.prefix), &plan.fields)?;
        let projection = layout.projection(&columns, &options.rows)?;
        let rows = RowPlan {
            layout: &layout,
            columns: &columns,
            projection: &projection,
            review: None,
            by_outcome: !is_marked,
        };
        let wanted = Wanted { duplicates: true, comparing: Some(comparing.clone()), ..Wanted::default() };
        let judging = self.judging(&plan);
        let workers = Annotator::for_threads(options.threads, &reading, judging, &rows, &wanted)?;
        let mut outputs = match (&options.to, &destination) {
            (CompareTo::Marked(target), _) => {
                let opening = layout.writer(&projection).opening();
                Rows::Marked(Box::new(RowOutput::begin(target.open()?, &opening, &projection)?))
            }
            (_, Some(folder)) => Rows::ByState(StateOutputs::new(&layout, &projection, folder)),
            _ => Rows::Nowhere,
        };
        counts.blank_lines = reading.blank_lines_before();
        let mut settling =
            Settling { known, plan: &plan, joined, gathered, counts, hashed_met: HashSet::new() };
        let settle = |task: &Task, part: &mut Part| settling.settle(task, part).map(|()| Flow::GoOn);
        pipeline::run(&mut reading, workers, self.progress, settle, |_, part| outputs.write(&part.encoded))?;
        let rows = match (outputs, destination) {
            (Rows::ByState(outputs), Some(folder)) => {
                let (files, reports) = outputs.finish()?;
                Written::Folder(folder, files, reports)
            }
            (Rows::Marked(output), _) => Written::Marked(output.finish()?),
            _ => Written::Nowhere,
        };
        let hashed_met = settling.hashed_met.len() as u64;
        Ok(WrittenRows { rows, sources: reading.reports(), hashed_met })
    }

    /// Looks at the known records again, where something of them is asked for: writes those that are missing among the new ones, and
    /// gathers what the others say. Gives the file, which is not published yet.
    fn look_at_known(
        &self,
        known: &Known,
        comparing: &Comparing,
        (joined, gathered): (&mut Joined, &mut Gathered),
        read_before: &[SourceReport],
    ) -> Result<Vec<Output>> {
        let Gathered { differences, near } = gathered;
        if known.paths.is_empty() || self.options.missing.is_none() && differences.is_none() && near.is_none()
        {
            return Ok(Vec::new());
        }
        let nowhere = Target::Nowhere;
        let target = self.options.missing.as_ref().unwrap_or(&nowhere);
        let (mut reading, plan) = self.open(&known.paths, &self.options.known_fields)?;
        let layout = OutputLayout::of(&reading, &plan, None).for_target(target)?;
        let source = if reading.len() > 1 { vec![Column::Source] } else { Vec::new() };
        let columns = [source, vec![Column::Record]].concat();
        let columns = ColumnSet::new(columns, Naming::with(&self.options.prefix), &plan.fields)?;
        let projection = layout.projection(&columns, &self.options.rows.guard_alone())?;
        let rows = RowPlan {
            layout: &layout,
            columns: &columns,
            projection: &projection,
            review: None,
            by_outcome: true,
        };
        let wanted = Wanted { duplicates: true, comparing: Some(comparing.clone()), ..Wanted::default() };
        let judging = self.judging(&plan);
        let workers = Annotator::for_threads(self.options.threads, &reading, judging, &rows, &wanted)?;
        let opening = layout.writer(&projection).opening();
        let mut output = RowOutput::begin(target.open()?, &opening, &projection)?;
        let (mut record, mut before) = (0, (0, 0));
        let settle = |task: &Task, part: &mut Part| {
            // Each source has numbers of its own.
            if task.source != before.0 {
                before = (task.source, record);
            }
            part.comes_behind(0, record - before.1);
            for nth in 0..part.rows.len() {
                record += 1;
                let is_usable = part.rows[nth].key != 0;
                let is_met = is_usable && joined.of_known(record)?.is_some();
                if let Some(differences) = differences.as_mut().filter(|_| is_met) {
                    differences.add_known(record, part.record(nth, &task.chunk), &plan)?;
                }
                if let Some(near) = near.as_mut() {
                    near.add_known(record, part.record(nth, &task.chunk), &plan)?;
                }
                part.rows[nth].output = u8::from(!is_usable || is_met);
            }
            Ok(Flow::GoOn)
        };
        pipeline::run(&mut reading, workers, self.progress, settle, |_, part| {
            output.write(&part.encoded[0])
        })?;
        same_as_before(read_before, &reading.reports())?;
        Ok(vec![output.finish()?])
    }
}

fn added_columns(sources: usize) -> Vec<Column> {
    let mut columns = vec![
        Column::Compared,
        Column::KnownSource,
        Column::KnownRecord,
        Column::KnownRule,
        Column::Address,
        Column::Verdict,
        Column::Findings,
        Column::Key,
    ];
    if sources > 1 {
        columns.push(Column::Source);
    }
    columns.extend([Column::Record, Column::SameAs]);
    columns
}

/// The account of the run.
fn receipt_file(
    options: &CompareOptions,
    report: &CompareReport,
    folder: &OutputFolder,
) -> Result<OutputFile> {
    let account = serde_json::json!({
        "layout": receipt::LAYOUT,
        "version": options.version,
        "command": "compare",
        "sources": report.sources,
        "known_sources": report.known_sources,
        "rulebook": options.rulebook,
        "columns": ReadColumns::of(&report.plan),
        "known_columns": report.known_plan.as_ref().map(ReadColumns::of),
        "counts": report.counts,
        "outputs": report.outputs,
    });
    let mut file = OutputFile::create(&folder.place(receipt::FILE_NAME))?;
    file.write((serde_json::to_string_pretty(&account).expect("plain data") + "\n").as_bytes())?;
    Ok(file)
}

/// The names of the outputs that a run may write into `folder`, and of those that an earlier one left there.
///
/// # Errors
/// Where the account of that one is none.
pub fn output_names(folder: &Path) -> Result<Vec<String>> {
    let of = |state: State| {
        let outputs = ypogram_io::FORMATS.iter().filter(|entry| entry.uses.is_output);
        outputs.map(move |entry| format!("{}.{}", state.file_stem(), entry.extensions[0]))
    };
    let written = State::ALL.into_iter().flat_map(of);
    Ok(written.chain(receipt::earlier_outputs(folder)?).collect())
}
