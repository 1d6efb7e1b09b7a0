//! The summary of `rules learn-house`.

use serde::Serialize;
use ypogram_jobs::learn_house::{LearnReport, LearnedDomain};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct Counts {
    records: u64,
    with_names: u64,
    domains: u64,
}

#[derive(Serialize)]
struct More<'a> {
    domains: Vec<Domain<'a>>,
}

#[derive(Serialize)]
struct Domain<'a> {
    domain: &'a str,
    format: &'a str,
    following: u64,
    addresses: u64,
    others: Vec<Other<'a>>,
}

#[derive(Serialize)]
struct Other<'a> {
    line: u64,
    address: &'a str,
    fault: &'a str,
}

/// The summary of `rules learn-house`.
pub(crate) fn learned(report: &LearnReport) -> String {
    let counts = Counts {
        records: report.records,
        with_names: report.with_names,
        domains: report.domains.len() as u64,
    };
    Summary::of("rules learn-house", &report.sources, counts)
        .with_columns(report.columns.clone())
        .text(More { domains: report.domains.iter().map(domain).collect() })
}

fn domain(learned: &LearnedDomain) -> Domain<'_> {
    Domain {
        domain: &learned.domain,
        format: &learned.format,
        following: learned.following,
        addresses: learned.addresses,
        others: learned
            .others
            .iter()
            .map(|(line, address, fault)| Other { line: *line, address, fault })
            .collect(),
    }
}
