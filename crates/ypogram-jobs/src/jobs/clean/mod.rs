//! The whole day in one pass: every record judged, its duplicates found, and written to the file of its outcome.

mod book;
mod earlier;
mod keep;
mod learn;
mod numbering;
mod options;
mod outputs;
mod report;
mod review;
mod settling;
mod since;

use std::path::Path;
use std::sync::Arc;

use tempfile::TempDir;

use ypogram_core::{Code, Hasher, Policy, Severity};
use ypogram_io::{
    EarlierOutputs, EntryRule, FORMATS, OutputFile, OutputFolder, Result, RowSpec, temporary_folder,
};

use crate::duplicates::first_records::FirstRecords;
use crate::engine::id_store::IdStore;
use crate::engine::mailboxes::share_of;
use crate::engine::pipeline::{self, Flow, Work as _};
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::engine::spool::keep_what_is_read_once;
use crate::jobs::check::list_columns;
use crate::jobs::dedupe::same_as_before;
use crate::jobs::receipt::{self, ListSummary, Receipt};
use crate::judge::annotate::{Annotator, Judging, Part, ReviewColumns, RowPlan, Wanted};
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::date_order::settle_sorting;
use crate::plan::fields::FieldPlan;
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;
use crate::plan::person::PersonFields;
use crate::plan::same_fields::SameFields;
use crate::plan::shared::Shared;
use book::Book;
use earlier::{EarlierOnes, FirstPass};
pub use keep::{ANSWERS, KeptCall, refuse_lost_decisions};
pub(crate) use keep::{CALL, copy_name};
pub use options::{CleanOptions, Keep};
use outputs::{Destination, Outputs};
pub use report::{CleanCounts, CleanReport};
use settling::Settling;
pub use since::Since;

/// Cleans the sources into the folder.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or an output cannot be written. Nothing is then
/// published.
pub fn run(options: &CleanOptions, progress: &Progress) -> Result<CleanReport> {
    let temporary = Arc::new(temporary_folder()?);
    // A second pass may come.
    let open = keep_what_is_read_once(&options.sources, &options.open, &temporary)?;
    let options = &CleanOptions { open, ..options.clone() };
    let mut policy = options.policy.clone();
    let mut read_before = None;
    if options.learn {
        let learnt;
        (policy.learned_typos, learnt) = learn::learn(options, progress)?;
        read_before = Some(learnt);
    }
    let before = options.read_before.as_deref().or(read_before.as_deref());
    if let Some(report) = write(options, &policy, (None, before), &temporary, progress)? {
        return Ok(report);
    }
    let (earlier, read) = first_pass(options, &policy, &temporary, progress)?;
    if let Some(before) = before {
        same_as_before(before, &read)?;
    }
    let report = write(options, &policy, (Some(earlier), Some(&read)), &temporary, progress)?;
    Ok(report.expect("what was settled beforehand needs no more memory"))
}

/// Settles in a pass of its own which record is a duplicate of which. Gives also what was read.
fn first_pass(
    options: &CleanOptions,
    policy: &Policy,
    temporary: &Arc<TempDir>,
    progress: &Progress,
) -> Result<(EarlierOnes, Vec<SourceReport>)> {
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, policy)?;
    let layout = OutputLayout::of(&reading, &plan, options.rows.format);
    let columns = ColumnSet::new(Vec::new(), Naming::with(&options.prefix), &plan.fields)?;
    let projection = layout.projection(&columns, &RowSpec::default())?;
    let rows = RowPlan {
        layout: &layout,
        columns: &columns,
        projection: &projection,
        review: None,
        by_outcome: true,
    };
    let wanted = wanted(options, policy, &plan, &reading)?;
    let hasher = Hasher::with_key(options.hash_key);
    let workers = (0..options.threads.max(1)).map(|_| {
        let mut worker = Annotator::new(&reading, Judging { plan: &plan, policy, hasher }, &rows, &wanted)?;
        worker.keys_only = true;
        Ok(move |task: &mut Task, part: &mut Part| worker.judge(task, part))
    });
    let workers = workers.collect::<Result<Vec<_>>>()?;
    let mut gathered = FirstPass::new(options.memory, Arc::clone(temporary));
    pipeline::run_in_order(&mut reading, workers, progress, |_, part| gathered.take(part))?;
    Ok((gathered.settle(options.shared)?, reading.reports()))
}

