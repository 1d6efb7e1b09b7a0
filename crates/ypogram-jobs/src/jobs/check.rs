//! Every record annotated with what was found of its address, in order.

use std::collections::BTreeMap;
use std::path::PathBuf;

use serde::Serialize;
use ypogram_core::{Class, Code, Form, Hasher, Policy, Repair, Severity, Verdict};
use ypogram_tables::csv::{Arranged, Arrangement};
use ypogram_tables::{Encode, OpenOptions, Result, Target};

use crate::engine::line_count::LineCount;
use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::judge::annotate::{Annotator, Part, Wanted};
use crate::judge::conditions::Conditions;
use crate::judge::selection::Selection;
use crate::judge::tally::{Tally, Usable, named};
use crate::lists::AppendedColumn;
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::date_order::settle_sorting;
use crate::plan::fields::{FieldChoice, FieldPlan};
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
    /// Which usable records are wanted; the others are marked.
    pub selection: Selection,
    /// The columns that lists append.
    pub from_lists: Vec<AppendedColumn>,
    /// Write only the records that meet these, with their lines.
    pub show: Option<Conditions>,
    /// The columns to append.
    pub added: Added,
    /// How the rows are arranged.
    pub arrangement: Arrangement,
    /// What the names of added columns start with.
    pub prefix: String,
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

/// What `check` has to tell.
#[derive(Clone, Debug)]
pub struct CheckReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
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
    /// What was met in them.
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
    forms: BTreeMap<&'static str, u64>,
    classes: BTreeMap<&'static str, u64>,
    further_addresses: u64,
    reachable: BTreeMap<String, u64>,
}

/// Annotates the sources' records.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or the output cannot be written. Nothing then stands
/// under the name of an output file.
pub fn run(options: CheckOptions, progress: &Progress) -> Result<CheckReport> {
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
    let OutputPlan { split, layout, columns, arranged, notes } =
        OutputPlan::settle(&options, &mut reading, &plan)?;
    let label = match &options.added {
        Added::KindOf(field) => Some(plan.place_of(field, &reading, "--label")?),
        _ => None,
    };
    let wanted = Wanted {
        patterns: options.patterns,
        show: options.show,
        label,
        selection: options.selection,
        from_lists: options.from_lists,
        split,
        row_per_address: matches!(&options.added, Added::Parts(SplitWanted { row_per_address: true, .. })),
        duplicates: false,
        persons: None,
    };
    let hasher = Hasher::with_key(options.hash_key);
    let workers: Vec<_> = (0..options.threads.max(1))
        .map(|_| {
            let mut worker =
                Annotator::new(&reading, &plan, &options.policy, hasher, &layout, &columns, &wanted)?;
            worker.answer_plainly_if(options.plain);
            Ok(move |task: &mut Task, part: &mut Part| worker.work(task, part))
        })
        .collect::<Result<_>>()?;
    let mut output = options.target.open()?;
    if !options.plain {
        output.write(&layout.header(&columns, arranged.as_ref()))?;
        output.arrange(arranged);
    }
    let mut committer = Committer {
        report: CheckReport {
            sources: Vec::new(),
            plan: plan.clone(),
            records: 0,
            blank_lines: reading.blank_lines_before(),
            formula_cells: 0,
            no_address: 0,
            written: 0,
            tally: wanted.tally(&plan),
            selection: wanted.selection.clone(),
            notes,
            severities: Code::all().map(|code| options.policy.severity(code)).collect(),
        },
        with_lines: wanted.show.is_some() && !options.plain,
        encoder: layout.encoders[0].clone().continuing(),
        at: LineCount::new(&reading),
        scratch: Vec::new(),
    };
    pipeline::run(&mut reading, workers, progress, |task, part| {
        committer.commit(task, part)?;
        output.write(if committer.with_lines { &committer.scratch } else { &part.bytes })
    })?;
    output.finish()?;
    committer.report.sources = reading.reports();
    Ok(committer.report)
}

/// What comes out of each record, and how.
struct OutputPlan {
    split: SplitPlan,
    layout: OutputLayout,
    columns: ColumnSet,
    /// How rows are arranged once they are written, where that is not done at once.
    arranged: Option<Arranged>,
    notes: Vec<String>,
}

