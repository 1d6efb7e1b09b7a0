//! Every record annotated with what was found of its address, in order.

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::sync::Arc;

use serde::Serialize;
use tempfile::TempDir;
use ypogram_core::{Class, Code, Form, Hasher, Policy, Repair, Severity};
use ypogram_io::{
    ColumnType, EncodedRows, Filled, OpenOptions, Opening, Output, Projection, Result, RowOutput, RowSpec,
    Target, temporary_folder,
};

use crate::decisions::Memory;
use crate::engine::line_count::LineCount;
use crate::engine::pipeline::{self, Flow};
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::engine::same_as_before::same_as_before;
use crate::jobs::checked_fields::{self, Beforehand};
use crate::judge::annotate::{Annotator, Judging, Part, RowPlan, Wanted};
use crate::judge::conditions::Conditions;
use crate::judge::house_clashes::HouseClashes;
use crate::judge::rule_counts::RuleCounts;
use crate::judge::selection::Selection;
use crate::judge::tally::{Tally, Usable, by_verdict, named};
use crate::lists::{AppendedColumn, lists_of};
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::date_order::settle_sorting;
use crate::plan::field_rules::FieldRule;
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::house::{HouseFormats, HousePlan};
use crate::plan::house_pattern::HousePattern;
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;
use crate::plan::split::{SplitPlan, SplitWanted};

/// What `check` is asked to do.
#[derive(Debug)]
pub struct CheckOptions {
    /// The files to read one after the other; `-` is standard input.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge.
    pub policy: Policy,
    /// Where the records go.
    pub target: Target,
    /// Write just `input,true|false` for each record.
    pub plain: bool,
    /// Patterns of which one should fit.
    pub patterns: Vec<HousePattern>,
    /// What is asked of other fields.
    pub field_rules: Vec<FieldRule>,
    /// The house's own address formats.
    pub house: HouseFormats,
    /// Which usable records are wanted; the others are marked.
    pub selection: Selection,
    /// The columns that lists append.
    pub from_lists: Vec<AppendedColumn>,
    /// Write only the records that meet these, with their lines.
    pub show: Option<Conditions>,
    /// The columns to append.
    pub added: Added,
    /// The columns of the source itself, a table on a server, that are filled with what those of their names say; nothing else is
    /// written then. Empty where it is not so.
    pub fill: Vec<String>,
    /// How the rows are arranged.
    pub rows: RowSpec,
    /// What the names of added columns start with.
    pub prefix: String,
    /// Decisions of earlier runs, which are applied.
    pub remembered: Option<Arc<Memory>>,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}

/// The columns that are appended.
#[derive(Clone, Debug, Default)]
pub enum Added {
    /// Everything that is known of the address.
    #[default]
    Everything,
    /// Only where the record stands.
    Place,
    /// What the cell in this field holds.
    KindOf(String),
    /// The parts of the address, and what other values are cut into.
    Parts(SplitWanted),
}

/// What `check` reports.
#[derive(Clone, Debug)]
pub struct CheckReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// The hash of the answers of the domain name system, where it was asked.
    pub dns_answers: Option<String>,
    /// The fields that were looked at.
    pub plan: FieldPlan,
    /// Records read.
    pub records: u64,
    /// Lines without anything in them.
    pub blank_lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub formula_cells: u64,
    /// Records without an address.
    pub no_address: u64,
    /// Records that were written.
    pub written: u64,
    /// What filling columns of the source came to, where that was asked for.
    pub filled: Option<Filled>,
    /// Records about which a decision of an earlier run was applied.
    pub from_memory: u64,
    /// What was found in them.
    pub tally: Tally,
    /// Which usable records were wanted.
    pub selection: Selection,
    /// How much each code weighs in this job.
    pub severities: Vec<Severity>,
    /// What else is to be known.
    pub notes: Vec<String>,
}

/// The counts under their names, as `--json` gives them.
#[derive(Clone, Debug, Serialize)]
pub struct CheckSummed {
    records: u64,
    blank_lines: u64,
    formula_cells: u64,
    written: u64,
    no_address: u64,
    outcomes: BTreeMap<&'static str, u64>,
    usable: Usable,
    verdicts: BTreeMap<&'static str, u64>,
    findings: BTreeMap<&'static str, u64>,
    repairs: BTreeMap<&'static str, u64>,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    set_aside: BTreeMap<String, u64>,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    filled: BTreeMap<&'static str, u64>,
    forms: BTreeMap<&'static str, u64>,
    classes: BTreeMap<&'static str, u64>,
    #[serde(flatten)]
    by_rule: RuleCounts,
    further_addresses: u64,
    at_sign_left: u64,
    reachable: BTreeMap<String, u64>,
    short_records: u64,
    long_records: u64,
    records_not_utf8: u64,
}

