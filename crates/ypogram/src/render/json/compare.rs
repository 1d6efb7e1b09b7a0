//! The summary of `compare`.

use serde::Serialize;
use ypogram_jobs::compare::CompareReport;
use ypogram_jobs::{OutputReport, ReadColumns, SourceReport};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct More<'a> {
    known_sources: &'a [SourceReport],
    known_columns: Option<ReadColumns>,
    outputs: &'a [OutputReport],
}

/// The summary of `compare`.
pub(crate) fn compare(report: &CompareReport) -> String {
    Summary::of("compare", &report.sources, &report.counts).with_columns(ReadColumns::of(&report.plan)).text(
        More {
            known_sources: &report.known_sources,
            known_columns: report.known_plan.as_ref().map(ReadColumns::of),
            outputs: &report.outputs,
        },
    )
}
