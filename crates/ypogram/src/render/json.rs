//! Summaries for programs. The layout is in `docs/json.md`.

use serde::Serialize;
use ypogram_jobs::clean::CleanReport;

/// The summary of `clean`.
pub(crate) fn clean(report: &CleanReport) -> String {
    #[derive(Serialize)]
    struct Summary<'a, C> {
        layout: u32,
        job: &'static str,
        folder: String,
        sources: &'a [ypogram_jobs::SourceReport],
        address_fields: Vec<&'a str>,
        text_fields: Vec<&'a str>,
        counts: C,
        outputs: &'a [ypogram_jobs::OutputReport],
    }
    lines(&Summary {
        layout: 1,
        job: "clean",
        folder: report.folder.display().to_string(),
        sources: &report.sources,
        address_fields: report.plan.address_names(),
        text_fields: report.plan.text_names(),
        counts: report.summed(),
        outputs: &report.outputs,
    })
}

fn lines(value: &impl Serialize) -> String {
    serde_json::to_string_pretty(value).expect("plain data") + "\n"
}
