//! The summaries of `check` and `split`.

use std::collections::BTreeMap;

use serde::Serialize;
use ypogram_core::names::NameConfidence;
use ypogram_jobs::check::CheckReport;
use ypogram_jobs::split::SplitWanted;
use ypogram_jobs::{Cut, ReadColumns};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct More<'a> {
    #[serde(skip_serializing_if = "Option::is_none")]
    dns_answers: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    cuts: Option<Vec<FittedCut<'a>>>,
}

/// The summary of `check`.
pub(crate) fn check(report: &CheckReport) -> String {
    of("check", report, report.summed(), None)
}

fn of(
    command: &'static str,
    report: &CheckReport,
    counts: impl Serialize,
    cuts: Option<Vec<FittedCut<'_>>>,
) -> String {
    Summary::of(command, &report.sources, counts)
        .with_columns(ReadColumns::of(&report.plan))
        .with_notes(&report.notes)
        .text(More { dns_answers: report.dns_answers.as_deref(), cuts })
}

/// What `split` counts beside what `check` does.
#[derive(Serialize)]
struct SplitCounts<C> {
    #[serde(flatten)]
    check: C,
    rows_added: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    names: Option<BTreeMap<&'static str, u64>>,
}

#[derive(Serialize)]
struct FittedCut<'a> {
    field: &'a str,
    columns: Vec<&'a str>,
    did_not_fit: u64,
}

/// The summary of `split`.
pub(crate) fn split(report: &CheckReport, wanted: &SplitWanted) -> String {
    let tally = &report.tally;
    let names = || {
        let count = |confidence: &NameConfidence| (confidence.word(), tally.names[*confidence as usize]);
        NameConfidence::ALL.iter().map(count).collect()
    };
    let counts = SplitCounts {
        check: report.summed(),
        rows_added: tally.rows_added,
        names: wanted.wants_names().then(names),
    };
    let cuts = wanted.cuts.iter().zip(&tally.cut_misses);
    of("split", report, counts, Some(cuts.map(fitted).collect()))
}

fn fitted<'a>((cut, did_not_fit): (&'a Cut, &u64)) -> FittedCut<'a> {
    FittedCut { field: &cut.field, columns: cut.columns().collect(), did_not_fit: *did_not_fit }
}