impl OutputPlan {
    fn settle(options: &CheckOptions, reading: &mut Reading, plan: &FieldPlan) -> Result<Self> {
        let layout = OutputLayout::of(reading, plan);
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
        let columns = ColumnSet::named(named_columns(options, reading.len(), &split), naming, &taken)?;
        let mut arrangement = options.arrangement.clone();
        let notes = settle_sorting(&mut arrangement, reading, plan)?;
        if let (Some(replaced), []) = (replaced, &arrangement.columns[..]) {
            arrangement.columns = with_replaced(plan, replaced, &columns);
        }
        let arranged = layout.arranged(&columns, &arrangement)?;
        let whole = OutputPlan { split, layout, columns, arranged, notes };
        if matches!(options.added, Added::Everything) && options.show.is_none() {
            let all_text = reading.schemas().all(|schema| schema.is_text);
            return whole.with_what_is_asked_for(&arrangement, plan, all_text);
        }
        Ok(whole)
    }

    /// The same, with nothing worked out that nobody asked for; rows are written so at once where that is all there is to arrange.
    fn with_what_is_asked_for(
        self,
        arrangement: &Arrangement,
        plan: &FieldPlan,
        all_text: bool,
    ) -> Result<Self> {
        let columns = self.columns.asked_for(arrangement);
        let only = columns.arranged_behind(&[], arrangement).filter(|only| only.iter().count() > 0);
        if let Some(columns) = only {
            return Ok(OutputPlan {
                layout: self.layout.without_own_fields(),
                columns,
                arranged: None,
                ..self
            });
        }
        if let Some(columns) = columns.arranged_behind(&plan.fields, arrangement).filter(|_| all_text) {
            return Ok(OutputPlan { columns, arranged: None, ..self });
        }
        let arranged = self.layout.arranged(&columns, arrangement)?;
        Ok(OutputPlan { columns, arranged, ..self })
    }
}

/// The columns to append, with the names that were given to them.
fn named_columns(options: &CheckOptions, sources: usize, split: &SplitPlan) -> Vec<(Column, Option<String>)> {
    let unnamed = |columns: Vec<Column>| columns.into_iter().map(|column| (column, None)).collect::<Vec<_>>();
    match &options.added {
        _ if options.plain => Vec::new(),
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
    if !options.patterns.is_empty() {
        columns.push(Column::Pattern);
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

/// Where a record stands, where that is to be told.
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

struct Committer {
    report: CheckReport,
    with_lines: bool,
    encoder: ypogram_tables::csv::CsvEncoder,
    at: LineCount,
    /// The part's records with their lines, where these are wanted.
    scratch: Vec<u8>,
}

impl Committer {
    fn commit(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        self.at.enter(task)?;
        self.report.records += part.records;
        self.report.blank_lines += part.blank_lines;
        self.report.formula_cells += part.formulas;
        self.report.written += part.written;
        if let Some(tally) = &mut part.tally {
            let with_address: u64 = tally.verdicts.iter().sum();
            self.report.no_address += part.records - with_address;
            self.report.tally.take_from(tally, self.at.lines + 1);
        }
        if self.with_lines {
            self.add_lines(part);
        }
        self.at.lines += part.lines;
        Ok(())
    }

    fn add_lines(&mut self, part: &Part) {
        self.scratch.clear();
        let mut start = 0;
        for row in &part.rows {
            self.scratch.extend_from_slice(&part.bytes[start..row.split as usize]);
            let line = (self.at.lines + u64::from(row.line) + 1).to_string();
            self.encoder.cell(line.as_bytes(), &mut self.scratch);
            self.scratch.extend_from_slice(&part.bytes[row.split as usize..row.end as usize]);
            start = row.end as usize;
        }
    }
}

impl CheckReport {
    /// The counts under their names.
    pub fn summed(&self) -> CheckSummed {
        let verdicts = [Verdict::Accept, Verdict::Review, Verdict::Reject];
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
            verdicts: verdicts
                .map(Verdict::word)
                .into_iter()
                .zip(self.tally.verdicts.iter().copied())
                .collect(),
            findings: named(Code::all().map(Code::name), &self.tally.findings),
            repairs: named(Repair::ALL.iter().map(|repair| repair.name()), &self.tally.repairs),
            set_aside: self.tally.set_aside_by_reason(&self.selection),
            forms: named(Form::ALL.iter().map(|form| form.word()), &self.tally.forms),
            classes: named(Class::all().map(Class::word), &self.tally.classes),
            further_addresses: self.tally.more,
            reachable: reachable.filter(|(_, count)| *count > 0).collect(),
        }
    }
}
