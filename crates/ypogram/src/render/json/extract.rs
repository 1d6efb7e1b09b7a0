//! The summaries of `extract`, by address and by record.

use serde::Serialize;
use ypogram_jobs::extract::{ByRecordReport, ExtractReport};

use crate::render::json::summary::{Summary, lines};

#[derive(Serialize)]
struct More<'a> {
    remarks: &'a [String],
    unreadable: &'a [String],
    broken_off: &'a [String],
    fields_without_text: &'a [String],
}

/// The summary of `extract`.
pub(crate) fn extract(report: &ExtractReport) -> String {
    Summary::of_names("extract", report.names.iter().map(|name| &**name), report.summed()).text(More {
        remarks: &report.remarks,
        unreadable: &report.troubles,
        broken_off: &report.broken_off,
        fields_without_text: &report.fields_without_text,
    })
}

#[derive(Serialize)]
struct ByRecordCounts {
    records: u64,
    blank_lines: u64,
    formula_cells: u64,
    no_address: u64,
    hidden: u64,
    written: u64,
}

/// The summary of `extract --row-per-address`.
pub(crate) fn by_record(report: &ByRecordReport) -> String {
    let counts = ByRecordCounts {
        records: report.records,
        blank_lines: report.blank_lines,
        formula_cells: report.formula_cells,
        no_address: report.without,
        hidden: report.hidden,
        written: report.rows,
    };
    let summary = Summary::of("extract", &report.sources, counts);
    lines(&summary.with_columns(report.columns.clone()).with_notes(&report.notes))
}