fn wanted(options: &CleanOptions, policy: &Policy, plan: &FieldPlan, reading: &Reading) -> Result<Wanted> {
    let persons = PersonFields::settle(&options.persons, plan, reading)?;
    // Nobody asks for another person where that changes nothing.
    let told_apart = match options.shared {
        Shared::Review => policy.severity(Code::SharedMailbox) >= Severity::Review,
        Shared::Keep => true,
        Shared::Drop => false,
    };
    let into = options.into.as_deref().map(|field| plan.place_of(field, reading, "--into")).transpose()?;
    Ok(Wanted {
        same: SameFields::settle(&options.by, &options.within, plan, reading)?,
        into,
        row_per_address: options.row_per_address,
        duplicates: true,
        persons: Some(persons).filter(|persons| told_apart && !persons.is_empty()),
        selection: options.selection.clone(),
        from_lists: options.from_lists.clone(),
        answers: numbering::placed(options)?,
        memory: options.remembered.clone(),
        ..Wanted::default()
    })
}

/// Writes every record to the file of its outcome; none where the mailboxes do not fit into memory, and nothing is then
/// written. What passes before settled comes with what they read, which must not have changed.
fn write(
    options: &CleanOptions,
    policy: &Policy,
    (settled, read_before): (Option<EarlierOnes>, Option<&[SourceReport]>),
    temporary: &Arc<TempDir>,
    progress: &Progress,
) -> Result<Option<CleanReport>> {
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, policy)?;
    let layout = OutputLayout::of(&reading, &plan, options.format());
    let naming = Naming { prefix: &options.prefix, from_lists: &options.from_lists };
    let added = added_columns(reading.len(), options);
    let review_columns = ColumnSet::new(review::columns(&added), naming, &plan.fields)?;
    let columns = ColumnSet::new(added, naming, &plan.fields)?;
    let mut wanted_columns = options.rows.clone();
    let notes = settle_sorting(&mut wanted_columns, &mut reading, &plan)?;
    let projection = layout.projection(&columns, &wanted_columns)?;
    let for_review = review::arranged(&wanted_columns, &review_columns);
    let review_projection = layout.projection(&review_columns, &for_review)?;

    let mut destination = destination(options, &layout, &plan)?;
    let wanted = self::wanted(options, policy, &plan, &reading)?;
    let told_apart = wanted.persons.is_some();
    let earlier = settled.unwrap_or_else(|| {
        let most = share_of(options.memory);
        EarlierOnes::Met(FirstRecords::within(most, told_apart, options.shared, options.threads))
    });
    let hasher = Hasher::with_key(options.hash_key);
    let review = ReviewColumns { columns: &review_columns, projection: &review_projection };
    let rows = RowPlan {
        layout: &layout,
        columns: &columns,
        projection: &projection,
        review: Some(review),
        by_outcome: true,
    };
    let judging = Judging { plan: &plan, policy, hasher };
    let worker = |_| Annotator::new(&reading, judging, &rows, &wanted);
    let workers = (0..options.threads.max(1)).map(worker).collect::<Result<Vec<_>>>()?;
    let ids = plan.id.map(|_| IdStore::within(options.memory / 8, temporary)).transpose()?;
    let mut settling = Settling::new(&reading, &plan, &wanted, (earlier, options.shared), ids);
    let mut outputs = Outputs::new(&layout, (&projection, &review_projection), &destination);
    let settle = |task: &Task, part: &mut Part| settling.settle(task, part);
    let write = |_: &Task, part: &mut Part| outputs.write(&part.encoded);
    if pipeline::run(&mut reading, workers, progress, settle, write)? == Flow::Stop {
        return Ok(None);
    }
    if let Some(read_before) = read_before {
        same_as_before(read_before, &reading.reports())?;
    }

    let counts = settling.finish();
    let (mut files, mut outputs) = outputs.finish()?;
    let since = match (&mut destination, &options.since) {
        (Destination::Folder(folder), Some(earlier)) => {
            Some(changes(options, &plan, earlier, folder, &mut files)?)
        }
        _ => None,
    };
    if let (Destination::Folder(folder), Some(keep)) = (&mut destination, &options.keep) {
        keep::write(keep, options, folder, &mut files, &mut outputs)?;
    }
    let report = CleanReport {
        sources: reading.reports(),
        plan,
        counts,
        selection: wanted.selection.clone(),
        notes,
        outputs,
        folder: options.folder.clone(),
        prefix: options.prefix.clone(),
        keeps: options.keep.is_some(),
        since,
    };
    match destination {
        Destination::Folder(folder) => {
            files.push(receipt_file(options, &report, &folder)?);
            folder.publish(files, replaced_outputs(options))?;
        }
        Destination::Book(book) => {
            let mut file = book.finish(&report, &options.version)?;
            file.sync()?;
            file.publish()?;
        }
    }
    Ok(Some(report))
}

