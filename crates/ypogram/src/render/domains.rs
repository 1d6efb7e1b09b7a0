//! The summary of `domains`: the most frequent ones, their classes, and which are slips of others.

use ypogram_core::shown;
use ypogram_io::Target;
use ypogram_jobs::domains::{DomainRow, DomainsOptions, DomainsReport};

use crate::call::Call;
use crate::render::figures::Figure;
use crate::render::head::{Head, JudgedBy};
use crate::render::layout::Cell;
use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::summary::{Block, Summary};
use crate::render::words::{counted, number, share};

/// The domains, for people.
pub(crate) fn summary(
    report: &DomainsReport,
    options: &DomainsOptions,
    call: &Call,
    by: JudgedBy<'_>,
) -> Summary {
    let of = counted(report.records, "record", "records");
    let new = match &options.new_since {
        Some(_) => format!("{} new of ", number(report.written)),
        None => String::new(),
    };
    let mut summary = Summary::new(format!("{new}{} — {of}", counted(report.domains, "domain", "domains")));
    summary.head(Head::of_columns(&report.sources, &report.columns, &report.how, by).lines());
    summary.block(table("Domains", "the most frequent", &report.first, report.records, options));
    let mut classes: Vec<Figure> = report
        .classes
        .iter()
        .map(|(class, count)| Figure::new(*class, *count, Some(report.written), ""))
        .collect();
    classes.sort_by_key(|class| std::cmp::Reverse(class.count));
    let of_domains = format!("of {}", counted(report.written, "domain", "domains"));
    summary.block(Block::of("Classes", &of_domains, &classes));
    let mut answers: Vec<Figure> = report
        .answers
        .iter()
        .map(|(answer, count)| Figure::new(*answer, *count, Some(report.written), ""))
        .collect();
    answers.sort_by_key(|answer| std::cmp::Reverse(answer.count));
    summary.block(Block::of("What the DNS says", &of_domains, &answers));
    let slips = counted(report.slip_records, "record", "records");
    summary.block(table("Probably slips", &slips, &report.first_slips, report.records, options));
    let mut notes = Notes::default();
    notes.say_all(&report.notes);
    notes.count(
        report.without,
        "record has no address with a domain",
        "records have no address with a domain",
    );
    if options.target != Target::Nowhere {
        notes.say(format!(
            "{} written {}",
            counted(report.written, "domain", "domains"),
            place(&options.target)
        ));
    }
    summary.block(notes.block());
    summary.step(
        report.slip_records,
        "at a domain that is probably a slip:",
        &call.again("check").option("show", "finding=typing-slip"),
    );
    if options.target == Target::Nowhere {
        summary.step(
            report.written,
            "domains, as a table:",
            &call.again("domains").option("output", "domains.csv"),
        );
    }
    summary
}

fn table(title: &str, remark: &str, rows: &[DomainRow], records: u64, options: &DomainsOptions) -> Block {
    let row = |row: &DomainRow| {
        let slip = if row.slip_of.is_empty() { String::new() } else { format!("slip of {}?", row.slip_of) };
        let mut cells = vec![
            Cell::flexible(shown(row.domain.as_bytes())),
            Cell::right(number(row.count)),
            Cell::right(share(row.count, records)),
            Cell::text(row.class),
            Cell::flexible(row.operator.to_owned()).spare(),
            Cell::flexible(slip),
        ];
        if let Some(dns) = &row.dns {
            cells.push(Cell::text(dns.answer));
            cells.push(Cell::flexible(dns.hosted_by.clone()).spare());
        }
        if let (Some((first, last)), Some(_)) = (&row.seen, &options.date) {
            cells.push(Cell::flexible(format!("{} – {}", shown(first.as_bytes()), shown(last.as_bytes()))));
        }
        cells
    };
    Block::of_rows(title, remark, rows.iter().map(row).collect())
}
