//! Two surveys side by side: what was before, what is now, and the difference.

use std::collections::BTreeMap;

use ypogram_core::{Verdict, shown};
use ypogram_jobs::survey::SurveyReport;

use crate::render::layout::Cell;
use crate::render::summary::{Block, Summary};
use crate::render::survey::answer;
use crate::render::words::{counted, number, share};

/// Both surveys, with the differences.
pub(crate) fn summary(now: &SurveyReport, before: &SurveyReport) -> Summary {
    let names = |report: &SurveyReport| {
        report.sources.iter().map(|source| shown(source.name.as_bytes())).collect::<Vec<_>>().join(", ")
    };
    let usable = number(before.counts.usable.total);
    let earlier = counted(before.counts.records, "record", "records");
    let mut summary = Summary::new(format!("{}; before: {usable} usable of {earlier}", answer(now)));
    summary.head(vec![format!("before: {}", names(before)), format!("now:    {}", names(now))]);
    for (rank, (title, figures)) in sections().into_iter().enumerate() {
        let (before, now) = (figures(before), figures(now));
        let mut order: Vec<&String> = now.iter().map(|(name, _)| name).collect();
        order.extend(before.iter().map(|(name, _)| name));
        let (before, now): (BTreeMap<_, _>, BTreeMap<_, _>) =
            (before.iter().cloned().collect(), now.iter().cloned().collect());
        let mut told = std::collections::HashSet::new();
        let order: Vec<&String> = order.into_iter().filter(|name| told.insert(*name)).collect();
        let block = table(title, &order, &before, &now);
        summary.block(if rank == 0 { block.whole() } else { block.rank(rank as u8) });
    }
    summary
}

type Figures = Vec<(String, u64)>;

/// A title, and the figures under it.
type Section = (&'static str, fn(&SurveyReport) -> Figures);

/// What is held against one another, in the order of an administrator's questions.
fn sections() -> [Section; 6] {
    [
        ("Records and addresses", |report| {
            let usable = &report.counts.usable;
            let figures = [
                ("records", report.counts.records),
                ("usable as it stood", usable.as_it_stood),
                ("usable after repair", usable.after_repair),
                ("usable from text fields", usable.from_text),
                ("usable", usable.total),
                ("rejected", report.counts.of(Verdict::Reject)),
                ("no-address", report.counts.no_address),
                ("mailboxes", report.counts.mailboxes),
                ("records that share a mailbox", report.same_mailbox.in_groups),
            ];
            figures.map(|(name, count)| (name.to_owned(), count)).to_vec()
        }),
        ("Verdicts", |report| report.counts.verdicts.clone().into_iter().collect()),
        ("Forms", |report| report.forms.iter().map(|form| (form.form.clone(), form.count)).collect()),
        ("Findings", |report| report.findings.iter().map(|f| (f.code.clone(), f.count)).collect()),
        ("Classes", |report| report.counts.classes.clone().into_iter().collect()),
        ("Filled cells, by field", |report| {
            report.fields.iter().map(|field| (shown(field.name.as_bytes()), field.filled)).collect()
        }),
    ]
}

fn table(
    title: &str,
    order: &[&String],
    before: &BTreeMap<String, u64>,
    now: &BTreeMap<String, u64>,
) -> Block {
    let row = |&name: &&String| {
        let was = before.get(name).copied().unwrap_or_default();
        let is = now.get(name).copied().unwrap_or_default();
        let (difference, by) = match is.cmp(&was) {
            std::cmp::Ordering::Equal => ("=".to_owned(), String::new()),
            std::cmp::Ordering::Less => (format!("−{}", number(was - is)), share(was - is, was)),
            std::cmp::Ordering::Greater => (format!("+{}", number(is - was)), share(is - was, was)),
        };
        let numbers = [number(was), number(is), difference, by].map(Cell::right);
        std::iter::once(Cell::flexible(name)).chain(numbers).collect()
    };
    let names = ["before", "now", "difference", ""].map(Cell::right);
    Block::of_rows(title, "", order.iter().map(row).collect())
        .named(std::iter::once(Cell::text("")).chain(names).collect())
}