/// Writes what changed since the run that wrote the folder `earlier`.
///
/// # Errors
/// Where it is no such folder, records cannot be found again, or the list cannot be written.
fn changes(
    options: &CleanOptions,
    plan: &FieldPlan,
    earlier: &Path,
    folder: &OutputFolder,
    files: &mut Vec<OutputFile>,
) -> Result<Since> {
    let before = since::Outputs::of_folder(earlier)?;
    let mut now = Vec::new();
    for file in files.iter_mut() {
        let name = file.path().file_name().unwrap_or_default().to_string_lossy().into_owned();
        now.push((name, file.written()?));
    }
    let comparing = since::Comparing {
        fields: &plan.fields,
        id: plan.id.map(|id| plan.fields[id].as_str()),
        prefix: &options.prefix,
        hasher: Hasher::with_key(options.hash_key),
    };
    let mut file = OutputFile::create(&folder.place(receipt::CHANGES))?;
    let since = comparing.write(&before, &since::Outputs::of(now.into_iter()), &file.written()?)?;
    file.sync()?;
    files.push(file);
    Ok(since)
}

/// The folder or the workbook that the outputs go into.
///
/// # Errors
/// Where something is there already and is not to be replaced, or it cannot be made.
fn destination(options: &CleanOptions, layout: &OutputLayout, plan: &FieldPlan) -> Result<Destination> {
    if options.is_book() {
        let columns = plan.address_names().into_iter().map(str::to_owned).collect();
        let rule = EntryRule { columns, ..options.entry_rule.clone() };
        return Ok(Destination::Book(Box::new(Book::create(&options.folder, options.force, rule)?)));
    }
    let mut names: Vec<String> =
        Outcome::ALL.iter().map(|outcome| layout.file_name(outcome.file_stem())).collect();
    names.extend([receipt::FILE_NAME.into(), receipt::KEPT.into()]);
    names.extend(options.since.is_some().then(|| receipt::CHANGES.into()));
    let folder = OutputFolder::prepare(&options.folder, options.force, replaced_outputs(options), &names)?;
    Ok(Destination::Folder(folder))
}

/// Which outputs of an earlier run are replaced.
fn replaced_outputs(options: &CleanOptions) -> EarlierOutputs {
    if options.discard_decisions { receipt::earlier_outputs } else { keep::undecided_outputs }
}

/// The names of the outputs of a run in `folder`.
///
/// # Errors
/// Where the account there is not one.
pub fn earlier_outputs(folder: &Path) -> Result<Vec<String>> {
    receipt::earlier_outputs(folder)
}

/// The names of the outputs that a run may write into `folder`, and of those that an earlier one left there.
///
/// # Errors
/// Where the account of that one is none.
pub fn output_names(folder: &Path) -> Result<impl Iterator<Item = String> + use<>> {
    let of = |outcome: &Outcome| {
        let outputs = FORMATS.iter().filter(|entry| entry.uses.is_output);
        outputs.map(|entry| format!("{}.{}", outcome.file_stem(), entry.extensions[0])).collect::<Vec<_>>()
    };
    let written = Outcome::ALL.iter().flat_map(of).collect::<Vec<_>>();
    Ok(written.into_iter().chain(receipt::earlier_outputs(folder)?))
}

fn receipt_file(options: &CleanOptions, report: &CleanReport, folder: &OutputFolder) -> Result<OutputFile> {
    let receipt = Receipt {
        layout: receipt::LAYOUT,
        version: options.version.clone(),
        job: "clean",
        sources: report.sources.clone(),
        lists: options.lists.iter().map(ListSummary::of).collect(),
        rulebook: options.rulebook.clone(),
        address_fields: report.plan.address_names().into_iter().map(str::to_owned).collect(),
        text_fields: report.plan.text_names().into_iter().map(str::to_owned).collect(),
        counts: report.summed(),
        decisions: report.counts.decisions_by_kind(),
        since: report.since,
        outputs: report.outputs.clone(),
    };
    let mut file = OutputFile::create(&folder.place(receipt::FILE_NAME))?;
    let mut json = serde_json::to_vec_pretty(&receipt).expect("plain data");
    json.push(b'\n');
    file.write(&json)?;
    Ok(file)
}

/// The columns of every output; the last two are filled in when the order is known.
fn added_columns(sources: usize, options: &CleanOptions) -> Vec<Column> {
    let mut columns = vec![
        Column::Address,
        Column::Verdict,
        Column::Findings,
        Column::Repairs,
        Column::Form,
        Column::Field,
        Column::Class,
        Column::Operator,
        Column::Key,
        Column::Suggestion,
        Column::More,
        Column::Remark,
    ];
    // Where further addresses have rows of their own, none is left to be reported.
    columns.retain(|column| *column != Column::More || !options.row_per_address);
    columns.extend(list_columns(&options.policy, &options.from_lists));
    if !options.selection.is_everything() {
        columns.push(Column::SetAside);
    }
    if options.into.is_some() {
        columns.push(Column::Original);
    }
    if sources > 1 {
        columns.push(Column::Source);
    }
    columns.extend([Column::Record, Column::SameAs]);
    columns
}
