//! What is gathered of each domain while the records are read.

use std::path::Path;
use std::sync::{Mutex, PoisonError};

use hashbrown::HashMap;
use ypogram_core::Hasher;
use ypogram_core::value::{self, DateOrder, Value};
use ypogram_io::{Batch, Result};

use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::jobs::domains::options::DomainsOptions;
use crate::jobs::domains::report::DomainsReport;
use crate::judge::select_address::AddressSelector;
use crate::plan::date_order;
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::read_columns::ReadColumns;

/// What is gathered of a domain.
#[derive(Clone, Debug, Default)]
pub(super) struct Gathered {
    pub(super) count: u64,
    /// Order and text of the first and the last date; of equal dates the text that sorts first.
    pub(super) first: Option<(u64, Box<str>)>,
    pub(super) last: Option<(u64, Box<str>)>,
}

pub(super) type Counts = HashMap<Vec<u8>, Gathered>;

impl Gathered {
    fn see(&mut self, count: u64, date: Option<(u64, &str)>) {
        self.count += count;
        let Some((order, text)) = date else { return };
        if self.first.as_ref().is_none_or(|(first, known)| (order, text) < (*first, &**known)) {
            self.first = Some((order, text.into()));
        }
        if self.last.as_ref().is_none_or(|(last, known)| order > *last || order == *last && *text < **known) {
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

/// Counts the domains of the sources.
pub(super) fn of_sources(
    options: &DomainsOptions,
    progress: &Progress,
    report: &mut DomainsReport,
) -> Result<Counts> {
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
    (report.columns, report.how) = (ReadColumns::of(&plan), plan.how.clone());
    let date = options.date.as_ref().map(|name| plan.place_of(name, &reading, "--date")).transpose()?;
    let orders = match date {
        Some(field) => {
            let evidence = date_order::evidence(&mut reading, &plan, field)?;
            report.notes.extend(date_order::together(&evidence).note(&plan.fields[field]));
            evidence.into_iter().map(|evidence| evidence.order()).collect()
        }
        None => Vec::new(),
    };
    let wanted = Wanted { date, orders, domain: None };
    gather(options, reading, &plan, &wanted, progress, report)
}

/// The domains of another list, which need not have the same fields, and may be a table that this job wrote.
pub(super) fn of_other(options: &DomainsOptions, other: &Path, progress: &Progress) -> Result<Counts> {
    let mut reading = Reading::open(&[other.to_path_buf()], &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &FieldChoice::default(), &options.policy)?;
    let place = |name: &str| plan.fields.iter().position(|field| field == name);
    let wanted =
        Wanted { date: None, orders: Vec::new(), domain: place("slip_of").and_then(|_| place("domain")) };
    gather(options, reading, &plan, &wanted, progress, &mut DomainsReport::default())
}

/// Where what is gathered stands in a record.
struct Wanted {
    /// The field with a date.
    date: Option<usize>,
    /// The order of day, month and year in it, by source.
    orders: Vec<DateOrder>,
    /// The field with the domain itself.
    domain: Option<usize>,
}

fn gather(
    options: &DomainsOptions,
    mut reading: Reading,
    plan: &FieldPlan,
    wanted: &Wanted,
    progress: &Progress,
    report: &mut DomainsReport,
) -> Result<Counts> {
    let counts: Mutex<Counts> = Mutex::default();
    let workers: Vec<_> = (0..options.threads.max(1))
        .map(|_| {
            let mut selector =
                AddressSelector::new(plan, &options.policy, Hasher::with_key(options.hash_key));
            let mut decoders = reading.decoders();
            let (mut batch, counts) = (Batch::default(), &counts);
            move |task: &mut Task, records: &mut [u64; 2]| {
                batch.clear();
                decoders[task.source].decode(&task.chunk, &mut batch)?;
                *records = [batch.len() as u64, 0];
                let (mut cells, mut candidates) = (Vec::new(), Vec::new());
                let mut seen = Counts::new();
                selector.faulty.clear();
                for record in batch.records(&task.chunk) {
                    if let Some(field) = wanted.domain {
                        let domain = plan.cell(record, field).unwrap_or_default().to_ascii_lowercase();
                        seen.entry(domain).or_default();
                        continue;
                    }
                    let selected = selector.pick_caught(record, &mut cells, &mut candidates);
                    if !selected.is_some_and(|selected| selected.judged.has_standard_form) {
                        records[1] += 1;
                        continue;
                    }
                    let cell = wanted.date.and_then(|field| plan.cell(record, field)).unwrap_or_default();
                    let order = wanted.orders.get(task.source).and_then(|order| moment(cell, *order));
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
