//! Summaries for programs. The layout is in `docs/json.md`.

use std::collections::BTreeMap;

use serde::Serialize;
use ypogram_core::names::NameConfidence;
use ypogram_core::{Code, Examination, Kind, Part, Policy, Severity};
use ypogram_jobs::JudgedAddress;
use ypogram_jobs::bounces::BouncesReport;
use ypogram_jobs::check::CheckReport;
use ypogram_jobs::clean::CleanReport;
use ypogram_jobs::compare::CompareReport;
use ypogram_jobs::dedupe::DedupeReport;
use ypogram_jobs::extract::{ByRecordReport, ExtractReport};
use ypogram_jobs::split::{NameOrders, SplitWanted};
use ypogram_jobs::survey::SurveyReport;

use crate::render::explain::Held;

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
        #[serde(skip_serializing_if = "Option::is_none")]
        since: Option<ypogram_jobs::clean::Since>,
        #[serde(skip_serializing_if = "Option::is_none")]
        merged: Option<ypogram_jobs::FilledCount>,
        outputs: &'a [ypogram_jobs::OutputReport],
        #[serde(skip_serializing_if = "<[String]>::is_empty")]
        notes: &'a [String],
    }
    lines(&Summary {
        layout: 1,
        job: "clean",
        folder: report.folder.display().to_string(),
        sources: &report.sources,
        address_fields: report.plan.address_names(),
        text_fields: report.plan.text_names(),
        counts: report.summed(),
        since: report.since,
        merged: report.filled,
        outputs: &report.outputs,
        notes: &report.notes,
    })
}

/// The summary of `compare`.
pub(crate) fn compare(report: &CompareReport) -> String {
    #[derive(Serialize)]
    struct Summary<'a> {
        layout: u32,
        job: &'static str,
        sources: &'a [ypogram_jobs::SourceReport],
        known_sources: &'a [ypogram_jobs::SourceReport],
        address_fields: Vec<&'a str>,
        text_fields: Vec<&'a str>,
        known_address_fields: Vec<&'a str>,
        counts: &'a ypogram_jobs::compare::CompareCounts,
        outputs: &'a [ypogram_jobs::OutputReport],
    }
    lines(&Summary {
        layout: 1,
        job: "compare",
        sources: &report.sources,
        known_sources: &report.known_sources,
        address_fields: report.plan.address_names(),
        text_fields: report.plan.text_names(),
        known_address_fields: report.known_plan.as_ref().map(|plan| plan.address_names()).unwrap_or_default(),
        counts: &report.counts,
        outputs: &report.outputs,
    })
}

/// The summary of `bounces`.
pub(crate) fn bounces(report: &BouncesReport) -> String {
    #[derive(Serialize)]
    struct Summary<'a> {
        layout: u32,
        job: &'static str,
        files: u64,
        counts: BTreeMap<&'a str, u64>,
        what: BTreeMap<&'a str, u64>,
        unread: &'a [ypogram_jobs::bounces::Unread],
        troubles: &'a [String],
    }
    lines(&Summary {
        layout: 1,
        job: "bounces",
        files: report.files,
        counts: BTreeMap::from([
            ("messages", report.messages),
            ("told", report.told),
            ("other", report.other),
            ("unread", report.unread.len() as u64),
            ("recipients", report.recipients),
            ("rows", report.rows),
        ]),
        what: report.what.iter().copied().collect(),
        unread: &report.unread,
        troubles: &report.troubles,
    })
}

/// The summary of `check`.
pub(crate) fn check(report: &CheckReport) -> String {
    check_with(report, None)
}

fn check_with(report: &CheckReport, split: Option<Split<'_>>) -> String {
    #[derive(Serialize)]
    struct Summary<'a, C> {
        layout: u32,
        job: &'static str,
        sources: &'a [ypogram_jobs::SourceReport],
        #[serde(skip_serializing_if = "Option::is_none")]
        dns_answers: Option<&'a str>,
        address_fields: Vec<&'a str>,
        text_fields: Vec<&'a str>,
        counts: C,
        #[serde(skip_serializing_if = "<[String]>::is_empty")]
        notes: &'a [String],
        #[serde(flatten)]
        split: Option<Split<'a>>,
    }
    lines(&Summary {
        layout: 1,
        job: if split.is_some() { "split" } else { "check" },
        sources: &report.sources,
        dns_answers: report.dns_answers.as_deref(),
        address_fields: report.plan.address_names(),
        text_fields: report.plan.text_names(),
        counts: report.summed(),
        notes: &report.notes,
        split,
    })
}

