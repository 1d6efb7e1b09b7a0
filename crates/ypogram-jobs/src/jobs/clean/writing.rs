//! The pass of `clean` that writes every record to the file of its outcome.

use std::path::Path;
use std::sync::Arc;

use ypogram_core::Hasher;
use ypogram_io::{
    EarlierOutputs, EntryRefusal, IfThere, Output, OutputFile, OutputFolder, Projection, Result, Target,
};

use crate::duplicates::filled_cells::FilledCells;
use crate::duplicates::first_records::FirstRecords;
use crate::engine::mailboxes::share_of;
use crate::engine::pipeline::{self, Flow};
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::engine::same_as_before::same_as_before;
use crate::jobs::check::list_columns;
use crate::jobs::clean::behind::BehindFigures;
use crate::jobs::clean::book::Book;
use crate::jobs::clean::earlier::EarlierOnes;
use crate::jobs::clean::options::CleanOptions;
use crate::jobs::clean::outputs::{Destination, Outputs};
use crate::jobs::clean::passes::{Beforehand, Passes};
use crate::jobs::clean::report::CleanReport;
use crate::jobs::clean::settling::{Merging, Settling};
use crate::jobs::clean::since::{self, Since};
use crate::jobs::clean::{keep, review};
use crate::jobs::receipt::{self, ListSummary, Receipt};
use crate::judge::annotate::{Annotator, Judging, Part, ReviewColumns, RowPlan, Wanted};
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::date_order::settle_sorting;
use crate::plan::fields::FieldPlan;
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;
use crate::plan::read_columns::ReadColumns;

/// What is written and where, settled before the first record is read.
pub(super) struct Writing {
    reading: Reading,
    plan: FieldPlan,
    layout: OutputLayout,
    columns: ColumnSet,
    projection: Arc<Projection>,
    review_columns: ColumnSet,
    review_projection: Arc<Projection>,
    wanted: Wanted,
    /// What is to be known about the dates by which rows are sorted.
    notes: Vec<String>,
    destination: Destination,
}

impl Writing {
    /// # Errors
    /// Where a source is unusable, a field or a column does not exist, or the destination is not to be replaced or cannot be made.
    pub(super) fn prepare(passes: &Passes<'_>) -> Result<Self> {
        let options = passes.options;
        let (mut reading, plan) = passes.open()?;
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
        let destination = destination(options, &layout, &plan)?;
        let wanted = passes.wanted(&plan, &reading)?;
        Ok(Writing {
            reading,
            plan,
            layout,
            columns,
            projection,
            review_columns,
            review_projection,
            wanted,
            notes,
            destination,
        })
    }

    /// Writes every record; none where the mailboxes do not fit into memory, and nothing is then written. What passes before found out
    /// comes with what they read, which must not have changed.
    ///
    /// # Errors
    /// Where a source breaks off or has changed, or an output cannot be written. Nothing is then published.
    pub(super) fn write(
        self,
        passes: &Passes<'_>,
        known: Option<Beforehand>,
        read_before: Option<&[SourceReport]>,
    ) -> Result<Option<CleanReport>> {
        let Passes { options, policy, progress, .. } = *passes;
        let Writing { mut reading, plan, layout, columns, projection, mut wanted, mut notes, .. } = self;
        let (review_columns, review_projection) = (self.review_columns, self.review_projection);
        let destination = self.destination;
        wanted.gathers_ids = known.is_none();
        let Beforehand { earlier, ids, added, merged, unclear, notes: of_dates, read } = match known {
            Some(known) => known,
            None => {
                let (most, told_apart) = (share_of(options.memory), wanted.persons.is_some());
                let first = FirstRecords::within(most, told_apart, options.shared, options.threads);
                let read = read_before.unwrap_or_default().to_vec();
                Beforehand { read, ..Beforehand::nothing(EarlierOnes::Met(first), passes.id_store(&plan)?) }
            }
        };
        notes.extend(of_dates);
        let review = ReviewColumns { columns: &review_columns, projection: &review_projection };
        let rows = RowPlan {
            layout: &layout,
            columns: &columns,
            projection: &projection,
            review: Some(review),
            by_outcome: true,
        };
        let judging = Judging { plan: &plan, policy, hasher: Hasher::with_key(options.hash_key) };
        let workers = Annotator::for_threads(options.threads, &reading, judging, &rows, &wanted)?;
        let (merged, filled) = merged.unzip();
        let merging = merged.map(|rows| {
            let filled = filled_cells(options, &plan, &destination)?;
            Ok(Merging { rows, filled })
        });
        let most = options.records_behind;
        let behind = (most > 0).then(|| BehindFigures::new(most, &plan, policy.rejecting()));
        let mut settling = Settling::new(&reading, &plan, &wanted, (earlier, options.shared), ids)
            .knowing(added, merging.transpose()?)
            .gathering(behind);
        let mut outputs = Outputs::new(&layout, (&projection, &review_projection), &destination);
        let settle = |task: &Task, part: &mut Part| settling.settle(task, part);
        let write = |_: &Task, part: &mut Part| outputs.write(&part.encoded);
        if pipeline::run(&mut reading, workers, progress, settle, write)? == Flow::Stop {
            return Ok(None);
        }
        if !read.is_empty() {
            same_as_before(&read, &reading.reports())?;
        }

        let (counts, merging, behind) = settling.finish();
        let (mut files, outputs) = outputs.finish()?;
        if let Some(Output::File(mut file, _)) =
            merging.and_then(|merging| merging.filled).map(FilledCells::finish).transpose()?
        {
            file.sync()?;
            files.push(*file);
        }
        let report = CleanReport {
            sources: reading.reports(),
            plan,
            counts,
            selection: wanted.selection.clone(),
            words: policy.words.clone(),
            notes,
            outputs,
            folder: options.folder.clone(),
            prefix: options.prefix.clone(),
            keeps: options.keep.is_some(),
            since: None,
            filled,
            unclear,
            behind,
        };
        publish(options, report, destination, files).map(Some)
    }
}

