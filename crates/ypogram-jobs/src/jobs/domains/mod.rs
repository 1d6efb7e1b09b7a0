//! The domains of a list: how often each is there, what is known of it, which is a slip of which, and when it was seen first and last.

mod gathered;
mod options;
mod report;

use ypogram_core::names::NameOrder;
use ypogram_core::{Class, Code, LearnedTypos, Part, examine, suggest};
use ypogram_io::{Output, Result};

use crate::engine::progress::Progress;
use crate::engine::side_table::SideTable;
use crate::jobs::dns::Answers;
use gathered::Gathered;
pub use options::DomainsOptions;
pub use report::{DnsCells, DomainRow, DomainsReport};

/// As many are kept for people.
const SHOWN: usize = 20;

/// Counts the domains of the sources and writes them as a table, the most frequent first.
///
/// # Errors
/// Where a source is unusable or breaks off, a field does not exist, or the output cannot be written.
pub fn run(options: &DomainsOptions, progress: &Progress) -> Result<DomainsReport> {
    let mut report = DomainsReport::default();
    let known = match &options.new_since {
        Some(other) => Some(gathered::of_other(options, other, progress)?),
        None => None,
    };
    let counts = gathered::of_sources(options, progress, &mut report)?;
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
        if let Some(dns) = &row.dns {
            *report.answers.entry(dns.answer).or_default() += 1;
        }
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
    // A name with a fault is not asked about.
    let asked = options.dns.as_ref().filter(|_| examined.class.is_some());
    DomainRow {
        domain: String::from_utf8_lossy(domain).into_owned(),
        count: gathered.count,
        class: examined.class.map_or("", Class::word),
        operator: examined.operator.name(),
        registrable: registrable.unwrap_or_default(),
        slip_of: slip_of.unwrap_or_default(),
        dns: asked.and_then(|answers| dns_cells(domain, answers)),
        seen: options.date.as_ref().map(|_| (text(&gathered.first), text(&gathered.last))),
    }
}

fn dns_cells(domain: &[u8], answers: &Answers) -> Option<DnsCells> {
    let (answer, hosted_by) = answers.answer(&String::from_utf8_lossy(domain))?;
    let asked = answer.asked.strftime("%Y-%m-%dT%H:%M:%SZ").to_string();
    Some(DnsCells { answer: answer.kind.word(), hosted_by, asked })
}

fn write(rows: &[DomainRow], options: &DomainsOptions) -> Result<Output> {
    let dates: &[&str] = if options.date.is_some() { &["first", "last"] } else { &[] };
    let dns: &[&str] = if options.dns.is_some() { &["dns", "hosted_by", "asked"] } else { &[] };
    let columns = [&["domain", "count", "class", "operator", "registrable", "slip_of"], dns, dates].concat();
    let mut table = SideTable::open(&options.target, &columns, &["count"], &options.rows)?;
    for row in rows {
        let count = row.count.to_string();
        let cells = [&*row.domain, &count, row.class, row.operator, &row.registrable, &row.slip_of];
        let dates = row.seen.iter().flat_map(|(first, last)| [&**first, &**last]);
        let answer = row.dns.as_ref().map_or(["", "", ""], |dns| [dns.answer, &dns.hosted_by, &dns.asked]);
        table.add(cells.into_iter().chain(answer.into_iter().take(dns.len())).chain(dates))?;
    }
    table.finish()
}
