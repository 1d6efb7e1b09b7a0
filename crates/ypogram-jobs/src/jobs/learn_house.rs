//! The format that most addresses of each domain follow, and the records that do not.

use std::collections::HashMap;
use std::path::PathBuf;

use ypogram_core::house_format::{Fold, HouseFormat, HouseLearner};
use ypogram_core::{Hasher, Policy};
use ypogram_io::{Error, OpenOptions, Result};

use crate::engine::line_count::LineCount;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport};
use crate::judge::annotate::{Judging, Wanted};
use crate::judge::judge_all::judge_all;
use crate::judge::judged_address::JudgedAddress;
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::house::{HouseFormats, HousePlan};
use crate::plan::read_columns::ReadColumns;

/// What to learn from.
#[derive(Clone, Debug)]
pub struct LearnOptions {
    /// The files to read one after the other.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge.
    pub policy: Policy,
    /// How letters beyond a to z are written.
    pub fold: Fold,
    /// The fields with the names; their formats do not count.
    pub names: HouseFormats,
    /// Domains with fewer addresses are left out.
    pub at_least: u64,
    /// Worker threads.
    pub threads: usize,
}

/// What was learned.
#[derive(Clone, Debug)]
pub struct LearnReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// Where addresses were looked for.
    pub columns: ReadColumns,
    /// Records read.
    pub records: u64,
    /// Records with a usable address and both names.
    pub with_names: u64,
    /// By domain, the one with the most addresses first.
    pub domains: Vec<LearnedDomain>,
}

/// What was learned of a domain.
#[derive(Clone, Debug)]
pub struct LearnedDomain {
    /// The domain.
    pub domain: String,
    /// The format that most follow; empty where no two are built alike.
    pub format: String,
    /// Addresses that follow it.
    pub following: u64,
    /// Addresses of persons whose names are known.
    pub addresses: u64,
    /// The others: the line, the address and what is at fault.
    pub others: Vec<(u64, String, String)>,
}

/// Learns the formats of all domains.
///
/// # Errors
/// Where a source is unusable, a field does not exist, or there are no names.
pub fn run(options: &LearnOptions, progress: &Progress) -> Result<LearnReport> {
    let mut reading = Reading::open(&options.sources, &options.open)?;
    let plan = FieldPlan::settle(&mut reading, &options.fields, &options.policy)?;
    let house = HousePlan::of_names(&options.names, &plan, &reading)?;
    if !house.has_names() {
        return Err(Error::unusable(
            format!("{}: no field is known to hold names", reading.name(0)),
            "name them with --given FIELD and --family FIELD, or whole names with --person FIELD",
        ));
    }
    let judging = Judging { plan: &plan, policy: &options.policy, hasher: Hasher::with_key(0) };
    let wanted = Wanted { duplicates: true, ..Wanted::default() };
    let mut learner = HouseLearner::new(options.fold);
    let mut lines = LineCount::new(&reading);
    let mut records = 0;
    let mut known: HashMap<String, Vec<Known>> = HashMap::new();
    judge_all(&mut reading, judging, (&wanted, true), (options.threads, progress), |task, part| {
        lines.enter(task)?;
        let before = lines.lines + 1;
        for nth in 0..part.rows.len() {
            records += 1;
            let record = part.record(nth, &task.chunk);
            let cells = plan.address.iter().chain(&plan.text).filter_map(|field| plan.cell(record, *field));
            let usable = cells.flat_map(|cell| JudgedAddress::all_in(cell, &options.policy));
            let usable = usable.map(|(judged, _)| judged);
            let mut usable =
                usable.filter(|judged| judged.verdict.is_some_and(|verdict| verdict.is_usable()));
            let Some(address) = usable.next().and_then(|judged| judged.address) else { continue };
            let (given, family) = house.names(record, &plan);
            if !given.is_empty() && !family.is_empty() {
                learner.add(&address, &given, &family);
                let domain =
                    address.rsplit_once('@').map_or(String::new(), |(_, domain)| domain.to_lowercase());
                let line = before + record.line_in_chunk();
                known.entry(domain).or_default().push(Known { line, address, given, family });
            }
        }
        lines.lines += part.lines;
        Ok(())
    })?;
    let formats = learner.formats().into_iter().filter(|learned| learned.addresses >= options.at_least);
    let with_names = known.values().map(|known| known.len() as u64).sum();
    let domains = formats.map(|learned| {
        let known = known.remove(&learned.domain).unwrap_or_default();
        let format = HouseFormat::new(&learned.format, options.fold).ok();
        let others = known.iter().filter_map(|Known { line, address, given, family }| {
            let format = format.as_ref()?;
            let verdict = format.judge(address, &format.person(given, family, &[]));
            (!verdict.fits()).then(|| (*line, address.clone(), verdict.words()))
        });
        let others: Vec<_> = others.collect();
        let addresses = known.len() as u64;
        let following = if format.is_some() { addresses - others.len() as u64 } else { 0 };
        LearnedDomain { domain: learned.domain, format: learned.format, following, addresses, others }
    });
    Ok(LearnReport {
        columns: ReadColumns::of(&plan),
        domains: domains.collect(),
        sources: reading.reports(),
        records,
        with_names,
    })
}

/// A record of a person whose names are known.
struct Known {
    line: u64,
    address: String,
    given: String,
    family: String,
}
