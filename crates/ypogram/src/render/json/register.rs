//! What `register` reports: what it took in, what it holds, and whether that is whole.

use std::collections::BTreeMap;

use serde::Serialize;
use ypogram_core::SameMailbox;
use ypogram_jobs::ReadColumns;
use ypogram_jobs::register::{Answer, RegisterReport, VerifyReport};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct AddedCounts {
    records: u64,
    answers: BTreeMap<&'static str, u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    admissible: Option<u64>,
}

#[derive(Serialize)]
struct Added<'a> {
    stopped: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    first_refused: Option<Refused<'a>>,
}

#[derive(Serialize)]
struct Refused<'a> {
    source: &'a str,
    line: u64,
    findings: &'a str,
}

/// The summary of `register add`.
pub(crate) fn added(report: &RegisterReport) -> String {
    let counts = AddedCounts {
        records: report.records,
        answers: Answer::ALL.iter().map(Answer::word).zip(report.answers).collect(),
        admissible: report.admissible,
    };
    let refused = report.first_refused.as_ref();
    Summary::of("register add", &report.sources, counts).with_columns(ReadColumns::of(&report.plan)).text(
        Added {
            stopped: report.stopped,
            first_refused: refused.map(|(source, line, findings)| Refused { source, line: *line, findings }),
        },
    )
}

/// What a register holds.
pub(crate) struct Contents<'a> {
    pub(crate) rule: SameMailbox,
    /// Mailboxes that are admitted, withdrawn and forgotten.
    pub(crate) counts: [u64; 3],
    /// When the first and the last came in.
    pub(crate) span: Option<&'a (String, String)>,
    /// Where they come from, and how many.
    pub(crate) from: &'a [(String, u64)],
}

/// What `register stats` reports of the register `store`.
pub(crate) fn contents(store: &str, contents: &Contents<'_>) -> String {
    #[derive(Serialize)]
    struct Counts {
        mailboxes: u64,
        admitted: u64,
        withdrawn: u64,
        forgotten: u64,
    }
    #[derive(Serialize)]
    struct More<'a> {
        rule: &'static str,
        first: Option<&'a str>,
        last: Option<&'a str>,
        from: Vec<From<'a>>,
    }
    #[derive(Serialize)]
    struct From<'a> {
        source: &'a str,
        mailboxes: u64,
    }
    let [admitted, withdrawn, forgotten] = contents.counts;
    let counts = Counts { mailboxes: admitted + withdrawn + forgotten, admitted, withdrawn, forgotten };
    Summary::of_names("register stats", [store].into_iter(), counts).text(More {
        rule: contents.rule.word(),
        first: contents.span.map(|(first, _)| &**first),
        last: contents.span.map(|(_, last)| &**last),
        from: contents
            .from
            .iter()
            .map(|(source, mailboxes)| From { source, mailboxes: *mailboxes })
            .collect(),
    })
}

/// What `register verify` found in the register `store`.
pub(crate) fn verified(store: &str, report: &VerifyReport) -> String {
    #[derive(Serialize)]
    struct Counts {
        mailboxes: u64,
    }
    #[derive(Serialize)]
    struct More<'a> {
        file: &'a [String],
        other_keys: Vec<OtherKey<'a>>,
    }
    #[derive(Serialize)]
    struct OtherKey<'a> {
        address: &'a str,
        key: &'a str,
        key_today: &'a str,
    }
    let counts = Counts { mailboxes: report.mailboxes };
    Summary::of_names("register verify", [store].into_iter(), counts).text(More {
        file: &report.file,
        other_keys: report
            .other_keys
            .iter()
            .map(|(address, key, key_today)| OtherKey { address, key, key_today })
            .collect(),
    })
}
