//! The summary of `clean` and `settle`.

use serde::Serialize;
use ypogram_jobs::clean::{CleanReport, Since};
use ypogram_jobs::{FilledCount, OutputReport, ReadColumns};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct More<'a> {
    folder: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    since: Option<Since>,
    #[serde(skip_serializing_if = "Option::is_none")]
    merged: Option<FilledCount>,
    outputs: &'a [OutputReport],
}

/// The summary of `command`, which is `clean` or `settle`.
pub(crate) fn clean(command: &'static str, report: &CleanReport) -> String {
    Summary::of(command, &report.sources, report.summed())
        .with_columns(ReadColumns::of(&report.plan))
        .with_notes(&report.notes)
        .text(More {
            folder: report.folder.display().to_string(),
            since: report.since,
            merged: report.filled,
            outputs: &report.outputs,
        })
}