/// Annotates the sources' records.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or the output cannot be written. Nothing then stands
/// under the name of an output file.
pub fn run(mut options: CheckOptions, progress: &Progress) -> Result<CheckReport> {
    let temporary = Arc::new(temporary_folder()?);
    options.open =
        checked_fields::open_for(&options.field_rules, &options.sources, &options.open, &temporary)?;
    let reading = Reading::open(&options.sources, &options.open)?;
    let output = ToTarget { output: None };
    let (mut report, output) = judge(options, (reading, &temporary), output, progress)?;
    if let Some(output) = output.output {
        let output = output.finish()?;
        report.filled = output.filled();
        output.finish()?;
    }
    Ok(report)
}

/// Takes the rows of a job.
pub(super) trait TakeRows: Send {
    /// Is told what comes before the first one.
    fn begin(&mut self, target: &Target, opening: &Opening, projection: &Projection) -> Result<()>;
    fn rows(&mut self, rows: &EncodedRows) -> Result<()>;
}

/// Rows on their way to the target of the job.
struct ToTarget {
    output: Option<RowOutput<Output>>,
}

impl TakeRows for ToTarget {
    fn begin(&mut self, target: &Target, opening: &Opening, projection: &Projection) -> Result<()> {
        self.output = Some(RowOutput::begin(target.open()?, opening, projection)?);
        Ok(())
    }

    fn rows(&mut self, rows: &EncodedRows) -> Result<()> {
        self.output.as_mut().expect("it was begun").write(rows)
    }
}

/// Judges what is read, and gives the rows to `output`.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or the rows cannot be taken.
pub(super) fn judge<O: TakeRows>(
    mut options: CheckOptions,
    (mut reading, temporary): (Reading, &Arc<TempDir>),
    mut output: O,
    progress: &Progress,
) -> Result<(CheckReport, O)> {
    let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
    if !options.fill.is_empty() {
        rows_to_fill_by(&mut options, &reading, &plan);
    }
    let OutputPlan { split, layout, columns, projection, notes } =
        OutputPlan::settle(&options, &mut reading, &plan)?;
    let label = match &options.added {
        Added::KindOf(field) => Some(plan.place_of(field, &reading, "--label")?),
        _ => None,
    };
    let beforehand = Beforehand {
        sources: &options.sources,
        open: &options.open,
        memory: options.rows.memory,
        temporary,
        threads: options.threads,
        progress,
        hasher: Hasher::with_key(options.hash_key),
    };
    let fields =
        checked_fields::prepare(&options.field_rules, &plan, &mut reading, &options.policy, &beforehand)?;
    let read_before = fields.read.clone();
    let wanted = Wanted {
        fields,
        patterns: options.patterns,
        house: HousePlan::settle(&options.house, &plan, &reading)?,
        show: options.show,
        label,
        selection: options.selection,
        lookups: lists_of(&options.from_lists, &options.policy.lists),
        from_lists: options.from_lists,
        split,
        row_per_address: matches!(&options.added, Added::Parts(SplitWanted { row_per_address: true, .. })),
        memory: options.remembered,
        ..Wanted::default()
    };
    let hasher = Hasher::with_key(options.hash_key);
    let rows = RowPlan {
        layout: &layout,
        columns: &columns,
        projection: &projection,
        review: None,
        by_outcome: false,
    };
    let judging = Judging { plan: &plan, policy: &options.policy, hasher };
    let workers = Annotator::for_threads(options.threads, &reading, judging, &rows, &wanted)?;
    let opening = if options.plain { Opening::default() } else { layout.writer(&projection).opening() };
    output.begin(&options.target, &opening, &projection)?;
    let mut counting = Counting {
        report: CheckReport {
            sources: Vec::new(),
            plan: plan.clone(),
            dns_answers: options.policy.dns_answers().map(|answers| answers.hash()),
            records: 0,
            blank_lines: reading.blank_lines_before(),
            formula_cells: 0,
            no_address: 0,
            from_memory: 0,
            written: 0,
            filled: None,
            tally: wanted.tally(&plan),
            selection: wanted.selection.clone(),
            notes,
            severities: Code::all().map(|code| options.policy.severity(code)).collect(),
        },
        clashes: HouseClashes::default(),
        at: LineCount::new(&reading),
    };
    let settle = |task: &Task, part: &mut Part| counting.settle(task, part);
    pipeline::run(&mut reading, workers, progress, settle, |_, part| output.rows(&part.encoded[0]))?;
    counting.report.sources = reading.reports();
    same_as_before(&read_before.unwrap_or_default(), &counting.report.sources)?;
    counting.report.tally.clashes = counting.clashes.found();
    Ok((counting.report, output))
}

