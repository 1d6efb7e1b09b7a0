//! What the `rules` commands report: the table of findings, what a rulebook holds, what an exported rule covers.

use serde::Serialize;
use ypogram_core::{Code, Kind, Policy, Severity};
use ypogram_jobs::export::{Coverage, ExportReport};

use crate::render::json::summary::{Summary, lines};

/// The table of findings with the severities in force.
pub(crate) fn rules(codes: &[Code], policy: &Policy) -> String {
    #[derive(Serialize)]
    struct Row<'p> {
        code: Code,
        kind: Kind,
        severity: Severity,
        default_severity: Severity,
        sentence: &'p str,
        help: &'static str,
        standard: &'static str,
    }
    let row = |&code: &Code| {
        let info = code.info();
        Row {
            code,
            kind: info.kind,
            severity: policy.severity(code),
            default_severity: info.severity,
            sentence: policy.words.sentence(code),
            help: info.help,
            standard: info.standard,
        }
    };
    lines(&codes.iter().map(row).collect::<Vec<_>>())
}

/// How much a rulebook sets.
#[derive(Serialize)]
pub(crate) struct RulebookCounts {
    pub(crate) severities: usize,
    pub(crate) patterns: usize,
    pub(crate) lists: usize,
    pub(crate) jobs: usize,
}

/// What `rules check` reports of the rulebook `file`, which can be used.
pub(crate) fn rulebook_checked(file: &str, counts: RulebookCounts) -> String {
    lines(&Summary::of_names("rules check", [file].into_iter(), counts))
}

/// What `rules export` reports.
pub(crate) fn exported(report: &ExportReport) -> String {
    #[derive(Serialize)]
    struct Counts {
        refuses: usize,
        lets_pass: usize,
        bytes: usize,
        #[serde(skip_serializing_if = "Option::is_none")]
        values: Option<Values>,
    }
    #[derive(Serialize)]
    struct Values {
        pass: usize,
        fail: usize,
    }
    #[derive(Serialize)]
    struct More<'a> {
        place: &'static str,
        rulebook_hash: &'a str,
        #[serde(flatten)]
        coverage: &'a Coverage,
        #[serde(skip_serializing_if = "<[String]>::is_empty")]
        script_alone: &'a [String],
        #[serde(skip_serializing_if = "Option::is_none")]
        formula: Option<&'a str>,
    }
    let counts = Counts {
        refuses: report.coverage.refuses.len(),
        lets_pass: report.coverage.lets_pass.len(),
        bytes: report.bytes,
        values: report.values.map(|[pass, fail]| Values { pass, fail }),
    };
    let rulebook = report.rulebook.as_ref().map(|rulebook| rulebook.display().to_string());
    Summary::of_names("rules export", rulebook.as_deref().into_iter(), counts).text(More {
        place: report.place,
        rulebook_hash: &report.rulebook_hash,
        coverage: &report.coverage,
        script_alone: &report.script_alone,
        formula: report.formula.as_deref(),
    })
}
