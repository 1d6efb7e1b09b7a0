//! The domains of a list: how often each is there, what is known of it, which is a slip of which, and when it was seen first and last.

use std::path::PathBuf;
use std::sync::{Mutex, PoisonError};

use hashbrown::HashMap;
use serde::Serialize;
use ypogram_core::names::NameOrder;
use ypogram_core::value::{self, DateOrder, Value};
use ypogram_core::{Class, Code, Hasher, LearnedTypos, Part, Policy, examine, suggest};
use ypogram_io::{Batch, OpenOptions, Output, Result, RowSpec, Target};

use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport, Task};
use crate::engine::side_table::SideTable;
use crate::judge::select_address::AddressSelector;
use crate::plan::date_order;
use crate::plan::fields::{FieldChoice, FieldPlan};

/// What is asked for.
#[derive(Debug)]
pub struct DomainsOptions {
    /// The files to read one after the other.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge.
    pub policy: Policy,
    /// The field with a date, which tells when a domain was seen first and last.
    pub date: Option<String>,
    /// Only domains that this list does not have.
    pub new_since: Option<PathBuf>,
    /// Where the table goes.
    pub target: Target,
    /// How its rows are arranged.
    pub rows: RowSpec,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}

/// A domain and what is known of it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct DomainRow {
    /// Itself, in lower-case A-labels.
    pub domain: String,
    /// Records with an address there.
    pub count: u64,
    /// Its class; empty where it is unusable.
    pub class: &'static str,
    /// Who runs it.
    pub operator: &'static str,
    /// The public suffix and one label more.
    pub registrable: String,
    /// The domain that it is probably a slip of.
    pub slip_of: String,
    /// The first and the last date at which it was seen, as they stand there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seen: Option<(String, String)>,
}

/// What came of it.
#[derive(Clone, Debug, Default, Serialize)]
pub struct DomainsReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// Records read, and those that have no address with a domain.
    pub records: u64,
    /// Records without a domain.
    pub without: u64,
    /// Distinct domains.
    pub domains: u64,
    /// Domains that are in the table: those that the other list does not have, where there is one.
    pub written: u64,
    /// Domains that are probably slips of others, and their records.
    pub slips: u64,
    /// Their records.
    pub slip_records: u64,
    /// Domains by class.
    pub classes: std::collections::BTreeMap<&'static str, u64>,
    /// The first of the table.
    pub first: Vec<DomainRow>,
    /// The most frequent slips.
    pub first_slips: Vec<DomainRow>,
    /// What is to be known of the dates.
    pub notes: Vec<String>,
}

/// As many are kept for people.
const SHOWN: usize = 20;

/// What is gathered of a domain.
#[derive(Clone, Debug, Default)]
struct Gathered {
    count: u64,
    /// Order and text of the first and the last date.
    first: Option<(u64, Box<str>)>,
    last: Option<(u64, Box<str>)>,
}

type Counts = HashMap<Vec<u8>, Gathered>;

impl Gathered {
    fn see(&mut self, count: u64, date: Option<(u64, &str)>) {
        self.count += count;
        let Some((order, text)) = date else { return };
        if self.first.as_ref().is_none_or(|(first, _)| order < *first) {
            self.first = Some((order, text.into()));
        }
        if self.last.as_ref().is_none_or(|(last, _)| order > *last) {
            self.last = Some((order, text.into()));
        }
    }

    fn merge(&mut self, other: Gathered) {
        self.count += other.count;
        for (order, text) in other.first.iter().chain(&other.last) {
            self.see(0, Some((*order, text)));
        }
    }
}

/// Counts the domains of the sources and writes them as a table, the most frequent first.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or the output cannot be written.
pub fn run(options: &DomainsOptions, progress: &Progress) -> Result<DomainsReport> {
    let mut report = DomainsReport::default();
    let known = match &options.new_since {
        Some(other) => {
            Some(gather(options, std::slice::from_ref(other), None, progress, &mut DomainsReport::default())?)
        }
        None => None,
    };
    let counts = gather(options, &options.sources, options.date.as_deref(), progress, &mut report)?;
    let learned =
        LearnedTypos::from_counts(counts.iter().map(|(domain, gathered)| (&domain[..], gathered.count)));
    let mut rows: Vec<DomainRow> =
        counts.iter().map(|(domain, gathered)| row(domain, gathered, &learned, options)).collect();
    rows.sort_unstable_by(|a, b| b.count.cmp(&a.count).then_with(|| a.domain.cmp(&b.domain)));
    report.domains = rows.len() as u64;
    if let Some(known) = known {
        rows.retain(|row| !known.contains_key(row.domain.as_bytes()));
    }
    report.written = rows.len() as u64;
    for row in &rows {
        let class = if row.class.is_empty() { "unusable" } else { row.class };
        *report.classes.entry(class).or_default() += 1;
        if !row.slip_of.is_empty() {
            report.slips += 1;
            report.slip_records += row.count;
            report.first_slips.extend((report.first_slips.len() < SHOWN).then(|| row.clone()));
        }
    }
    write(&rows, options)?.finish()?;
    rows.truncate(SHOWN);
    report.first = rows;
    Ok(report)
}

