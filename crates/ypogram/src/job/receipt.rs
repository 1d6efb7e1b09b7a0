//! The account of a job: what each step read, counted and wrote. It holds no clock and no absolute path.

use serde_json::{Value, json};

use crate::job::run_step::StepReport;
use crate::job::step::{Source, Step};

/// The account of the job `job`.
pub(crate) fn receipt(job: &str, steps: &[Step], reports: &[StepReport]) -> Value {
    let source = |source: &Source| match source {
        Source::File(path) => path.display().to_string(),
        Source::Step(at, output) if output.is_empty() => steps[*at].name.clone(),
        Source::Step(at, output) => format!("{}.{output}", steps[*at].name),
    };
    let step = |(step, report): (&Step, &StepReport)| {
        json!({
            "name": step.name,
            "do": step.command,
            "source": step.sources.iter().map(source).collect::<Vec<_>>(),
            "options": step.options,
            "published": step.published().map(|path| path.display().to_string()).collect::<Vec<_>>(),
            "summary": report.summary,
        })
    };
    json!({
        "layout": 1,
        "version": env!("CARGO_PKG_VERSION"),
        "job": job,
        "steps": steps.iter().zip(reports).map(step).collect::<Vec<_>>(),
    })
}
