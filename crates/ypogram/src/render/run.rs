//! A job for people: its plan, and what came of it.

use std::fmt::Write as _;

use serde_json::Value;
use ypogram_core::shown;

use crate::arguments::RunArguments;
use crate::job::{Source, Step, StepReport};
use crate::render::style;
use crate::render::words::{counted, for_shell, number};

/// What a job would do, in words.
pub(crate) fn plan(job: &str, steps: &[Step]) -> String {
    let mut text =
        format!("{}\n", style::title(&format!("{job}: {}", counted(steps.len() as u64, "step", "steps"))));
    for (nth, step) in steps.iter().enumerate() {
        let named = if step.name == step.command { String::new() } else { format!(" ({})", step.name) };
        let sources: Vec<String> = step.sources.iter().map(|source| source_words(source, steps)).collect();
        let _ = writeln!(
            text,
            "\n{}. {}{named} reads {}",
            nth + 1,
            style::title(&step.command),
            sources.join(", ")
        );
        let options = step.options.iter().map(|option| {
            let option = option.trim_start_matches("--");
            option.split_once('=').unwrap_or((option, "yes"))
        });
        let options: Vec<(&str, &str)> = options.collect();
        // Values of one option stand behind one another.
        for given in options.chunk_by(|one, other| one.0 == other.0) {
            let values: Vec<String> = given.iter().map(|(_, value)| shown(value.as_bytes())).collect();
            let _ = writeln!(text, "     {}: {}", given[0].0.replace('-', " "), values.join(", "));
        }
        if let Some(since) = &step.since {
            let _ = writeln!(text, "     since: {}", since.display());
        }
        let published: Vec<String> = step.published().map(|path| path.display().to_string()).collect();
        match published.is_empty() {
            true => text.push_str("     published: nothing; later steps read it\n"),
            false => {
                let _ = writeln!(text, "     published: {}", published.join(", "));
            }
        }
    }
    let _ = writeln!(text, "\nAll is published together at the end, with {job}.receipt.json, or nothing.");
    text
}

fn source_words(source: &Source, steps: &[Step]) -> String {
    match source {
        Source::File(path) => shown(path.display().to_string().as_bytes()),
        Source::Step(at, output) => {
            let output = if output.is_empty() { "output" } else { output };
            format!("what step {} wrote ({}.{output})", at + 1, steps[*at].name)
        }
    }
}

/// What came of a job.
pub(crate) fn summary(arguments: &RunArguments, steps: &[Step], reports: &[StepReport]) -> String {
    let RunArguments { job, first, since, page, workbook, .. } = arguments;
    let mut text = format!("{}\n\n", style::title(&answer(steps, reports)));
    let width = reports.iter().map(|report| report.name.chars().count()).max().unwrap_or_default();
    for (step, report) in steps.iter().zip(reports) {
        let read = records(&report.summary).map(|read| format!("{} read", number(read)));
        let told: Vec<String> = read.into_iter().chain(ends(step, report)).collect();
        let _ = writeln!(text, "  {:<width$}  {}", report.name, told.join(" → "));
        if let Some(changes) = changes(report) {
            let _ = writeln!(text, "  {:<width$}  since the earlier run {changes}", "");
        }
    }
    if since.is_some() && steps.iter().all(|step| step.since.is_none()) {
        text.push_str("\nThere is no earlier run to hold this one against.\n");
    }
    if let Some(first) = *first {
        let _ = writeln!(
            text,
            "\nA trial on the first {}: nothing was published.",
            counted(first, "record", "records")
        );
        return text;
    }
    let _ = writeln!(text, "\n{}", style::title("Published"));
    for path in steps.iter().flat_map(Step::published) {
        let _ = writeln!(text, "  {}", path.display());
    }
    for path in page.html.iter().chain(workbook) {
        let _ = writeln!(text, "  {}", path.display());
    }
    let _ = writeln!(text, "  {job}.receipt.json");
    for (step, report) in steps.iter().zip(reports) {
        let review = outcome(&report.summary, "review");
        if let (true, Some(folder)) = (step.command == "clean" && step.is_published && review > 0, &step.main)
        {
            let folder = for_shell(&folder.display().to_string());
            let _ = writeln!(
                text,
                "\n{}\n  {}  to decide in {folder}, then  ypogram settle {folder}",
                style::title("Next"),
                number(review)
            );
        }
    }
    text
}

/// The records on their way through the steps.
pub(crate) fn answer(steps: &[Step], reports: &[StepReport]) -> String {
    let read = reports.first().and_then(|report| records(&report.summary)).unwrap_or_default();
    let mut words = vec![format!("read {}", number(read))];
    for (step, report) in steps.iter().zip(reports) {
        let (word, count) = match &*step.command {
            "clean" => ("kept", Some(outcome(&report.summary, "kept"))),
            "dedupe" => ("unique", Some(outcome(&report.summary, "kept"))),
            "compare" => ("new", report.summary["counts"]["states"]["new"].as_u64()),
            _ => (&*step.name, written(&report.summary)),
        };
        words.extend(count.map(|count| format!("{word} {}", number(count))));
    }
    words.join(", ")
}

/// What changed since an earlier run.
fn changes(report: &StepReport) -> Option<String> {
    let since = report.summary.get("since")?;
    let count = |word: &str| format!("{} {word}", number(since[word].as_u64().unwrap_or_default()));
    Some(["new", "gone", "changed", "moved"].map(count).join(" · "))
}

pub(crate) fn ends(step: &Step, report: &StepReport) -> Option<String> {
    let summary = &report.summary;
    let told: Vec<String> = match &*step.command {
        "clean" => ["kept", "review", "rejected", "duplicate", "set-aside", "no-address"]
            .iter()
            .filter(|word| outcome(summary, word) > 0)
            .map(|word| format!("{} {word}", number(outcome(summary, word))))
            .collect(),
        "compare" => ["new", "known", "withdrawn", "duplicate", "unusable"]
            .iter()
            .filter_map(|word| Some((word, summary["counts"]["states"][word].as_u64()?)))
            .filter(|(_, count)| *count > 0)
            .map(|(word, count)| format!("{} {word}", number(count)))
            .collect(),
        "dedupe" => vec![format!("{} kept", number(outcome(summary, "kept")))],
        _ => written(summary).map(|rows| format!("{} written", number(rows))).into_iter().collect(),
    };
    (!told.is_empty()).then(|| told.join(" · "))
}

fn figure(summary: &Value, name: &str) -> Option<u64> {
    summary["counts"][name].as_u64()
}

pub(crate) fn records(summary: &Value) -> Option<u64> {
    figure(summary, "records").or_else(|| figure(summary, "messages"))
}

fn written(summary: &Value) -> Option<u64> {
    figure(summary, "written")
}

fn outcome(summary: &Value, word: &str) -> u64 {
    summary["counts"]["outcomes"][word].as_u64().unwrap_or_default()
}
