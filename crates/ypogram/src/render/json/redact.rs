//! The summaries of `redact` and `redact search`.

use serde::Serialize;
use ypogram_jobs::redact::{RedactOptions, RedactReport, SearchReport, Sighting};

use crate::render::json::summary::Summary;

#[derive(Default, Serialize)]
struct Counts {
    addresses: u64,
    broken: u64,
    values: u64,
    passed_over: u64,
}

#[derive(Serialize)]
struct More<'a> {
    version: &'static str,
    reference_data: &'static str,
    r#as: &'static str,
    rule: &'static str,
    copies: &'a [RedactReport],
}

/// The summary of `redact`.
pub(crate) fn redacted(reports: &[RedactReport], options: &RedactOptions) -> String {
    let mut counts = Counts::default();
    for report in reports {
        counts.addresses += report.addresses;
        counts.broken += report.broken;
        counts.values += report.values;
        counts.passed_over += report.passed_over;
    }
    Summary::of_names("redact", reports.iter().map(|report| &*report.source), counts).text(More {
        version: env!("CARGO_PKG_VERSION"),
        reference_data: ypogram_core::REFERENCE_DATE,
        r#as: options.by.word(),
        rule: options.policy.same.word(),
        copies: reports,
    })
}

/// The summary of `redact search`.
pub(crate) fn searched(report: &SearchReport) -> String {
    #[derive(Serialize)]
    struct Counts {
        files: usize,
        addresses: u64,
        telephones: u64,
        tokens: u64,
    }
    #[derive(Serialize)]
    struct More<'a> {
        first: &'a [Sighting],
        troubles: &'a [String],
    }
    let counts = Counts {
        files: report.files.len(),
        addresses: report.addresses,
        telephones: report.telephones,
        tokens: report.tokens,
    };
    Summary::of_names("redact search", report.files.iter().map(|file| &**file), counts)
        .text(More { first: &report.first, troubles: &report.troubles })
}
