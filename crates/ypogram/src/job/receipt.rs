//! The account of a job: what each step read, counted and wrote. It holds no clock and no absolute path.

use serde_json::{Value, json};
use ypogram_jobs::LAYOUT;

use crate::job::run_step::StepReport;
use crate::job::step::{Source, Step};

/// The account of the job `job`.
pub(crate) fn receipt(job: &str, steps: &[Step], reports: &[StepReport]) -> Value {
    let source = |source: &Source| match source {
        Source::File(path) => json!({ "name": path.display().to_string() }),
        Source::Step(at, output) if output.is_empty() => json!({ "step": steps[*at].name }),
        Source::Step(at, output) => json!({ "step": steps[*at].name, "output": output }),
    };
    let step = |(step, report): (&Step, &StepReport)| {
        json!({
            "name": step.name,
            "command": step.command,
            "sources": step.sources.iter().map(source).collect::<Vec<_>>(),
            "options": step.options,
            "published": step.published().map(|path| path.display().to_string()).collect::<Vec<_>>(),
            "summary": report.summary,
        })
    };
    let files =
        steps.iter().flat_map(|step| &step.sources).filter(|source| matches!(source, Source::File(_)));
    // A first step that reads mail counts messages.
    let read = reports.first().map(|first| &first.summary["counts"]["records"]);
    json!({
        "layout": LAYOUT,
        "command": "run",
        "version": env!("CARGO_PKG_VERSION"),
        "job": job,
        "sources": files.map(source).collect::<Vec<_>>(),
        "counts": { "steps": steps.len(), "records": read },
        "steps": steps.iter().zip(reports).map(step).collect::<Vec<_>>(),
    })
}