/// What `split` counts beside what `check` does.
#[derive(Serialize)]
struct Split<'a> {
    rows_added: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    names: Option<BTreeMap<&'static str, u64>>,
    cuts: Vec<FittedCut<'a>>,
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
    check_with(
        report,
        Some(Split {
            rows_added: tally.rows_added,
            names: wanted.wants_names().then(names),
            cuts: wanted
                .cuts
                .iter()
                .zip(&tally.cut_misses)
                .map(|(cut, &did_not_fit)| FittedCut {
                    field: &cut.field,
                    columns: cut.columns().collect(),
                    did_not_fit,
                })
                .collect(),
        }),
    )
}

/// The summary of `extract`.
pub(crate) fn extract(report: &ExtractReport) -> String {
    #[derive(Serialize)]
    struct Summary<'a, C> {
        layout: u32,
        job: &'static str,
        sources: Vec<&'a str>,
        counts: C,
    }
    let sources = report.names.iter().map(|name| &**name).collect();
    lines(&Summary { layout: 1, job: "extract", sources, counts: report.summed() })
}

/// The summary of `extract --row-per-address`.
pub(crate) fn by_record(report: &ByRecordReport) -> String {
    #[derive(Serialize)]
    struct Summary<'a> {
        layout: u32,
        job: &'static str,
        sources: &'a [ypogram_jobs::SourceReport],
        records: u64,
        without_address: u64,
        hidden: u64,
        rows: u64,
        blank_lines: u64,
        formula_cells: u64,
    }
    lines(&Summary {
        layout: 1,
        job: "extract",
        sources: &report.sources,
        records: report.records,
        without_address: report.without,
        hidden: report.hidden,
        rows: report.rows,
        blank_lines: report.blank_lines,
        formula_cells: report.formula_cells,
    })
}

/// The summary of `dedupe`.
pub(crate) fn dedupe(report: &DedupeReport) -> String {
    lines(report)
}

/// A survey, as it is kept and read again.
pub(crate) fn survey(report: &SurveyReport) -> String {
    lines(report)
}

/// A survey and the one that it is held against.
pub(crate) fn surveys(now: &SurveyReport, before: &SurveyReport) -> String {
    #[derive(Serialize)]
    struct Both<'a> {
        layout: u32,
        job: &'static str,
        before: &'a SurveyReport,
        now: &'a SurveyReport,
    }
    lines(&Both { layout: 1, job: "survey-against", before, now })
}

/// What `explain` says: an array, one entry an address.
pub(crate) fn explained(
    judged: &[(JudgedAddress, Examination, Held)],
    policy: &Policy,
    orders: &NameOrders,
) -> String {
    #[derive(Serialize)]
    struct Explained<'a> {
        #[serde(flatten)]
        judged: &'a JudgedAddress,
        #[serde(skip_serializing_if = "Option::is_none")]
        pattern: Option<&'a Option<String>>,
        #[serde(skip_serializing_if = "Option::is_none")]
        house: Option<String>,
        #[serde(skip_serializing_if = "Option::is_none")]
        house_proposal: Option<&'a String>,
        parts: Option<BTreeMap<String, String>>,
    }
    let parts = |examined: &Examination| {
        let parts = examined.parts(policy)?;
        let order = orders.at(parts.domain());
        let text = |part: &Part| (part.name().replace('-', "_"), parts.text(*part, order));
        Some(Part::ALL.iter().map(text).collect())
    };
    let all = judged.iter().map(|(judged, examined, held)| Explained {
        judged,
        pattern: held.pattern.as_ref(),
        house: held.house.as_ref().map(|house| house.words()),
        house_proposal: held.house.as_ref().and_then(|house| house.proposal.as_ref()),
        parts: parts(examined),
    });
    lines(&all.collect::<Vec<_>>())
}

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

pub(crate) fn lines(value: &impl Serialize) -> String {
    serde_json::to_string_pretty(value).expect("plain data") + "\n"
}