/// Counts the domains of `sources`.
fn gather(
    options: &DomainsOptions,
    sources: &[PathBuf],
    date: Option<&str>,
    progress: &Progress,
    report: &mut DomainsReport,
) -> Result<Counts> {
    let is_main = sources == options.sources;
    let mut reading = Reading::open(sources, &options.open)?;
    // The other list need not have the same fields.
    let fields = if is_main { options.fields.clone() } else { FieldChoice::default() };
    let plan = FieldPlan::settle(&mut reading, &fields, &options.policy)?;
    let date = date.map(|name| plan.place_of(name, &reading, "--date")).transpose()?;
    let orders = match date {
        Some(field) => {
            let evidence = date_order::evidence(&mut reading, &plan, field)?;
            report.notes.extend(date_order::together(&evidence).note(&plan.fields[field]));
            evidence.into_iter().map(|evidence| evidence.order()).collect()
        }
        None => Vec::new(),
    };
    // The other list may be a table that this job wrote.
    let is_table = !is_main && plan.fields.iter().any(|field| field == "slip_of");
    let of_table = plan.fields.iter().position(|field| field == "domain").filter(|_| is_table);
    let counts: Mutex<Counts> = Mutex::default();
    let workers: Vec<_> = (0..options.threads.max(1))
        .map(|_| {
            let mut selector =
                AddressSelector::new(&plan, &options.policy, Hasher::with_key(options.hash_key));
            let mut decoders = reading.decoders();
            let (mut batch, counts, orders, plan) = (Batch::default(), &counts, &orders, &plan);
            move |task: &mut Task, records: &mut [u64; 2]| {
                batch.clear();
                decoders[task.source].decode(&task.chunk, &mut batch)?;
                *records = [batch.len() as u64, 0];
                let (mut cells, mut candidates) = (Vec::new(), Vec::new());
                let mut seen = Counts::new();
                selector.faulty.clear();
                for record in batch.records(&task.chunk) {
                    if let Some(field) = of_table {
                        let domain = plan.cell(record, field).unwrap_or_default().to_ascii_lowercase();
                        seen.entry(domain).or_default();
                        continue;
                    }
                    let selected = selector.pick_caught(record, &mut cells, &mut candidates);
                    if !selected.is_some_and(|selected| selected.judged.has_standard_form) {
                        records[1] += 1;
                        continue;
                    }
                    let cell = date.and_then(|field| plan.cell(record, field)).unwrap_or_default();
                    let order = orders.get(task.source).and_then(|order| moment(cell, *order));
                    let text = String::from_utf8_lossy(cell.trim_ascii());
                    let date = order.map(|order| (order, &*text));
                    seen.entry_ref(selector.judge.domain()).or_default().see(1, date);
                }
                let mut counts = counts.lock().unwrap_or_else(PoisonError::into_inner);
                for (domain, gathered) in seen {
                    counts.entry(domain).or_default().merge(gathered);
                }
                Ok(())
            }
        })
        .collect();
    pipeline::run_in_order(&mut reading, workers, progress, |_, [records, without]: &mut [u64; 2]| {
        report.records += *records;
        report.without += *without;
        Ok(())
    })?;
    report.sources = reading.reports();
    Ok(counts.into_inner().unwrap_or_else(PoisonError::into_inner))
}

/// The order of a date; none where the cell is none.
fn moment(cell: &[u8], order: DateOrder) -> Option<u64> {
    match value::read_in(cell, order)? {
        value @ Value::Moment(_) => Some(value.order()),
        Value::Number(_) => None,
    }
}

fn row(domain: &[u8], gathered: &Gathered, learned: &LearnedTypos, options: &DomainsOptions) -> DomainRow {
    let policy = &options.policy;
    // Whatever has a domain has one address there at least.
    let address = [b"night.owl@", domain].concat();
    let examined = examine(&address, policy);
    let registrable = examined.parts(policy).map(|parts| parts.text(Part::Registrable, NameOrder::default()));
    let slip_of = learned.meant(domain).map(str::to_owned).or_else(|| {
        let is_slip = examined.codes.contains(Code::TypingSlip);
        let meant = is_slip.then(|| suggest(&address, examined.codes, policy)).flatten()?;
        meant.address.rsplit_once('@').map(|(_, domain)| domain.to_owned())
    });
    let text =
        |date: &Option<(u64, Box<str>)>| date.as_ref().map(|(_, text)| text.to_string()).unwrap_or_default();
    DomainRow {
        domain: String::from_utf8_lossy(domain).into_owned(),
        count: gathered.count,
        class: examined.class.map_or("", Class::word),
        operator: examined.operator.name(),
        registrable: registrable.unwrap_or_default(),
        slip_of: slip_of.unwrap_or_default(),
        seen: options.date.as_ref().map(|_| (text(&gathered.first), text(&gathered.last))),
    }
}

fn write(rows: &[DomainRow], options: &DomainsOptions) -> Result<Output> {
    let dates: &[&str] = if options.date.is_some() { &["first", "last"] } else { &[] };
    let columns = [&["domain", "count", "class", "operator", "registrable", "slip_of"], dates].concat();
    let mut table = SideTable::open(&options.target, &columns, &["count"], &options.rows)?;
    for row in rows {
        let count = row.count.to_string();
        let cells = [&*row.domain, &count, row.class, row.operator, &row.registrable, &row.slip_of];
        let dates = row.seen.iter().flat_map(|(first, last)| [&**first, &**last]);
        table.add(cells.into_iter().chain(dates))?;
    }
    table.finish()
}