impl CheckOptions {
    /// The columns that are appended to the records of one source, with their names.
    pub fn appended_columns(&self) -> Vec<(String, ColumnType)> {
        let naming = Naming { prefix: &self.prefix, from_lists: &self.from_lists };
        let columns = added_columns(self, 1).into_iter();
        columns.map(|column| (naming.name(column), column.column_type(false))).collect()
    }
}

/// Has rows be what columns of the source are filled by: its primary key, what was judged, and those columns.
fn rows_to_fill_by(options: &mut CheckOptions, reading: &Reading, plan: &FieldPlan) {
    let schema = reading.schemas().next().expect("there is one source");
    let key: Vec<String> = schema.key.iter().map(|field| schema.fields[*field].clone()).collect();
    let judged = plan.address.iter().chain(&plan.text).map(|field| &plan.fields[*field]);
    let same: Vec<String> = judged.filter(|field| !key.contains(field)).cloned().collect();
    let columns = key.into_iter().chain(same).chain(options.fill.iter().cloned());
    options.rows.columns = columns.map(|name| (name.clone(), name)).collect();
}

/// What comes out of each record, and how.
struct OutputPlan {
    split: SplitPlan,
    layout: OutputLayout,
    columns: ColumnSet,
    projection: Arc<Projection>,
    notes: Vec<String>,
}

impl OutputPlan {
    fn settle(options: &CheckOptions, reading: &mut Reading, plan: &FieldPlan) -> Result<Self> {
        let layout = OutputLayout::of(reading, plan, options.rows.format).for_target(&options.target)?;
        let split = match &options.added {
            Added::Parts(wanted) => SplitPlan::settle(wanted, plan, reading)?,
            _ => SplitPlan::default(),
        };
        let replaced = match &options.added {
            Added::Parts(SplitWanted { replace: true, .. }) => plan.address.first().copied(),
            _ => None,
        };
        let mut taken = plan.fields.clone();
        if let Some(replaced) = replaced {
            taken.remove(replaced);
        }
        let naming = Naming { prefix: &options.prefix, from_lists: &options.from_lists };
        let mut named = named_columns(options, reading.len(), &split);
        if matches!(options.added, Added::Parts(_)) {
            // What an earlier run says of the address stands there already; parts are asked for by name.
            let is_said = |column: Column| {
                matches!(column, Column::Verdict | Column::Findings) && taken.contains(&naming.name(column))
            };
            named.retain(|(column, name)| name.is_some() || !is_said(*column));
        }
        let columns = ColumnSet::named(named, naming, &taken)?;
        let mut wanted = options.rows.clone();
        let notes = settle_sorting(&mut wanted, reading, plan)?;
        if let (Some(replaced), []) = (replaced, &wanted.columns[..]) {
            wanted.columns = with_replaced(plan, replaced, &columns);
        }
        // Named before anything is left out, so that a wrong name is an error.
        let projection = layout.projection(&columns, &wanted)?;
        if options.plain {
            let layout = layout.plain();
            let projection = layout.projection(&columns, &RowSpec::default())?;
            return Ok(OutputPlan { split, layout, columns, projection, notes });
        }
        if !matches!(options.added, Added::Everything) || options.show.is_some() {
            return Ok(OutputPlan { split, layout, columns, projection, notes });
        }
        // Nothing is worked out that nobody asked for.
        let wanted = wanted.with_whole_names(&layout.names(&columns));
        let columns = columns.asked_for(&wanted);
        let projection = layout.projection(&columns, &wanted)?;
        Ok(OutputPlan { split, layout, columns, projection, notes })
    }
}

/// The columns to append, with the names that were given to them.
fn named_columns(options: &CheckOptions, sources: usize, split: &SplitPlan) -> Vec<(Column, Option<String>)> {
    let unnamed = |columns: Vec<Column>| columns.into_iter().map(|column| (column, None)).collect::<Vec<_>>();
    match &options.added {
        _ if options.plain => unnamed(vec![Column::Input, Column::WellFormed]),
        Added::Parts(wanted) => {
            let mut columns = wanted.columns(split.persons.as_ref());
            columns.extend(unnamed(place_columns(options, sources)));
            columns
        }
        _ => unnamed(added_columns(options, sources)),
    }
}