/// Puts the outputs into their place, with what stands beside them.
///
/// # Errors
/// Where something cannot be written. Nothing is then published.
fn publish(
    options: &CleanOptions,
    mut report: CleanReport,
    destination: Destination,
    mut files: Vec<OutputFile>,
) -> Result<CleanReport> {
    match destination {
        Destination::Folder(mut folder) => {
            if let Some(earlier) = &options.since {
                report.since = Some(changes(options, &report.plan, earlier, &folder, &mut files)?);
            }
            if let Some(keep) = &options.keep {
                keep::write(keep, options, &mut folder, &mut files, &mut report.outputs)?;
            }
            files.push(receipt_file(options, &report, &folder)?);
            folder.publish(files, replaced_outputs(options))?;
        }
        Destination::Book(book) => {
            let mut file = book.finish(&report, &options.version)?;
            file.sync()?;
            file.publish()?;
        }
    }
    Ok(report)
}

/// The list of the cells that are filled, where the outputs go into a folder.
///
/// # Errors
/// Where it cannot be made.
fn filled_cells(
    options: &CleanOptions,
    plan: &FieldPlan,
    destination: &Destination,
) -> Result<Option<FilledCells>> {
    let Destination::Folder(folder) = destination else { return Ok(None) };
    let target = Target::File { path: folder.place(receipt::FILLED), if_there: IfThere::Replace };
    FilledCells::open(&target, &plan.fields, &options.rows).map(Some)
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
        id: match plan.id[..] {
            [id] => Some(plan.fields[id].as_str()),
            _ => None,
        },
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
        let rule = EntryRefusal { columns, ..options.entry_rule.clone() };
        return Ok(Destination::Book(Box::new(Book::create(&options.folder, options.force, rule)?)));
    }
    let mut names: Vec<String> =
        Outcome::ALL.iter().map(|outcome| layout.file_name(outcome.file_stem())).collect();
    names.extend([receipt::FILE_NAME.into(), receipt::KEPT.into()]);
    names.extend(options.since.is_some().then(|| receipt::CHANGES.into()));
    names.extend(options.merge.is_some().then(|| receipt::FILLED.into()));
    let folder = OutputFolder::prepare(&options.folder, options.force, replaced_outputs(options), &names)?;
    Ok(Destination::Folder(folder))
}

/// Which outputs of an earlier run are replaced.
fn replaced_outputs(options: &CleanOptions) -> EarlierOutputs {
    if options.discard_decisions { receipt::earlier_outputs } else { keep::undecided_outputs }
}

fn receipt_file(options: &CleanOptions, report: &CleanReport, folder: &OutputFolder) -> Result<OutputFile> {
    let receipt = Receipt {
        layout: receipt::LAYOUT,
        version: options.version.clone(),
        command: "clean",
        sources: report.sources.clone(),
        lists: options.lists.iter().map(ListSummary::of).collect(),
        dns_answers: options.policy.dns_answers().map(|answers| answers.hash()),
        rulebook: options.rulebook.clone(),
        columns: ReadColumns::of(&report.plan),
        counts: report.summed(),
        decisions: report.counts.decisions_by_kind(),
        since: report.since,
        merged: report.filled,
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
    if options.policy.dns_answers().is_some() {
        columns.push(Column::HostedBy);
    }
    if !options.field_rules.is_empty() {
        columns.push(Column::FieldsAtFault);
    }
    if !options.patterns.is_empty() {
        columns.extend(Column::OF_PATTERNS);
    }
    if !options.house.is_empty() {
        columns.extend(Column::OF_HOUSE);
    }
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
