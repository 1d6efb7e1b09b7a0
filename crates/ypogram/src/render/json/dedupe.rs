//! The summary of `dedupe`.

use serde::Serialize;
use ypogram_jobs::dedupe::{DedupeReport, Group, RuleFigures, Twins};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct More<'a> {
    rule: &'a str,
    rules: &'a [RuleFigures],
    largest: &'a [Group],
    twins: &'a [Twins],
}

/// The summary of `dedupe`.
pub(crate) fn dedupe(report: &DedupeReport) -> String {
    Summary::of("dedupe", &report.sources, report.summed())
        .with_columns(report.columns.clone())
        .with_notes(&report.notes)
        .text(More {
            rule: report.rule,
            rules: &report.rules,
            largest: &report.largest,
            twins: &report.twins,
        })
}