fn added_columns(options: &CheckOptions, sources: usize) -> Vec<Column> {
    let everything = [
        Column::Address,
        Column::WellFormed,
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
    let mut columns = match &options.added {
        Added::Everything => everything.to_vec(),
        Added::Place => Vec::new(),
        Added::KindOf(_) => vec![Column::Kind],
        Added::Parts(_) => unreachable!("parts are named one by one"),
    };
    if options.policy.dns_answers().is_some() && matches!(options.added, Added::Everything) {
        columns.push(Column::HostedBy);
    }
    if !options.patterns.is_empty() {
        columns.extend(Column::OF_PATTERNS);
    }
    if !options.field_rules.is_empty() && matches!(options.added, Added::Everything) {
        columns.push(Column::FieldsAtFault);
    }
    if !options.house.is_empty() && matches!(options.added, Added::Everything) {
        columns.extend(Column::OF_HOUSE);
    }
    if matches!(options.added, Added::Everything) {
        columns.extend(list_columns(&options.policy, &options.from_lists));
        if !options.selection.is_everything() {
            columns.push(Column::SetAside);
        }
    }
    columns.extend(place_columns(options, sources));
    columns
}

/// Where a record stands, where that is to be reported.
fn place_columns(options: &CheckOptions, sources: usize) -> Vec<Column> {
    let source = (sources > 1).then_some(Column::Source);
    let line = options.show.is_some().then_some(Column::Line);
    source.into_iter().chain(line).collect()
}

/// The own fields, with the added columns where `replaced` stands.
fn with_replaced(plan: &FieldPlan, replaced: usize, columns: &ColumnSet) -> Vec<(String, String)> {
    let pair = |name: String| (name.clone(), name);
    let (before, behind) = (&plan.fields[..replaced], &plan.fields[replaced + 1..]);
    let own = |fields: &[String]| fields.iter().cloned().map(pair).collect::<Vec<_>>();
    [own(before), columns.names().map(pair).collect(), own(behind)].concat()
}

/// Which lists speak of a record, and what they bring along.
pub(crate) fn list_columns(policy: &Policy, from_lists: &[AppendedColumn]) -> Vec<Column> {
    let lists = (!policy.lists.is_empty()).then_some(Column::Lists);
    lists.into_iter().chain((0..from_lists.len()).map(|place| Column::FromList(place as u16))).collect()
}

struct Counting {
    report: CheckReport,
    clashes: HouseClashes,
    at: LineCount,
}

impl Counting {
    fn settle(&mut self, task: &Task, part: &mut Part) -> Result<Flow> {
        self.at.enter(task)?;
        part.comes_behind(self.at.lines, self.report.records);
        self.clashes.take(self.report.records, &mut part.own_house, &mut part.house);
        self.report.records += part.records;
        self.report.blank_lines += part.blank_lines;
        self.report.formula_cells += part.formulas;
        self.report.written += part.rows.len() as u64;
        self.report.from_memory += part.rows.iter().filter(|row| row.decided.kind.is_some()).count() as u64;
        if let Some(tally) = &mut part.tally {
            let with_address: u64 = tally.verdicts.iter().sum();
            self.report.no_address += part.records - with_address;
            self.report.tally.take_from(tally, self.at.lines + 1);
        }
        self.at.lines += part.lines;
        Ok(Flow::GoOn)
    }
}

impl CheckReport {
    /// The counts under their names.
    pub fn summed(&self) -> CheckSummed {
        let of = |outcome: Outcome| self.tally.outcomes[outcome as usize];
        let reachable = self.plan.fields.iter().cloned().zip(self.tally.reachable.iter().copied());
        CheckSummed {
            records: self.records,
            blank_lines: self.blank_lines,
            formula_cells: self.formula_cells,
            written: self.written,
            no_address: self.no_address,
            outcomes: [
                ("accepted", of(Outcome::Kept)),
                ("review", of(Outcome::Review)),
                ("rejected", of(Outcome::Rejected)),
                ("set-aside", of(Outcome::SetAside)),
                ("no-address", self.no_address),
            ]
            .into(),
            usable: Usable::of(&self.tally),
            verdicts: by_verdict(&self.tally.verdicts),
            findings: named(Code::all().map(Code::name), &self.tally.findings),
            repairs: named(Repair::ALL.iter().map(|repair| repair.name()), &self.tally.repairs),
            set_aside: self.tally.set_aside_by_reason(&self.selection),
            filled: self.filled.map_or_else(BTreeMap::new, |filled| {
                [("changed", filled.changed), ("same", filled.same), ("changed-meanwhile", filled.moved)]
                    .into()
            }),
            forms: named(Form::ALL.iter().map(|form| form.word()), &self.tally.forms),
            classes: named(Class::all().map(Class::word), &self.tally.classes),
            by_rule: RuleCounts::of(&self.tally),
            further_addresses: self.tally.more,
            at_sign_left: self.tally.at_sign_left,
            reachable: reachable.filter(|(_, count)| *count > 0).collect(),
            short_records: self.tally.short,
            long_records: self.tally.long,
            records_not_utf8: self.tally.not_utf8,
        }
    }
}
